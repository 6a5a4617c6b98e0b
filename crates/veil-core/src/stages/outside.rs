//! Choices that several stages offer.

use veil_pixels::Edge;
use veil_pixels::sample::resample::Filter;

use crate::choice;
use crate::key::keyed_by_number;

choice! {
    Edge {
        Hold = "hold", "hold";
        Mirror = "mirror", "mirror";
        Repeat = "repeat", "repeat";
        Clear = "clear", "clear";
    }
}

/// How a direction is written in a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Directions {
    Shifted,
    Signed,
}

choice! {
    Directions {
        Shifted = "shifted", "0 to 1";
        Signed = "signed", "-1 to 1";
    }
}

choice! {
    Filter {
        Cubic = "cubic", "cubic";
        Mitchell = "mitchell", "soft cubic";
        Lanczos = "lanczos", "Lanczos";
        Linear = "linear", "linear";
        Nearest = "nearest", "nearest";
    }
}

keyed_by_number!(Filter);
