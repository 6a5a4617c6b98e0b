//! What comes in, some frames later or earlier.

use veil_pixels::Window;

use super::at_frame;
use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::signal::Pixels;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct ShiftControls {
        by: f64 = ControlSpec::number("frames on", 0.0, (-50.0, 50.0)).unit(Unit::Frames)
            .help("How many frames later what comes in is seen; below 0, earlier. Between two frames what is keyed stands in between, and a plate is the nearest."),
    }
}

pub(super) struct Shift {
    spec: StageSpec,
}

impl Shift {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "shift",
                name: "Shift",
                family: Family::Time,
                help: "Shows what comes in some frames later or earlier.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ShiftControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

fn shown(context: &Context<'_>) -> Result<f64, StageError> {
    let controls: ShiftControls = context.controls()?;
    Ok(context.frame() + controls.by)
}

impl Stage for Shift {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn looks_at(&self, context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(Some(vec![shown(context)?]))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        at_frame(context, shown(context)?, wanted)
    }
}
