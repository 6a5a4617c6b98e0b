//! The bend of a lens, put on or taken off.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::lens::{Lens, LensWay};
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, NumberSpec};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Bend, Context, Reading, Stage, StageError, WarpStage};
use crate::{choice, controls};

use super::moved;
use super::rings;

const fn coefficient(name: &'static str) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, 0.0, (-0.5, 0.5)).under("coefficients")
}

controls! {
    struct LensControls {
        way: LensWay = ControlSpec::choice("way", LensWay::On).help("Bends a straight picture as the lens does, or makes one straight that it bent."),
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("Where the lens's axis meets the picture."),
        focal: f64 = ControlSpec::length("focal length", 1600.0, 6000.0).within(1.0, 1.0e6).help("In pixels: focal length by sensor width, times the picture's width."),
        k1: f64 = coefficient("k1").help("Radial, with the second power: below 0 a barrel, above 0 a cushion."),
        k2: f64 = coefficient("k2").help("Radial, with the fourth power."),
        k3: f64 = coefficient("k3").help("Radial, with the sixth power."),
        p1: f64 = coefficient("p1").help("Tangential: a lens that leans up or down."),
        p2: f64 = coefficient("p2").help("Tangential: a lens that leans to a side."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
    }
}

choice! {
    LensWay {
        On = "on", "put on";
        Off = "off", "taken off";
    }
}

fn lens(controls: &LensControls, context: &Context<'_>) -> Lens {
    let scaled = |length: f64| length / f64::from(context.scale().divisor());
    Lens {
        centre: controls.centre.map(scaled),
        focal: scaled(controls.focal),
        radial: [controls.k1, controls.k2, controls.k3],
        tangential: [controls.p1, controls.p2],
    }
}

pub(super) struct LensStage {
    spec: StageSpec,
}

impl LensStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "lens",
                name: "Lens",
                family: Family::Warp,
                help: "Puts the bend of a lens on a picture, or takes it off, by Brown and Conrady.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: LensControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for LensStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("wide barrel", &[("k1", -0.18), ("k2", 0.03)]),
            Preset::of("old cushion", &[("k1", 0.12)]),
            Preset::of("knocked", &[("k1", -0.05), ("p1", 0.01), ("p2", -0.008)]),
        ]
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for LensStage {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: LensControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        Ok(Bend::Map { softness: 0.0, within: context.everywhere().display })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let controls: LensControls = context.controls()?;
        let map = lens(&controls, context).over(controls.way, window, context.cancel())?;
        moved(context, &map, [1.0; 2])
    }
}
