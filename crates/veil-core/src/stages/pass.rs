//! One pass of a multi-layer plate.

use veil_pixels::{Window, resize};

use crate::control::{ControlSet, ControlSpec, Unit, Value};
use crate::engine::{Context, StageError};
use crate::plates::Role;
use crate::setup::MediaId;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, StageSpec};
use crate::{choice, controls, each_kind};

use super::Stage;

controls! {
    struct PassControls {
        media: Option<MediaId> = ControlSpec::media("plate").help("Which of the shot's sequences or stills."),
        pass: Role = ControlSpec::choice("pass", Role::Depth)
            .help("What the pass is for; the file's own channel names are matched to it."),
        shift: i32 = ControlSpec::whole("start offset", 0, -10_000, 10_000).unit(Unit::Frames)
            .help("Frame 1001 of the shot shows frame 1001 minus this of the plate."),
    }
}

choice! {
    Role {
        Depth = "depth", "depth";
        Position = "position", "position";
        Normal = "normal", "normal";
        Motion = "motion", "motion";
        Emission = "emission", "emission";
        Beauty = "beauty", "beauty";
    }
}

fn given(values: &[Value]) -> SignalKind {
    PassControls::read(values).map_or(SignalKind::Field, |controls| controls.pass.kind())
}

pub(super) struct PassStage {
    spec: StageSpec,
}

impl PassStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "pass",
                name: "Pass",
                family: Family::Source,
                help: "Brings in one pass of a rendered plate: depth, position, motion and others.",
                main: None,
                slots: Vec::new(),
                gives: Gives::ByControls(given),
                amount: AmountRule::Opacity,
                controls: PassControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for PassStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn time_key(&self, context: &Context<'_>) -> Result<u64, StageError> {
        let controls: PassControls = context.controls()?;
        context.rendered(controls.media, controls.shift)?.fingerprint()
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: PassControls = context.controls()?;
        context.rendered(controls.media, controls.shift)?.domain(context)
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PassControls = context.controls()?;
        let plate = context.rendered(controls.media, controls.shift)?;
        let file = context.pass(plate.media, plate.frame, controls.pass)?;
        let (divisor, cancel) = (context.scale().divisor(), context.cancel());
        let small = if controls.pass.averages() {
            each_kind!(&file.pixels, raster => resize::block_means(raster, divisor, cancel)?)
        } else {
            each_kind!(&file.pixels, raster => resize::block_middles(raster, divisor, cancel)?)
        };
        Ok(each_kind!(&small, raster => raster.cropped(wanted)))
    }
}
