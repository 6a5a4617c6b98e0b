//! Stripes, and the lines of a grid.
//!
//! - Shape: a field, 1 on a line and 0 between.
//! - Units: lengths in pixels of the raster; the angle in radians, counter-clockwise as seen; the phase in periods.
//! - Stripes at angle 0 are upright, one period apart from left to right, with the middle of one through the origin.
//! - Edge: a hard edge covers the share of a pixel's width across the line; a soft one is a smoothstep over its length.

use crate::ellipse::SoftSide;
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

#[cfg(test)]
mod tests {
    use super::*;

    /// The share that is covered is that of the width in the period, whatever the width, the edge and the turn.
    #[test]
    fn lines_cover_their_share_and_lie_where_they_should() {
        let window = Window::sized(1200, 900);
        for (period, width, softness, angle) in
            [(30.0, 6.0, 0.0, 0.0), (30.0, 0.4, 0.0, 0.3), (24.5, 12.0, 9.0, -0.8), (40.0, 30.0, 16.0, 1.2)]
        {
            let stripes = Stripes { origin: [600.0, 450.0], period, width, softness, angle, phase: 0.2 };
            let field = stripes.over(Lines::Along, window, &Cancel::new()).unwrap();
            let share = field.pixels().iter().map(|v| f64::from(*v)).sum::<f64>() / window.area() as f64;
            let wanted = f64::from(width / period);
            assert!((share - wanted).abs() < 0.004 + 0.01 * wanted, "{share} of {wanted}");
        }
        let upright =
            Stripes { origin: [10.5, 0.0], period: 20.0, width: 3.0, softness: 0.0, angle: 0.0, phase: 0.0 };
        let row = upright.over(Lines::Along, Window::sized(40, 1), &Cancel::new()).unwrap();
        let lit: Vec<usize> = (0..40).filter(|x| row.pixels()[*x] > 0.999).collect();
        assert_eq!(lit, [9, 10, 11, 29, 30, 31]);
    }
}
