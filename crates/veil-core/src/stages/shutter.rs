//! The controls of stages that move what they take and can be seen while they do.

use crate::control::{ControlSpec, Unit};

/// The control that says how long it is seen, in degrees; none is seen sharp.
pub(crate) const SHUTTER: &str = "shutter";

/// How long something is seen while it moves.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shutter {
    /// 360 degrees are a whole frame.
    pub degrees: f64,
    /// In how many steps.
    pub samples: i32,
}

impl Shutter {
    /// The moments that are seen, about the middle of a frame; only that where there is no shutter.
    pub(crate) fn moments(self, frame: f64) -> Vec<f64> {
        let open = self.degrees / 360.0;
        if open <= 0.0 || self.samples < 2 {
            return vec![frame];
        }
        let count = f64::from(self.samples);
        (0..self.samples).map(|step| frame + ((f64::from(step) + 0.5) / count - 0.5) * open).collect()
    }
}

pub(super) const fn open() -> ControlSpec {
    ControlSpec::number("shutter", 0.0, (0.0, 360.0))
        .within(0.0, 720.0)
        .unit(Unit::Degrees)
        .under("motion blur")
        .help("How long it is seen while it moves; 360 is a whole frame, 0 none.")
}

pub(super) const fn samples() -> ControlSpec {
    ControlSpec::whole("samples", 12, 1, 64)
        .under("motion blur")
        .help("In how many steps it moves while it is seen.")
}
