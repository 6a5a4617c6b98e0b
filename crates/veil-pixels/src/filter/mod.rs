//! What becomes of each pixel by those about it.

pub mod along;
pub mod blur;
pub mod box_blur;
pub mod chamfer;
pub mod distance;
pub mod edges;
pub mod grow;
pub mod mixture;
pub mod mosaic;
pub mod outward;
pub mod steepness;
pub mod streak;
pub mod stretch;
pub mod zoom_blur;
