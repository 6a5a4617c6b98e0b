//! Buffers, windows and the kernels that fill them: pure functions on pixels.
//!
//! Conventions, kept by every kernel here:
//! - Coordinates: x to the right, y down; the centre of pixel `(x, y)` is `(x + 0.5, y + 0.5)`.
//! - Pictures are scene-linear and premultiplied, four floats a pixel.
//! - A map holds how far the picture moves: output pixel `p` takes its colour from `p − map(p)`.
//! - A kernel's result for a pixel does not depend on the region it was asked for, on the
//!   number of threads, or on the instruction set: a region equals the crop of the whole, bit for bit.
//! - Long work takes a [`Cancel`] and gives up with [`Cancelled`] within a few rows.

pub mod arc;
pub mod between;
pub mod blend;
pub mod blur;
pub mod box_blur;
pub mod bulge;
pub mod cancel;
pub mod chamfer;
pub mod channels;
pub mod colour;
pub mod cryptomatte;
pub mod displace;
pub mod distance;
pub mod edge;
pub mod edges;
pub mod ellipse;
pub mod fold;
pub mod glow;
pub mod grade;
pub mod grade_match;
pub mod gradient;
pub mod grow;
pub mod hue;
pub mod lens;
pub mod measure;
pub mod mesh;
pub mod mix;
pub mod mixture;
pub mod mosaic;
pub mod noise;
pub mod outline;
pub mod perspective;
pub mod polar;
pub mod polygon;
pub mod pool;
mod prefetch;
pub mod program;
pub mod push;
pub mod raster;
pub mod rectangle;
pub mod resample;
pub mod resize;
pub mod ring;
pub mod screen_key;
pub mod select;
pub mod softness;
pub mod steepness;
pub mod streak;
pub mod stretch;
pub mod stripes;
pub mod strokes;
pub mod swirl;
mod taps;
pub mod tone;
pub mod track;
pub mod uv;
pub mod warp;
pub mod window;
pub mod zoom_blur;

pub use cancel::{Cancel, Cancelled};
pub use edge::Edge;
pub use raster::{Pixel, Raster};
pub use window::Window;

/// Premultiplied red, green, blue and alpha, scene-linear.
pub type Rgba = [f32; 4];
/// How far the picture moves, x right and y down, in full-resolution pixels.
pub type Move = [f32; 2];
/// Four floats a pixel.
pub type Picture = Raster<Rgba>;
/// One float a pixel.
pub type Field = Raster<f32>;
/// Two floats a pixel.
pub type Map = Raster<Move>;
