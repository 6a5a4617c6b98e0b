//! A matte in the shape of an ellipse.

use veil_pixels::Window;
use veil_pixels::shape::ellipse::{Ellipse, SoftSide};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct EllipseControls {
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point)
            .help("Where its middle is, in pixels of the picture."),
        radii: [f64; 2] = ControlSpec::size("radii", [0.25, 0.25]).grip(Grip::Radii)
            .help("Half its width and half its height, before it is turned."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn)
            .help("How far it is turned, counter-clockwise as seen."),
        softness: f64 = ControlSpec::length("softness", 20.0, 200.0).under("edge").grip(Grip::Softness)
            .help("Length over which the edge goes from full to none."),
        side: SoftSide = ControlSpec::choice("soft side", SoftSide::Both).under("edge")
            .help("On which side of the outline the soft edge lies."),
        invert: bool = ControlSpec::switch("invert", false).under("edge")
            .help("Covers what lies outside instead."),
    }
}

choice! {
    SoftSide {
        Both = "both", "both";
        Inward = "inward", "inward";
        Outward = "outward", "outward";
    }
}

fn shape(controls: &EllipseControls, context: &Context<'_>) -> Ellipse {
    let scale = context.scale();
    Ellipse {
        centre: controls.centre.map(|place| scale.length(place)),
        radii: controls.radii.map(|radius| scale.length(radius)),
        angle: controls.angle.to_radians() as f32,
        softness: scale.length(controls.softness),
        side: controls.side,
    }
}

pub(super) struct EllipseStage {
    spec: StageSpec,
}

impl EllipseStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "ellipse",
                name: "Ellipse",
                family: Family::Field,
                help: "Covers an ellipse, with a soft edge.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: EllipseControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for EllipseStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: EllipseControls = context.controls()?;
        let everywhere = context.everywhere();
        if controls.invert {
            return Ok(everywhere);
        }
        let data = shape(&controls, context).window().intersect(everywhere.display);
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: EllipseControls = context.controls()?;
        let covered = shape(&controls, context).over(wanted, context.cancel())?;
        if !controls.invert {
            return Ok(Pixels::Field(covered));
        }
        Ok(Pixels::Field(covered.map(context.cancel(), |coverage: f32| 1.0 - coverage)?))
    }
}
