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
//!   mixture is taken in [`RINGS`] parts. Either has the same standard deviation for the same size.
//! - Octaves: each half as wide as the one before, and weaker by a gain; their weights sum to 1.

use crate::blur::Sigma;
use crate::mixture::{Part, mixture};
use crate::{Cancel, Cancelled, Field, Picture, Window};

/// Where the parts of an exponential's mixture end, in units of `s²`: fine where its peak is.
const RINGS: [f64; 7] = [0.0, 0.12, 0.5, 1.3, 2.8, 6.0, 60.0];

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

/// The density of `χ²` of three degrees of freedom.
fn density(v: f64) -> f64 {
    (v / std::f64::consts::TAU).sqrt() * (-v / 2.0).exp()
}

/// The share of each part of an exponential's mixture, and its mean variance in units of `s²`.
fn parts_of_exponential() -> Vec<(f64, f64)> {
    const STEPS: usize = 400;
    let part = |from: f64, to: f64| {
        let step = (to - from) / STEPS as f64;
        let middles = (0..STEPS).map(|number| from + (number as f64 + 0.5) * step);
        let (share, sum) = middles
            .fold((0.0, 0.0), |(share, sum), v| (share + density(v) * step, sum + v * density(v) * step));
        (share, sum / share)
    };
    let parts: Vec<_> = RINGS.windows(2).map(|ends| part(ends[0], ends[1])).collect();
    let whole: f64 = parts.iter().map(|(share, _)| share).sum();
    parts.into_iter().map(|(share, variance)| (share / whole, variance)).collect()
}

impl Spread {
    fn parts(&self) -> Vec<Part> {
        let octaves = self.octaves.max(1);
        let weights: Vec<f32> = (0..octaves).map(|octave| self.gain.max(0.0).powi(octave as i32)).collect();
        let whole: f32 = weights.iter().sum();
        let of_octave = |(octave, weight): (usize, &f32)| {
            let (size, weight) = (self.size / (1u64 << octave.min(32)) as f32, weight / whole);
            match self.fall_off {
                FallOff::Gaussian => vec![Part { sigma: size, weight }],
                // Its variance along an axis is 3·s².
                FallOff::Exponential => {
                    let narrowed = |(share, variance): (f64, f64)| Part {
                        sigma: size * (variance / 3.0).sqrt() as f32,
                        weight: weight * share as f32,
                    };
                    parts_of_exponential().into_iter().map(narrowed).collect()
                }
            }
        };
        weights.iter().enumerate().flat_map(of_octave).collect()
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

/// Lays a spread glow on its picture, times a colour. Light adds up; coverage is that of either.
pub fn lay(
    picture: &Picture,
    glow: &Picture,
    colour: [f32; 3],
    gives: GlowGives,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let most = colour.into_iter().fold(0.0f32, f32::max).min(1.0);
    Picture::written(glow.window(), cancel, |y, row| {
        for ((out, glow), base) in row.iter_mut().zip(glow.row(y)).zip(picture.row(y)) {
            let base = if gives == GlowGives::Added { *base } else { [0.0; 4] };
            let alpha = (glow[3] * most).clamp(0.0, 1.0);
            for channel in 0..3 {
                out[channel] = base[channel] + glow[channel] * colour[channel];
            }
            out[3] = base[3] + alpha * (1.0 - base[3]);
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::blur::gaussian;
    use crate::{Edge, Raster};

    const LUMA: [f32; 3] = [0.2126, 0.7152, 0.0722];

    /// A Gaussian keeps what it spreads: the light that is added is what shone above the threshold, times the colour, and a
    /// bright dot is as wide afterwards as the size says.
    #[test]
    fn the_light_that_is_spread_is_the_light_that_shone() {
        let (window, cancel) = (Window::sized(121, 121), Cancel::new());
        let lamp = [8.0, 4.0, 2.0, 1.0];
        let picture =
            Raster::from_fn(window, |x, y| if (x, y) == (60, 60) { lamp } else { [0.1, 0.1, 0.1, 1.0] });
        let shining = source(&picture, None, 1.0, LUMA, &cancel).unwrap();
        let glow = gaussian(&shining, window, Edge::Clear, Sigma::round(9.0), window, &cancel).unwrap();
        let laid = lay(&picture, &glow, [2.0, 1.0, 0.5], GlowGives::Added, &cancel).unwrap();
        let luma = 8.0 * 0.2126 + 4.0 * 0.7152 + 2.0 * 0.0722;
        let share = (luma - 1.0) / luma;
        for (channel, colour) in [2.0, 1.0, 0.5].into_iter().enumerate() {
            let added: f64 = laid
                .pixels()
                .iter()
                .zip(picture.pixels())
                .map(|(new, old)| f64::from(new[channel] - old[channel]))
                .sum();
            let wanted = f64::from(lamp[channel]) * share * colour;
            assert!((added / wanted - 1.0).abs() < 2e-3, "{channel}: {added}, not {wanted}");
        }
        let spread: f64 = (0..121)
            .flat_map(|y| (0..121).map(move |x| (x, y)))
            .map(|(x, y)| f64::from(glow.get(x, y).unwrap()[0]) * f64::from(x - 60).powi(2))
            .sum::<f64>()
            / glow.pixels().iter().map(|pixel| f64::from(pixel[0])).sum::<f64>();
        assert!((spread.sqrt() / 9.0 - 1.0).abs() < 0.02, "{}", spread.sqrt());
    }

    /// Andrews and Mallows 1974, in the plane: a dot is spread to exp(−r/s)/(2π·s²), whose light is the dot's and whose
    /// standard deviation is √3·s along an axis. Octaves keep the light too.
    #[test]
    fn an_exponential_glow_falls_as_its_formula_says_and_octaves_keep_the_light() {
        let (window, cancel) = (Window::sized(401, 401), Cancel::new());
        let dot = Raster::from_fn(window, |x, y| if (x, y) == (200, 200) { [1.0; 4] } else { [0.0; 4] });
        let spread = Spread { size: 26.0, fall_off: FallOff::Exponential, octaves: 1, gain: 0.5 };
        let glow = spread.apply(&dot, window, window, &cancel).unwrap();
        let s = 26.0 / 3.0f64.sqrt();
        for away in [4, 10, 20, 40, 70] {
            let got = f64::from(glow.get(200 + away, 200).unwrap()[0]);
            let wanted = (-f64::from(away) / s).exp() / (std::f64::consts::TAU * s * s);
            assert!((got / wanted - 1.0).abs() < 0.15, "at {away}: {got} not {wanted}");
        }
        for (fall_off, octaves) in
            [(FallOff::Exponential, 1), (FallOff::Gaussian, 4), (FallOff::Exponential, 3)]
        {
            let spread = Spread { size: 20.0, fall_off, octaves, gain: 0.8 };
            let glow = spread.apply(&dot, window, window, &cancel).unwrap();
            let light: f64 = glow.pixels().iter().map(|pixel| f64::from(pixel[0])).sum();
            assert!((light - 1.0).abs() < 5e-3, "{fall_off:?} {octaves}: {light}");
        }
    }

    /// Where nothing may shine nothing is added, and a glow alone covers no more than it did.
    #[test]
    fn a_source_matte_says_what_shines() {
        let (window, cancel) = (Window::sized(8, 1), Cancel::new());
        let picture = Raster::flat(window, [4.0, 4.0, 4.0, 1.0]);
        let counts = Raster::from_fn(window, |x, _| if x < 4 { 1.0 } else { 0.0 });
        let shining = source(&picture, Some(&counts), 0.0, LUMA, &cancel).unwrap();
        assert_eq!(
            (shining.get(3, 0).unwrap(), shining.get(4, 0).unwrap()),
            ([4.0, 4.0, 4.0, 1.0], [0.0; 4])
        );
        let alone = lay(&picture, &shining, [0.5; 3], GlowGives::Alone, &cancel).unwrap();
        assert_eq!(alone.get(0, 0).unwrap(), [2.0, 2.0, 2.0, 0.5]);
    }
}
