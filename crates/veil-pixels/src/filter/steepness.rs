//! How steeply a field rises, in x and in y.
//!
//! - Shape: a field in, a map out.
//! - Units: value for each full-resolution pixel; the distance it is measured over in pixels of the raster.
//! - Definition: the central difference over the distance to either side,
//!   `(f(p + d) − f(p − d)) / 2d`, the field read straight between pixels.
//! - At a proxy scale, where the distance is less than a pixel of the raster, the two pixels to either side are read, so
//!   that the difference is that of the full picture up to the third power of a detail's frequency: the coarse central
//!   difference passes `ω(1 − ω²/6)` of a frequency ω, the one over `d` pixels `ω(1 − d²ω²/6)`, that of the fourth order
//!   (Fornberg, "Generation of Finite Difference Formulas on Arbitrarily Spaced Grids", 1988) nearly ω; so the first by
//!   `d²` and the last by the rest.
//! - Edges: at the border of the data window the nearer side is used alone, divided by what is left
//!   of the distance, so that a ramp has one slope everywhere.

use multiversion::multiversion;

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
    if data.is_empty() {
        return Ok(Raster::clear(wanted));
    }
    let distance = distance.max(0.01);
    let column = |x: i32| Reading::new(x, distance, pixels_a_step, data.x0, data.x1);
    let free = free_columns(distance, data, wanted);
    let borders: Vec<(i32, Reading)> =
        (wanted.x0..free.0).chain(free.1..wanted.x1).map(|x| (x, column(x))).collect();
    let across = column_of_ramp(distance, pixels_a_step);
    let first = field.window().x0;
    Raster::written(wanted, cancel, |y, out| {
        let down = Reading::new(y, distance, pixels_a_step, data.y0, data.y1);
        let here = field.row(y.clamp(data.y0, data.y1 - 1));
        let rows =
            [down.after.index, down.after.next, down.before.index, down.before.next].map(|at| field.row(at));
        if free.0 < free.1 {
            let taps = across.taps().map(|at| &here[(free.0 + at - first) as usize..]);
            let rows = rows.map(|row| &row[(free.0 - first) as usize..]);
            let run = &mut out[(free.0 - wanted.x0) as usize..(free.1 - wanted.x0) as usize];
            differences(taps, rows, &across, &down, run);
        }
        for (x, across) in &borders {
            let column = ((*x).clamp(data.x0, data.x1 - 1) - first) as usize;
            let taps = across.taps().map(|at| &here[(at - first) as usize..]);
            let at = (x - wanted.x0) as usize;
            differences(taps, rows.map(|row| &row[column..]), across, &down, &mut out[at..=at]);
        }
        if pixels_a_step > 1.0 && distance < 1.0 {
            let between = FourTaps::new(distance, pixels_a_step);
            between.refine(field, data, wanted.x0, y, out);
        }
    })
}

/// Weights of what lies one and two pixels away, to either side.
struct FourTaps {
    near: f32,
    far: f32,
}

impl FourTaps {
    fn new(distance: f32, pixels_a_step: f32) -> Self {
        let coarse = distance * distance;
        let weights = [coarse / 2.0 + (1.0 - coarse) * (2.0 / 3.0), (coarse - 1.0) / 12.0];
        let [near, far] = weights.map(|weight| weight / pixels_a_step);
        Self { near, far }
    }

    /// The differences of a row of the result, anew where two pixels lie to either side.
    fn refine(&self, field: &Field, data: Window, first: i32, y: i32, out: &mut [[f32; 2]]) {
        let last = first + out.len() as i32;
        let columns = (data.x0 + 2).max(first)..(data.x1 - 2).min(last);
        if !(data.y0..data.y1).contains(&y) || columns.is_empty() {
            return;
        }
        let of =
            |near: [f32; 2], far: [f32; 2]| self.near * (near[1] - near[0]) + self.far * (far[1] - far[0]);
        let row = |y: i32| &field.row(y)[(columns.start - field.window().x0) as usize - 2..];
        let here = row(y);
        let skip = (columns.start - first) as usize;
        let run = &mut out[skip..skip + columns.len()];
        for (at, out) in run.iter_mut().enumerate() {
            out[0] = of([here[at + 1], here[at + 3]], [here[at], here[at + 4]]);
        }
        if y >= data.y0 + 2 && y < data.y1 - 2 {
            let [above2, above, below, below2] = [-2, -1, 1, 2].map(|down| &row(y + down)[2..]);
            for (at, out) in run.iter_mut().enumerate() {
                out[1] = of([above[at], below[at]], [above2[at], below2[at]]);
            }
        }
    }
}

/// The columns of `wanted` whose differences reach over no border: all of them read the same distances away.
fn free_columns(distance: f32, data: Window, wanted: Window) -> (i32, i32) {
    let reach = reach(distance);
    let from = data.x0.saturating_add(reach).clamp(wanted.x0, wanted.x1);
    (from, data.x1.saturating_sub(reach).clamp(from, wanted.x1))
}

/// What a column far from any border reads, counted from itself.
fn column_of_ramp(distance: f32, pixels_a_step: f32) -> Reading {
    let far = reach(distance) + 1;
    Reading::new(0, distance, pixels_a_step, -far, far + 1)
}

/// The difference along the row of `taps`, and down the columns of `rows`, for each pixel of a run.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn differences(taps: [&[f32]; 4], rows: [&[f32]; 4], across: &Reading, down: &Reading, out: &mut [[f32; 2]]) {
    let length = out.len();
    let [right, right_next, left, left_next] = taps.map(|taps| &taps[..length]);
    let [below, below_next, above, above_next] = rows.map(|row| &row[..length]);
    let between = |a: f32, b: f32, share: f32| a + (b - a) * share;
    for (i, out) in out.iter_mut().enumerate() {
        let x = between(right[i], right_next[i], across.after.share)
            - between(left[i], left_next[i], across.before.share);
        let y = between(below[i], below_next[i], down.after.share)
            - between(above[i], above_next[i], down.before.share);
        *out = [x * across.inverse_span, y * down.inverse_span];
    }
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
    /// The four pixels that are read: two after, two before.
    fn taps(&self) -> [i32; 4] {
        [self.after.index, self.after.next, self.before.index, self.before.next]
    }

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
