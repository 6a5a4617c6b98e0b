//! What shines, spread over what lies round it.
//!
//! - Shape: a picture, premultiplied and scene-linear, and perhaps a matte of what may shine; a picture of the light that
//!   is spread, with the coverage that it has.
//! - Units: the threshold is a luma in scene-linear light; σ in pixels of this picture.
//! - Range: colours may be of any size; below the threshold nothing shines, and above it only what is more, in the colour
//!   that it has.
//! - Edges: nothing comes from beyond the picture.
//! - Energy: the sum of what is spread is that of what shines, as far as it stays within the picture.
//! - Fall-off: a Gaussian, or `exp(−r/s)`, which is a mixture of Gaussians whose variances are those of `s²·χ²` of three
//!   degrees of freedom (Andrews and Mallows, "Scale Mixtures of Normal Distributions", 1974, carried to the plane); the
//!   mixture of all octaves together is taken in parts, by how wide they are. Either has the same standard deviation for
//!   the same size.
//! - Octaves: each half as wide as the one before, and weaker by a gain; their weights sum to 1.

use crate::filter::blur::Sigma;
use crate::filter::mixture::{Part, mixture};
use crate::{Cancel, Cancelled, Field, Picture, Window};

/// Where the parts of an exponential's mixture end, in units of `s²`: fine where its peak is.
const RINGS: [f64; 6] = [0.12, 0.5, 1.3, 2.8, 6.0, 60.0];

/// How light gets weaker away from what shines.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum FallOff {
    /// A bell.
    #[default]
    Gaussian,
    /// Sharper in the middle, and farther out.
    Exponential,
}

/// How far and in which shape light is spread.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spread {
    /// Standard deviation of the widest octave, in pixels.
    pub size: f32,
    /// The shape of each.
    pub fall_off: FallOff,
    /// How many there are, at least 1.
    pub octaves: u32,
    /// Times the weight of an octave for that of the next narrower one.
    pub gain: f32,
}

/// How much of `χ²` of three degrees of freedom lies between two values, and its part of the mean.
fn between(from: f64, to: f64) -> [f64; 2] {
    // Over the root of the value, by Simpson's rule, the density is smooth; nothing of it is left beyond a root of 9.
    const STEPS: u32 = 24;
    let (from, to) = (from.sqrt().min(9.0), to.sqrt().min(9.0));
    let step = (to - from) / f64::from(STEPS);
    (0..=STEPS).fold([0.0; 2], |[share, mean], number| {
        let root = from + f64::from(number) * step;
        let weight = if number == 0 || number == STEPS { 1.0 } else { f64::from(2 + 2 * (number % 2)) };
        let value = root * root;
        let density = (2.0 / std::f64::consts::PI).sqrt() * value * (-value / 2.0).exp();
        let counts = weight * density * step / 3.0;
        [share + counts, mean + value * counts]
    })
}

/// The share of each part of a mixture of exponentials, each half as wide as the one before and of this weight, and its
/// mean variance in units of the widest one's `s²`.
fn parts_of_exponentials(weights: &[f32]) -> Vec<(f64, f64)> {
    // Below the widest octave's own parts, two more for each that follows.
    let finer = (1..weights.len() as i32).rev().flat_map(|octave| {
        let end = RINGS[0] * 0.25f64.powi(octave);
        [end, 2.0 * end]
    });
    let ends: Vec<f64> = std::iter::once(0.0).chain(finer).chain(RINGS).collect();
    let part = |ends: &[f64]| {
        let octaves = weights.iter().zip(0i32..).map(|(weight, octave)| {
            let finer = 4.0f64.powi(octave);
            let [share, mean] = between(ends[0] * finer, ends[1] * finer);
            [f64::from(*weight) * share, f64::from(*weight) * mean / finer]
        });
        octaves.fold([0.0; 2], |sum, part| [sum[0] + part[0], sum[1] + part[1]])
    };
    let parts: Vec<_> = ends.windows(2).map(part).collect();
    let whole: f64 = parts.iter().map(|[share, _]| share).sum();
    parts.into_iter().map(|[share, mean]| (share / whole, mean / share)).collect()
}

impl Spread {
    fn parts(&self) -> Vec<Part> {
        let octaves = self.octaves.max(1);
        let weights: Vec<f32> = (0..octaves).map(|octave| self.gain.max(0.0).powi(octave as i32)).collect();
        let whole: f32 = weights.iter().sum();
        match self.fall_off {
            FallOff::Gaussian => {
                let part = |(octave, weight): (u32, &f32)| Part {
                    sigma: self.size / (1u64 << octave.min(32)) as f32,
                    weight: weight / whole,
                };
                (0..).zip(&weights).map(part).collect()
            }
            // Its variance along an axis is 3·s².
            FallOff::Exponential => {
                let part = |(share, variance): (f64, f64)| Part {
                    sigma: self.size * (variance / 3.0).sqrt() as f32,
                    weight: share as f32,
                };
                parts_of_exponentials(&weights).into_iter().map(part).collect()
            }
        }
    }

    /// How far light is spread.
    pub fn reach(&self) -> (i32, i32) {
        self.parts()
            .into_iter()
            .map(|part| Sigma::round(part.sigma).reach())
            .fold((0, 0), |a, b| (a.0.max(b.0), a.1.max(b.1)))
    }

    /// What shines, spread over a window. `data` is where it exists; `shining` must hold that within [`Self::reach`].
    pub fn apply(
        &self,
        shining: &Picture,
        data: Window,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Picture, Cancelled> {
        mixture(shining, data, &self.parts(), wanted, cancel)
    }
}

/// What shines of one pixel.
fn shining([r, g, b, a]: [f32; 4], threshold: f32, luma: [f32; 3], counts: f32) -> [f32; 4] {
    let light = r * luma[0] + g * luma[1] + b * luma[2];
    let over = light - threshold * a;
    if over <= 0.0 || !over.is_finite() {
        return [0.0; 4];
    }
    let share = if threshold > 0.0 { over / light } else { 1.0 } * counts;
    [r, g, b, a].map(|value| value * share)
}

/// The light of a picture above a threshold, where `source` lets it shine; before it is spread.
///
/// `luma` is how much red, green and blue count for how light a colour is.
pub fn source(
    picture: &Picture,
    source: Option<&Field>,
    threshold: f32,
    luma: [f32; 3],
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    Picture::written(picture.window(), cancel, |y, row| {
        let counts = source.map(|source| source.row(y));
        for (x, (out, pixel)) in row.iter_mut().zip(picture.row(y)).enumerate() {
            let counts = counts.map_or(1.0, |counts| counts[x].clamp(0.0, 1.0));
            *out = shining(*pixel, threshold, luma, counts);
        }
    })
}

/// How a glow meets the picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum GlowGives {
    /// Added to it.
    Added,
    /// Without it.
    Alone,
}

/// Lays a spread glow on its picture, of which there is nothing beyond its window, times a colour. Light adds up; coverage
/// is that of either.
pub fn lay(
    picture: &Picture,
    glow: &Picture,
    colour: [f32; 3],
    gives: GlowGives,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let most = colour.into_iter().fold(0.0f32, f32::max).min(1.0);
    let window = glow.window();
    let begin = || vec![[0.0; 4]; window.width()];
    Picture::written_with(window, cancel, begin, |room, y, row| {
        let base = picture.run(window.x0, y, room);
        for ((out, glow), base) in row.iter_mut().zip(glow.row(y)).zip(base) {
            let base = if gives == GlowGives::Added { *base } else { [0.0; 4] };
            let alpha = (glow[3] * most).clamp(0.0, 1.0);
            for channel in 0..3 {
                out[channel] = base[channel] + glow[channel] * colour[channel];
            }
            out[3] = base[3] + alpha * (1.0 - base[3]);
        }
    })
}
