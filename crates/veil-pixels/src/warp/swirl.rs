//! A twist about a centre.
//!
//! - Shape: moves for each pixel.
//! - Units: the centre and the radius in pixels of the raster; the angle in radians, counter-clockwise as seen.
//! - At the centre the picture is turned by the whole angle, less and less toward the rim, by `(1 − r²)²` of it at the share
//!   `r` of the way; beyond it not at all. The turn and its slope are 0 at the rim.

use crate::warp::push::turned;
use crate::{Cancel, Cancelled, Map, Raster, Window};

/// A twist.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Swirl {
    /// What it is about.
    pub centre: [f32; 2],
    /// How far out it reaches; at 0 nothing moves.
    pub radius: f32,
    /// How far the middle is turned.
    pub angle: f32,
}

impl Swirl {
    /// The moves over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Map, Cancelled> {
        Raster::written(window, cancel, |y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            for (x, out) in (window.x0..).zip(row) {
                let right = x as f32 + 0.5 - self.centre[0];
                let share = right.hypot(down) / self.radius;
                *out = if share < 1.0 {
                    let hill = 1.0 - share * share;
                    let from = turned([right, down], (-self.angle * hill * hill).sin_cos());
                    [right - from[0], down - from[1]]
                } else {
                    [0.0; 2]
                };
            }
        })
    }

    /// Outside of it nothing moves.
    pub fn window(&self) -> Window {
        let whole = |value: f32| value.clamp(-1.0e9, 1.0e9) as i32;
        let ([x, y], radius) = (self.centre, self.radius.max(0.0));
        Window::new(
            whole((x - radius).floor()),
            whole((y - radius).floor()),
            whole((x + radius).ceil()),
            whole((y + radius).ceil()),
        )
    }
}
