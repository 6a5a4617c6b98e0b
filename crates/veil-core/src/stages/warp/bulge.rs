//! A swelling, a pinch, or a fisheye's view.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::bulge::{Bulge, BulgeLaw};
use veil_pixels::warp::displace::Moves;
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Bend, Context, Reading, Stage, StageError, WarpStage};
use crate::{choice, controls};

use super::moved;
use super::rings;

controls! {
    struct BulgeControls {
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("What swells."),
        radii: [f64; 2] = ControlSpec::size("radii", [0.4, 0.4]).grip(Grip::Radii).help("Half its width and half its height; beyond nothing moves."),
        strength: f64 = ControlSpec::number("strength", 0.4, (-1.0, 1.0)).within(-1.0, 1.0)
            .help("Above 0 the middle grows, below it shrinks; at 0 nothing is touched."),
        law: BulgeLaw = ControlSpec::choice("law", BulgeLaw::Swell)
            .help("A soft hill, or the view of a fisheye lens of one of four laws, out to 80 degrees at strength 1."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
    }
}

choice! {
    BulgeLaw {
        Swell = "swell", "a soft hill";
        Equidistant = "equidistant", "equidistant";
        Equisolid = "equisolid", "equisolid";
        Stereographic = "stereographic", "stereographic";
        Orthographic = "orthographic", "orthographic";
    }
}

fn bulge(controls: &BulgeControls, context: &Context<'_>) -> Bulge {
    let scaled = |pair: [f64; 2]| pair.map(|length| context.scale().length(length));
    Bulge {
        centre: scaled(controls.centre),
        radii: scaled(controls.radii),
        strength: controls.strength as f32,
        law: controls.law,
    }
}

pub(super) struct BulgeStage {
    spec: StageSpec,
}

impl BulgeStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "bulge",
                name: "Bulge",
                family: Family::Warp,
                help: "Swells or pinches what lies within an ellipse, or shows it as a fisheye lens would.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: BulgeControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for BulgeStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("drop", &[("strength", 0.7)]),
            Preset::of("pinch", &[("strength", -0.6)]),
            Preset::of("porthole", &[("strength", 0.75)]).choosing("law", "equisolid"),
        ]
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for BulgeStage {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: BulgeControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let within = bulge(&context.controls()?, context).window();
        Ok(Bend::Map { softness: 0.0, within })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let map = bulge(&context.controls()?, context).over(window, context.cancel())?;
        moved(context, &map, [1.0; 2])
    }
}
