//! Values kept within bounds.

use veil_pixels::Window;
use veil_pixels::colour::bare::values_row;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct ClampControls {
        low: f64 = ControlSpec::number("least", 0.0, (-1.0, 1.0)).help("What is below becomes this."),
        high: f64 = ControlSpec::number("most", 1.0, (0.0, 2.0)).help("What is above becomes this; where it is below the least, all becomes the least."),
    }
}

pub(super) struct ClampStage {
    spec: StageSpec,
}

impl ClampStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "clamp",
                name: "Clamp",
                family: Family::Field,
                help: "Keeps the values of a field, or the colours of a picture, within bounds.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ClampControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ClampStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: ClampControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        // What nothing becomes may be something.
        Ok(if controls.low <= 0.0 && (controls.high >= 0.0 || controls.low == 0.0) {
            main
        } else {
            Domain { data: main.data.union(main.display), ..main }
        })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: ClampControls = context.controls()?;
        let (low, high) = (controls.low as f32, controls.high as f32);
        let within = move |value: f32| value.min(high).max(low);
        Ok(match kind {
            SignalKind::Field => Some(EachPixel::field(within)),
            SignalKind::Picture => Some(EachPixel::rows(move |row| values_row(row, within))),
            SignalKind::Map => None,
        })
    }
}
