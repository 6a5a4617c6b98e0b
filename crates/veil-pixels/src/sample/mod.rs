//! Signals read between their pixels, softened, or made smaller.

pub mod resample;
pub mod resize;
pub mod softness;
pub(crate) mod taps;
