//! Highlights held below a greatest light.

use veil_pixels::Window;
use veil_pixels::colour::roll_off::RollOff;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct RollOffControls {
        begins: f64 = ControlSpec::number("begins at", 0.8, (0.0, 2.0)).within(0.0, 1000.0).help("Darker light stays as it is."),
        room: f64 = ControlSpec::number("room", 0.4, (0.0, 2.0)).within(0.0, 1000.0).help("How much above that the brightest light gets; at 0 it is cut off there."),
        hue: f64 = ControlSpec::number("hue kept", 0.7, (0.0, 1.0)).within(0.0, 1.0).help("At 1 bright colours stay as they are and only get darker; at 0 they go toward white, as film has them."),
    }
}

pub(super) struct HighlightRollOff {
    spec: StageSpec,
}

impl HighlightRollOff {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "highlight_roll_off",
                name: "Highlight roll-off",
                family: Family::Colour,
                help: "Lets light rise ever more slowly toward a greatest one, instead of clipping.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: RollOffControls::specs(),
                proxy_tolerance: 0.04,
            },
        }
    }
}

impl Stage for HighlightRollOff {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let RollOffControls { begins, room, hue } = context.controls()?;
        let rolls = RollOff { begins: begins as f32, room: room as f32, together: hue as f32 };
        Ok(match kind {
            SignalKind::Picture => Some(EachPixel::colour(move |colour| rolls.of_colour(colour))),
            SignalKind::Field => Some(EachPixel::field(move |value| rolls.of(value))),
            SignalKind::Map => None,
        })
    }
}
