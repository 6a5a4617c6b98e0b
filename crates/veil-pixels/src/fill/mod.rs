//! What a hole is filled with, from what lies about it.
//!
//! - Shape: a raster and a field of its window, above 0 in the hole; outside of it pixels stay as they are, bit for bit.
//! - A raster that is all hole is given back as it is.

mod membrane;
mod patches;

pub use membrane::membrane;
pub use patches::patches;

use crate::{Field, Window};

/// Which pixels of a window are of the hole, row by row.
fn marks(hole: &Field, window: Window) -> Vec<bool> {
    let mut room = vec![0.0; window.width()];
    let mut marks = Vec::with_capacity(window.area());
    for y in window.rows() {
        marks.extend(hole.run(window.x0, y, &mut room).iter().map(|share| *share > 0.0));
    }
    marks
}
