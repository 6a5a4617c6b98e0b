//! How steeply a field rises, in x and in y.
//!
//! - Shape: a field in, a map out.
//! - Units: value for each full-resolution pixel; the distance it is measured over in pixels of the raster.
//! - Definition: the central difference over the distance to either side,
//!   `(f(p + d) − f(p − d)) / 2d`, the field read straight between pixels.
//! - Edges: at the border of the data window the nearer side is used alone, divided by what is left
//!   of the distance, so that a ramp has one slope everywhere.

use crate::{Cancel, Cancelled, Field, Map, Raster, Window};

/// The steepness of `field` over `wanted`.
///
/// `distance` is in pixels of the raster and at least a hundredth of one; `data` is where the field
/// exists, and `field` must hold what lies within [`reach`] of `wanted`. `pixels_a_step` is how many
/// full-resolution pixels one pixel of the raster stands for.
pub fn steepness(
    field: &Field,
    data: Window,
    distance: f32,
    pixels_a_step: f32,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Map, Cancelled> {
    let distance = distance.max(0.01);
    let mut made = Raster::clear(wanted);
    if data.is_empty() {
        return Ok(made);
    }
    let columns: Vec<Reading> =
        (wanted.x0..wanted.x1).map(|x| Reading::new(x, distance, pixels_a_step, data.x0, data.x1)).collect();
    let first = field.window().x0;
    made.fill_rows(cancel, |y, out| {
        let down = Reading::new(y, distance, pixels_a_step, data.y0, data.y1);
        let here = field.row(y.clamp(data.y0, data.y1 - 1));
        let [after, after_next, before, before_next] =
            [down.after.index, down.after.next, down.before.index, down.before.next].map(|at| field.row(at));
        for ((x, out), across) in (wanted.x0..).zip(out).zip(&columns) {
            let along = |at: &Between| {
                let (a, b) = (here[(at.index - first) as usize], here[(at.next - first) as usize]);
                a + (b - a) * at.share
            };
            let column = (x.clamp(data.x0, data.x1 - 1) - first) as usize;
            let low = before[column] + (before_next[column] - before[column]) * down.before.share;
            let high = after[column] + (after_next[column] - after[column]) * down.after.share;
            *out = [
                (along(&across.after) - along(&across.before)) * across.inverse_span,
                (high - low) * down.inverse_span,
            ];
        }
    })?;
    Ok(made)
}

/// How many pixels around a pixel are read.
pub fn reach(distance: f32) -> i32 {
    distance.ceil() as i32 + 1
}

/// A place between two pixels of an axis.
struct Between {
    index: i32,
    next: i32,
    share: f32,
}

/// The two places a difference is taken between, and one over their distance in full-resolution pixels.
struct Reading {
    before: Between,
    after: Between,
    inverse_span: f32,
}

impl Reading {
    fn new(at: i32, distance: f32, pixels_a_step: f32, from: i32, to: i32) -> Self {
        let (least, most) = (from as f32, (to - 1) as f32);
        let low = (at as f32 - distance).clamp(least, most);
        let high = (at as f32 + distance).clamp(least, most);
        let between = |place: f32| {
            let index = place.floor() as i32;
            Between { index, next: (index + 1).min(to - 1), share: place - place.floor() }
        };
        let span = (high - low) * pixels_a_step;
        let inverse_span = if span > 0.0 { 1.0 / span } else { 0.0 };
        Self { before: between(low), after: between(high), inverse_span }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn over(f: impl Fn(f32, f32) -> f32 + Sync, distance: f32) -> Map {
        let data = Window::sized(96, 64);
        let field = Raster::from_fn(data, |x, y| f(x as f32 + 0.5, y as f32 + 0.5));
        steepness(&field, data, distance, 1.0, data, &Cancel::new()).unwrap()
    }

    /// By hand: the derivative of 0.7x − 0.2y is (0.7, −0.2), at the border too.
    #[test]
    fn a_plane_has_one_slope_everywhere() {
        for distance in [0.5, 1.0, 2.5, 7.0] {
            for m in over(|x, y| 0.7 * x - 0.2 * y, distance).pixels() {
                assert!((m[0] - 0.7).abs() < 1e-4 && (m[1] + 0.2).abs() < 1e-4, "{m:?} over {distance}");
            }
        }
    }

    /// By hand: the central difference of sin(kx) over d is k·cos(kx)·sin(kd)/(kd).
    #[test]
    fn a_sine_has_the_slope_that_calculus_gives() {
        let (k, distance) = (0.21f32, 2.0f32);
        let map = over(|x, _| (k * x).sin(), distance);
        for x in 3..90 {
            let place = x as f32 + 0.5;
            let truth = k * (k * place).cos() * (k * distance).sin() / (k * distance);
            let got = map.get(x, 30).unwrap();
            assert!((got[0] - truth).abs() < 1e-4 && got[1].abs() < 1e-5, "{got:?} {truth}");
        }
    }
}
