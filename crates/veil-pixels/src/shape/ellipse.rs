//! Coverage of an ellipse with a soft edge.
//!
//! - Shape: a field, 1 inside and 0 outside.
//! - Units: lengths in pixels of the raster; the angle in radians, counter-clockwise as seen.
//! - Edge: a hard edge covers the exact share of each pixel, of a polygon that is nowhere further than
//!   [`SAGITTA`] from the outline. A soft edge is a smoothstep over its length.
//! - Distance to the outline: first order, the implicit function over its gradient, which is exact
//!   on the outline and for a circle. Source: Taubin, "Distance Approximations for Rasterizing
//!   Implicit Curves", 1994.

use crate::shape::polygon::Polygon;
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// The polygon that stands for a hard outline is at most this far from it, in pixels.
const SAGITTA: f64 = 1e-4;

/// On which side of the outline a soft edge lies.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum SoftSide {
    /// Within the outline.
    Inward,
    /// Beyond the outline.
    Outward,
    /// Half on either side.
    #[default]
    Both,
}

impl SoftSide {
    /// How far beyond the outline a soft edge of this length covers anything.
    pub fn beyond(self, softness: f32) -> f32 {
        match self {
            Self::Inward => 0.0,
            Self::Outward => softness,
            Self::Both => softness / 2.0,
        }
    }

    /// The coverage so far outside of the outline; negative inside.
    #[inline(always)]
    pub fn fall_off(self, outside: f32, softness: f32) -> f32 {
        let t = ((outside - self.beyond(softness)) / softness + 1.0).clamp(0.0, 1.0);
        1.0 - t * t * (3.0 - 2.0 * t)
    }
}

/// An ellipse.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ellipse {
    /// Its centre.
    pub centre: [f32; 2],
    /// Half its width and half its height, before it is turned. Where either is 0 nothing is covered.
    pub radii: [f32; 2],
    /// How far it is turned.
    pub angle: f32,
    /// Length of the soft edge.
    pub softness: f32,
    /// Where the soft edge lies.
    pub side: SoftSide,
}

impl Ellipse {
    /// The coverage over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        if self.softness < 1.0 {
            return Polygon::new([self.corners()]).over(window, cancel);
        }
        let (sin, cos) = self.angle.sin_cos();
        Raster::written(window, cancel, |y, row| {
            let dy = y as f32 + 0.5 - self.centre[1];
            for (x, out) in (window.x0..).zip(row) {
                let dx = x as f32 + 0.5 - self.centre[0];
                *out = self.coverage([dx * cos - dy * sin, dx * sin + dy * cos]);
            }
        })
    }

    /// Where it covers anything, in pixels of the raster.
    pub fn window(&self) -> Window {
        let beyond = self.side.beyond(self.softness) + 1.0;
        // First-order distance falls short of the true one beyond the outline, so the edge reaches further.
        let slack = beyond
            * (self.radii[0].max(self.radii[1]) / self.radii[0].min(self.radii[1]).max(0.5)).clamp(1.0, 64.0);
        let (sin, cos) = self.angle.sin_cos();
        let half_x = (self.radii[0] * cos).hypot(self.radii[1] * sin) + slack;
        let half_y = (self.radii[0] * sin).hypot(self.radii[1] * cos) + slack;
        let whole = |value: f32| value.clamp(-1.0e9, 1.0e9) as i32;
        Window::new(
            whole((self.centre[0] - half_x).floor()),
            whole((self.centre[1] - half_y).floor()),
            whole((self.centre[0] + half_x).ceil()),
            whole((self.centre[1] + half_y).ceil()),
        )
    }

    /// The corners of a polygon that stands for the outline.
    fn corners(&self) -> Vec<[f64; 2]> {
        let [a, b] = self.radii.map(f64::from);
        if a <= 0.0 || b <= 0.0 {
            return Vec::new();
        }
        let count = (std::f64::consts::PI / (2.0 * SAGITTA / a.max(b)).sqrt()).ceil().clamp(8.0, 20_000.0);
        // Corners a little outside and middles a little inside, so that the area is that of the ellipse.
        let half = std::f64::consts::PI / count;
        let outward = (half / (half.sin() * half.cos())).sqrt();
        let (sin, cos) = f64::from(self.angle).sin_cos();
        let centre = self.centre.map(f64::from);
        let corner = |number: usize| {
            let turn = number as f64 / count * std::f64::consts::TAU;
            let (x, y) = (a * outward * turn.cos(), b * outward * turn.sin());
            [centre[0] + x * cos + y * sin, centre[1] - x * sin + y * cos]
        };
        (0..count as usize).map(corner).collect()
    }

    /// `place` is turned back and counted from the centre.
    #[inline(always)]
    fn coverage(&self, place: [f32; 2]) -> f32 {
        let [a, b] = self.radii;
        if a <= 0.0 || b <= 0.0 {
            return 0.0;
        }
        let scaled = [place[0] / a, place[1] / b];
        let radius = scaled[0].hypot(scaled[1]);
        let gradient = (scaled[0] / a).hypot(scaled[1] / b);
        let outside = if gradient > 0.0 { (radius - 1.0) * radius / gradient } else { -a.min(b) };
        self.side.fall_off(outside, self.softness)
    }
}
