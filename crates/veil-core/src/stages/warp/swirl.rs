//! A twist about a centre.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::swirl::Swirl;
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip, Unit};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Bend, Context, Reading, Stage, StageError, WarpStage};

use super::moved;
use super::rings;

controls! {
    struct SwirlControls {
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("What it turns about."),
        radius: f64 = ControlSpec::length("radius", 300.0, 1500.0).within(0.0, 20_000.0).grip(Grip::Reach).help("How far out it reaches."),
        angle: f64 = ControlSpec::number("angle", 90.0, (-720.0, 720.0)).unit(Unit::Degrees).grip(Grip::Turn)
            .help("How far the middle is turned, counter-clockwise as seen; less and less toward the rim."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
    }
}

fn swirl(controls: &SwirlControls, context: &Context<'_>) -> Swirl {
    let scale = context.scale();
    Swirl {
        centre: controls.centre.map(|at| scale.length(at)),
        radius: scale.length(controls.radius),
        angle: controls.angle.to_radians() as f32,
    }
}

pub(super) struct SwirlStage {
    spec: StageSpec,
}

impl SwirlStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "swirl",
                name: "Swirl",
                family: Family::Warp,
                help: "Twists what lies about a centre.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: SwirlControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for SwirlStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("stir", &[("angle", 60.0)]),
            Preset::of("drain", &[("angle", 500.0), ("radius", 500.0)]),
        ]
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for SwirlStage {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: SwirlControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let within = swirl(&context.controls()?, context).window();
        Ok(Bend::Map { softness: 0.0, within })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let map = swirl(&context.controls()?, context).over(window, context.cancel())?;
        moved(context, &map, [1.0; 2])
    }
}
