//! Several rasters of one window, such as frames of a shot, as one.
//!
//! - Shape: each has the same window; the result too.
//! - The median of an even number is the mean of both in the middle, as numpy has it; each float of a pixel goes by itself.
//! - Source of the sorting network: Batcher, "Sorting networks and their applications", 1968; of it only the steps that the middle
//!   needs.

use multiversion::multiversion;

use crate::buffer::raster::Pixel;
use crate::{Cancel, Cancelled, Raster, Window};

/// Floats that are sorted side by side.
const LANES: usize = 32;

/// At each pixel the mean; none of no rasters.
pub fn mean<P: Pixel>(all: &[Raster<P>], cancel: &Cancel) -> Result<Option<Raster<P>>, Cancelled> {
    let Some(window) = one_window(all) else { return Ok(None) };
    let share = 1.0 / all.len() as f32;
    let made = Raster::written(window, cancel, |y, row: &mut [P]| {
        row.copy_from_slice(all[0].row(y));
        for other in &all[1..] {
            row.iter_mut().zip(other.row(y)).for_each(|(sum, own)| *sum = sum.plus(*own, 1.0));
        }
        row.iter_mut().for_each(|sum| *sum = P::default().plus(*sum, share));
    })?;
    Ok(Some(made))
}

/// At each pixel the median; none of no rasters.
pub fn median<P: Pixel>(all: &[Raster<P>], cancel: &Cancel) -> Result<Option<Raster<P>>, Cancelled> {
    let Some(window) = one_window(all) else { return Ok(None) };
    let network = Network::of_middle(all.len());
    let begin = || vec![[0.0f32; LANES]; all.len()];
    let made = Raster::written_with(window, cancel, begin, |sorted, y, row: &mut [P]| {
        let rows: Vec<&[f32]> = all.iter().map(|one| P::floats(one.row(y))).collect();
        middles(&network, &rows, sorted, P::floats_mut(row));
    })?;
    Ok(Some(made))
}

fn one_window<P: Pixel>(all: &[Raster<P>]) -> Option<Window> {
    let window = all.first()?.window();
    debug_assert!(all.iter().all(|one| one.window() == window), "frames of one window are put together");
    Some(window)
}

/// Which two are put in order, one after the other, until what is in the middle is there.
struct Network {
    steps: Vec<[usize; 2]>,
    /// Both in the middle; of an odd number the same.
    middle: [usize; 2],
}

impl Network {
    fn of_middle(count: usize) -> Self {
        let middle = [(count - 1) / 2, count / 2];
        let mut needed = vec![false; count];
        middle.iter().for_each(|at| needed[*at] = true);
        let mut steps: Vec<[usize; 2]> = merges(count)
            .into_iter()
            .rev()
            .filter(|[low, high]| {
                let counts = needed[*low] || needed[*high];
                needed[*low] |= counts;
                needed[*high] |= counts;
                counts
            })
            .collect();
        steps.reverse();
        Self { steps, middle }
    }
}

/// Steps that sort so many: odd and even places are merged, over more and more.
fn merges(count: usize) -> Vec<[usize; 2]> {
    let mut steps = Vec::new();
    let mut sorted = 1;
    while sorted < count {
        let mut apart = sorted;
        while apart > 0 {
            for first in (apart % sorted..count.saturating_sub(apart)).step_by(2 * apart) {
                let run = first..(first + apart).min(count - apart);
                steps.extend(
                    run.map(|low| [low, low + apart])
                        .filter(|[low, high]| low / (2 * sorted) == high / (2 * sorted)),
                );
            }
            apart /= 2;
        }
        sorted *= 2;
    }
    steps
}

#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn middles(network: &Network, rows: &[&[f32]], sorted: &mut [[f32; LANES]], out: &mut [f32]) {
    let [a, b] = network.middle;
    for (number, out) in out.chunks_mut(LANES).enumerate() {
        for (sorted, row) in sorted.iter_mut().zip(rows) {
            sorted[..out.len()].copy_from_slice(&row[number * LANES..][..out.len()]);
        }
        for [low, high] in &network.steps {
            let (before, after) = sorted.split_at_mut(*high);
            for (low, high) in before[*low].iter_mut().zip(&mut after[0]) {
                let (own, other) = (*low, *high);
                *low = if own < other { own } else { other };
                *high = if own < other { other } else { own };
            }
        }
        for (out, (a, b)) in out.iter_mut().zip(sorted[a].iter().zip(&sorted[b])) {
            // Halved first, so that the largest have a mean.
            *out = if a == b { *a } else { a / 2.0 + b / 2.0 };
        }
    }
}
