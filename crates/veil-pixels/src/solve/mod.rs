//! A camera, and places in space, from places that were followed through a picture.
//!
//! - Units: places of a picture in pixels from its middle, x right and y down; the focal length in pixels. A world of its own
//!   measure: its origin is the first camera that is known, which looks along z, with y down.
//! - A lens without distortion, its axis through the middle, of one focal length throughout.
//! - What does not fit the rest, as what moves by itself or was followed badly, counts less, and what is far off not at all.
//! - Source: Hartley and Zisserman, "Multiple View Geometry", 2004, chapters 9 to 12 and 18, and appendix 6.

mod bundle;
mod moving;
mod one;
mod scene;
mod seen;
mod sight;
mod two_views;
mod whole;

pub use sight::{Focal, Going, Pose, Sight, Solved, Unsolved};
pub use whole::solve;
