//! What a hole is filled with, from what lies about it.
//!
//! - Shape: a raster and a field of its window, above 0 in the hole; outside of it pixels stay as they are, bit for bit.
//! - A raster that is all hole is given back as it is.

mod membrane;
mod patches;

pub use membrane::membrane;
pub use patches::patches;
