//! Where a picture is about as bright as asked for.

use veil_pixels::Window;
use veil_pixels::shape::select::Band;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind, Take};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct LumaRangeControls {
        low: f64 = ControlSpec::number("from", 0.5, (0.0, 2.0)).help("The least luma that is wholly covered."),
        high: f64 = ControlSpec::number("to", 65_504.0, (0.0, 2.0)).help("The most luma that is wholly covered."),
        soft_low: f64 = ControlSpec::number("soft below", 0.1, (0.0, 1.0)).within(0.0, 65_504.0).under("soft ends")
            .help("Over which luma below it falls off."),
        soft_high: f64 = ControlSpec::number("soft above", 0.0, (0.0, 1.0)).within(0.0, 65_504.0).under("soft ends")
            .help("Over which luma above it falls off."),
    }
}

fn band(controls: &LumaRangeControls) -> Band {
    Band {
        low: controls.low as f32,
        high: controls.high as f32,
        soft: [controls.soft_low as f32, controls.soft_high as f32],
    }
}

pub(super) struct LumaRangeStage {
    spec: StageSpec,
}

impl LumaRangeStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "luma_range",
                name: "Luma range",
                family: Family::Field,
                help: "Covers where a picture's luma, or a field, lies in a range, with soft ends.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: LumaRangeControls::specs(),
                proxy_tolerance: 0.08,
            },
        }
    }
}

impl Stage for LumaRangeStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("highlights", &[("low", 1.0), ("soft_low", 0.4)]),
            Preset::of("mid-tones", &[("low", 0.1), ("high", 0.4), ("soft_low", 0.08), ("soft_high", 0.3)]),
            Preset::of("shadows", &[("low", 0.0), ("high", 0.04), ("soft_low", 0.0), ("soft_high", 0.08)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: LumaRangeControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        // What nothing becomes may be something.
        Ok(if band(&controls).of(0.0) == 0.0 {
            main
        } else {
            Domain { data: main.data.union(main.display), ..main }
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let band = band(&context.controls()?);
        let values = match context.main(wanted)?.over(wanted) {
            Pixels::Field(field) => field,
            Pixels::Picture(picture) => Take::Luma.apply(&picture, context.working(), context.cancel())?,
            Pixels::Map(_) => return Err(StageError::Fault("a range is of a field or a picture".into())),
        };
        Ok(Pixels::Field(values.map(context.cancel(), |value: f32| band.of(value))?))
    }
}
