//! Lines that follow each other evenly.

use veil_pixels::Window;
use veil_pixels::shape::stripes::Lines;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

use super::spacing::{self, Spacing};

controls! {
    struct StripesControls {
        spacing: Spacing = spacing::spacing(),
        period: f64 = spacing::period(),
        count: f64 = spacing::count(),
        width: f64 = ControlSpec::length("line width", 20.0, 200.0).help("How wide a line is."),
        softness: f64 = ControlSpec::length("softness", 0.0, 100.0).help("Length over which the edge of a line goes from full to none."),
        through: [f64; 2] = ControlSpec::point("through", [0.5, 0.5]).grip(Grip::Point).help("A place that a line goes through."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).help("How they are turned, counter-clockwise as seen; at 0 they are upright."),
        phase: f64 = ControlSpec::number("phase", 0.0, (0.0, 1.0)).help("Moves them; at 1 each lies where the next one lay."),
    }
}

pub(super) struct StripesStage {
    spec: StageSpec,
}

impl StripesStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "stripes",
                name: "Stripes",
                family: Family::Field,
                help: "Lines that follow each other evenly, hard or soft.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: StripesControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for StripesStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: StripesControls = context.controls()?;
        let stripes = spacing::Even {
            period: controls.spacing.period(controls.period, controls.count, context),
            width: controls.width,
            softness: controls.softness,
            through: controls.through,
            angle: controls.angle,
            phase: controls.phase,
        };
        Ok(Pixels::Field(stripes.at(context).over(Lines::Along, wanted, context.cancel())?))
    }
}
