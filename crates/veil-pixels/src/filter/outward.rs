//! Colours drawn outward from where they are known.
//!
//! - Shape: colours times how well they are known, and that from 0 to 1 in the fourth place; the result covers the window asked for.
//! - Units: the width in pixels of this raster; nothing is drawn further than the blur of [`reach`] goes.
//! - Result: a colour, and in the fourth place whether there is one, from 0 to 1: at a straight edge it is whole up to the width.
//! - Method: normalised convolution with Gaussians, each half as wide as the one before; a narrower one counts as soon as it sees
//!   something, so that near the edge a colour is that of its nearest neighbours and far off a mean of many. Nothing is made up:
//!   every colour lies between known ones.
//! - Source: Knutsson and Westin, "Normalized and differential convolution", 1993.

use super::blur::{Sigma, gaussian};
use crate::{Cancel, Cancelled, Edge, Picture, Raster, Window};

/// A Gaussian whose edge lies this many standard deviations off sees next to nothing of what is behind it: Φ(−3) of it.
const DEVIATIONS: f32 = 3.0;
const NEXT_TO_NOTHING: f32 = 0.001_35;
/// A narrower Gaussian counts in whole from this share of it on.
const SEES: f32 = 0.05;
/// Narrower than this, in pixels, a blur is none.
const NARROWEST: f32 = 0.5;

/// How far is read about a place.
#[must_use]
pub fn reach(width: f32) -> i32 {
    widths(width).map(|sigma| Sigma::round(sigma).reach().0).max().unwrap_or(0)
}

/// Standard deviations, the widest first.
fn widths(width: f32) -> impl Iterator<Item = f32> {
    let widest = (width / DEVIATIONS).max(NARROWEST);
    std::iter::successors(Some(widest), |sigma| Some(sigma / 2.0)).take_while(|sigma| *sigma >= NARROWEST)
}

/// What is drawn outward over a window.
///
/// # Errors
///
/// When it is called off.
pub fn outward(
    known: &Picture,
    data: Window,
    width: f32,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let mut made: Picture = Raster::clear(wanted);
    for sigma in widths(width) {
        let seen = gaussian(known, data, Edge::Clear, Sigma::round(sigma), wanted, cancel)?;
        made.fill_rows(cancel, |y, row| {
            for (out, [red, green, blue, weight]) in row.iter_mut().zip(seen.row(y)) {
                if *weight <= 0.0 {
                    continue;
                }
                let first = out[3] == 0.0;
                let share = if first { 1.0 } else { (weight / SEES).min(1.0) };
                for (own, sum) in out.iter_mut().zip([red, green, blue]) {
                    *own += (sum / weight - *own) * share;
                }
                out[3] = out[3].max((weight / NEXT_TO_NOTHING).min(1.0));
            }
        })?;
    }
    Ok(made)
}
