//! A pattern found again to a fraction of a pixel.
//!
//! - Shape: a pattern of one image, placed on another by a homography of the chosen freedom.
//! - Units: places in pixels, centres at halves. Values may be brighter or darker and of more or less contrast than the
//!   pattern's: both are taken off.
//! - Range: starts within a few pixels of where it ends; a coarser image carries further.
//! - Edge: what falls outside of the image does not count; with less than a third of the pattern inside there is no fit.
//! - Source: Baker and Matthews, "Lucas-Kanade 20 Years On", 2004: Gauss-Newton, inverse compositional. Weights against
//!   what passes in front: Tukey's biweight, its scale by the median absolute deviation (Huber and Ronchetti 2009).

use crate::sample::resample::{Filter, Sampler};
use crate::warp::perspective::Homography;
use crate::{Edge, Field};

/// How a pattern may change from frame to frame.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Motion {
    /// It moves.
    #[default]
    Shift,
    /// It moves, turns and is scaled.
    Similarity,
    /// It is sheared as well.
    Affine,
    /// As a plane in space is seen.
    Perspective,
}

impl Motion {
    const fn freedoms(self) -> usize {
        match self {
            Self::Shift => 2,
            Self::Similarity => 4,
            Self::Affine => 6,
            Self::Perspective => 8,
        }
    }
}

/// Whether what does not look like the pattern is left out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outliers {
    /// Everything counts.
    Count,
    /// What differs by far counts less, or not at all.
    LeftOut,
}

/// One pixel of the pattern.
#[derive(Clone, Copy)]
struct Sample {
    /// From the middle, in units of the pattern's size.
    place: [f64; 2],
    value: f32,
    /// What a small change of each freedom does to the value.
    steepest: [f32; 8],
}

/// A piece of an image.
#[derive(Clone)]
pub struct Pattern {
    centre: [f64; 2],
    /// Pixels to one unit.
    unit: f64,
    motion: Motion,
    samples: Vec<Sample>,
}

/// Where a pattern was found.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fit {
    /// From places of the pattern's image to places of this one.
    pub placed: Homography,
    /// How alike both are: their correlation, at most 1.
    pub likeness: f64,
    /// Mean square of what is left between them.
    pub off: f64,
    /// How many pixels say something of their own: those that count, less those that go with their neighbours.
    pub told: f64,
    /// How much of what was seen of the pattern is trusted to be it, 0-1; of a pattern and nothing but noise three quarters.
    pub share: f64,
    /// How the image's values become the pattern's, and how far one may be off.
    pub levels: Levels,
}

impl Fit {
    /// Of a pattern that only moved, all of it counting.
    pub(super) const fn of_shift(placed: Homography, likeness: f64, off: f64, count: f64) -> Self {
        Self { placed, likeness, off, told: count / ALIKE, share: 1.0, levels: Levels::ANY }
    }
}

/// How an image's values become those of a pattern.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Levels {
    gain: f32,
    lift: f32,
    /// Beyond this a value is none of the pattern's.
    reach: f32,
}

impl Levels {
    /// As they are, however far off.
    const ANY: Self = Self { gain: 1.0, lift: 0.0, reach: f32::INFINITY };

    /// Whether two values are those of one thing.
    pub fn alike(self, pattern: f32, image: f32) -> bool {
        (image * self.gain + self.lift - pattern).abs() < self.reach
    }
}

/// Steps after which it is what it is.
pub(super) const MOST_STEPS: usize = 40;
/// Pixels that a corner moves in the last step.
pub(super) const LAST_STEP: f64 = 2e-3;
/// So many pixels beside each other are off in the same way, since each is read from those about it.
const ALIKE: f64 = 4.0;
/// How much better than by chance a fit with more freedom must be, for each freedom.
const BEYOND_CHANCE: f64 = 8.0;
/// One of so many pixels of the pattern must lie on the image.
const LEAST_SEEN: usize = 3;
/// Tukey's constant, for an efficiency of 95 % on normal errors, times the factor from the median absolute deviation.
const BIWEIGHT: f32 = 4.685 * 1.4826;

impl Pattern {
    /// The pixels within so far of a centre, to either side, where `counts` gives more than half; none where fewer than
    /// sixteen are left.
    pub fn new(
        image: &Field,
        centre: [f64; 2],
        half: [f64; 2],
        motion: Motion,
        counts: impl Fn(f64, f64) -> bool,
    ) -> Option<Self> {
        let sampler = Sampler::new(image, image.window(), Edge::Hold);
        let unit = half[0].max(half[1]).max(1.0);
        let steps = half.map(|length| length.floor() as i32);
        let window = image.window();
        let inside = |x: f64, y: f64| {
            (f64::from(window.x0)..f64::from(window.x1)).contains(&x)
                && (f64::from(window.y0)..f64::from(window.y1)).contains(&y)
        };
        let value = |x: f64, y: f64| sampler.at(Filter::Cubic, x as f32, y as f32);
        let mut samples = Vec::with_capacity(((2 * steps[0] + 1) * (2 * steps[1] + 1)).max(0) as usize);
        for (dy, dx) in (-steps[1]..=steps[1]).flat_map(|dy| (-steps[0]..=steps[0]).map(move |dx| (dy, dx))) {
            let (x, y) = (centre[0] + f64::from(dx), centre[1] + f64::from(dy));
            if !inside(x, y) || !counts(x, y) {
                continue;
            }
            let slope = [
                (value(x + 1.0, y) - value(x - 1.0, y)) * 0.5 * unit as f32,
                (value(x, y + 1.0) - value(x, y - 1.0)) * 0.5 * unit as f32,
            ];
            let place = [f64::from(dx) / unit, f64::from(dy) / unit];
            samples.push(Sample { place, value: value(x, y), steepest: steepest(slope, place) });
        }
        let made = Self { centre, unit, motion, samples };
        (made.samples.len() >= 16).then_some(made)
    }

    /// Of a whole rectangle that only moves: its values by rows, and how steeply they rise to the right and down.
    pub(super) fn of_rows(centre: [f64; 2], wide: usize, values: &[f32], slopes: [&[f32]; 2]) -> Self {
        let high = values.len() / wide.max(1);
        let unit = (wide.max(high) as f64 / 2.0).floor().max(1.0);
        let sample = |(at, value): (usize, &f32)| {
            let from_middle = |at: usize, count: usize| (at as f64 - (count / 2) as f64) / unit;
            let place = [from_middle(at % wide, wide), from_middle(at / wide, high)];
            let slope = slopes.map(|slopes| slopes[at] * unit as f32);
            Sample { place, value: *value, steepest: steepest(slope, place) }
        };
        Self { centre, unit, motion: Motion::Shift, samples: values.iter().enumerate().map(sample).collect() }
    }

    /// The same with no more than so many pixels: in each of as many cells the one whose value changes most.
    #[must_use]
    pub fn thinned(mut self, most: usize) -> Self {
        if self.samples.len() <= most {
            return self;
        }
        let cells = (most as f64).sqrt().max(1.0);
        let mut best: std::collections::BTreeMap<(i32, i32), Sample> = Default::default();
        let strength = |sample: &Sample| sample.steepest[0].hypot(sample.steepest[1]);
        for sample in &self.samples {
            let cell = sample.place.map(|at| ((at + 1.0) * 0.5 * cells).floor() as i32);
            let kept = best.entry((cell[1], cell[0])).or_insert(*sample);
            if strength(sample) > strength(kept) {
                *kept = *sample;
            }
        }
        self.samples = best.into_values().collect();
        self
    }

    /// The middle of the pattern, in its own image.
    pub fn centre(&self) -> [f64; 2] {
        self.centre
    }

    /// Moves the pattern from `start`, which carries places of its own image to `image`, to where it fits best.
    pub fn fit(&self, image: &Field, start: Homography, outliers: Outliers) -> Option<Fit> {
        self.fit_as(self.motion, image, start, outliers, &|_| true)
    }

    /// The same, where `counts` holds of places of `image`, with a change from `start` that is as plain as what is seen
    /// allows: one with more freedom is taken only where the pattern fits better by more than chance makes it. What noise
    /// alone says of a plane's slant would make its corners tremble.
    ///
    /// Source: the F-test of nested models, as in Seber and Lee, "Linear Regression Analysis", 2003, chapter 4.
    pub fn fit_plainly(
        &self,
        image: &Field,
        start: Homography,
        counts: impl Fn([f64; 2]) -> bool,
    ) -> Option<Fit> {
        let plainer = [Motion::Shift, Motion::Similarity, Motion::Affine, Motion::Perspective];
        let mut kept: Option<(Fit, Motion)> = None;
        for motion in plainer.into_iter().filter(|motion| motion.freedoms() <= self.motion.freedoms()) {
            let from = kept.map_or(start, |(fit, _)| fit.placed);
            let Some(fit) = self.fit_as(motion, image, from, Outliers::LeftOut, &counts) else { continue };
            let better = kept.is_none_or(|(before, plain)| {
                let more = (motion.freedoms() - plain.freedoms()) as f64;
                let gained = (before.off - fit.off) / fit.off.max(f64::MIN_POSITIVE);
                gained * fit.told / more > BEYOND_CHANCE
            });
            if better {
                kept = Some((fit, motion));
            }
        }
        kept.map(|(fit, _)| fit)
    }

    fn fit_as(
        &self,
        motion: Motion,
        image: &Field,
        start: Homography,
        outliers: Outliers,
        counts: &impl Fn([f64; 2]) -> bool,
    ) -> Option<Fit> {
        let freedoms = motion.freedoms();
        let out =
            Homography::scale(self.unit, self.unit).then(Homography::shift(self.centre[0], self.centre[1]));
        let mut placed = out.then(start);
        let mut seen = Seen::new(self.samples.len(), outliers);
        let plain = (outliers == Outliers::Count).then(|| Normal::of(&self.samples, None, freedoms));
        for _ in 0..MOST_STEPS {
            seen.look(self, image, placed, counts)?;
            if outliers == Outliers::LeftOut {
                seen.weigh();
            }
            let own = (plain.is_none() || !seen.whole)
                .then(|| Normal::of(&self.samples, Some(&seen.weights), freedoms));
            let normal = own.as_ref().or(plain.as_ref())?;
            let change = normal.solve(&self.samples, &seen, freedoms)?;
            let step = as_matrix(change);
            placed = step.inverse()?.then(placed);
            let corner = |x: f64, y: f64| {
                let [u, v] = step.at([x, y])?;
                Some((u - x).hypot(v - y) * self.unit)
            };
            let moved = corner(-1.0, -1.0)?.max(corner(1.0, 1.0)?).max(corner(-1.0, 1.0)?);
            if !moved.is_finite() || moved > self.unit * 4.0 {
                return None;
            }
            if moved < LAST_STEP {
                break;
            }
        }
        seen.look(self, image, placed, counts)?;
        if outliers == Outliers::LeftOut {
            seen.weigh();
        }
        Some(Fit { placed: out.inverse()?.then(placed), ..seen.judged(&self.samples) })
    }
}

/// What small changes of the freedoms do at a place: two moves, scale, turn, two shears, two of perspective.
fn steepest([gx, gy]: [f32; 2], place: [f64; 2]) -> [f32; 8] {
    let [u, v] = place.map(|at| at as f32);
    let along = gx * u + gy * v;
    [gx, gy, along, gy * u - gx * v, gx * u - gy * v, gx * v + gy * u, -along * u, -along * v]
}

fn as_matrix([x, y, scale, turn, wide, shear, px, py]: [f64; 8]) -> Homography {
    Homography::from_rows([
        [1.0 + scale + wide, shear - turn, x],
        [shear + turn, 1.0 + scale - wide, y],
        [px, py, 1.0],
    ])
}

/// What the image shows where the pattern is laid.
struct Seen {
    values: Vec<f32>,
    /// What the image has more than the pattern, once brightness and contrast are the pattern's.
    more: Vec<f32>,
    weights: Vec<f32>,
    /// How far each pixel is trusted to be the pattern's, once that has been judged.
    trust: Option<Vec<f32>>,
    outliers: Outliers,
    scratch: Vec<f32>,
    levels: Levels,
    /// How many pixels of the pattern lie where they can be seen, and whether all do.
    seen: u32,
    whole: bool,
}

impl Seen {
    fn new(count: usize, outliers: Outliers) -> Self {
        let zeros = || vec![0.0; count];
        Self {
            values: zeros(),
            more: zeros(),
            weights: vec![1.0; count],
            trust: None,
            outliers,
            scratch: zeros(),
            levels: Levels::ANY,
            seen: 0,
            whole: true,
        }
    }

    /// Reads the image; none where too little of the pattern lies on it, or where it is flat there.
    fn look(
        &mut self,
        pattern: &Pattern,
        image: &Field,
        placed: Homography,
        counts: &impl Fn([f64; 2]) -> bool,
    ) -> Option<()> {
        let window = image.window();
        let sampler = Sampler::new(image, window, Edge::Hold);
        let [left, top, right, bottom] = [window.x0, window.y0, window.x1, window.y1].map(f64::from);
        let mut inside = 0;
        for ((sample, value), weight) in pattern.samples.iter().zip(&mut self.values).zip(&mut self.weights) {
            let [x, y] = placed.at(sample.place)?;
            let holds = x >= left && x < right && y >= top && y < bottom && counts([x, y]);
            *weight = if holds { 1.0 } else { 0.0 };
            if holds {
                inside += 1;
                *value = sampler.at(Filter::Cubic, x as f32, y as f32);
            }
        }
        (self.seen, self.whole) = (inside as u32, inside == pattern.samples.len());
        (inside * LEAST_SEEN >= pattern.samples.len()).then_some(())?;
        self.compare(&pattern.samples)
    }

    /// Brings brightness and contrast to the pattern's and takes the pattern off. Where something may pass in front, both
    /// are those of what is trusted; before anything is, only the brightness is brought there, by the median.
    fn compare(&mut self, samples: &[Sample]) -> Option<()> {
        let (gain, lift) = match (self.outliers, &self.trust) {
            (Outliers::LeftOut, None) => (1.0, self.median_lift(samples)),
            (Outliers::Count, _) => self.levels(samples, &self.weights)?,
            (Outliers::LeftOut, Some(trust)) => {
                let weights: Vec<f32> = self.weights.iter().zip(trust).map(|(a, b)| a * b).collect();
                self.levels(samples, &weights)?
            }
        };
        (self.levels.gain, self.levels.lift) = (gain, lift);
        for ((more, value), sample) in self.more.iter_mut().zip(&self.values).zip(samples) {
            *more = value * gain + lift - sample.value;
        }
        Some(())
    }

    /// By what the image is multiplied, and what is added then; none where it is flat.
    fn levels(&self, samples: &[Sample], weights: &[f32]) -> Option<(f32, f32)> {
        let [mean, spread] = moments(self.values.iter().copied(), weights);
        let [wanted_mean, wanted_spread] = moments(samples.iter().map(|sample| sample.value), weights);
        if spread <= f32::EPSILON * mean.abs().max(1e-6) || wanted_spread <= 0.0 {
            return None;
        }
        let gain = wanted_spread / spread;
        Some((gain, wanted_mean - mean * gain))
    }

    /// What the pattern has more than the image, in the middle of all.
    fn median_lift(&mut self, samples: &[Sample]) -> f32 {
        self.scratch.clear();
        let counting =
            self.values.iter().zip(samples).zip(&self.weights).filter(|(_, weight)| **weight > 0.0);
        self.scratch.extend(counting.map(|((value, sample), _)| sample.value - value));
        self.median()
    }

    fn median(&mut self) -> f32 {
        let middle = self.scratch.len() / 2;
        if self.scratch.is_empty() {
            return 0.0;
        }
        *self.scratch.select_nth_unstable_by(middle, f32::total_cmp).1
    }

    /// Gives each pixel its weight by how far off it is.
    fn weigh(&mut self) {
        self.scratch.clear();
        let counting = self.more.iter().zip(&self.weights).filter(|(_, weight)| **weight > 0.0);
        self.scratch.extend(counting.map(|(more, _)| more.abs()));
        let reach = (self.median() * BIWEIGHT).max(1e-6);
        self.levels.reach = reach;
        let trust = |more: &f32| {
            let off = more / reach;
            let near = (1.0 - off * off).max(0.0);
            near * near
        };
        let trust: Vec<f32> = self.more.iter().map(trust).collect();
        self.weights.iter_mut().zip(&trust).for_each(|(weight, trust)| *weight *= trust);
        self.trust = Some(trust);
    }

    /// What is to be said of a fit, but where it is.
    fn judged(&self, samples: &[Sample]) -> Fit {
        let (mut sum, mut all) = (0.0, 0.0);
        for (more, weight) in self.more.iter().zip(&self.weights) {
            sum += f64::from(weight * more * more);
            all += f64::from(*weight);
        }
        Fit {
            placed: Homography::IDENTITY,
            likeness: self.likeness(samples),
            off: sum / all.max(1e-9),
            told: all / ALIKE,
            share: all / f64::from(self.seen.max(1)),
            levels: self.levels,
        }
    }

    /// The correlation of the pattern and what is seen.
    fn likeness(&self, samples: &[Sample]) -> f64 {
        let [mean, spread] = moments(self.values.iter().copied(), &self.weights);
        let [own_mean, own_spread] = moments(samples.iter().map(|sample| sample.value), &self.weights);
        let (mut sum, mut all) = (0.0, 0.0);
        for ((value, sample), weight) in self.values.iter().zip(samples).zip(&self.weights) {
            sum += f64::from(weight * (value - mean) * (sample.value - own_mean));
            all += f64::from(*weight);
        }
        let spreads = f64::from(spread) * f64::from(own_spread) * all;
        if spreads > 0.0 { sum / spreads } else { 0.0 }
    }
}

/// Mean and standard deviation.
fn moments(values: impl Iterator<Item = f32> + Clone, weights: &[f32]) -> [f32; 2] {
    let all: f32 = weights.iter().sum::<f32>().max(1e-6);
    let mean = values.clone().zip(weights).map(|(value, weight)| value * weight).sum::<f32>() / all;
    let squares = values.zip(weights).map(|(value, weight)| weight * (value - mean) * (value - mean));
    [mean, (squares.sum::<f32>() / all).sqrt()]
}

/// The matrix of the normal equations, as its lower triangular root.
struct Normal {
    root: [[f64; 8]; 8],
}

impl Normal {
    fn of(samples: &[Sample], weights: Option<&[f32]>, freedoms: usize) -> Self {
        let mut sums = [[0.0f32; 8]; 8];
        for (number, sample) in samples.iter().enumerate() {
            let weight = weights.map_or(1.0, |weights| weights[number]);
            for (row, line) in sums.iter_mut().enumerate().take(freedoms) {
                let weighted = weight * sample.steepest[row];
                for (sum, other) in line.iter_mut().zip(&sample.steepest).take(row + 1) {
                    *sum += weighted * other;
                }
            }
        }
        Self { root: cholesky(sums, freedoms) }
    }

    /// The changes of the freedoms that bring the image nearest to the pattern; none where they cannot be told.
    fn solve(&self, samples: &[Sample], seen: &Seen, freedoms: usize) -> Option<[f64; 8]> {
        let mut sums = [0.0f32; 8];
        for ((sample, more), weight) in samples.iter().zip(&seen.more).zip(&seen.weights) {
            let weighted = more * weight;
            for (sum, steepest) in sums.iter_mut().zip(&sample.steepest) {
                *sum += weighted * steepest;
            }
        }
        let mut found = [0.0; 8];
        for row in 0..freedoms {
            let known: f64 = (0..row).map(|column| self.root[row][column] * found[column]).sum();
            found[row] = (f64::from(sums[row]) - known) / self.root[row][row];
        }
        for row in (0..freedoms).rev() {
            let known: f64 = (row + 1..freedoms).map(|column| self.root[column][row] * found[column]).sum();
            found[row] = (found[row] - known) / self.root[row][row];
        }
        found.iter().all(|value| value.is_finite()).then_some(found)
    }
}

fn cholesky(matrix: [[f32; 8]; 8], size: usize) -> [[f64; 8]; 8] {
    let mut root = [[0.0; 8]; 8];
    for row in 0..size {
        for column in 0..=row {
            let known: f64 = (0..column).map(|k| root[row][k] * root[column][k]).sum();
            let left = f64::from(matrix[row][column]) - known;
            root[row][column] =
                if row == column { left.max(0.0).sqrt() } else { left / root[column][column] };
        }
    }
    root
}
