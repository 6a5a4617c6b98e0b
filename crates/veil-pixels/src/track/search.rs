//! Where a pattern may be, to about a pixel.
//!
//! - Source: normalised cross-correlation, Lewis, "Fast Normalized Cross-Correlation", 1995.

use multiversion::multiversion;

use crate::{Field, Window};

/// A place that looks like the pattern.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Likely {
    /// How far from where it was looked for.
    pub(super) moved: [f64; 2],
    /// The correlation there.
    pub(super) likeness: f32,
}

/// Beyond this many pixels it is looked for on an image a quarter as fine.
const FAR: f64 = 24.0;
/// Pixels a side whose mean is looked at.
const FINE: u32 = 2;
const COARSE: u32 = 4;
/// Places that are worked out beside each other.
const LANES: usize = 24;

/// A small image of a pattern, to be looked for, as differences from its mean.
#[derive(Clone)]
pub(super) struct Patch {
    half: [f64; 2],
    /// It is made of the means of so many pixels a side.
    divisor: u32,
    wide: usize,
    values: Vec<f32>,
    spread: f32,
}

/// The means of blocks about a place, row by row, so that the place lies in the middle of a block, and how many there are
/// in a row. Beyond the image its border goes on.
fn shrunk(image: &Field, centre: [f64; 2], half: [f64; 2], divisor: u32) -> (Vec<f32>, usize) {
    let step = divisor as i32;
    let span = |axis: usize| {
        let blocks = (half[axis] / f64::from(divisor)).floor().max(0.0) as i32;
        (centre[axis].floor() as i32 - step / 2 - blocks * step, (2 * blocks + 1) as usize)
    };
    let ((left, wide), (top, high)) = (span(0), span(1));
    let window = image.window();
    let inside = window.contains(Window::new(left, top, left + wide as i32 * step, top + high as i32 * step));
    let mut sums = vec![0.0f32; wide * high];
    for (block, row) in sums.chunks_exact_mut(wide).enumerate() {
        for line in 0..step {
            let y = (top + block as i32 * step + line).clamp(window.y0, window.y1 - 1);
            let pixels = image.row(y);
            let first = left - window.x0;
            if inside {
                let pixels = &pixels[first as usize..][..wide * divisor as usize];
                if divisor == FINE {
                    add_blocks::<{ FINE as usize }>(pixels, row)
                } else {
                    add_blocks::<{ COARSE as usize }>(pixels, row)
                }
            } else {
                let held = |x: i32| pixels[x.clamp(0, pixels.len() as i32 - 1) as usize];
                for (sum, x) in row.iter_mut().zip((first..).step_by(step as usize)) {
                    *sum += (x..x + step).map(held).sum::<f32>();
                }
            }
        }
    }
    let share = 1.0 / (step * step) as f32;
    sums.iter_mut().for_each(|sum| *sum *= share);
    (sums, wide)
}

/// Adds to each sum `N` pixels beside each other.
fn add_blocks<const N: usize>(pixels: &[f32], sums: &mut [f32]) {
    let (blocks, _) = pixels.as_chunks::<N>();
    sums.iter_mut().zip(blocks).for_each(|(sum, block)| *sum += block.iter().sum::<f32>());
}

impl Patch {
    /// What an image shows within so far of a centre, to be looked for within a reach.
    pub(super) fn new(image: &Field, centre: [f64; 2], half: [f64; 2], reach: [f64; 2]) -> Self {
        let divisor = if reach[0].max(reach[1]) > FAR { COARSE } else { FINE };
        let (mut values, wide) = shrunk(image, centre, half, divisor);
        let mean = values.iter().sum::<f32>() / values.len().max(1) as f32;
        values.iter_mut().for_each(|value| *value -= mean);
        let spread = values.iter().map(|value| value * value).sum::<f32>().sqrt();
        Self { half, divisor, wide, values, spread }
    }

    /// The likeliest places within so far of a centre, the best first, at most `most`.
    pub(super) fn look(&self, image: &Field, centre: [f64; 2], reach: [f64; 2], most: usize) -> Vec<Likely> {
        let high = self.values.len() / self.wide.max(1);
        let (mut area, columns) =
            shrunk(image, centre, [0, 1].map(|axis| self.half[axis] + reach[axis]), self.divisor);
        let rows = area.len() / columns.max(1);
        if self.wide == 0 || high == 0 || columns < self.wide || rows < high || self.spread <= 0.0 {
            return Vec::new();
        }
        let (across, down) = (columns - self.wide + 1, rows - high + 1);
        let mut likeness = vec![0.0; across * down];
        correlations(self, &mut area, columns, across, &mut likeness);
        let at = |x: usize, y: usize| likeness[y * across + x];
        let peak = |x: usize, y: usize| {
            let near = |place: usize, count: usize| place.saturating_sub(1)..(place + 2).min(count);
            near(y, down).all(|row| near(x, across).all(|column| at(column, row) <= at(x, y)))
        };
        let step = f64::from(self.divisor);
        let mut found: Vec<Likely> = (0..across * down)
            .map(|place| (place % across, place / across))
            .filter(|(x, y)| peak(*x, *y))
            .map(|(x, y)| {
                let from = |place: usize, count: usize| (place as f64 - (count - 1) as f64 / 2.0) * step;
                Likely { moved: [from(x, across), from(y, down)], likeness: at(x, y) }
            })
            .collect();
        found.sort_by(|a, b| b.likeness.total_cmp(&a.likeness));
        found.truncate(most);
        found
    }
}

/// The correlation of a patch with an area, at each place of the area that it can be laid on, row by row.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn correlations(patch: &Patch, area: &mut Vec<f32>, columns: usize, across: usize, out: &mut [f32]) {
    let (wide, count) = (patch.wide, patch.values.len() as f32);
    let high = patch.values.len() / wide;
    // Places beyond the last of a row are worked out with the others, from whatever comes next.
    area.resize(area.len() + across.next_multiple_of(LANES), 0.0);
    let mut columns_of = [vec![0.0f32; columns], vec![0.0f32; columns]];
    for (y, out) in out.chunks_exact_mut(across).enumerate() {
        let line = |row: usize| &area[(y + row) * columns..];
        for (block, out) in out.chunks_mut(LANES).enumerate() {
            let mut products = [0.0f32; LANES];
            for (row, values) in patch.values.chunks_exact(wide).enumerate() {
                let seen = &line(row)[block * LANES..][..wide + LANES - 1];
                for (value, seen) in values.iter().zip(seen.windows(LANES)) {
                    products.iter_mut().zip(seen).for_each(|(product, seen)| *product += value * seen);
                }
            }
            out.copy_from_slice(&products[..out.len()]);
        }
        columns_of.iter_mut().for_each(|sums| sums.fill(0.0));
        let [sums, squares] = &mut columns_of;
        for row in 0..high {
            for ((sum, square), seen) in sums.iter_mut().zip(squares.iter_mut()).zip(line(row)) {
                *sum += seen;
                *square += seen * seen;
            }
        }
        for ((out, sum), square) in out.iter_mut().zip(moving(sums, wide)).zip(moving(squares, wide)) {
            let spread = (square - sum * sum / count).max(0.0).sqrt() * patch.spread;
            *out = if spread > 1e-9 { *out / spread } else { 0.0 };
        }
    }
}

/// The sums of so many values beside each other, from the first on.
fn moving(values: &[f32], wide: usize) -> impl Iterator<Item = f32> {
    let mut sum: f64 = values[..wide - 1].iter().copied().map(f64::from).sum();
    values.iter().zip(&values[wide - 1..]).map(move |(first, last)| {
        sum += f64::from(*last);
        let here = sum as f32;
        sum -= f64::from(*first);
        here
    })
}
