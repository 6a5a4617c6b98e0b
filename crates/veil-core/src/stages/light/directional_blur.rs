//! Blur along a line.

use veil_pixels::filter::streak::Streak;
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{controls, each_kind};

use super::blur::{main_within, spread};

controls! {
    struct DirectionalBlurControls {
        length: f64 = ControlSpec::length("length", 20.0, 200.0).grip(Grip::Length).within(0.0, 2000.0)
            .help("From one end of a smeared dot to the other."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).help("Which way it is smeared, counter-clockwise as seen."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).help("What lies beyond the border."),
    }
}

fn streak(controls: &DirectionalBlurControls, context: &Context<'_>) -> Streak {
    Streak { length: context.scale().length(controls.length), angle: controls.angle.to_radians() as f32 }
}

pub(super) struct DirectionalBlur {
    spec: StageSpec,
}

impl DirectionalBlur {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "directional_blur",
                name: "Directional blur",
                family: Family::Light,
                help: "Smears every pixel along a straight line.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: DirectionalBlurControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for DirectionalBlur {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("nudge", &[("length", 8.0)]),
            Preset::of("rain", &[("length", 60.0), ("angle", 80.0)]),
            Preset::of("rush", &[("length", 180.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: DirectionalBlurControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(spread(main, streak(&controls, context).reach(), controls.outside))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: DirectionalBlurControls = context.controls()?;
        let (streak, edge) = (streak(&controls, context), controls.outside);
        let (main, data) = main_within(context, streak.reach(), edge, wanted)?;
        Ok(each_kind!(&main.pixels, raster => streak.apply(raster, data, edge, wanted, context.cancel())?))
    }
}
