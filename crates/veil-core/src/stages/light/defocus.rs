//! A picture out of focus.

use veil_pixels::light::aperture::Opening;
use veil_pixels::light::defocus::{LARGEST, blur_circle, defocused, reads};
use veil_pixels::{Edge, Field, Window};

use crate::camera::{CameraAt, Lens};
use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::camera::{self, Chosen, MaybeFrom};
use crate::stages::depth::{self, DepthIs, DepthPass};
use crate::{choice, controls};

const SIZES: &str = "sizes";

controls! {
    struct DefocusControls {
        by: By = ControlSpec::choice("size by", By::Number).help("The same all over, by a field, or by a depth pass and a lens."),
        radius: f64 = ControlSpec::length("radius", 8.0, 60.0).within(0.0, LARGEST as f64).when("by", &["number", "field"]).help("How large a point becomes; with a field, where that is 1. Below 0 it counts as before the focus."),
        focus: f64 = ControlSpec::number("focus at", 3.0, (0.1, 50.0)).within(1e-3, 1e6).unit(Unit::Metres).under("lens").when("by", &["depth"]).help("The depth that is sharp."),
        f_number: f64 = ControlSpec::number("f-number", 2.8, (0.7, 22.0)).within(0.1, 1000.0).under("lens").when("by", &["depth"]).help("The focal length over the width of the opening: the smaller, the less is sharp."),
        focal: f64 = ControlSpec::number("focal length", 50.0, (8.0, 200.0)).within(0.1, 1e5).unit(Unit::Millimetres).under("lens").when("by", &["depth"]).help("Of the lens, where no camera tells it."),
        sensor: f64 = ControlSpec::number("sensor width", 36.0, (4.0, 70.0)).within(0.1, 1e4).unit(Unit::Millimetres).under("lens").when("by", &["depth"]).help("What the frame is wide on the sensor, where no camera tells it."),
        largest: f64 = ControlSpec::length("at most", 40.0, 120.0).within(0.0, LARGEST as f64).help("No point becomes larger; the less, the quicker."),
        opening: Form = ControlSpec::choice("opening", Form::Disc).under("opening").help("The form of a point out of focus."),
        blades: i32 = ControlSpec::whole("blades", 6, 3, 16).under("opening").when("opening", &["blades"]).help("How many sides it has."),
        turn: f64 = ControlSpec::angle("turn", 0.0).under("opening").when("opening", &["blades"]).help("How it is turned, counter-clockwise."),
        round: f64 = ControlSpec::number("roundness", 0.2, (0.0, 1.0)).within(0.0, 1.0).under("opening").when("opening", &["blades"]).help("How round its sides are."),
        inner: f64 = ControlSpec::number("left out", 0.5, (0.0, 0.95)).within(0.0, 0.95).under("opening").when("opening", &["ring"]).help("How much of its middle is dark, as a share of its radius."),
        depth_is: DepthIs = depth::counts().when("by", &["depth"]),
        near: f64 = depth::near(),
        far: f64 = depth::far(),
        camera: MaybeFrom = camera::maybe().when("by", &["depth"]),
        camera_file: Option<MediaId> = camera::file(),
        camera_shift: f64 = camera::shift(),
        by_hand: CameraAt = camera::by_hand(),
    }
}

/// What tells how large a point becomes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum By {
    Number,
    Field,
    Depth,
}

choice! {
    By {
        Number = "number", "a number";
        Field = "field", "a field";
        Depth = "depth", "depth";
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Form {
    Disc,
    Blades,
    Ring,
}

choice! {
    Form {
        Disc = "disc", "disc";
        Blades = "blades", "blades";
        Ring = "ring", "ring";
    }
}

impl DefocusControls {
    fn camera(&self, context: &Context<'_>) -> Result<Option<CameraAt>, StageError> {
        let chosen = self.camera.camera().filter(|_| self.by == By::Depth).map(|from| Chosen {
            from,
            file: self.camera_file,
            shift: self.camera_shift,
            by_hand: self.by_hand,
        });
        chosen.map(|chosen| chosen.now(context)).transpose()
    }

    const fn opening(&self) -> Opening {
        match self.opening {
            Form::Disc => Opening::Disc,
            Form::Ring => Opening::Ring { inner: self.inner as f32 },
            Form::Blades => Opening::Blades {
                count: self.blades as u32,
                turn: self.turn.to_radians() as f32,
                round: self.round as f32,
            },
        }
    }

    /// Radii in pixels of this scale over a window; none where nothing tells them.
    fn radii(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        let radius = context.scale().length(self.radius);
        match self.by {
            By::Number => Ok(Some(Field::flat(window, radius))),
            By::Field => {
                let Some((sizes, domain)) = context.field(SIZES, window, Edge::Hold)? else {
                    return Ok(None);
                };
                let sizes = sizes.extended(window, domain.data, Edge::Hold);
                Ok(Some(sizes.map(context.cancel(), |size: f32| size * radius)?))
            }
            By::Depth => self.by_depth(context, window),
        }
    }

    fn by_depth(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        let camera = self.camera(context)?;
        let pass = DepthPass { is: self.depth_is, near: self.near, far: self.far };
        let Some(depths) = pass.over(context, camera.as_ref(), window)? else { return Ok(None) };
        let size = context.size();
        let (focal, sensor) = match camera.map(|camera| camera.lens) {
            None => (self.focal, self.sensor),
            Some(Lens::Focal { focal_mm, sensor_width_mm }) => (focal_mm, sensor_width_mm),
            Some(lens) => (lens.zoom(size) * self.sensor / size[0], self.sensor),
        };
        // Nearer than its focal length no lens can be focused.
        let focus = (self.focus * 1000.0).max(focal * 1.001);
        let pixels = size[0] / sensor / 2.0 / f64::from(context.scale().divisor());
        let radius = |depth: f32| {
            (blur_circle(focal, self.f_number, focus, f64::from(depth) * 1000.0) * pixels) as f32
        };
        Ok(Some(depths.map(context.cancel(), radius)?))
    }
}

pub(super) struct Defocus {
    spec: StageSpec,
}

impl Defocus {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "defocus",
                name: "Defocus",
                family: Family::Light,
                help: "Makes points discs, as a lens does out of focus: by a number, a field, or depth, near things over far ones.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(SIZES, "size", Accepts::Field), depth::slot()],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: DefocusControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for Defocus {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("portrait", &[("f_number", 1.8), ("focal", 85.0)]).choosing("by", "depth"),
            Preset::of("six blades", &[("radius", 16.0)]).choosing("opening", "blades"),
            Preset::of("mirror", &[("radius", 16.0)]).choosing("opening", "ring"),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: DefocusControls = context.controls()?;
        key.add(&controls.camera(context)?);
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or_else(|| context.everywhere()))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: DefocusControls = context.controls().ok()?;
        match controls.by {
            By::Number => None,
            By::Depth => depth::missing(context),
            By::Field => context
                .domain_of(SIZES)
                .is_none()
                .then(|| "does nothing: no field of sizes is plugged in".into()),
        }
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: DefocusControls = context.controls()?;
        let cancel = context.cancel();
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        let largest = context.scale().length(controls.largest);
        let reach = reads(largest);
        let reads = Edge::Hold.reads_window(wanted.grow(reach, reach), main.data);
        let Some(radii) = controls.radii(context, reads)? else {
            return Ok(context.main(wanted)?.over(wanted));
        };
        let picture = context.picture(MAIN, reads)?;
        Ok(Pixels::Picture(defocused(
            &picture,
            &radii,
            main.data,
            (controls.opening(), largest),
            wanted,
            cancel,
        )?))
    }
}
