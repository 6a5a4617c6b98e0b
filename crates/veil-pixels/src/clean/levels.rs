//! How much brighter a layer is than another: a gain and an offset of each of red, green and blue, found from what both see.
//!
//! - Each layer's is fitted to the median of all, the less by a place the further off it is, until nothing changes: an iteratively
//!   reweighted least squares fit, by Geman and McClure's weights.
//! - What has no contrast tells a gain only, and what too few places are seen of is left as it is.
//! - Source: Holland and Welsch, "Robust regression using iteratively reweighted least-squares", 1977; Geman and McClure,
//!   "Statistical methods for tomographic image reconstruction", 1987, for the weights.

use rayon::prelude::*;

use super::{Stack, middle};
use crate::{Cancel, Cancelled};

/// Turns colours of one brightness into those of another.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Level {
    /// Times, of red, green and blue.
    pub gain: [f32; 3],
    /// Plus.
    pub offset: [f32; 3],
}

/// No gain is further from 1 than this many times.
const MOST_GAIN: f64 = 4.0;
/// So many places are looked at, about.
const PLACES: usize = 12_000;
/// What is fitted no further.
const STILL: f64 = 2e-5;
const MOST_ROUNDS: usize = 40;
/// A layer that is seen beside others at fewer places is left as it is.
const LEAST_PLACES: usize = 24;
/// An offset is taken for none rather than for what noise makes of flat places.
const PULL: f64 = 1e-4;

impl Level {
    /// Changes nothing.
    pub const NONE: Self = Self { gain: [1.0; 3], offset: [0.0; 3] };

    /// The same colour, as bright as it makes it.
    #[inline(always)]
    pub fn apply(&self, colour: [f32; 3]) -> [f32; 3] {
        std::array::from_fn(|at| colour[at] * self.gain[at] + self.offset[at])
    }

    /// The way back.
    pub fn inverse(&self) -> Self {
        Self {
            gain: self.gain.map(|gain| 1.0 / gain),
            offset: std::array::from_fn(|at| -self.offset[at] / self.gain[at]),
        }
    }

    /// From this one to another by a share.
    pub fn toward(&self, other: &Self, share: f32) -> Self {
        let mix =
            |from: [f32; 3], to: [f32; 3]| std::array::from_fn(|at| from[at] + (to[at] - from[at]) * share);
        Self { gain: mix(self.gain, other.gain), offset: mix(self.offset, other.offset) }
    }
}

/// What layers see of a place, by the layer.
type Seen = Vec<(usize, f32)>;

impl Stack {
    /// What makes each layer as bright as the one of a number, as far as it is seen where others are.
    pub fn levels(&self, like: usize, cancel: &Cancel) -> Result<Vec<Level>, Cancelled> {
        let places = self.places();
        let mut levels = vec![Level::NONE; self.count()];
        for channel in 0..3 {
            let seen: Vec<Seen> = places
                .par_iter()
                .map(|[x, y]| {
                    let of = |(at, layer): (usize, &super::Layer)| Some((at, layer.at(*x, *y)?[channel]));
                    self.layers.iter().enumerate().filter_map(of).collect()
                })
                .filter(|seen: &Seen| seen.len() > 1)
                .collect();
            for (level, [gain, offset]) in levels.iter_mut().zip(fitted(&seen, self.count(), like, cancel)?) {
                (level.gain[channel], level.offset[channel]) = (gain as f32, offset as f32);
            }
        }
        Ok(levels)
    }

    /// Places spread evenly over the window.
    fn places(&self) -> Vec<[i32; 2]> {
        let apart = ((self.window.area() / PLACES.max(1)) as f64).sqrt().ceil().max(1.0) as usize;
        let half = apart as i32 / 2;
        let columns = (self.window.x0 + half..self.window.x1).step_by(apart);
        (self.window.y0 + half..self.window.y1)
            .step_by(apart)
            .flat_map(|y| columns.clone().map(move |x| [x, y]))
            .collect()
    }
}

/// A gain and an offset of each layer, by one channel of what is seen of places.
fn fitted(seen: &[Seen], count: usize, like: usize, cancel: &Cancel) -> Result<Vec<[f64; 2]>, Cancelled> {
    let mut levels = vec![[1.0, 0.0]; count];
    if like >= count {
        return Ok(levels);
    }
    for _ in 0..MOST_ROUNDS {
        cancel.check()?;
        let to: Vec<f64> = seen.par_iter().map(|seen| told(seen, &levels)).collect();
        let mut pairs: Vec<Vec<[f64; 2]>> = vec![Vec::new(); count];
        for (seen, to) in seen.iter().zip(&to) {
            seen.iter().for_each(|(layer, value)| pairs[*layer].push([f64::from(*value), *to]));
        }
        let next: Vec<[f64; 2]> =
            pairs.par_iter().zip(&levels).map(|(pairs, level)| one_fitted(pairs, *level)).collect();
        let [gain, offset] = next[like];
        let next: Vec<[f64; 2]> = next.iter().map(|own| [own[0] / gain, (own[1] - offset) / gain]).collect();
        let change = next.iter().zip(&levels).fold(0.0f64, |most, (next, before)| {
            most.max((next[0] - before[0]).abs()).max((next[1] - before[1]).abs())
        });
        levels = next;
        if change < STILL {
            break;
        }
    }
    Ok(levels)
}

/// The median of a place.
fn told(seen: &Seen, levels: &[[f64; 2]]) -> f64 {
    let mut values: Vec<f32> = seen
        .iter()
        .map(|(layer, value)| (f64::from(*value) * levels[*layer][0] + levels[*layer][1]) as f32)
        .collect();
    f64::from(middle(&mut values))
}

/// What carries the first of pairs nearest to the second, as it was before where too little tells.
fn one_fitted(pairs: &[[f64; 2]], [gain, offset]: [f64; 2]) -> [f64; 2] {
    if pairs.len() < LEAST_PLACES {
        return [gain, offset];
    }
    let off = |[own, to]: &[f64; 2]| own * gain + offset - to;
    let mut far: Vec<f32> = pairs.iter().map(|pair| off(pair).abs() as f32).collect();
    let size = pairs.iter().map(|pair| pair[1].abs()).sum::<f64>() / pairs.len() as f64;
    // As far off as half of them are counts little; nothing is measured finer than half floats tell.
    let scale = (3.0 * f64::from(middle(&mut far))).max(size * 5e-4).max(1e-9);
    let (mut n, mut x, mut y, mut xx, mut xy) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for pair in pairs {
        let share = 1.0 / (1.0 + (off(pair) / scale).powi(2)).powi(2);
        let [own, to] = *pair;
        n += share;
        x += share * own;
        y += share * to;
        xx += share * own * own;
        xy += share * own * to;
    }
    // Normal equations of gain and offset, the offset drawn to none by a little.
    let pulled = n + PULL * n;
    let whole = xx * pulled - x * x;
    if !(whole > 0.0 && xx > 0.0) {
        return [gain, offset];
    }
    let (made, plus) = ((xy * pulled - x * y) / whole, (xx * y - x * xy) / whole);
    if (1.0 / MOST_GAIN..=MOST_GAIN).contains(&made) && plus.is_finite() {
        [made, plus]
    } else {
        [gain, offset]
    }
}
