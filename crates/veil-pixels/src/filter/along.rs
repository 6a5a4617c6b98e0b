//! Blur along a map: each pixel is the mean along its own move, half of it before and half of it after.
//!
//! - Shape: any pixel; the result covers the map's window.
//! - Units: moves in pixels of the raster; one that is no number counts as none, one longer than [`LONGEST`] as that long.
//! - The line is read straight between the pixels, evenly, at as many places as it has pixels and one more. A move of none
//!   leaves its pixel bit for bit.
//! - Edges: as the [`Edge`] says, outside the data window.
//! - Source: Potmesil and Chakravarty, "Modeling Motion Blur in Computer-Generated Images", 1983: what moves evenly while a
//!   shutter is open is the mean along its way.

use crate::buffer::raster::{Pixel, Wide};
use crate::sample::resample::{Filter, Sampler};
use crate::{Cancel, Cancelled, Edge, Map, Move, Raster, Window};

/// The longest move, in pixels.
pub const LONGEST: f32 = 1000.0;

/// A move as it counts, and how long it is.
fn counted([x, y]: Move) -> (Move, f32) {
    let long = x.hypot(y);
    match long {
        long if !long.is_finite() => ([0.0; 2], 0.0),
        long if long > LONGEST => ([x, y].map(|way| way * (LONGEST / long)), LONGEST),
        long => ([x, y], long),
    }
}

/// How far from a pixel the blur reads, by axis.
pub fn reach(moves: &Map) -> (i32, i32) {
    let most = |axis: usize| {
        let ways = moves.pixels().iter().map(|way| counted(*way).0[axis].abs());
        (ways.fold(0.0, f32::max) / 2.0).ceil() as i32 + 1
    };
    (most(0), most(1))
}

/// The pixels of the map's window. `data` is where the signal exists; `source` must hold what [`Edge::reads_window`] of that
/// window grown by [`reach`] names.
pub fn along<P: Pixel>(
    source: &Raster<P>,
    data: Window,
    edge: Edge,
    moves: &Map,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let sampler = Sampler::new(source, data, edge);
    let window = moves.window();
    Raster::written(window, cancel, |y, row| {
        for ((x, out), way) in (window.x0..).zip(row).zip(moves.row(y)) {
            let ([right, down], long) = counted(*way);
            let count = long.ceil() as i32 + 1;
            let mut sum = P::Wide::default();
            for step in 0..count {
                let share = (step as f32 + 0.5) / count as f32 - 0.5;
                let (x, y) = (x as f32 + 0.5 + share * right, y as f32 + 0.5 + share * down);
                sum = sum.plus(sampler.wide_at(Filter::Linear, x, y), 1.0);
            }
            *out = P::narrow(if count == 1 { sum } else { sum.times(1.0 / count as f32) });
        }
    })
}
