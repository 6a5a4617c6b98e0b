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
