//! The lines of a grid.

use veil_pixels::Window;
use veil_pixels::shape::stripes::Lines;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

use super::spacing::{self, Spacing};

controls! {
    struct GridControls {
        spacing: Spacing = spacing::spacing(),
        period: f64 = spacing::period(),
        count: f64 = spacing::count(),
        width: f64 = ControlSpec::length("line width", 2.0, 200.0).help("How wide a line is."),
        softness: f64 = ControlSpec::length("softness", 0.0, 100.0).help("Length over which the edge of a line goes from full to none."),
        through: [f64; 2] = ControlSpec::point("through", [0.5, 0.5]).grip(Grip::Point).help("A place that a line goes through."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).help("How they are turned, counter-clockwise as seen; at 0 they are upright."),
        phase: f64 = ControlSpec::number("phase", 0.0, (0.0, 1.0)).help("Moves them; at 1 each lies where the next one lay."),
    }
}

pub(super) struct GridLines {
    spec: StageSpec,
}

impl GridLines {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "grid_lines",
                name: "Grid lines",
                family: Family::Field,
                help: "The lines of a grid, to see how a warp bends.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: GridControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for GridLines {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: GridControls = context.controls()?;
        let stripes = spacing::Even {
            period: controls.spacing.period(controls.period, controls.count, context),
            width: controls.width,
            softness: controls.softness,
            through: controls.through,
            angle: controls.angle,
            phase: controls.phase,
        };
        Ok(Pixels::Field(stripes.at(context).over(Lines::Crossed, wanted, context.cancel())?))
    }
}
