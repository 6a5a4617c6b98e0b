//! Moves, turns, scales and shears a signal about a pivot.

use veil_pixels::perspective::{Carried, Homography};
use veil_pixels::resample::Filter;
use veil_pixels::{Edge, Window};

use crate::control::{ControlSet, ControlSpec, Unit};
use crate::engine::{Context, StageError};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, StageSpec};
use crate::{controls, each_kind};

use super::Stage;

controls! {
    struct TransformControls {
        move_x: f64 = ControlSpec::number("move x", 0.0, (-500.0, 500.0)).unit(Unit::Px).help("How far it goes to the right."),
        move_y: f64 = ControlSpec::number("move y", 0.0, (-500.0, 500.0)).unit(Unit::Px).help("How far it goes down."),
        angle: f64 = ControlSpec::angle("angle", 0.0).help("Turn about the pivot, counter-clockwise as seen."),
        scale_x: f64 = ControlSpec::number("scale x", 1.0, (0.01, 4.0)).within(0.001, 1000.0).help("Times its width."),
        scale_y: f64 = ControlSpec::number("scale y", 1.0, (0.01, 4.0)).within(0.001, 1000.0).help("Times its height."),
        shear: f64 = ControlSpec::number("shear", 0.0, (-1.0, 1.0)).within(-100.0, 100.0)
            .help("How far it leans to the right for each pixel up."),
        pivot: [f64; 2] = ControlSpec::point("pivot", [0.5, 0.5]).help("The place that turning and scaling leave alone."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels; made smaller, it is read as softly as it needs."),
    }
}

/// From places of the input to places of the result, in pixels of this scale.
fn forth(controls: &TransformControls, context: &Context<'_>) -> Homography {
    let (amount, small) = (f64::from(context.amount()), 1.0 / f64::from(context.scale().divisor()));
    let [pivot_x, pivot_y] = controls.pivot;
    Homography::scale(1.0 / small, 1.0 / small)
        .then(Homography::shift(-pivot_x, -pivot_y))
        .then(Homography::scale(controls.scale_x.powf(amount), controls.scale_y.powf(amount)))
        .then(Homography::shear(controls.shear * amount))
        .then(Homography::turn(controls.angle.to_radians() * amount))
        .then(Homography::shift(pivot_x + controls.move_x * amount, pivot_y + controls.move_y * amount))
        .then(Homography::scale(small, small))
}

/// How the input is read; none where nothing of it is left.
fn carried(controls: &TransformControls, context: &Context<'_>) -> Option<Carried> {
    let back = forth(controls, context).inverse()?;
    Some(Carried { back, filter: controls.sampling, edge: controls.outside })
}

pub(super) struct Transform {
    spec: StageSpec,
}

impl Transform {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "transform",
                name: "Transform",
                family: Family::Warp,
                help: "Moves, turns, scales and shears; amount goes part of the way, a matte shows it in part.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnAmount,
                controls: TransformControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Transform {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: TransformControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        if main.data.is_empty() {
            return Ok(main);
        }
        let reach = controls.sampling.reach() + 1;
        let there = forth(&controls, context).window(main.data).grow(reach, reach);
        let data = match controls.outside {
            Edge::Clear => there,
            Edge::Hold | Edge::Mirror | Edge::Repeat => main.display.union(main.data),
        };
        Ok(Domain { data, ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: TransformControls = context.controls()?;
        let data = context.main_domain().map_or(Window::EMPTY, |domain| domain.data);
        let Some(carried) = carried(&controls, context) else {
            return Err(StageError::Fault("scale and shear leave nothing of the picture".into()));
        };
        let main = context.main(carried.reads(wanted, data))?;
        Ok(each_kind!(&main.pixels, raster => carried.apply(raster, data, wanted, context.cancel())?))
    }
}
