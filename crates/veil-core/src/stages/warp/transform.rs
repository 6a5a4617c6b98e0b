//! Moves, turns, scales and shears a signal about a pivot.

use veil_pixels::Edge;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::Homography;

use crate::controls::Setting;
use crate::controls::{ControlSet, ControlSpec, Grip, Unit};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Aligned, Bend, Context, Placing, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::shutter;
use crate::{choice, controls};

use super::rings;

controls! {
    struct TransformControls {
        move_x: f64 = ControlSpec::number("move x", 0.0, (-500.0, 500.0)).unit(Unit::Px).grip(Grip::Right).help("How far it goes to the right."),
        move_y: f64 = ControlSpec::number("move y", 0.0, (-500.0, 500.0)).unit(Unit::Px).grip(Grip::Down).help("How far it goes down."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).help("Turn about the pivot, counter-clockwise as seen."),
        scale_x: f64 = ControlSpec::number("scale x", 1.0, (0.01, 4.0)).within(0.001, 1000.0).help("Times its width."),
        scale_y: f64 = ControlSpec::number("scale y", 1.0, (0.01, 4.0)).within(0.001, 1000.0).help("Times its height."),
        mirrored: Mirrored = ControlSpec::choice("mirrored", Mirrored::Not).help("Turned over about the pivot first, whatever the amount."),
        shear: f64 = ControlSpec::number("shear", 0.0, (-1.0, 1.0)).within(-100.0, 100.0)
            .help("How far it leans to the right for each pixel up."),
        pivot: [f64; 2] = ControlSpec::point("pivot", [0.5, 0.5]).grip(Grip::Point).help("The place that turning and scaling leave alone."),
        inverse: bool = ControlSpec::switch("inverse", false).under("reading")
            .help("Goes the way back, which holds a moving thing still."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels; made smaller, it is read as softly as it needs."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

/// What it is turned over.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Mirrored {
    Not,
    Across,
    Down,
    Both,
}

choice! {
    Mirrored {
        Not = "not", "not";
        Across = "across", "left to right";
        Down = "down", "top to bottom";
        Both = "both", "both ways";
    }
}

impl Mirrored {
    /// Of both axes, 1 or -1.
    const fn signs(self) -> [f64; 2] {
        match self {
            Self::Not => [1.0, 1.0],
            Self::Across => [-1.0, 1.0],
            Self::Down => [1.0, -1.0],
            Self::Both => [-1.0, -1.0],
        }
    }
}

/// From places of the input to places of the result.
fn forth(controls: &TransformControls, amount: f64) -> Homography {
    let [pivot_x, pivot_y] = controls.pivot;
    let [across, down] = controls.mirrored.signs();
    Homography::shift(-pivot_x, -pivot_y)
        .then(Homography::scale(across, down))
        .then(Homography::scale(controls.scale_x.powf(amount), controls.scale_y.powf(amount)))
        .then(Homography::shear(controls.shear * amount))
        .then(Homography::turn(controls.angle.to_radians() * amount))
        .then(Homography::shift(pivot_x + controls.move_x * amount, pivot_y + controls.move_y * amount))
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
                passes: Passes::Moves,
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

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: TransformControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }

    fn as_placing(&self) -> Option<&dyn Placing> {
        Some(self)
    }
}

impl Placing for Transform {
    fn laid(&self, from: Aligned, to: Aligned) -> Vec<(&'static str, Setting)> {
        let ([x, y], [to_x, to_y]) = (from.middle(), to.middle());
        let ([wide, high], [to_wide, to_high]) = (from.size(), to.size());
        vec![
            ("pivot", Setting::numbers(&[x, y])),
            ("move_x", Setting::number(to_x - x)),
            ("move_y", Setting::number(to_y - y)),
            ("scale_x", Setting::number(to_wide / wide)),
            ("scale_y", Setting::number(to_high / high)),
            ("angle", Setting::number(0.0)),
            ("shear", Setting::number(0.0)),
        ]
    }
}

impl WarpStage for Transform {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: TransformControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let controls: TransformControls = context.controls()?;
        let forth = forth(&controls, f64::from(context.amount()));
        let back =
            || forth.inverse().ok_or_else(|| context.fault("has a scale and shear that leave nothing"));
        let way = if controls.inverse { back()? } else { forth };
        Ok(Bend::Matrix(context.at_scale(way)))
    }
}
