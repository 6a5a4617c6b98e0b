//! Where a thing is about at a place in space.

use veil_pixels::Window;
use veil_pixels::shape::select::Solid;

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct PositionRangeControls {
        shape: Shape = ControlSpec::choice("shape", Shape::Ball).help("A ball or a box in the space of the position pass."),
        x: f64 = ControlSpec::number("centre x", 0.0, (-20.0, 20.0)).help("Its middle, in the pass's units."),
        y: f64 = ControlSpec::number("centre y", 0.0, (-20.0, 20.0)).help("Its middle, in the pass's units."),
        z: f64 = ControlSpec::number("centre z", 0.0, (-20.0, 20.0)).help("Its middle, in the pass's units."),
        radius: f64 = ControlSpec::number("radius", 1.0, (0.0, 20.0)).within(0.0, 1.0e6).when("shape", &["ball"])
            .help("How far the ball reaches."),
        half_x: f64 = ControlSpec::number("half size x", 1.0, (0.0, 20.0)).within(0.0, 1.0e6).when("shape", &["box"])
            .help("How far the box reaches to either side."),
        half_y: f64 = ControlSpec::number("half size y", 1.0, (0.0, 20.0)).within(0.0, 1.0e6).when("shape", &["box"])
            .help("How far the box reaches up and down."),
        half_z: f64 = ControlSpec::number("half size z", 1.0, (0.0, 20.0)).within(0.0, 1.0e6).when("shape", &["box"])
            .help("How far the box reaches forth and back."),
        soft: f64 = ControlSpec::number("softness", 0.5, (0.0, 10.0)).within(0.0, 1.0e6)
            .help("Over which length beyond it the coverage falls off."),
    }
}

/// A shape in space.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Shape {
    Ball,
    Box,
}

choice! {
    Shape {
        Ball = "ball", "ball";
        Box = "box", "box";
    }
}

pub(super) struct PositionRangeStage {
    spec: StageSpec,
}

impl PositionRangeStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "position_range",
                name: "Position range",
                family: Family::Field,
                help: "Covers what lies within a ball or box in space, by a position pass.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: PositionRangeControls::specs(),
                proxy_tolerance: 0.12,
            },
        }
    }
}

impl Stage for PositionRangeStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or_else(|| context.everywhere()))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PositionRangeControls = context.controls()?;
        let centre = [controls.x, controls.y, controls.z].map(|value| value as f32);
        let soft = controls.soft as f32;
        let solid = match controls.shape {
            Shape::Ball => Solid::Ball { centre, radius: controls.radius as f32, soft },
            Shape::Box => {
                let half = [controls.half_x, controls.half_y, controls.half_z].map(|value| value as f32);
                Solid::Box { centre, half, soft }
            }
        };
        let places = context.picture(crate::spec::MAIN, wanted)?;
        // Where the pass has no alpha there is nothing to be at a place.
        let coverage =
            places.map(context.cancel(), |[x, y, z, alpha]| solid.of([x, y, z]) * alpha.clamp(0.0, 1.0))?;
        Ok(Pixels::Field(coverage))
    }
}
