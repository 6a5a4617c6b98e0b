//! Where a thing is about as far away as asked for.

use veil_pixels::Window;
use veil_pixels::shape::select::Band;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct DepthRangeControls {
        near: f64 = ControlSpec::number("near", 0.0, (0.0, 100.0)).help("The least depth that is wholly covered, in the pass's units."),
        far: f64 = ControlSpec::number("far", 10.0, (0.0, 100.0)).help("The greatest depth that is wholly covered."),
        soft_near: f64 = ControlSpec::number("soft near", 0.0, (0.0, 20.0)).within(0.0, 1.0e6).under("soft ends")
            .help("Over which depth nearer than that it falls off."),
        soft_far: f64 = ControlSpec::number("soft far", 2.0, (0.0, 20.0)).within(0.0, 1.0e6).under("soft ends")
            .help("Over which depth farther than that it falls off."),
    }
}

pub(super) struct DepthRangeStage {
    spec: StageSpec,
}

impl DepthRangeStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "depth_range",
                name: "Depth range",
                family: Family::Field,
                help: "Covers what is between two depths of a depth pass, with soft ends.",
                main: Some(Accepts::Field),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: DepthRangeControls::specs(),
                proxy_tolerance: 0.12,
            },
        }
    }
}

impl Stage for DepthRangeStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or_else(|| context.everywhere()))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: DepthRangeControls = context.controls()?;
        let band = Band {
            low: controls.near as f32,
            high: controls.far as f32,
            soft: [controls.soft_near as f32, controls.soft_far as f32],
        };
        match context.main(wanted)?.over(wanted) {
            Pixels::Field(depth) => {
                Ok(Pixels::Field(depth.map(context.cancel(), |value: f32| band.of(value))?))
            }
            _ => Ok(Pixels::clear(SignalKind::Field, wanted)),
        }
    }
}
