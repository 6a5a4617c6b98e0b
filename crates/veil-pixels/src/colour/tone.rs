//! A free curve from values to values.
//!
//! - Shape: a number in, a number out; any run of points with rising places.
//! - Between points it is a cubic that never swings beyond them; beyond the first and last it goes on straight, so that
//!   values above 1 keep their differences.
//! - Source: Fritsch and Carlson, "Monotone Piecewise Cubic Interpolation", 1980.

use multiversion::multiversion;

use crate::Rgba;
use crate::colour::bare::{OnColour, Planes, in_runs};

/// Points nearer to each other than this are one.
const LEAST_STEP: f64 = 1e-3;

/// A stretch of the curve, up to where the next one begins.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Piece {
    /// Where it begins, and what the powers are of: how far a value lies beyond.
    from: f32,
    /// What the powers 0 to 3 count.
    powers: [f32; 4],
}

impl Piece {
    /// Hermite's cubic between two points.
    fn between([[from, start], [to, end]]: [[f64; 2]; 2], [leaves, arrives]: [f64; 2]) -> Self {
        let wide = to - from;
        let rise = (end - start) / wide;
        let square = (3.0 * rise - 2.0 * leaves - arrives) / wide;
        let cube = (leaves + arrives - 2.0 * rise) / (wide * wide);
        Self { from: from as f32, powers: [start, leaves, square, cube].map(|power| power as f32) }
    }

    /// On from a point.
    fn straight([from, start]: [f64; 2], slope: f64) -> Self {
        Self { from: from as f32, powers: [start as f32, slope as f32, 0.0, 0.0] }
    }

    #[inline(always)]
    fn at(&self, value: f32) -> f32 {
        let beyond = value - self.from;
        let [start, slope, square, cube] = self.powers;
        ((cube * beyond + square) * beyond + slope) * beyond + start
    }
}

/// A curve through some points.
#[derive(Clone, Debug, PartialEq)]
pub struct Tone {
    /// Up to the first point; the others go on from their points.
    before: Piece,
    pieces: Vec<Piece>,
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
        let ([Some(first), Some(last)], [Some(leaves), Some(arrives)]) =
            ([kept.first(), kept.last()], [slopes.first(), slopes.last()])
        else {
            return Self { before: Piece::straight([0.0; 2], 1.0), pieces: Vec::new(), straight: true };
        };
        let between = |at: usize| Piece::between([kept[at], kept[at + 1]], [slopes[at], slopes[at + 1]]);
        let mut pieces: Vec<Piece> = (0..kept.len() - 1).map(between).collect();
        pieces.push(Piece::straight(*last, *arrives));
        let straight = kept.iter().all(|[place, value]| *place as f32 == *value as f32)
            && slopes.iter().all(|slope| *slope as f32 == 1.0);
        Self { before: Piece::straight(*first, *leaves), pieces, straight }
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
        // What is infinite is as bright as can be: infinity times no power would be no number.
        let value = value.clamp(f32::MIN, f32::MAX);
        let next = self.pieces.partition_point(|piece| piece.from <= value);
        next.checked_sub(1).map_or(&self.before, |here| &self.pieces[here]).at(value)
    }

    /// As [`Self::at`], of many values: every piece of the curve is worked out for all of them, and each takes its own.
    #[inline(always)]
    pub fn over_run(&self, values: &mut [f32]) {
        if self.straight {
            return;
        }
        let finite = values.iter().fold(true, |all, value| all & value.is_finite());
        let (blocks, rest) = values.as_chunks_mut::<BLOCK>();
        if self.pieces.len() > FEW || !finite {
            blocks.as_flattened_mut().iter_mut().for_each(|value| *value = self.at(*value));
        } else {
            blocks.iter_mut().for_each(|block| self.over_block(block));
        }
        rest.iter_mut().for_each(|value| *value = self.at(*value));
    }

    #[inline(always)]
    fn over_block(&self, block: &mut [f32; BLOCK]) {
        let before = self.before;
        let mut made = [0.0; BLOCK];
        for (made, value) in made.iter_mut().zip(&*block) {
            *made = before.at(*value);
        }
        for &piece in &self.pieces {
            for (made, value) in made.iter_mut().zip(&*block) {
                *made = if *value >= piece.from { piece.at(*value) } else { *made };
            }
        }
        *block = made;
    }
}

/// More pieces than these are looked for one value after the other.
const FEW: usize = 9;
/// Values that are worked out together: as many as the registers hold.
const BLOCK: usize = 32;

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
