//! Which value of a map means no move.

use veil_pixels::{Map, Window, measure};

use crate::controls::{ControlSet, ControlSpec};
use crate::key::Key;
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct NeutralControls {
        x: Level = ControlSpec::choice("x", Level::Frame).help("Which value does not move the picture sideways."),
        x_value: f64 = ControlSpec::number("x value", 0.5, (0.0, 1.0)).when("x", &["number"]).help("The value that does not move it sideways."),
        y: Level = ControlSpec::choice("y", Level::Frame).help("Which value does not move the picture up or down."),
        y_value: f64 = ControlSpec::number("y value", 0.5, (0.0, 1.0)).when("y", &["number"]).help("The value that does not move it up or down."),
    }
}

/// The value that is taken away.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Level {
    Zero,
    Half,
    Number,
    Frame,
    Range,
}

choice! {
    Level {
        Zero = "zero", "zero";
        Half = "half", "a half";
        Number = "number", "a number";
        Frame = "frame", "the frame's mean";
        Range = "range", "the shot's mean";
    }
}

impl NeutralControls {
    fn uses(&self, level: Level) -> bool {
        self.x == level || self.y == level
    }

    /// The values by axis.
    fn values(&self, context: &Context<'_>) -> Result<[f32; 2], StageError> {
        let frame = if self.uses(Level::Frame) { of_frame(context)? } else { [0.0; 2] };
        let range = if self.uses(Level::Range) { context.mean_over_shot(MAIN)? } else { [0.0; 2] };
        let value = |axis: usize, level, number: f64| match level {
            Level::Zero => 0.0,
            Level::Half => 0.5,
            Level::Number => number as f32,
            Level::Frame => frame[axis],
            Level::Range => range[axis],
        };
        Ok([value(0, self.x, self.x_value), value(1, self.y, self.y_value)])
    }
}

fn of_frame(context: &Context<'_>) -> Result<[f32; 2], StageError> {
    let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
    Ok(measure::mean_move(&context.map(MAIN, data)?))
}

pub(super) struct Neutral {
    spec: StageSpec,
}

impl Neutral {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "neutral",
                name: "Neutral",
                family: Family::Map,
                help: "Takes away from a map what stands for no move, so that the picture does not drift.",
                main: Some(Accepts::Map),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: NeutralControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Neutral {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: NeutralControls = context.controls()?;
        if controls.uses(Level::Range) {
            key.add(&context.print_of_shot(MAIN)?);
        }
        Ok(())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: NeutralControls = context.controls()?;
        let [x, y] = controls.values(context)?;
        let map: Map = context.map(MAIN, wanted)?;
        Ok(Pixels::Map(map.map(context.cancel(), |moved: [f32; 2]| [moved[0] - x, moved[1] - y])?))
    }
}
