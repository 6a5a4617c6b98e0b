//! Stripes, and the lines of a grid.
//!
//! - Shape: a field, 1 on a line and 0 between.
//! - Units: lengths in pixels of the raster; the angle in radians, counter-clockwise as seen; the phase in periods.
//! - Stripes at angle 0 are upright, one period apart from left to right, with the middle of one through the origin.
//! - Edge: a hard edge covers the share of a pixel's width across the line; a soft one is a smoothstep over its length.

use crate::shape::ellipse::SoftSide;
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// Lines that follow each other evenly.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stripes {
    /// A place that the middle of a line goes through where the phase is 0.
    pub origin: [f32; 2],
    /// From one line to the next; at 0 there are none.
    pub period: f32,
    /// Width of a line.
    pub width: f32,
    /// Length of its soft edge.
    pub softness: f32,
    /// How they are turned.
    pub angle: f32,
    /// Moves them by so many periods.
    pub phase: f32,
}

/// Which lines there are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Lines {
    /// Along one way.
    #[default]
    Along,
    /// And across it, as a grid.
    Crossed,
}

impl Stripes {
    /// The coverage so far across the lines.
    fn across(&self, away: f32) -> f32 {
        if self.period <= 0.0 {
            return 0.0;
        }
        let turns = away / self.period - self.phase;
        let off = (turns - turns.round()).abs() * self.period;
        // The neighbouring line reaches over where lines are wide or soft.
        self.line(off) + self.line(self.period - off).min(1.0 - self.line(off))
    }

    fn line(&self, off: f32) -> f32 {
        let half = self.width / 2.0;
        if self.softness >= 1.0 {
            SoftSide::Both.fall_off(off - half, self.softness)
        } else {
            ((off + 0.5).min(half) - (off - 0.5).max(-half)).clamp(0.0, 1.0)
        }
    }

    /// The lines over a window.
    pub fn over(&self, lines: Lines, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        let (sin, cos) = self.angle.sin_cos();
        Raster::written(window, cancel, |y, row| {
            let down = y as f32 + 0.5 - self.origin[1];
            for (x, out) in (window.x0..).zip(row) {
                let right = x as f32 + 0.5 - self.origin[0];
                let along = self.across(right * cos - down * sin);
                *out = match lines {
                    Lines::Along => along,
                    Lines::Crossed => along.max(self.across(right * sin + down * cos)),
                };
            }
        })
    }
}
