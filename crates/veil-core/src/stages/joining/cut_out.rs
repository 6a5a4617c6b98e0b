//! A picture within a matte.

use veil_pixels::Window;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct CutOutControls {
        invert: bool = ControlSpec::switch("outside instead", false).help("What lies outside of the shape stays."),
    }
}

/// The slot of what it is cut by.
const SHAPE: &str = "shape";

pub(super) struct CutOutStage {
    spec: StageSpec,
}

impl CutOutStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "cut_out",
                name: "Cut out",
                family: Family::Joining,
                help: "Keeps of a picture what a field covers: colour and alpha times its value.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(SHAPE, "shape", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: CutOutControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for CutOutStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn cuts(&self) -> bool {
        true
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: CutOutControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(match context.domain_of(SHAPE) {
            Some(shape) if !controls.invert => Domain { data: main.data.intersect(shape.data), ..main },
            _ => main,
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: CutOutControls = context.controls()?;
        let mut picture = context.picture(MAIN, wanted)?;
        // Without a shape there is nothing to cut by.
        let Some(shape) = context.coverage(SHAPE, wanted)? else { return Ok(Pixels::Picture(picture)) };
        picture.fill_rows(context.cancel(), |y, row| {
            for (pixel, coverage) in row.iter_mut().zip(shape.row(y)) {
                let kept = if controls.invert { 1.0 - coverage } else { *coverage };
                *pixel = pixel.map(|value| value * kept);
            }
        })?;
        Ok(Pixels::Picture(picture))
    }
}
