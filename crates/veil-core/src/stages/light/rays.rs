//! Shafts of light from a centre.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::light::glow::source;
use veil_pixels::light::rays::Rays;
use veil_pixels::{Edge, Field, Picture, Window};

use crate::camera::CameraAt;
use crate::controls::{ControlSet, ControlSpec, Grip, NumberSpec, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::camera::{self, CameraFrom, Chosen};
use crate::{choice, controls};

const SOURCE: &str = "source";
const BREAKS: &str = "breaks";

controls! {
    struct RaysControls {
        at: At = ControlSpec::choice("from", At::Picture).help("A place of the picture, or one of the world that a camera sees."),
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).when("at", &["picture"]).help("Where the shafts come from; it may lie beyond the frame."),
        x: f64 = world("x"),
        y: f64 = world("y"),
        z: f64 = world("z"),
        length: f64 = ControlSpec::length("length", 400.0, 1500.0).help("How far they reach."),
        fade: f64 = ControlSpec::number("fade", 1.0, (0.0, 8.0)).within(0.0, 50.0).help("How soon they get weaker: at 0 evenly to their end."),
        threshold: f64 = ControlSpec::number("threshold", 0.8, (0.0, 4.0)).within(0.0, 65_504.0).help("The luma above which a place shines."),
        soft: f64 = ControlSpec::length("softness", 0.0, 40.0).help("Blurs the shafts by so much."),
        strength: f64 = ControlSpec::number("strength", 4.0, (0.0, 20.0)).within(0.0, 1e5).under("light").help("Times their light. An even surface throws shafts as bright as it is; a small light needs more."),
        colours: Colours = ControlSpec::choice("colours", Colours::Own).under("light").help("Those of what shines, or its brightness alone."),
        tint: [f64; 3] = ControlSpec::colour("tint", 1.0, (0.0, 2.0)).under("light").help("The colour that they are multiplied by."),
        floor: f64 = ControlSpec::number("broken to", 0.0, (0.0, 1.0)).within(0.0, 1.0).under("light").help("How much of a shaft is left where the field that breaks it up is 0."),
        gives: RaysGive = ControlSpec::choice("gives", RaysGive::Added).help("The shafts added to the picture, or alone, to be laid on later."),
        camera: CameraFrom = camera::from().when("at", &["world"]),
        camera_file: Option<MediaId> = camera::file(),
        camera_shift: f64 = camera::shift(),
        by_hand: CameraAt = camera::by_hand(),
    }
}

const fn world(name: &'static str) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, 0.0, (-20.0, 20.0))
        .unit(Unit::Metres)
        .when("at", &["world"])
        .help("Where the shafts come from in the world.")
}

/// Where shafts come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum At {
    Picture,
    World,
}

choice! {
    At {
        Picture = "picture", "a place of the picture";
        World = "world", "a place of the world";
    }
}

/// The colours of shafts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Colours {
    Own,
    Bright,
}

choice! {
    Colours {
        Own = "own", "the picture's";
        Bright = "bright", "its brightness alone";
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum RaysGive {
    Added,
    Alone,
}

choice! {
    RaysGive {
        Added = "added", "added to the picture";
        Alone = "alone", "the shafts alone";
    }
}

impl RaysControls {
    /// Where the shafts come from, in full-resolution pixels; none behind the camera.
    fn centre(&self, context: &Context<'_>) -> Result<Option<[f64; 2]>, StageError> {
        if self.at == At::Picture {
            return Ok(Some(self.centre));
        }
        let chosen = Chosen {
            from: self.camera,
            file: self.camera_file,
            shift: self.camera_shift,
            by_hand: self.by_hand,
        };
        let seen = chosen.now(context)?.project([self.x, self.y, self.z], context.size());
        Ok(seen.map(|(at, _)| at))
    }

    fn rays(&self, context: &Context<'_>) -> Result<Option<Rays>, StageError> {
        let small = |length: f64| length / f64::from(context.scale().divisor());
        let rays = |centre: [f64; 2]| Rays {
            centre: centre.map(small),
            length: small(self.length),
            fade: self.fade,
        };
        Ok(self.centre(context)?.map(rays))
    }

    fn soft(&self, context: &Context<'_>) -> Sigma {
        Sigma::round(context.scale().length(self.soft))
    }
}

pub(super) struct RaysStage {
    spec: StageSpec,
}

impl RaysStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "rays",
                name: "Rays",
                family: Family::Light,
                help: "Draws what shines outward from a centre as shafts of light; the source matte says what may shine, a field breaks them up, the matte holds them.",
                main: Some(Accepts::Picture),
                slots: vec![
                    SlotSpec::new(SOURCE, "source matte", Accepts::Field),
                    SlotSpec::new(BREAKS, "broken by", Accepts::Field),
                ],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: RaysControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for RaysStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shines(&self) -> bool {
        true
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("long shafts", &[("length", 900.0), ("fade", 2.0), ("strength", 8.0)]),
            Preset::of(
                "breath of light",
                &[("length", 160.0), ("fade", 0.5), ("soft", 6.0), ("strength", 2.0)],
            ),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: RaysControls = context.controls()?;
        key.add(&controls.centre(context)?);
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Domain { data: main.data.union(main.display), ..main })
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: RaysControls = context.controls().ok()?;
        matches!(controls.centre(context), Ok(None))
            .then(|| "throws nothing: its centre is behind the camera here".into())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: RaysControls = context.controls()?;
        let cancel = context.cancel();
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        let Some(rays) = controls.rays(context)? else { return Ok(context.main(wanted)?.over(wanted)) };
        let (sigma, frame) = (controls.soft(context), main.data.union(main.display));
        let (right, down) = sigma.reach();
        let about = wanted.grow(right, down).intersect(frame);
        let reads = rays.reads(about, main.data);
        let picture = context.picture(MAIN, reads)?;
        let shows = context.coverage(SOURCE, reads)?;
        let luma = context.working().luma();
        let mut shining = source(&picture, shows.as_ref(), controls.threshold as f32, luma, cancel)?;
        if controls.colours == Colours::Bright {
            shining.change(cancel, |[r, g, b, alpha]: [f32; 4]| {
                let bright = r * luma[0] + g * luma[1] + b * luma[2];
                [bright, bright, bright, alpha]
            })?;
        }
        let drawn = rays.apply(&shining, main.data, frame, about, cancel)?;
        let drawn = if controls.soft > 0.0 {
            gaussian(&drawn, frame, Edge::Clear, sigma, wanted, cancel)?
        } else {
            drawn.cropped(wanted)
        };
        let breaks = context.coverage(BREAKS, wanted)?;
        let colour = controls.tint.map(|part| (part * controls.strength) as f32);
        let under = match controls.gives {
            RaysGive::Added => context.picture(MAIN, wanted)?,
            RaysGive::Alone => Picture::clear(wanted),
        };
        Ok(Pixels::Picture(laid(under, &drawn, breaks.as_ref(), (colour, controls.floor as f32), context)?))
    }
}

/// Light laid on a picture, less where a field breaks it up.
fn laid(
    mut under: Picture,
    light: &Picture,
    breaks: Option<&Field>,
    (colour, floor): ([f32; 3], f32),
    context: &Context<'_>,
) -> Result<Picture, StageError> {
    under.fill_rows(context.cancel(), |y, row| {
        let breaks = breaks.map(|breaks| breaks.row(y));
        for (number, (pixel, light)) in row.iter_mut().zip(light.row(y)).enumerate() {
            let share = breaks.map_or(1.0, |breaks| floor + (1.0 - floor) * breaks[number]);
            (0..3).for_each(|channel| pixel[channel] += light[channel] * colour[channel] * share);
        }
    })?;
    Ok(under)
}
