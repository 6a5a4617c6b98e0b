//! Buffers, windows and the kernels that fill them: pure functions on pixels.
//!
//! Conventions, kept by every kernel here:
//! - Coordinates: x to the right, y down; the centre of pixel `(x, y)` is `(x + 0.5, y + 0.5)`.
//! - Pictures are scene-linear and premultiplied, four floats a pixel.
//! - A map holds how far the picture moves: output pixel `p` takes its colour from `p − map(p)`.
//! - A kernel's result for a pixel does not depend on the region it was asked for, on the
//!   number of threads, or on the instruction set: a region equals the crop of the whole, bit for bit.
//! - Long work takes a [`Cancel`] and gives up with [`Cancelled`] within a few rows.

pub mod blend;
pub mod buffer;
pub mod clean;
pub mod colour;
pub mod fill;
pub mod filter;
pub mod flow;
pub mod frames;
pub mod grain;
pub mod key;
pub mod light;
pub mod measure;
pub mod noise;
pub mod program;
pub mod sample;
pub mod shape;
pub mod solve;
pub mod track;
pub mod warp;

pub use buffer::cancel::{Cancel, Cancelled, Progress};
pub use buffer::edge::Edge;
pub use buffer::raster::{Pixel, Raster};
pub use buffer::window::Window;

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
