//! Straight pictures wound round a centre, and unwound.

use veil_pixels::warp::polar::{Polar, PolarWay};
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls, each_kind};

controls! {
    struct PolarControls {
        way: PolarWay = ControlSpec::choice("way", PolarWay::Wound)
            .help("Level lines become rings, with the lower border in the middle; or rings become level lines."),
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("What the picture is wound round."),
        radius: f64 = ControlSpec::length("radius", 500.0, 1500.0).within(1.0, 20_000.0).grip(Grip::Reach)
            .help("Where the upper border comes to lie."),
        seam: f64 = ControlSpec::angle("seam", -90.0).grip(Grip::Turn).help("Where the left and the right border meet."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).help("What lies beyond the radius, or is brought in from beyond the border."),
    }
}

choice! {
    PolarWay {
        Wound = "wound", "to rings";
        Unwound = "unwound", "from rings";
    }
}

pub(super) struct PolarStage {
    spec: StageSpec,
}

impl PolarStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "polar",
                name: "Polar",
                family: Family::Warp,
                help: "Winds a straight picture round a centre, so that straight patterns become rings, or unwinds it.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: PolarControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for PolarStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.everywhere())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PolarControls = context.controls()?;
        let scale = context.scale();
        let polar = Polar {
            frame: context.everywhere().display,
            centre: controls.centre.map(|at| scale.length(at)),
            radius: scale.length(controls.radius),
            seam: controls.seam.to_radians() as f32,
        };
        let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
        let main = context.main(data)?;
        let (way, edge, cancel) = (controls.way, controls.outside, context.cancel());
        Ok(each_kind!(&main.pixels, raster => polar.apply(way, edge, raster, data, wanted, cancel)?))
    }
}
