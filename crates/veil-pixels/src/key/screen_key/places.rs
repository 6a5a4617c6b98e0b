//! Where, about a figure, a pixel lies: how far from the screen, from the middle of its edge, and from anything of it.

use crate::filter::blur::{Sigma, gaussian};
use crate::filter::chamfer::spread;
use crate::{Cancel, Cancelled, Edge, Field, Raster};

use super::before::Before;

/// The noise of a picture of a screen, as standard deviations.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Noise {
    /// In each channel.
    pub channels: [f32; 3],
    /// In the coverage by colour difference.
    pub coverage: f32,
}

impl Noise {
    /// From what pixels beside each other differ by where the screen is seen: it changes slowly, noise does not.
    pub fn of(before: Before<'_>, matte: &Field) -> Self {
        let Before { picture, behind, screen } = before;
        let mut steps: [Vec<f32>; 3] = Default::default();
        let mut excess = Vec::new();
        let window = picture.window();
        for y in (window.y0..window.y1).step_by(4) {
            let pairs = picture
                .row(y)
                .chunks_exact(2)
                .zip(matte.row(y).chunks_exact(2))
                .zip(behind.row(y).chunks_exact(2));
            for ((seen, matte), behind) in pairs.step_by(2) {
                if matte[0] < 0.2 && matte[1] < 0.2 {
                    for channel in 0..3 {
                        steps[channel].push((seen[0][channel] - seen[1][channel]).abs());
                    }
                    excess.push(screen.excess(behind[0]));
                }
            }
        }
        let middle = |mut values: Vec<f32>| {
            let at = values.len() / 2;
            if values.is_empty() { 0.0 } else { *values.select_nth_unstable_by(at, f32::total_cmp).1 }
        };
        // The median of what two normal numbers differ by is 0.954 of their deviation.
        let channels = steps.map(|steps| middle(steps) / 0.954 + 1e-4);
        let own = screen.channel();
        let other = channels[(own + 1) % 3].max(channels[(own + 2) % 3]);
        let whole = middle(excess).max(1e-6);
        Self { channels, coverage: channels[own].hypot(other) / whole }
    }
}

/// Where each pixel lies.
pub struct Places {
    /// The coverage by each pixel alone, without its finest noise.
    pub(super) soft: Field,
    /// Distances to the screen, to what is less than half covered, and to a figure; the last is unused.
    pub(super) distances: Raster<[f32; 4]>,
    /// No distance is longer.
    pub(super) most: f32,
}

/// Coverage that nobody sees.
const LEAST: f32 = 0.01;
/// Coverage from which on, above what is faint, a pixel is one of a figure.
const NEAR_FIGURE: f32 = 0.17;

impl Places {
    /// About the figure of a matte by each pixel alone; `faint` is what may be noise and folds, and no edge is wider than
    /// `width` pixels.
    pub fn of(
        matte: &Field,
        noise: Noise,
        faint: f32,
        width: f32,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let window = matte.window();
        let sigma = (0.7 + 6.0 * noise.coverage).min(1.5);
        let soft = gaussian(matte, window, Edge::Hold, Sigma::round(sigma), window, cancel)?;
        let most = 2.0 * width.max(2.0);
        let seeds = soft.map(cancel, |coverage: f32| {
            let seed = |there: bool| if there { 0.0 } else { most };
            [seed(coverage < 0.15), seed(coverage < 0.5), seed(coverage >= faint + NEAR_FIGURE), most]
        })?;
        Ok(Self { soft, distances: spread(&seeds, most, cancel)?, most })
    }

    /// How much a pixel at these distances can be of an edge that reaches in from its middle `deeper` times as far as it
    /// seems to reach out.
    pub(super) fn mixed([to_screen, to_middle, ..]: [f32; 4], deeper: f32) -> f32 {
        let half = (to_screen - to_middle).max(0.5);
        (1.5 + deeper * half - to_middle).clamp(0.0, 1.0)
    }
}

/// The coverage without what is no more than `faint` and farther than `width` from any figure: noise and folds of the
/// screen. From there up to twice as much it comes back evenly. What noise may add to none, or take off the whole, goes
/// everywhere.
pub fn cleaned(
    matte: &Field,
    places: &Places,
    noise: Noise,
    faint: f32,
    width: f32,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    let faint = faint.max(3.0 * noise.coverage);
    let least = (1.5 * noise.coverage).clamp(LEAST, 0.2);
    // None up to `least`, all from two and a half times that on.
    let settled = |value: f32, least: f32| value - value.min(((2.5 * least - value) / 1.5).clamp(0.0, least));
    Raster::written(matte.window(), cancel, |y, row| {
        for ((coverage, places), out) in matte.row(y).iter().zip(places.distances.row(y)).zip(row) {
            let far = places[2] >= width.max(1.0) - 0.5;
            let left = if far { ((coverage - faint) / faint).clamp(0.0, 1.0) } else { 1.0 };
            // Right beside a figure it may as well be a hair.
            let least = if places[2] >= 2.0 { least } else { noise.coverage.clamp(LEAST, 0.2) };
            *out = 1.0 - settled(1.0 - settled(coverage * left, least), least);
        }
    })
}
