//! The value of a field that moves nothing, as stages that make maps of fields offer it.

use crate::choice;

/// Which value moves nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Still {
    Zero,
    Half,
    Number,
}

choice! {
    Still {
        Zero = "zero", "zero";
        Half = "half", "a half";
        Number = "number", "a number";
    }
}

impl Still {
    /// It, where `number` is the one to choose.
    pub(super) const fn value(self, number: f64) -> f64 {
        match self {
            Self::Zero => 0.0,
            Self::Half => 0.5,
            Self::Number => number,
        }
    }
}
