//! What the values of a picture are, as an eye on the screen has them: how many of each, and where.

use serde::Serialize;

use crate::signal::Pixels;
use crate::view::{Look, Screens, View, bytes};

/// Steps of a histogram.
const STEPS: usize = 128;
/// Columns and levels of a waveform.
const COLUMNS: usize = 192;
/// See columns.
const LEVELS: usize = 64;

/// Counts of what is seen, by byte of the screen.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Scopes {
    /// Red, green and blue: how many pixels have each of so many steps from black to full.
    pub histogram: [Vec<u32>; 3],
    /// How many pixels of each column have each level of luma, column by column from the left, levels from the
    /// bottom up.
    pub waveform: Vec<u32>,
    /// Columns of the waveform.
    pub columns: usize,
    /// Levels of the waveform.
    pub levels: usize,
    /// The share of floats above 1.
    pub above: f64,
    /// The share of floats below 0.
    pub below: f64,
}

/// Counts what is seen of a signal.
pub fn scopes(pixels: &Pixels, view: View, screens: &Screens) -> Scopes {
    let view = View { look: Look::Colour, ..view };
    let seen = bytes(pixels, view, screens);
    let wide = pixels.window().width().max(1);
    let mut histogram = [(); 3].map(|()| vec![0; STEPS]);
    let mut waveform = vec![0; COLUMNS * LEVELS];
    for (at, pixel) in seen.chunks_exact(4).enumerate() {
        for (counts, byte) in histogram.iter_mut().zip(pixel) {
            counts[usize::from(*byte) * STEPS / 256] += 1;
        }
        // ITU-R BT.709 weights on screen values: the luma of video.
        let [red, green, blue] = [pixel[0], pixel[1], pixel[2]].map(f32::from);
        let luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue;
        let (column, level) = ((at % wide) * COLUMNS / wide, (luma.round() as usize).min(255) * LEVELS / 256);
        waveform[column * LEVELS + level] += 1;
    }
    let (above, below) = outside(pixels);
    Scopes { histogram, waveform, columns: COLUMNS, levels: LEVELS, above, below }
}

/// The shares of colour floats above 1 and below 0; of alpha nothing is said.
fn outside(pixels: &Pixels) -> (f64, f64) {
    let share = |floats: usize, count: fn(&f32) -> bool, of: &[f32], channels: usize| {
        let counted = of.chunks_exact(channels).flat_map(|pixel| &pixel[..channels.min(3)]);
        counted.filter(|value| count(value)).count() as f64 / floats.max(1) as f64
    };
    let (of, channels) = match pixels {
        Pixels::Picture(raster) => (raster.pixels().as_flattened(), 4),
        Pixels::Field(raster) => (raster.pixels(), 1),
        Pixels::Map(raster) => (raster.pixels().as_flattened(), 2),
    };
    let floats = of.len() / channels * channels.min(3);
    (share(floats, |value| *value > 1.0, of, channels), share(floats, |value| *value < 0.0, of, channels))
}
