//! A free curve from values to values.
//!
//! - Shape: a number in, a number out; any run of points with rising places.
//! - Between points it is a cubic that never swings beyond them; beyond the first and last it goes on straight, so that
//!   values above 1 keep their differences.
//! - Source: Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", 1980.

use multiversion::multiversion;

use crate::Rgba;
use crate::colour::bare::{OnColour, Planes, RUN, in_runs};

/// Points nearer to each other than this are one.
const LEAST_STEP: f64 = 1e-3;

/// A curve through some points.
#[derive(Clone, Debug, PartialEq)]
pub struct Tone {
    points: Vec<[f32; 2]>,
    slopes: Vec<f32>,
    /// It leaves everything as it is.
    straight: bool,
}

impl Tone {
    /// Through points in any order; of those at one place the last one counts. No points leave everything as it is.
    pub fn through(points: &[[f64; 2]]) -> Self {
        let mut sorted: Vec<[f64; 2]> = points.to_vec();
        sorted.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let mut kept: Vec<[f64; 2]> = Vec::with_capacity(sorted.len());
        for point in sorted {
            match kept.last_mut() {
                Some(last) if point[0] - last[0] < LEAST_STEP => *last = point,
                _ => kept.push(point),
            }
        }
        let slopes = slopes(&kept);
        let points: Vec<[f32; 2]> = kept.iter().map(|point| point.map(|value| value as f32)).collect();
        let slopes: Vec<f32> = slopes.into_iter().map(|slope| slope as f32).collect();
        let straight =
            points.iter().all(|[place, value]| place == value) && slopes.iter().all(|slope| *slope == 1.0);
        Self { points, slopes, straight }
    }

    /// Whether it leaves everything as it is.
    pub const fn is_straight(&self) -> bool {
        self.straight
    }

    /// What a value becomes.
    pub fn at(&self, value: f32) -> f32 {
        if self.straight {
            return value;
        }
        let next = self.points.partition_point(|point| point[0] <= value);
        match (next.checked_sub(1), self.points.get(next)) {
            (None, None) => value,
            (None, Some([place, first])) => first + (value - place) * self.slopes[0],
            (Some(last), None) => {
                let [place, end] = self.points[last];
                end + (value - place) * self.slopes[last]
            }
            (Some(before), Some([to, after])) => {
                hermite(value, [self.points[before], [*to, *after]], [self.slopes[before], self.slopes[next]])
            }
        }
    }
}

/// More points than these are looked for one value after the other.
const FEW: usize = 9;

impl Tone {
    /// As [`Self::at`], of many values: every piece of the curve is worked out for all of them, and each takes its own.
    #[inline(always)]
    pub fn over_run(&self, values: &mut [f32]) {
        if self.straight || self.points.is_empty() {
            return;
        }
        if self.points.len() > FEW {
            values.iter_mut().for_each(|value| *value = self.at(*value));
            return;
        }
        let mut made = [0.0f32; RUN];
        for values in values.chunks_mut(RUN) {
            let made = &mut made[..values.len()];
            let [place, first] = self.points[0];
            let slope = self.slopes[0];
            for (made, value) in made.iter_mut().zip(&*values) {
                *made = first + (value - place) * slope;
            }
            for (pair, slopes) in self.points.windows(2).zip(self.slopes.windows(2)) {
                for (made, value) in made.iter_mut().zip(&*values) {
                    let piece = hermite(*value, [pair[0], pair[1]], [slopes[0], slopes[1]]);
                    *made = if *value >= pair[0][0] { piece } else { *made };
                }
            }
            let (last, slope) = (self.points.len() - 1, self.slopes[self.slopes.len() - 1]);
            let [place, end] = self.points[last];
            for (made, value) in made.iter_mut().zip(&*values) {
                *made = if *value >= place { end + (value - place) * slope } else { *made };
            }
            values.copy_from_slice(made);
        }
    }
}

/// Hermite's cubic between two points.
#[inline(always)]
fn hermite(value: f32, [[from, start], [to, after]]: [[f32; 2]; 2], slopes: [f32; 2]) -> f32 {
    let wide = to - from;
    let t = (value - from) / wide;
    let (leave, arrive) = (slopes[0] * wide, slopes[1] * wide);
    let (u, v) = (1.0 - t, t);
    u * u * (1.0 + 2.0 * v) * start + v * v * (1.0 + 2.0 * u) * after + u * u * v * leave - v * v * u * arrive
}

/// Puts rows of premultiplied pixels through a curve of all channels and then one for each, as [`OnColour`] and
/// [`Tone::at`] do it.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
pub fn tone_row(all: &Tone, each: [&Tone; 3], row: &mut [Rgba]) {
    let alone = |channel: usize, value: f32| each[channel].at(all.at(value));
    let toned = OnColour::new(|[r, g, b]: [f32; 3]| [alone(0, r), alone(1, g), alone(2, b)]);
    let planes = |planes: &mut Planes| {
        for (plane, own) in planes.iter_mut().zip(each) {
            all.over_run(plane);
            own.over_run(plane);
        }
    };
    in_runs(row, planes, |pixel| toned.at(pixel));
}

/// The slope at each point.
fn slopes(points: &[[f64; 2]]) -> Vec<f64> {
    let secants: Vec<f64> =
        points.windows(2).map(|pair| (pair[1][1] - pair[0][1]) / (pair[1][0] - pair[0][0])).collect();
    let (Some(first), Some(last)) = (secants.first(), secants.last()) else { return vec![1.0; points.len()] };
    let mut slopes = vec![*first];
    slopes.extend(
        secants.windows(2).map(|pair| if pair[0] * pair[1] <= 0.0 { 0.0 } else { (pair[0] + pair[1]) / 2.0 }),
    );
    slopes.push(*last);
    for (number, secant) in secants.iter().enumerate() {
        if *secant == 0.0 {
            (slopes[number], slopes[number + 1]) = (0.0, 0.0);
            continue;
        }
        let (a, b) = (slopes[number] / secant, slopes[number + 1] / secant);
        let far = a.hypot(b);
        if far > 3.0 {
            (slopes[number], slopes[number + 1]) = (3.0 * a / far * secant, 3.0 * b / far * secant);
        }
    }
    slopes
}
