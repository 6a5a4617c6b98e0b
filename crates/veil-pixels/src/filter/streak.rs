//! Directional blur: the mean along a straight line through each pixel.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: the line's full length in pixels of the raster; its angle in radians, counter-clockwise as seen.
//! - The line is stepped a whole pixel at a time along the axis that it lies nearer to, and read straight between the
//!   two pixels across; each step weighs by the part of it that lies on the line.
//! - Edges: as the [`Edge`] says, outside the data window.

use crate::buffer::raster::Pixel;
use crate::filter::blur::weigh_rows;
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// A line that pixels are spread along.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Streak {
    /// Full length.
    pub length: f32,
    /// Counter-clockwise as seen, 0 along the rows.
    pub angle: f32,
}

/// A pixel that is read, from the one that is made.
struct Tap {
    x: i32,
    y: i32,
    weight: f32,
}

impl Streak {
    fn taps(self) -> Vec<Tap> {
        let (sin, cos) = f64::from(self.angle).sin_cos();
        let (right, down) = (cos, -sin);
        let flat = right.abs() >= down.abs();
        let (major, minor) = if flat { (right, down) } else { (down, right) };
        let (half, slope) = (f64::from(self.length) * major.abs() / 2.0, minor / major);
        let last = (half - 0.5).ceil().max(0.0) as i32;
        let overlap = |step: i32| (half.max(0.5) - f64::from(step.abs()) + 0.5).clamp(0.0, 1.0);
        let sum: f64 = (-last..=last).map(overlap).sum();
        let mut taps = Vec::new();
        for step in -last..=last {
            let across = slope * f64::from(step);
            let (near, share) = (across.floor() as i32, across - across.floor());
            for (across, part) in [(near, 1.0 - share), (near + 1, share)] {
                let (x, y) = if flat { (step, across) } else { (across, step) };
                let weight = (part * overlap(step) / sum) as f32;
                if weight != 0.0 {
                    taps.push(Tap { x, y, weight });
                }
            }
        }
        taps
    }

    /// How far from a pixel the blur reads, by axis.
    pub fn reach(self) -> (i32, i32) {
        let taps = self.taps();
        let most = |along: fn(&Tap) -> i32| taps.iter().map(|tap| along(tap).abs()).max().unwrap_or(0);
        (most(|tap| tap.x), most(|tap| tap.y))
    }

    /// The pixels of `wanted`. `data` is where the signal exists; `source` must hold what [`Edge::reads_window`] of
    /// `wanted` grown by [`Self::reach`] names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        edge: Edge,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let (taps, (reach_x, reach_y)) = (self.taps(), self.reach());
        let read = source.extended(wanted.grow(reach_x, reach_y), data, edge);
        let weights: Vec<f32> = taps.iter().map(|tap| tap.weight).collect();
        let wide = wanted.width();
        Raster::written(wanted, cancel, |y, row| {
            let line = |tap: &Tap| P::floats(&read.row(y + tap.y)[(reach_x + tap.x) as usize..][..wide]);
            let rows: Vec<&[f32]> = taps.iter().map(line).collect();
            weigh_rows(&rows, &weights, P::floats_mut(row));
        })
    }
}
