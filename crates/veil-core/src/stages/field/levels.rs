//! Black and white points of a field or picture.

use veil_pixels::Window;
use veil_pixels::colour::grade::{Levels, levels_row};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct LevelsControls {
        in_low: f64 = ControlSpec::number("black point", 0.0, (0.0, 1.0)).under("in").help("What becomes the lowest value."),
        in_high: f64 = ControlSpec::number("white point", 1.0, (0.0, 1.0)).under("in")
            .help("What becomes the highest value; at or below the black point the result is a hard threshold."),
        gamma: f64 = ControlSpec::number("gamma", 1.0, (0.2, 5.0)).within(0.01, 100.0).under("in")
            .help("Raises the middle above 1, lowers it below."),
        out_low: f64 = ControlSpec::number("lowest", 0.0, (0.0, 1.0)).under("out").help("The lowest value given."),
        out_high: f64 = ControlSpec::number("highest", 1.0, (0.0, 1.0)).under("out").help("The highest value given."),
        clamp: bool = ControlSpec::switch("clamp", true).under("out").help("Cuts off what lies beyond the points."),
    }
}

fn levels(controls: &LevelsControls) -> Levels {
    Levels {
        in_low: controls.in_low as f32,
        in_high: controls.in_high as f32,
        gamma: controls.gamma as f32,
        out_low: controls.out_low as f32,
        out_high: controls.out_high as f32,
        clamp: controls.clamp,
    }
}

pub(super) struct LevelsStage {
    spec: StageSpec,
}

impl LevelsStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "levels",
                name: "Levels",
                family: Family::Field,
                help: "Moves the black and white points, to open or close a matte.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: LevelsControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for LevelsStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("brightest only", &[("in_low", 0.7), ("in_high", 0.95)]),
            Preset::of("darkest only", &[("in_high", 0.25), ("out_low", 1.0), ("out_high", 0.0)]),
            Preset::of("hard", &[("in_low", 0.5), ("in_high", 0.5)]),
            Preset::of("thinner", &[("in_low", 0.25)]),
            Preset::of("fuller", &[("in_high", 0.75)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        // Black may be given a value of its own, so the result is everywhere unless nothing stays nothing.
        let controls: LevelsControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        let nothing_stays = levels(&controls).apply(0.0) == 0.0;
        Ok(if nothing_stays { main } else { Domain { data: main.data.union(main.display), ..main } })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let levels = levels(&context.controls()?);
        Ok(match kind {
            SignalKind::Field => Some(EachPixel::field(move |value| levels.apply(value))),
            SignalKind::Picture => Some(EachPixel::rows(move |row| levels_row(&levels, row))),
            SignalKind::Map => None,
        })
    }
}
