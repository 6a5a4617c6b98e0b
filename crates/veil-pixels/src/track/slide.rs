//! A whole rectangle of an image that only moves, found again to a fraction of a pixel.
//!
//! - The same as [`Pattern`](super::align::Pattern) finds for [`Motion::Shift`](super::align::Motion::Shift) with every
//!   pixel counting, at a part of the cost: all pixels lie at the same fraction between the image's, so rows and columns
//!   are read one after the other.
//! - Edge: only for rectangles that lie on the image with two pixels to spare; elsewhere there is none.

use multiversion::multiversion;

use super::align::{Fit, LAST_STEP, MOST_STEPS, Pattern};
use crate::Field;
use crate::warp::perspective::Homography;

/// Floats that are summed beside each other, so that they can be at once.
const LANES: usize = 16;

/// A rectangle of one image.
#[derive(Clone)]
pub struct Slide {
    centre: [f64; 2],
    wide: usize,
    high: usize,
    /// What it is made of: itself, and a pixel about it.
    outer: Vec<f32>,
    values: Vec<f32>,
    slope_x: Vec<f32>,
    slope_y: Vec<f32>,
    mean: f32,
    spread: f32,
    /// Sums of the slopes' squares and of their product.
    xx: f64,
    xy: f64,
    yy: f64,
}

/// Room to work in, kept from one step to the next.
struct Scratch {
    rows: Vec<f32>,
    seen: Vec<f32>,
}

/// The weights of Keys's cubic, 1981, for the four pixels about a place.
fn weights(t: f32) -> [f32; 4] {
    [
        ((-0.5 * t + 1.0) * t - 0.5) * t,
        (1.5 * t - 2.5) * t * t + 1.0,
        ((-1.5 * t + 2.0) * t + 0.5) * t,
        (0.5 * t - 0.5) * t * t,
    ]
}

/// A grid of places a pixel apart, the first at `from`; `None` where it does not lie on the image with room to spare.
fn read(image: &Field, from: [f64; 2], wide: usize, high: usize, scratch: &mut Scratch) -> Option<()> {
    let window = image.window();
    let first = from.map(|at| (at - 0.5).floor());
    let [column, row] = [first[0] as i32 - 1 - window.x0, first[1] as i32 - 1 - window.y0];
    let fits = |start: i32, count: usize, room: usize| start >= 0 && start as usize + count + 3 <= room;
    if !fits(column, wide, window.width()) || !fits(row, high, window.height()) {
        return None;
    }
    let [across, down] = [0, 1].map(|axis| weights((from[axis] - 0.5 - first[axis]) as f32));
    scratch.rows.resize((high + 3) * wide, 0.0);
    scratch.seen.resize(high * wide, 0.0);
    let lines = image.pixels().chunks_exact(window.width()).skip(row as usize);
    for (line, out) in lines.zip(scratch.rows.chunks_exact_mut(wide)) {
        along(&line[column as usize..column as usize + wide + 3], across, out);
    }
    for (at, out) in scratch.seen.chunks_exact_mut(wide).enumerate() {
        let line = |step: usize| &scratch.rows[(at + step) * wide..][..wide];
        mixed([line(0), line(1), line(2), line(3)], down, out);
    }
    Some(())
}

#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn along(line: &[f32], weights: [f32; 4], out: &mut [f32]) {
    let count = out.len();
    let (a, b, c, d) = (&line[..count], &line[1..=count], &line[2..count + 2], &line[3..count + 3]);
    for ((((out, a), b), c), d) in out.iter_mut().zip(a).zip(b).zip(c).zip(d) {
        *out = a * weights[0] + b * weights[1] + c * weights[2] + d * weights[3];
    }
}

#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn mixed(lines: [&[f32]; 4], weights: [f32; 4], out: &mut [f32]) {
    let [a, b, c, d] = lines;
    for ((((out, a), b), c), d) in out.iter_mut().zip(a).zip(b).zip(c).zip(d) {
        *out = a * weights[0] + b * weights[1] + c * weights[2] + d * weights[3];
    }
}

/// The sum of all that `term` gives, in lanes.
#[inline(always)]
fn summed(count: usize, term: impl Fn(usize) -> f32) -> f32 {
    let mut lanes = [0.0f32; LANES];
    let whole = count / LANES * LANES;
    for start in (0..whole).step_by(LANES) {
        for (lane, sum) in lanes.iter_mut().enumerate() {
            *sum += term(start + lane);
        }
    }
    let rest: f32 = (whole..count).map(term).sum();
    lanes.iter().sum::<f32>() + rest
}

/// Mean and standard deviation of values that are thought to lie about one.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn moments(values: &[f32], about: f32) -> (f32, f32) {
    let mut lanes = [[0.0f32; LANES]; 2];
    let whole = values.len() / LANES * LANES;
    let mut add = |lane: usize, value: f32| {
        let off = value - about;
        lanes[0][lane] += off;
        lanes[1][lane] += off * off;
    };
    for run in values[..whole].chunks_exact(LANES) {
        run.iter().enumerate().for_each(|(lane, value)| add(lane, *value));
    }
    values[whole..].iter().for_each(|value| add(0, *value));
    let [sum, squares] = lanes.map(|lanes| lanes.iter().sum::<f32>() / values.len() as f32);
    (about + sum, (squares - sum * sum).max(0.0).sqrt())
}

#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn product(a: &[f32], b: &[f32]) -> f32 {
    let b = &b[..a.len()];
    summed(a.len(), |at| a[at] * b[at])
}

/// What is seen more than the pattern, times each slope; and the square of it.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn off(seen: &[f32], slide: &Slide, gain: f32, lift: f32) -> [f32; 3] {
    let count = slide.values.len();
    let (seen, values) = (&seen[..count], &slide.values[..count]);
    let (x, y) = (&slide.slope_x[..count], &slide.slope_y[..count]);
    let more = |at: usize| seen[at] * gain + lift - values[at];
    let mut lanes = [[0.0f32; LANES]; 3];
    let whole = count / LANES * LANES;
    let mut add = |lane: usize, at: usize| {
        let more = more(at);
        lanes[0][lane] += more * x[at];
        lanes[1][lane] += more * y[at];
        lanes[2][lane] += more * more;
    };
    for start in (0..whole).step_by(LANES) {
        (0..LANES).for_each(|lane| add(lane, start + lane));
    }
    (whole..count).for_each(|at| add(0, at));
    lanes.map(|lanes| lanes.iter().sum())
}

impl Slide {
    /// The rectangle within so far of a centre, to either side.
    pub fn new(image: &Field, centre: [f64; 2], half: [f64; 2]) -> Option<Self> {
        let steps = half.map(|length| length.floor().max(0.0) as usize);
        let [wide, high] = steps.map(|steps| 2 * steps + 1);
        let (outer_wide, outer_high) = (wide + 2, high + 2);
        let from = [0, 1].map(|axis| centre[axis] - steps[axis] as f64 - 1.0);
        let mut scratch = Scratch { rows: Vec::new(), seen: Vec::new() };
        read(image, from, outer_wide, outer_high, &mut scratch)?;
        Self::made_of(scratch.seen, centre, [wide, high])
    }

    /// A rectangle of so many pixels, from itself and a pixel about it.
    fn made_of(seen: Vec<f32>, centre: [f64; 2], [wide, high]: [usize; 2]) -> Option<Self> {
        let outer_wide = wide + 2;
        let outer = |x: usize, y: usize| seen[y * outer_wide + x];
        let places = || (0..high).flat_map(|y| (0..wide).map(move |x| (x + 1, y + 1)));
        let values: Vec<f32> = places().map(|(x, y)| outer(x, y)).collect();
        let slope_x: Vec<f32> = places().map(|(x, y)| (outer(x + 1, y) - outer(x - 1, y)) * 0.5).collect();
        let slope_y: Vec<f32> = places().map(|(x, y)| (outer(x, y + 1) - outer(x, y - 1)) * 0.5).collect();
        let (mean, spread) = moments(&values, values[values.len() / 2]);
        let [xx, xy, yy] =
            [product(&slope_x, &slope_x), product(&slope_x, &slope_y), product(&slope_y, &slope_y)]
                .map(f64::from);
        let told = xx * yy - xy * xy > 1e-9 * (xx + yy) * (xx + yy) && spread > 0.0;
        let outer = seen;
        told.then_some(Self { centre, wide, high, outer, values, slope_x, slope_y, mean, spread, xx, xy, yy })
    }

    /// The mean of this and of another of the same size, which counts by `share`: noise, which is another in each image,
    /// goes. Brightness and contrast stay those of this.
    pub fn joined(&self, other: &Self, share: f32) -> Option<Self> {
        let (mean, spread) = moments(&other.outer, self.mean);
        let (own_mean, own_spread) = moments(&self.outer, self.mean);
        if self.outer.len() != other.outer.len() || spread <= f32::EPSILON * mean.abs().max(1e-6) {
            return None;
        }
        let gain = own_spread / spread;
        let joined = |(own, seen): (&f32, &f32)| own + ((seen - mean) * gain + own_mean - own) * share;
        let outer = self.outer.iter().zip(&other.outer).map(joined).collect();
        Self::made_of(outer, self.centre, [self.wide, self.high])
    }

    /// The same as a pattern, for where it comes to lie beyond the image.
    pub fn pattern(&self) -> Pattern {
        Pattern::of_rows(self.centre, self.wide, &self.values, [&self.slope_x, &self.slope_y])
    }

    /// The middle of the rectangle in its image.
    pub const fn centre(&self) -> [f64; 2] {
        self.centre
    }

    /// Moves it from a place of `image` to where it fits best; none where it comes to lie beyond the image, or where that
    /// is flat.
    pub fn fit(&self, image: &Field, start: [f64; 2]) -> Option<Fit> {
        let mut scratch = Scratch { rows: Vec::new(), seen: Vec::new() };
        let mut at = start;
        let whole = self.xx * self.yy - self.xy * self.xy;
        let far = self.wide.max(self.high) as f64 * 2.0;
        let mut squares = 0.0;
        for _ in 0..MOST_STEPS {
            let [x, y, off] = self.look(image, at, &mut scratch)?;
            let step = [(self.yy * x - self.xy * y) / whole, (self.xx * y - self.xy * x) / whole];
            let moved = step[0].hypot(step[1]);
            if !moved.is_finite() || moved > far {
                return None;
            }
            at = [at[0] - step[0], at[1] - step[1]];
            // By so much the step lessens it, as far as the image is straight over it.
            squares = (off - step[0] * x - step[1] * y).max(0.0);
            if moved < LAST_STEP {
                break;
            }
        }
        let count = self.values.len() as f64;
        // With brightness and contrast the pattern's, half of what is left over is missing from the correlation.
        let mean_square = squares / count;
        let likeness = 1.0 - mean_square / (2.0 * f64::from(self.spread) * f64::from(self.spread));
        let placed = Homography::shift(at[0] - self.centre[0], at[1] - self.centre[1]);
        Some(Fit::of_shift(placed, likeness, mean_square, count))
    }

    /// What is off at a place, times each slope, and the square of it; with brightness and contrast the pattern's.
    fn look(&self, image: &Field, at: [f64; 2], scratch: &mut Scratch) -> Option<[f64; 3]> {
        let from = [at[0] - (self.wide / 2) as f64, at[1] - (self.high / 2) as f64];
        read(image, from, self.wide, self.high, scratch)?;
        let (mean, spread) = moments(&scratch.seen, self.mean);
        if spread <= f32::EPSILON * mean.abs().max(1e-6) {
            return None;
        }
        let gain = self.spread / spread;
        let off = off(&scratch.seen, self, gain, self.mean - mean * gain);
        Some(off.map(f64::from))
    }
}
