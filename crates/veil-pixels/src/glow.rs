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
    use crate::blur::{Sigma, gaussian};
    use crate::{Edge, Raster, Window};

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
