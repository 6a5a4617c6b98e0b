//! A motion made smoother, and truer to the pictures, everywhere at once.
//!
//! - What is least in the end: how far the brightness and its slopes are from those that the motion leads to, and how much
//!   the motion changes from pixel to pixel, each counted less the farther off it already is, so that edges of the motion
//!   stay and what is covered does not count.
//! - Method: the equations are made linear about the motion so far, a few times over, and each time brought nearer to
//!   their solution by sweeps over the pixels in two colours like a chessboard's.
//! - Bands of rows are worked out apart, with as many rows about them as the sweeps reach, so that the result is the same on
//!   any number of threads.
//! - Source: Brox, Bruhn, Papenberg and Weickert, "High Accuracy Optical Flow Estimation Based on a Theory for Warping",
//!   2004; the data terms scaled by their slopes as in Zimmer, Bruhn and Weickert, "Optic Flow in Harmony", 2011; Young,
//!   "Iterative Solution of Large Linear Systems", 1971, for the sweeps.

use multiversion::multiversion;

use crate::flow::BORDER;
use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Field, Map, Move, Raster};

/// How often the equations are made linear anew.
const TIMES: usize = 4;
/// How far beyond its solution each pixel is moved.
const OVER: f32 = 1.6;
/// How much the brightness and its slopes count.
const BRIGHTNESS: f32 = 5.0;
const SLOPES: f32 = 10.0;
/// Squares of what counts as no slope, in levels of 256 a pixel, and as no difference.
const NO_SLOPE: f32 = 0.1;
const NO_DIFFERENCE: f32 = 1e-6;

/// Rows that are solved together.
const BAND: usize = 48;
/// What the refining of a level is like.
#[derive(Clone, Copy)]
pub(super) struct Care {
    /// How much the evenness of the motion counts.
    evenness: f32,
    /// Sweeps over all pixels each time.
    sweeps: usize,
}

/// Of the levels that all pixels are seen in, and of those that say where things are.
pub(super) const FINE: Care = Care { evenness: 40.0, sweeps: 5 };
pub(super) const ROUGH: Care = Care { evenness: 20.0, sweeps: 16 };

impl Care {
    /// The motion from a picture to another, made better. Both have a border of [`BORDER`] pixels about the window of the
    /// moves.
    pub(super) fn refined(
        self,
        from: &Field,
        other: &Field,
        moves: &Map,
        cancel: &Cancel,
    ) -> Result<Map, Cancelled> {
        let slopes = Slopes::new(from, other, moves, cancel)?;
        let system = System { slopes: &slopes, start: moves, care: self };
        let mut now = moves.clone();
        for _ in 0..TIMES {
            now = system.solved(&now, cancel)?;
        }
        Ok(now)
    }
}

/// Brightness as the motion leads to it: slopes of both pictures' mean, and what the other one is brighter. All is nothing
/// where the motion leads out of the picture.
struct Slopes {
    along: Field,
    down: Field,
    brighter: Field,
    within: Field,
}

impl Slopes {
    fn new(from: &Field, other: &Field, moves: &Map, cancel: &Cancel) -> Result<Self, Cancelled> {
        let window = moves.window();
        let (wide, high) = (window.width() as f32, window.height() as f32);
        let sampler = Sampler::new(other, other.window(), Edge::Hold);
        let seen = Raster::written_with(window, cancel, Scratch::default, |scratch, y, row: &mut [f32]| {
            let ways = moves.row(y);
            let places = |start: usize, x: &mut [f32], to_y: &mut [f32]| {
                for (at, (x, to_y)) in x.iter_mut().zip(to_y).enumerate() {
                    let [right, down] = ways[start + at];
                    (*x, *to_y) = ((start + at) as f32 + 0.5 + right, y as f32 + 0.5 + down);
                }
            };
            sampler.read_run_with(scratch, Filter::Cubic, places, row);
        })?;
        let own = |y: i32| &from.row(y)[BORDER as usize..][..window.width()];
        let within = Raster::written(window, cancel, |y, row: &mut [f32]| {
            for (x, (out, [right, down])) in row.iter_mut().zip(moves.row(y)).enumerate() {
                let (x, y) = (x as f32 + right, y as f32 + down);
                *out = if x >= 0.0 && y >= 0.0 && x <= wide - 1.0 && y <= high - 1.0 { 1.0 } else { 0.0 };
            }
        })?;
        let mean = Raster::written(window, cancel, |y, row: &mut [f32]| {
            for (out, (a, b)) in row.iter_mut().zip(own(y).iter().zip(seen.row(y))) {
                *out = 0.5 * (a + b);
            }
        })?;
        let brighter = Raster::written(window, cancel, |y, row: &mut [f32]| {
            for (out, (a, b)) in row.iter_mut().zip(own(y).iter().zip(seen.row(y))) {
                *out = b - a;
            }
        })?;
        let mean = mean.extended(window.grow(2, 2), window, Edge::Hold);
        let along = Raster::written(window, cancel, |y, row: &mut [f32]| {
            let five = mean.row(y);
            slopes([five, &five[1..], &five[3..], &five[4..]], row);
        })?;
        let down = Raster::written(window, cancel, |y, row: &mut [f32]| {
            slopes([-2, -1, 1, 2].map(|down| &mean.row(y + down)[2..]), row);
        })?;
        let bordered = |field: Field| field.extended(window.grow(1, 1), window, Edge::Hold);
        let [along, down, brighter] = [along, down, brighter].map(bordered);
        Ok(Self { along, down, brighter, within })
    }
}

/// Slopes by the four values about each, two on either side.
///
/// Source: Abramowitz and Stegun, "Handbook of Mathematical Functions", 1964, 25.3.6.
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn slopes([far_before, before, after, far_after]: [&[f32]; 4], row: &mut [f32]) {
    let count = row.len();
    let (a, b, c, d) = (&far_before[..count], &before[..count], &after[..count], &far_after[..count]);
    for at in 0..count {
        row[at] = (c[at] - b[at]) * (8.0 / 12.0) - (d[at] - a[at]) * (1.0 / 12.0);
    }
}

/// Along and down, apart.
type Both<T> = [T; 2];

/// Rows whose even pixels come before the odd ones, each half with one nothing on either side.
struct Halved {
    values: Vec<f32>,
    half: usize,
}

impl Halved {
    fn new(rows: usize, wide: usize) -> Self {
        let half = wide.div_ceil(2) + 2;
        Self { values: vec![0.0; rows * 2 * half], half }
    }

    /// Of a row, the even pixels or the odd ones, with what is about them.
    #[inline(always)]
    fn part(&self, row: usize, odd: usize) -> &[f32] {
        &self.values[(2 * row + odd) * self.half..][..self.half]
    }

    #[inline(always)]
    fn set(&mut self, row: usize, values: &[f32]) {
        let half = self.half;
        let (even, odd) = self.values[2 * row * half..][..2 * half].split_at_mut(half);
        let (pairs, last) = values.as_chunks::<2>();
        for (at, pair) in pairs.iter().enumerate() {
            (even[at + 1], odd[at + 1]) = (pair[0], pair[1]);
        }
        if let [last] = last {
            even[pairs.len() + 1] = *last;
        }
    }

    #[inline(always)]
    fn get(&self, row: usize, values: &mut [f32]) {
        let (even, odd) = (self.part(row, 0), self.part(row, 1));
        let (pairs, last) = values.as_chunks_mut::<2>();
        let count = pairs.len();
        for (at, pair) in pairs.iter_mut().enumerate() {
            *pair = [even[at + 1], odd[at + 1]];
        }
        if let [last] = last {
            *last = even[count + 1];
        }
    }
}

/// Equations of one row, pixel by pixel.
#[derive(Clone, Default)]
struct Equations {
    /// How much the pictures say of each axis, and of both.
    along: Vec<f32>,
    down: Vec<f32>,
    across: Vec<f32>,
    /// What they say.
    goal: Both<Vec<f32>>,
}

impl Equations {
    fn new(wide: usize) -> Self {
        let nothing = || vec![0.0; wide];
        Self { along: nothing(), down: nothing(), across: nothing(), goal: [nothing(), nothing()] }
    }
}

/// What a row of equations is made of, three rows each: above, at and below it, each a pixel longer at both ends.
struct Around<'a> {
    along: [&'a [f32]; 3],
    down: [&'a [f32]; 3],
    brighter: [&'a [f32]; 3],
    within: &'a [f32],
    /// The moves about which the equations are linear, and those of now.
    start: Both<&'a [f32]>,
    now: Both<&'a [f32]>,
}

#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn state(around: &Around<'_>, equations: &mut Equations) {
    let count = around.within.len();
    let Equations { along, down, across, goal: [goal_x, goal_y] } = equations;
    let (along, down, across) = (&mut along[..count], &mut down[..count], &mut across[..count]);
    let (goal_x, goal_y) = (&mut goal_x[..count], &mut goal_y[..count]);
    let [ix0, ix1, ix2] = around.along.map(|row| &row[..count + 2]);
    let [iy0, iy1, iy2] = around.down.map(|row| &row[..count + 2]);
    let [iz0, iz1, iz2] = around.brighter.map(|row| &row[..count + 2]);
    let [u0, v0] = around.start.map(|row| &row[..count]);
    let [u, v] = around.now.map(|row| &row[..count]);
    let within = &around.within[..count];
    for at in 0..count {
        let (du, dv) = (u[at] - u0[at], v[at] - v0[at]);
        let (ix, iy, iz) = (ix1[at + 1], iy1[at + 1], iz1[at + 1]);
        let norm = 1.0 / (ix * ix + iy * iy + NO_SLOPE);
        let off = iz + ix * du + iy * dv;
        let weight = within[at] * BRIGHTNESS * norm / (off * off * norm + NO_DIFFERENCE).sqrt();
        let (mut xx, mut xy, mut yy) = (weight * ix * ix, weight * ix * iy, weight * iy * iy);
        let (mut bx, mut by) = (-weight * ix * iz, -weight * iy * iz);

        let ixx = 0.5 * (ix1[at + 2] - ix1[at]);
        let ixy = 0.25 * ((ix2[at + 1] - ix0[at + 1]) + (iy1[at + 2] - iy1[at]));
        let iyy = 0.5 * (iy2[at + 1] - iy0[at + 1]);
        let ixz = 0.5 * (iz1[at + 2] - iz1[at]);
        let iyz = 0.5 * (iz2[at + 1] - iz0[at + 1]);
        let norm_x = 1.0 / (ixx * ixx + ixy * ixy + NO_SLOPE);
        let norm_y = 1.0 / (ixy * ixy + iyy * iyy + NO_SLOPE);
        let (off_x, off_y) = (ixz + ixx * du + ixy * dv, iyz + ixy * du + iyy * dv);
        let weight =
            within[at] * SLOPES / (off_x * off_x * norm_x + off_y * off_y * norm_y + NO_DIFFERENCE).sqrt();
        let (weight_x, weight_y) = (weight * norm_x, weight * norm_y);
        xx += weight_x * ixx * ixx + weight_y * ixy * ixy;
        xy += weight_x * ixx * ixy + weight_y * ixy * iyy;
        yy += weight_x * ixy * ixy + weight_y * iyy * iyy;
        bx -= weight_x * ixx * ixz + weight_y * ixy * iyz;
        by -= weight_x * ixy * ixz + weight_y * iyy * iyz;

        (along[at], across[at], down[at]) = (xx, xy, yy);
        goal_x[at] = bx + xx * u0[at] + xy * v0[at];
        goal_y[at] = by + xy * u0[at] + yy * v0[at];
    }
}

/// How much the evenness of each pixel of a row counts, by the row and the one below.
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn evenness(here: &Both<Vec<f32>>, below: &Both<Vec<f32>>, weight: f32, out: &mut [f32]) {
    let count = out.len();
    let [u, v] = here.each_ref().map(|row| &row[..count]);
    let [u_below, v_below] = below.each_ref().map(|row| &row[..count]);
    let [u_next, v_next] = [u, v].map(|row| &row[1..]);
    for x in 0..count - 1 {
        let (a, b) = (u_next[x] - u[x], v_next[x] - v[x]);
        let (c, d) = (u_below[x] - u[x], v_below[x] - v[x]);
        out[x] = weight / (a * a + b * b + c * c + d * d + NO_DIFFERENCE).sqrt();
    }
    let (c, d) = (u_below[count - 1] - u[count - 1], v_below[count - 1] - v[count - 1]);
    out[count - 1] = weight / (c * c + d * d + NO_DIFFERENCE).sqrt();
}

/// What one sweep over half of a row takes, as [`Halved`] holds it.
struct Line<'a> {
    inverse: Both<&'a [f32]>,
    across: &'a [f32],
    goal: Both<&'a [f32]>,
    /// Weights of the pixels left, right, above and below.
    weights: [&'a [f32]; 4],
    /// The moves there.
    about: [Both<&'a [f32]>; 4],
}

#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn sweep(line: &Line<'_>, [u, v]: Both<&mut [f32]>) {
    let count = u.len();
    let v = &mut v[..count];
    let [inverse_x, inverse_y] = line.inverse.map(|row| &row[..count]);
    let across = &line.across[..count];
    let [goal_x, goal_y] = line.goal.map(|row| &row[..count]);
    let [wl, wr, wa, wb] = line.weights.map(|row| &row[..count]);
    let [[ul, vl], [ur, vr], [ua, va], [ub, vb]] = line.about.map(|both| both.map(|row| &row[..count]));
    for at in 0..count {
        let from_u = wl[at] * ul[at] + wr[at] * ur[at] + wa[at] * ua[at] + wb[at] * ub[at];
        let from_v = wl[at] * vl[at] + wr[at] * vr[at] + wa[at] * va[at] + wb[at] * vb[at];
        let to_u = (goal_x[at] + from_u - across[at] * v[at]) * inverse_x[at];
        let new_u = u[at] + OVER * (to_u - u[at]);
        let to_v = (goal_y[at] + from_v - across[at] * new_u) * inverse_y[at];
        u[at] = new_u;
        v[at] += OVER * (to_v - v[at]);
    }
}

/// A band as it is solved.
struct Band {
    inverse: Both<Halved>,
    across: Halved,
    goal: Both<Halved>,
    /// How evenness counts toward the next pixel right and down.
    right: Halved,
    below: Halved,
    moves: Both<Halved>,
    nothing: Vec<f32>,
}

/// A half of a row to be written, and the parts about it: above, with it, and below.
struct Parts<'a> {
    own: &'a mut [f32],
    above: &'a [f32],
    other: &'a [f32],
    below: &'a [f32],
}

impl Halved {
    /// `nothing` is what lies above the first row and below the last.
    #[inline(always)]
    fn parts<'a>(&'a mut self, row: usize, odd: usize, nothing: &'a [f32]) -> Parts<'a> {
        let half = self.half;
        let start = (2 * row + odd) * half;
        let (before, rest) = self.values.split_at_mut(start);
        let (own, after) = rest.split_at_mut(half);
        let (before, after) = (&*before, &*after);
        let above = if row == 0 { nothing } else { &before[start - 2 * half..][..half] };
        let other = if odd == 0 { &after[..half] } else { &before[start - half..] };
        let below = after.get(half..2 * half).unwrap_or(nothing);
        Parts { own, above, other, below }
    }
}

impl Band {
    fn new(rows: usize, wide: usize) -> Self {
        let plane = || Halved::new(rows, wide);
        let both = || [plane(), plane()];
        let nothing = vec![0.0; plane().half];
        Self {
            inverse: both(),
            across: plane(),
            goal: both(),
            right: plane(),
            below: plane(),
            moves: both(),
            nothing,
        }
    }

    /// One sweep over the even pixels of a row or over the odd ones.
    fn sweep(&mut self, row: usize, odd: usize) {
        let half = self.across.half;
        let inner = 1..half - 1;
        // Left and right of an even pixel are the odd ones before and with it, of an odd one the even ones with it and after.
        let (left, right) = if odd == 0 { (0..half - 2, inner.clone()) } else { (inner.clone(), 2..half) };
        let [moves_x, moves_y] = &mut self.moves;
        let (x, y) = (moves_x.parts(row, odd, &self.nothing), moves_y.parts(row, odd, &self.nothing));
        let above = if row == 0 { &self.nothing[..] } else { self.below.part(row - 1, odd) };
        let line = Line {
            inverse: [0, 1].map(|axis| &self.inverse[axis].part(row, odd)[inner.clone()]),
            across: &self.across.part(row, odd)[inner.clone()],
            goal: [0, 1].map(|axis| &self.goal[axis].part(row, odd)[inner.clone()]),
            weights: [
                &self.right.part(row, 1 - odd)[left.clone()],
                &self.right.part(row, odd)[inner.clone()],
                &above[inner.clone()],
                &self.below.part(row, odd)[inner.clone()],
            ],
            about: [
                [&x.other[left.clone()], &y.other[left]],
                [&x.other[right.clone()], &y.other[right]],
                [&x.above[inner.clone()], &y.above[inner.clone()]],
                [&x.below[inner.clone()], &y.below[inner.clone()]],
            ],
        };
        sweep(&line, [&mut x.own[inner.clone()], &mut y.own[inner]]);
    }
}

/// Room for the rows of equations of a band.
struct Room {
    equations: Equations,
    start: Both<Vec<f32>>,
    moves: [Both<Vec<f32>>; 3],
    evenness: [Vec<f32>; 2],
    right: Vec<f32>,
    below: [Vec<f32>; 2],
}

/// The equations of one level.
struct System<'a> {
    slopes: &'a Slopes,
    start: &'a Map,
    care: Care,
}

impl System<'_> {
    /// Fills a band with the equations of the rows of the picture from `first` on.
    fn fill(&self, band: &mut Band, room: &mut Room, now: &Map, first: i32, rows: usize) {
        let (wide, last) = (now.window().width(), now.window().y1 - 1);
        let weight = self.care.evenness;
        let Room { equations, start, moves, evenness: even, right, below } = room;
        // The moves of a row and of the two below it.
        for (down, row) in (0..).zip(moves.iter_mut().take(2)) {
            by_axis(now.row((first + down).min(last)), row);
        }
        evenness(&moves[0], &moves[1], weight, &mut even[0]);
        below[0].fill(0.0);
        if first > 0 {
            by_axis(now.row(first - 1), start);
            evenness(start, &moves[0], weight, &mut even[1]);
            half_way(&even[1], &even[0], &mut below[0]);
        }
        for (row, y) in (0..rows).zip(first..) {
            by_axis(now.row((y + 2).min(last)), &mut moves[2]);
            by_axis(self.start.row(y), start);
            let around = Around {
                along: three_rows(&self.slopes.along, y),
                down: three_rows(&self.slopes.down, y),
                brighter: three_rows(&self.slopes.brighter, y),
                within: self.slopes.within.row(y),
                start: start.each_ref().map(|row| &row[..]),
                now: moves[0].each_ref().map(|row| &row[..]),
            };
            state(&around, equations);
            let [here, next] = &mut *even;
            let [above, under] = &mut *below;
            if y < last {
                evenness(&moves[1], &moves[2], weight, next);
                half_way(here, next, under);
            } else {
                under.fill(0.0);
            }
            half_way(&here[..wide - 1], &here[1..], &mut right[..wide - 1]);
            weigh(equations, above, right, under);
            let Equations { along, down, across, goal } = &*equations;
            band.inverse[0].set(row, along);
            band.inverse[1].set(row, down);
            band.across.set(row, across);
            band.right.set(row, right);
            band.below.set(row, under);
            for axis in [0, 1] {
                band.goal[axis].set(row, &goal[axis]);
                band.moves[axis].set(row, &moves[0][axis]);
            }
            even.swap(0, 1);
            below.swap(0, 1);
            moves.rotate_left(1);
        }
    }
}

/// Moves of a row, each axis by itself.
fn by_axis(row: &[Move], [x, y]: &mut Both<Vec<f32>>) {
    for ((way, x), y) in row.iter().zip(x).zip(y) {
        (*x, *y) = (way[0], way[1]);
    }
}

/// The rows above, at and below.
fn three_rows(field: &Field, y: i32) -> [&[f32]; 3] {
    [-1, 0, 1].map(|down| field.row(y + down))
}

/// Values half way between those of two rows.
fn half_way(a: &[f32], b: &[f32], out: &mut [f32]) {
    for (out, (a, b)) in out.iter_mut().zip(a.iter().zip(b)) {
        *out = 0.5 * (a + b);
    }
}

/// Turns what the pictures say of each axis into one by all that counts for a pixel.
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn weigh(equations: &mut Equations, above: &[f32], right: &[f32], below: &[f32]) {
    let count = right.len();
    let (along, down) = (&mut equations.along[..count], &mut equations.down[..count]);
    let (above, below) = (&above[..count], &below[..count]);
    let mut left = 0.0;
    for at in 0..count {
        let all = above[at] + below[at] + right[at] + left;
        along[at] = 1.0 / (along[at] + all);
        down[at] = 1.0 / (down[at] + all);
        left = right[at];
    }
}

impl System<'_> {
    /// The motion nearer to the solution of the equations about that of now.
    fn solved(&self, now: &Map, cancel: &Cancel) -> Result<Map, Cancelled> {
        let window = now.window();
        let wide = window.width();
        // As many rows as the sweeps come from, and one for the evenness of the last.
        let about = 2 * self.care.sweeps as i32 + 1;
        Raster::written_in_bands(window, BAND, cancel, |y0, out| {
            let y1 = y0 + (out.len() / wide) as i32;
            let (first, end) = ((y0 - about).max(0), (y1 + about).min(window.y1));
            let rows = (end - first) as usize;
            let (mut band, mut room) = (Band::new(rows, wide), Room::new(wide));
            self.fill(&mut band, &mut room, now, first, rows);
            // Each half sweep follows the one before it two rows behind, while those are at hand.
            let halves = 2 * self.care.sweeps;
            for time in 0..rows + halves {
                for half in 0..halves.min(time + 1) {
                    let row = time - half;
                    if row < rows {
                        band.sweep(row, (row + first as usize + half) & 1);
                    }
                }
            }
            let mut moved = [vec![0.0; wide], vec![0.0; wide]];
            for (row, out) in ((y0 - first) as usize..).zip(out.chunks_mut(wide)) {
                for (field, moved) in band.moves.iter().zip(&mut moved) {
                    field.get(row, moved);
                }
                for (out, (x, y)) in out.iter_mut().zip(moved[0].iter().zip(&moved[1])) {
                    *out = [*x, *y];
                }
            }
            Ok(())
        })
    }
}

impl Room {
    fn new(wide: usize) -> Self {
        let nothing = || vec![0.0; wide];
        let both = || [nothing(), nothing()];
        Self {
            equations: Equations::new(wide),
            start: both(),
            moves: [both(), both(), both()],
            evenness: both(),
            right: nothing(),
            below: both(),
        }
    }
}
