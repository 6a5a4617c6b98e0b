//! Colours looked up in a table of a file.

use veil_pixels::Window;

use crate::colour::{ColourSpace, WorkingOr};
use crate::controls;
use crate::controls::{ControlSet, ControlSpec, MediaSort};
use crate::ids::MediaId;
use crate::key::Key;
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct LutControls {
        media: Option<MediaId> = ControlSpec::media("table", MediaSort::Lut).help("Which .cube file of the show."),
        from: WorkingOr = ControlSpec::choice("takes", WorkingOr(Some(ColourSpace::Srgb)))
            .help("The space the table was made for; colours are brought into it first."),
        to: WorkingOr = ControlSpec::choice("gives", WorkingOr(Some(ColourSpace::Srgb)))
            .help("The space of what the table holds; colours are brought back out of it."),
    }
}

pub(super) struct LutStage {
    spec: StageSpec,
}

impl LutStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "lut",
                name: "LUT",
                family: Family::Colour,
                help: "Looks every colour up in a table, and reads between its entries.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: LutControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for LutStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: LutControls = context.controls()?;
        key.add(&context.plates().fingerprint(context.medium(controls.media)?, 0, context.cancel())?);
        Ok(())
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: LutControls = context.controls()?;
        let lut = context.plates().lut(context.medium(controls.media)?)?;
        let working = context.working().space();
        let taken = working.change(controls.from.space(context.working()));
        let back = controls.to.space(context.working()).change(working);
        Ok(Some(EachPixel::colour(move |colour| back(lut.at(taken(colour))))))
    }
}
