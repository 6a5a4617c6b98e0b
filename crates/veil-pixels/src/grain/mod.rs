//! Grain: how strong it is by channel and brightness and how wide, made and laid on.
//!
//! - Shape: pictures; what is laid on covers the window of the picture.
//! - Units: a strength is a standard deviation of light; a size is the standard deviation, in pixels of the raster, of the blur that
//!   makes such grain of noise of single pixels.
//! - Made: noise with a share of the normal distribution's (the sum of four even numbers), blurred, and brought back to a
//!   standard deviation of 1. The same seed gives the same.
//! - Alpha stays; light gets as much of it as its alpha says.

pub mod measured;

use crate::filter::blur::{Sigma, gaussian, gaussian_weights};
use crate::noise::mixed;
use crate::{Cancel, Cancelled, Edge, Field, Picture, Raster, Window};

/// How many brightnesses a strength is known at.
pub const KNOTS: usize = 17;
/// They lie evenly in the square root of light, up to this; beyond it, the last holds.
const BRIGHTEST_ROOT: f32 = 1.6;

/// The light at a knot.
#[must_use]
pub fn light_at(knot: usize) -> f32 {
    let root = BRIGHTEST_ROOT * knot as f32 / (KNOTS - 1) as f32;
    root * root
}

/// Where a light lies among the knots.
fn place(light: f32) -> f32 {
    light.max(0.0).sqrt().min(BRIGHTEST_ROOT) * ((KNOTS - 1) as f32 / BRIGHTEST_ROOT)
}

/// Grain of three channels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Grain {
    /// Of each channel the strength at each knot.
    pub strength: [[f32; KNOTS]; 3],
    /// Of each channel.
    pub size: [f32; 3],
}

impl Grain {
    /// What has to be laid on other grain to become this: variances add. The size stays.
    #[must_use]
    pub fn beyond(mut self, other: &Self) -> Self {
        for (own, other) in self.strength.iter_mut().flatten().zip(other.strength.iter().flatten()) {
            *own = (own.powi(2) - other.powi(2)).max(0.0).sqrt();
        }
        self
    }

    /// As it is in the means of blocks of so many pixels a side.
    #[must_use]
    pub fn in_blocks_of(mut self, side: u32) -> Self {
        let shares = self.size.map(|size| share_in_blocks(size, side));
        for (own, share) in self.strength.iter_mut().zip(shares) {
            own.iter_mut().for_each(|strength| *strength *= share);
        }
        self.size = self.size.map(|size| size / side as f32);
        self
    }
}

/// How closely neighbours so far apart go together, of noise that was blurred by this: 1 at 0.
pub(crate) fn correlation(size: f32, apart: usize) -> f32 {
    let weights = gaussian_weights(size);
    let own: f32 = weights.iter().map(|weight| weight * weight).sum();
    weights.iter().zip(weights.iter().skip(apart)).map(|(a, b)| a * b).sum::<f32>() / own
}

/// What is left of a standard deviation in the means of blocks; along both axes, so it is that axis' variance.
fn share_in_blocks(size: f32, side: u32) -> f32 {
    let side = side as usize;
    let pairs: f32 = (1..side).map(|apart| 2.0 * (side - apart) as f32 * correlation(size, apart)).sum();
    (side as f32 + pairs) / (side * side) as f32
}

/// Of one channel, with a standard deviation of 1.
fn noise(seed: u32, size: f32, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
    // Four bytes, each even between 0 and 255.
    const MEAN: f32 = 4.0 * 127.5;
    const DEVIATION: f32 = 147.801;
    let sigma = Sigma::round(size);
    let (across, down) = sigma.reach();
    let wide = window.grow(across, down);
    let single: Field = Raster::written(wide, cancel, |y, row: &mut [f32]| {
        let line = mixed(seed ^ (y as u32).wrapping_mul(0xd816_3841));
        for (number, out) in row.iter_mut().enumerate() {
            let x = wide.x0.wrapping_add(number as i32) as u32;
            let drawn = mixed(line ^ x.wrapping_mul(0x8da6_b343));
            let sum = (drawn & 255) + (drawn >> 8 & 255) + (drawn >> 16 & 255) + (drawn >> 24);
            *out = (sum as f32 - MEAN) / DEVIATION;
        }
    })?;
    let mut blurred = gaussian(&single, wide, Edge::Clear, sigma, window, cancel)?;
    // Along both axes, so it is one axis' variance.
    let left: f32 = gaussian_weights(size).iter().map(|weight| weight * weight).sum();
    blurred.change(cancel, |value: f32| value / left)?;
    Ok(blurred)
}

/// Lays grain on a picture; other seeds give other grain.
///
/// # Errors
///
/// When it is called off.
pub fn lay(picture: &mut Picture, grain: &Grain, seed: u32, cancel: &Cancel) -> Result<(), Cancelled> {
    let window = picture.window();
    for channel in 0..3 {
        let strengths = &grain.strength[channel];
        if strengths.iter().all(|strength| *strength == 0.0) {
            continue;
        }
        let own = mixed(seed.wrapping_mul(3).wrapping_add(channel as u32));
        let noise = noise(own, grain.size[channel], window, cancel)?;
        picture.fill_rows(cancel, |y, row| {
            for (pixel, noise) in row.iter_mut().zip(noise.row(y)) {
                let alpha = pixel[3];
                if alpha > 0.0 {
                    pixel[channel] += strength_at(strengths, pixel[channel] / alpha) * alpha * noise;
                }
            }
        })?;
    }
    Ok(())
}

/// Straight between knots.
fn strength_at(strengths: &[f32; KNOTS], light: f32) -> f32 {
    let place = place(light);
    let before = (place as usize).min(KNOTS - 2);
    let share = place - before as f32;
    strengths[before] + (strengths[before + 1] - strengths[before]) * share
}
