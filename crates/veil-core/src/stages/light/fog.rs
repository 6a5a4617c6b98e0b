//! Fog by depth and height.

use veil_pixels::light::fog::{FAR, Fog};
use veil_pixels::{Edge, Window};

use crate::camera::CameraAt;
use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::camera::{self, Chosen, MaybeFrom};
use crate::stages::depth::{self, DepthIs, DepthPass};

/// The slot of a field that the density is multiplied by.
const CLOUDS: &str = "clouds";

controls! {
    struct FogControls {
        density: f64 = ControlSpec::number("density", 0.05, (0.0, 0.5)).within(0.0, 1e4).help("How much of the light each metre takes."),
        start: f64 = ControlSpec::number("starts at", 0.0, (0.0, 50.0)).within(0.0, 1e6).unit(Unit::Metres).help("How far from the camera it begins."),
        most: f64 = ControlSpec::number("at most", 1.0, (0.0, 1.0)).within(0.0, 1.0).help("How much it hides of what is farthest."),
        colour: [f64; 3] = ControlSpec::colour("colour", 0.5, (0.0, 2.0)).help("Of the fog, in scene light."),
        thins: f64 = ControlSpec::number("thins", 0.0, (0.0, 2.0)).within(0.0, 100.0).under("height").when("camera", &["file", "hand"]).help("By what share of itself it thins for each metre up."),
        level: f64 = ControlSpec::number("level", 0.0, (-10.0, 10.0)).unit(Unit::Metres).under("height").when("camera", &["file", "hand"]).help("The height of the world at which it has its density."),
        depth_is: DepthIs = depth::counts(),
        near: f64 = depth::near(),
        far: f64 = depth::far(),
        camera: MaybeFrom = camera::maybe(),
        camera_file: Option<MediaId> = camera::file(),
        camera_shift: f64 = camera::shift(),
        by_hand: CameraAt = camera::by_hand(),
    }
}

impl FogControls {
    fn camera(&self, context: &Context<'_>) -> Result<Option<CameraAt>, StageError> {
        let chosen = self.camera.camera().map(|from| Chosen {
            from,
            file: self.camera_file,
            shift: self.camera_shift,
            by_hand: self.by_hand,
        });
        chosen.map(|chosen| chosen.now(context)).transpose()
    }
}

pub(super) struct FogStage {
    spec: StageSpec,
}

impl FogStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "fog",
                name: "Fog",
                family: Family::Light,
                help: "Hides what is far behind fog, by a depth pass; with a camera it can lie low.",
                main: Some(Accepts::Picture),
                slots: vec![depth::slot(), SlotSpec::new(CLOUDS, "clouds", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: FogControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for FogStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("haze", &[("density", 0.01)]),
            Preset::of("low mist", &[("density", 0.3), ("thins", 0.8)]).choosing("camera", "file"),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: FogControls = context.controls()?;
        key.add(&controls.camera(context)?);
        Ok(())
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        depth::missing(context)
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: FogControls = context.controls()?;
        let camera = controls.camera(context)?;
        let pass = DepthPass { is: controls.depth_is, near: controls.near, far: controls.far };
        let Some(depths) = pass.over(context, camera.as_ref(), wanted)? else {
            return Ok(context.main(wanted)?.over(wanted));
        };
        let clouds = context
            .field(CLOUDS, wanted, Edge::Hold)?
            .map(|(field, domain)| field.extended(wanted, domain.data, Edge::Hold));
        let mut made = context.picture(MAIN, wanted)?;
        let (size, divisor) = (context.size(), f64::from(context.scale().divisor()));
        // Without a camera nobody knows how high anything is.
        let thins = if camera.is_some() { controls.thins } else { 0.0 };
        let fog = Fog { density: controls.density, thins, level: controls.level };
        let colour = controls.colour.map(|part| part as f32);
        made.fill_rows(context.cancel(), |y, row| {
            let clouds = clouds.as_ref().map(|clouds| clouds.row(y));
            for (number, (pixel, depth)) in row.iter_mut().zip(depths.row(y)).enumerate() {
                let at = [wanted.x0 + number as i32, y].map(|at| (f64::from(at) + 0.5) * divisor);
                let (length, heights) =
                    way(camera.as_ref(), at, size, f64::from(*depth).min(FAR), controls.start);
                let density = clouds.map_or(1.0, |clouds| f64::from(clouds[number].max(0.0)));
                let hidden = (Fog { density: fog.density * density, ..fog }.hides(length, heights)
                    * controls.most) as f32;
                (0..3).for_each(|channel| {
                    pixel[channel] += (colour[channel] * pixel[3] - pixel[channel]) * hidden
                });
            }
        })?;
        Ok(Pixels::Picture(made))
    }
}

/// How long the way through the fog is to what is seen at a place, and the heights of its ends. Without a camera it is the depth.
fn way(camera: Option<&CameraAt>, at: [f64; 2], size: [f64; 2], depth: f64, start: f64) -> (f64, [f64; 2]) {
    let Some(camera) = camera else { return (depth - start, [0.0; 2]) };
    let ray = camera.ray(at, size);
    let length = ray.iter().map(|part| part * part).sum::<f64>().sqrt() * depth;
    let height = |share: f64| camera.place[1] + ray[1] * depth * share;
    (length - start, [height((start / length).min(1.0)), height(1.0)])
}
