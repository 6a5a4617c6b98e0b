//! Coverage of a box with a soft edge.
//!
//! - Shape: a field, 1 inside and 0 outside.
//! - Units: lengths in pixels of the raster; the angle in radians, counter-clockwise as seen.
//! - Edge: a hard edge covers the exact share of each pixel. A soft edge is a smoothstep over the distance to the
//!   outline, so that it is round about the corners on the outside.

use crate::shape::ellipse::SoftSide;
use crate::shape::polygon::Polygon;
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// A box.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rectangle {
    /// Its centre.
    pub centre: [f32; 2],
    /// Half its width and half its height, before it is turned. Where either is 0 nothing is covered.
    pub half: [f32; 2],
    /// How far it is turned.
    pub angle: f32,
    /// Length of the soft edge.
    pub softness: f32,
    /// Where the soft edge lies.
    pub side: SoftSide,
}

impl Rectangle {
    /// The coverage over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        if self.softness < 1.0 || self.half[0] <= 0.0 || self.half[1] <= 0.0 {
            return Polygon::new([self.corners(0.0)]).over(window, cancel);
        }
        let (sin, cos) = self.angle.sin_cos();
        Raster::written(window, cancel, |y, row| {
            let dy = y as f32 + 0.5 - self.centre[1];
            for (x, out) in (window.x0..).zip(row) {
                let dx = x as f32 + 0.5 - self.centre[0];
                let outside = self.distance([dx * cos - dy * sin, dx * sin + dy * cos]);
                *out = self.side.fall_off(outside, self.softness);
            }
        })
    }

    /// Where it covers anything, in pixels of the raster.
    pub fn window(&self) -> Window {
        Polygon::new([self.corners(self.side.beyond(self.softness))]).window()
    }

    fn corners(&self, beyond: f32) -> Vec<[f64; 2]> {
        if self.half[0] <= 0.0 || self.half[1] <= 0.0 {
            return Vec::new();
        }
        let (sin, cos) = f64::from(self.angle).sin_cos();
        let [a, b] = self.half.map(|half| f64::from(half + beyond));
        let centre = self.centre.map(f64::from);
        let corner = |(x, y): (f64, f64)| [centre[0] + x * cos + y * sin, centre[1] - x * sin + y * cos];
        [(-a, -b), (a, -b), (a, b), (-a, b)].map(corner).to_vec()
    }

    /// From the outline, negative inside; `place` is turned back and counted from the centre.
    #[inline(always)]
    fn distance(&self, place: [f32; 2]) -> f32 {
        let [x, y] = [place[0].abs() - self.half[0], place[1].abs() - self.half[1]];
        x.max(0.0).hypot(y.max(0.0)) + x.max(y).min(0.0)
    }
}
