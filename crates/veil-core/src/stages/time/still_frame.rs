//! One frame of what comes in, at every frame.

use veil_pixels::Window;

use super::at_frame;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::Pixels;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// As setups have it.
pub(crate) const KIND: &str = "still_frame";

controls! {
    struct StillControls {
        which: Which = ControlSpec::choice("which", Which::First).help("The frame that is seen at every frame."),
        frame: f64 = ControlSpec::number("frame", 1001.0, (1001.0, 1100.0)).when("which", &["number"])
            .help("Its number; between two frames what is keyed stands in between, and a plate is the nearest."),
    }
}

/// Which frame stands still.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Which {
    First,
    Last,
    Number,
}

choice! {
    Which {
        First = "first", "the shot's first";
        Last = "last", "the shot's last";
        Number = "number", "by number";
    }
}

pub(super) struct StillFrame {
    spec: StageSpec,
}

impl StillFrame {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: KIND,
                name: "Still frame",
                family: Family::Time,
                help: "Holds what comes in at one of its frames.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: StillControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

fn still(context: &Context<'_>) -> Result<f64, StageError> {
    let controls: StillControls = context.controls()?;
    Ok(match controls.which {
        Which::First => f64::from(context.frames().first),
        Which::Last => f64::from(context.frames().last),
        Which::Number => controls.frame,
    })
}

impl Stage for StillFrame {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn looks_at(&self, context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(Some(vec![still(context)?]))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        at_frame(context, still(context)?, wanted)
    }
}
