//! Places that can be followed well.
//!
//! - Shape: places of a field, the best first.
//! - Source: Shi and Tomasi, "Good Features to Track", 1994: the smaller eigenvalue of the summed products of the slopes.

use crate::filter::blur::{Sigma, gaussian};
use crate::{Cancel, Cancelled, Edge, Field, Raster, Window};

/// Standard deviation of the weights that the slopes are summed by, in pixels.
const SUM_SIGMA: f32 = 2.5;
/// Places with less than this share of the best one's value are none.
const LEAST_SHARE: f32 = 0.01;

/// At most so many places where `counts` holds, no two nearer to each other than `apart` pixels, and none nearer to the
/// border.
pub fn corners(
    image: &Field,
    most: usize,
    apart: f64,
    counts: impl Fn(i32, i32) -> bool,
    cancel: &Cancel,
) -> Result<Vec<[f64; 2]>, Cancelled> {
    let window = image.window();
    let slopes: Raster<[f32; 4]> = Raster::from_fn(window, |x, y| {
        let value = |x: i32, y: i32| {
            let near = |at: i32, from: i32, to: i32| at.clamp(from, to - 1);
            image.get(near(x, window.x0, window.x1), near(y, window.y0, window.y1)).unwrap_or(0.0)
        };
        let (dx, dy) = (value(x + 1, y) - value(x - 1, y), value(x, y + 1) - value(x, y - 1));
        [dx * dx, dx * dy, dy * dy, 0.0]
    });
    let summed = gaussian(&slopes, window, Edge::Hold, Sigma::round(SUM_SIGMA), window, cancel)?;
    let strength = summed.map(cancel, |[xx, xy, yy, _]: [f32; 4]| {
        let (half, other) = ((xx + yy) / 2.0, (xx - yy) / 2.0);
        half - other.hypot(xy)
    })?;
    let margin = apart.ceil() as i32;
    let inner = Window::new(window.x0 + margin, window.y0 + margin, window.x1 - margin, window.y1 - margin);
    let mut peaks = Vec::new();
    for (y, x) in (inner.y0..inner.y1).flat_map(|y| (inner.x0..inner.x1).map(move |x| (y, x))) {
        let here = strength.get(x, y).unwrap_or(0.0);
        let around = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| (dx, dy)));
        let highest = around.map(|(dx, dy)| strength.get(x + dx, y + dy).unwrap_or(0.0)).fold(0.0, f32::max);
        if here > 0.0 && here >= highest && counts(x, y) {
            peaks.push((here, x, y));
        }
    }
    peaks.sort_by(|a, b| b.0.total_cmp(&a.0).then((a.2, a.1).cmp(&(b.2, b.1))));
    let best = peaks.first().map_or(0.0, |peak| peak.0);
    let mut kept: Vec<[f64; 2]> = Vec::new();
    for (strength, x, y) in peaks {
        if kept.len() == most || strength < best * LEAST_SHARE {
            break;
        }
        let place = [f64::from(x) + 0.5, f64::from(y) + 0.5];
        if kept.iter().all(|other| (other[0] - place[0]).hypot(other[1] - place[1]) >= apart) {
            kept.push(place);
        }
    }
    Ok(kept)
}
