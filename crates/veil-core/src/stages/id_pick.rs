//! A matte of named things, from a Cryptomatte.

use veil_pixels::{Window, resize};

use crate::control::{ControlSet, ControlSpec, Unit};
use crate::controls;
use crate::engine::{Context, StageError};
use crate::setup::MediaId;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, StageSpec};

use super::Stage;

controls! {
    struct IdControls {
        media: Option<MediaId> = ControlSpec::media("plate").help("The rendered plate that carries the Cryptomatte."),
        names: Vec<String> = ControlSpec::names("things")
            .help("What is covered, by name; * stands for any letters. Pick on the picture or from the list."),
        shift: i32 = ControlSpec::whole("start offset", 0, -10_000, 10_000).unit(Unit::Frames)
            .help("Frame 1001 of the shot shows frame 1001 minus this of the plate."),
    }
}

pub(super) struct IdPick {
    spec: StageSpec,
}

impl IdPick {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "id_pick",
                name: "ID pick",
                family: Family::Field,
                help: "Covers the picked things of a rendered plate, edges and all.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                controls: IdControls::specs(),
                proxy_tolerance: 1e-3,
            },
        }
    }
}

impl Stage for IdPick {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn time_key(&self, context: &Context<'_>) -> Result<u64, StageError> {
        let controls: IdControls = context.controls()?;
        context.rendered(controls.media, controls.shift)?.fingerprint()
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: IdControls = context.controls()?;
        context.rendered(controls.media, controls.shift)?.domain(context)
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: IdControls = context.controls()?;
        let plate = context.rendered(controls.media, controls.shift)?;
        let coverage = context.id_coverage(plate.media, plate.frame, &controls.names)?;
        let Pixels::Field(coverage) = &coverage.pixels else {
            return Err(StageError::Fault("coverage is a field".into()));
        };
        let small = resize::block_means(coverage, context.scale().divisor(), context.cancel())?;
        Ok(Pixels::Field(small.cropped(wanted)))
    }
}
