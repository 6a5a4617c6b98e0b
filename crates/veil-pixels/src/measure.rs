//! Numbers about signals.

use rayon::prelude::*;

use crate::buffer::raster::Pixel;
use crate::{Map, Raster, Window};

/// Least, mean and most of each channel over a window. Values that are not numbers are passed over.
#[derive(Clone, Debug, PartialEq)]
pub struct Statistics {
    /// Least value by channel.
    pub least: Vec<f32>,
    /// Mean by channel.
    pub mean: Vec<f32>,
    /// Most by channel.
    pub most: Vec<f32>,
}

/// Statistics of what `raster` holds of `window`; `None` where it holds nothing of it.
pub fn statistics<P: Pixel>(raster: &Raster<P>, window: Window) -> Option<Statistics> {
    let part = raster.cropped(window);
    if part.window().is_empty() {
        return None;
    }
    let channel = |index: usize| {
        let values = P::floats(part.pixels()).iter().skip(index).step_by(P::CHANNELS);
        let mut found = (f32::INFINITY, 0.0f64, f32::NEG_INFINITY, 0u64);
        for value in values.filter(|value| !value.is_nan()) {
            found = (found.0.min(*value), found.1 + f64::from(*value), found.2.max(*value), found.3 + 1);
        }
        (found.0, (found.1 / found.3.max(1) as f64) as f32, found.2)
    };
    let channels: Vec<_> = (0..P::CHANNELS).map(channel).collect();
    Some(Statistics {
        least: channels.iter().map(|c| c.0).collect(),
        mean: channels.iter().map(|c| c.1).collect(),
        most: channels.iter().map(|c| c.2).collect(),
    })
}

/// The mean of a map, axis by axis; zero of one without pixels. Moves that are no numbers are passed over.
pub fn mean_move(map: &Map) -> [f32; 2] {
    let of_row = |y: i32| {
        let moves = map.row(y).iter().filter(|moved| moved.iter().all(|along| along.is_finite()));
        moves.fold(([0.0f64; 2], 0u64), |([x, y], count), moved| {
            ([x + f64::from(moved[0]), y + f64::from(moved[1])], count + 1)
        })
    };
    // Added up in the order of the rows, so that the bits do not depend on the number of threads.
    let rows: Vec<_> = map.window().rows().into_par_iter().map(of_row).collect();
    let (sum, count) = rows
        .into_iter()
        .fold(([0.0; 2], 0), |([x, y], count), (row, more)| ([x + row[0], y + row[1]], count + more));
    sum.map(|along| (along / count.max(1) as f64) as f32)
}

/// How many values of each channel lie in each of equally wide bins from `low` to `high`, the last bin with its end;
/// values outside, and those that are not numbers, are passed over. As numpy's histogram.
pub fn histogram<P: Pixel>(raster: &Raster<P>, [low, high]: [f32; 2], bins: usize) -> Vec<Vec<u64>> {
    let none = || vec![vec![0u64; bins]; P::CHANNELS];
    let scale = bins as f32 / (high - low);
    let count = |mut counts: Vec<Vec<u64>>, run: &[P]| {
        for pixel in P::floats(run).chunks_exact(P::CHANNELS) {
            for (counts, value) in counts.iter_mut().zip(pixel) {
                if (low..=high).contains(value) {
                    counts[(((value - low) * scale) as usize).min(bins - 1)] += 1;
                }
            }
        }
        counts
    };
    let sum = |mut a: Vec<Vec<u64>>, b: Vec<Vec<u64>>| {
        for (a, b) in a.iter_mut().flatten().zip(b.iter().flatten()) {
            *a += b;
        }
        a
    };
    raster.pixels().par_chunks(1 << 15).fold(none, count).reduce(none, sum)
}

/// Mean absolute difference of two rasters over all floats of the pixels in both windows; 0 where they share none.
pub fn mean_difference<P: Pixel>(a: &Raster<P>, b: &Raster<P>) -> f64 {
    let shared = a.window().intersect(b.window());
    if shared.is_empty() {
        return 0.0;
    }
    let row_sum = |y: i32| {
        let part = |raster: &Raster<P>| {
            let skip = (shared.x0 - raster.window().x0) as usize;
            skip..skip + shared.width()
        };
        let floats_a = P::floats(&a.row(y)[part(a)]);
        let floats_b = P::floats(&b.row(y)[part(b)]);
        let differences = floats_a.iter().zip(floats_b).map(|(a, b)| f64::from((a - b).abs()));
        differences.filter(|difference| difference.is_finite()).sum::<f64>()
    };
    let sums: Vec<f64> = (shared.y0..shared.y1).into_par_iter().map(row_sum).collect();
    sums.iter().sum::<f64>() / (shared.area() * P::CHANNELS) as f64
}
