//! A picture's numbers from one colour space to another.

use veil_pixels::Window;

use crate::colour::{ColourSpace, WorkingOr};
use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct ColourSpaceControls {
        from: WorkingOr = ControlSpec::choice("from", WorkingOr(None)).help("What the numbers stand for."),
        to: WorkingOr = ControlSpec::choice("to", WorkingOr(Some(ColourSpace::Srgb))).help("What they are to stand for."),
    }
}

pub(super) struct ColourSpaceStage {
    spec: StageSpec,
}

impl ColourSpaceStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "colour_space",
                name: "Colour space",
                family: Family::Colour,
                help: "Says the same colours in other numbers; to work on them as a screen shows them, say.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ColourSpaceControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ColourSpaceStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: ColourSpaceControls = context.controls()?;
        let (from, to) = (controls.from.space(context.working()), controls.to.space(context.working()));
        Ok(Some(EachPixel::rows(move |row| from.converted_in(to, row))))
    }
}
