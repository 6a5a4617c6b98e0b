//! What shines, spread over what lies round it.
//!
//! - Shape: a picture, premultiplied and scene-linear, and perhaps a matte of what may shine; a picture of the light that
//!   is spread, with the coverage that it has.
//! - Units: the threshold is a luma in scene-linear light; σ in pixels of this picture.
//! - Range: colours may be of any size; below the threshold nothing shines, and above it only what is more, in the colour
//!   that it has.
//! - Edges: nothing comes from beyond the picture.
//! - Energy: the sum of what is spread is that of what shines, as far as it stays within the picture.

use crate::{Cancel, Cancelled, Field, Picture};

/// What shines of one pixel.
fn shining([r, g, b, a]: [f32; 4], threshold: f32, luma: [f32; 3], counts: f32) -> [f32; 4] {
    let light = r * luma[0] + g * luma[1] + b * luma[2];
    let over = light - threshold * a;
    if !(over > 0.0) || !light.is_finite() {
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
