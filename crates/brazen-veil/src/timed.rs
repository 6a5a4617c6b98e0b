//! How long work takes, on pictures of one size.

use std::time::Instant;

pub(crate) const WIDTH: u32 = 1920;
pub(crate) const HEIGHT: u32 = 1080;

/// Median milliseconds.
pub(crate) fn median(times: usize, work: &mut dyn FnMut()) -> f64 {
    let mut taken: Vec<f64> = (0..times)
        .map(|_| {
            let start = Instant::now();
            work();
            start.elapsed().as_secs_f64() * 1e3
        })
        .collect();
    taken.sort_by(f64::total_cmp);
    taken[times / 2]
}
