//! Things followed from frame to frame: points, many points found by themselves, planes, surfaces that bend.
//!
//! Images are fields of values that an eye would call evenly spaced, as luma in a display's encoding, so that what
//! happens in the shade counts as much as what happens in the light.

mod align;
mod corners;
mod grid;
mod hold;
mod plane;
mod point;
mod search;
pub mod slide;
mod surface;

pub use align::{Fit, Levels, Motion, Outliers, Pattern};
pub use corners::corners;
pub use plane::{Counts, PlaneSettings, PlaneTracker};
pub use point::{Followed, Known, PointSettings, PointTracker};
pub use surface::{LaidSurface, SurfaceTracker};
