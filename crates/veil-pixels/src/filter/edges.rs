//! Thin lines where a field changes.
//!
//! - Shape: a field of 0 and 1; lines are one pixel wide, or as wide as asked for with a border of one pixel.
//! - Units: lengths in pixels; thresholds as change of the field's value per pixel, after smoothing.
//! - Whole: whether a faint piece of a line counts depends on all that it hangs together with, so the whole field is
//!   worked on at once.
//! - Edge: beyond the data window the field is held.
//! - Source: Canny, "A Computational Approach to Edge Detection", 1986: Gaussian smoothing, slopes (Sobel), only what is
//!   steeper than both neighbours across the line, thresholds with hysteresis.

use crate::filter::blur::{Sigma, gaussian};
use crate::filter::distance::{Side, distance};
use crate::{Cancel, Cancelled, Edge, Field, Raster, Window};

/// What counts as a line.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lines {
    /// Standard deviation of the smoothing.
    pub sigma: f32,
    /// From this slope on a pixel counts where it hangs together with one that is steeper than `high`.
    pub low: f32,
    /// From this slope on a pixel counts by itself.
    pub high: f32,
}

/// A Sobel kernel's sum of weights on one side, times two: slopes are per pixel.
const SOBEL: f32 = 8.0;

impl Lines {
    /// The lines of a field, over its data window.
    pub fn of(self, field: &Field, data: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        let around = data.grow(2, 2);
        let smooth = gaussian(field, data, Edge::Hold, Sigma::round(self.sigma), around, cancel)?;
        let slopes = slopes(&smooth, data.grow(1, 1), cancel)?;
        let steepness = |x: i32, y: i32| slopes.get(x, y).map_or(0.0, |[dx, dy]| dx.hypot(dy));
        let ridge: Field = Raster::written(data, cancel, |y, row| {
            for (x, out) in (data.x0..).zip(row) {
                let here = steepness(x, y);
                *out = if here > self.low
                    && is_ridge(here, slopes.get(x, y).unwrap_or_default(), |dx, dy| {
                        steepness(x + dx, y + dy)
                    }) {
                    here
                } else {
                    0.0
                };
            }
        })?;
        Ok(hung_together(&ridge, self.high))
    }
}

fn slopes(smooth: &Field, window: Window, cancel: &Cancel) -> Result<Raster<[f32; 2]>, Cancelled> {
    Raster::written(window, cancel, |y, row| {
        let rows = [smooth.row(y - 1), smooth.row(y), smooth.row(y + 1)];
        for (at, out) in row.iter_mut().enumerate() {
            let value = |dx: usize, dy: usize| rows[dy][at + dx];
            let column = |dx: usize| value(dx, 0) + 2.0 * value(dx, 1) + value(dx, 2);
            let line = |dy: usize| value(0, dy) + 2.0 * value(1, dy) + value(2, dy);
            *out = [(column(2) - column(0)) / SOBEL, (line(2) - line(0)) / SOBEL];
        }
    })
}

/// Whether a pixel is at least as steep as what lies on both sides across the line, between pixels.
fn is_ridge(here: f32, [dx, dy]: [f32; 2], steepness: impl Fn(i32, i32) -> f32) -> bool {
    let (step_x, step_y) = (if dx < 0.0 { -1 } else { 1 }, if dy < 0.0 { -1 } else { 1 });
    let (along, share) = if dx.abs() >= dy.abs() {
        ((step_x, 0), dy.abs() / dx.abs())
    } else {
        ((0, step_y), dx.abs() / dy.abs())
    };
    let side = |sign: i32| {
        let straight = steepness(sign * along.0, sign * along.1);
        let diagonal = steepness(sign * step_x, sign * step_y);
        straight + (diagonal - straight) * share
    };
    here >= side(1) && here >= side(-1)
}

/// 1 for every pixel that hangs together, by its eight neighbours, with one of at least `high`.
fn hung_together(ridge: &Field, high: f32) -> Field {
    let window = ridge.window();
    let mut lines: Field = Raster::clear(window);
    let mut open: Vec<(i32, i32)> = (window.y0..window.y1)
        .flat_map(|y| (window.x0..window.x1).map(move |x| (x, y)))
        .filter(|(x, y)| ridge.get(*x, *y).is_some_and(|slope| slope > 0.0 && slope >= high))
        .collect();
    open.iter().for_each(|(x, y)| lines.set(*x, *y, 1.0));
    while let Some((x, y)) = open.pop() {
        for (nx, ny) in (y - 1..=y + 1).flat_map(|ny| (x - 1..=x + 1).map(move |nx| (nx, ny))) {
            let counts = ridge.get(nx, ny).is_some_and(|slope| slope > 0.0);
            if counts && lines.get(nx, ny) == Some(0.0) {
                lines.set(nx, ny, 1.0);
                open.push((nx, ny));
            }
        }
    }
    lines
}

/// Lines of one pixel made as wide as asked for.
pub fn widened(lines: &Field, width: f32, cancel: &Cancel) -> Result<Field, Cancelled> {
    if width <= 1.0 {
        return Ok(lines.clone());
    }
    let (window, reach) = (lines.window(), width / 2.0 + 1.0);
    let mut away = distance(lines, window, Side::Matte, reach, window, cancel)?;
    away.change(cancel, |far| (width / 2.0 + 0.5 - far).clamp(0.0, 1.0))?;
    Ok(away)
}
