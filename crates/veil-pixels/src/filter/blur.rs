//! Gaussian blur, one axis at a time, its cost nearly independent of its width.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: sigma (the standard deviation) in pixels of this raster, by axis. 0 leaves the axis
//!   bit for bit as it is.
//! - Kernel: sampled at pixel centres out to `ceil(3.5σ)`, scaled to sum to 1. From σ 4 on the
//!   signal is first halved by the binomial `1 5 10 10 5 1` until σ falls below 4, blurred there,
//!   and brought back by the same binomial. Variances add (each halving and each doubling adds
//!   5/4 pixel² of its finer grid), so the small blur is given what is left of σ².
//!   Halved grids are aligned to the origin, so that a region equals the crop of the whole.
//! - Accuracy: within 1e-3 of the true Gaussian, relative to the peak of an impulse.
//! - Edges: as the [`Edge`] says, outside the data window.
//! - Source: Burt and Adelson, "The Laplacian Pyramid as a Compact Image Code", 1983, for the
//!   halving and doubling; the variance bookkeeping is worked out above.

use multiversion::multiversion;
use multiversion::target::target_cfg_f;

use crate::buffer::prefetch;
use crate::buffer::raster::{Pixel, Wide, extend_row};
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// Standard deviation by axis, in pixels of the raster.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sigma {
    /// Along rows.
    pub x: f32,
    /// Down columns.
    pub y: f32,
}

impl Sigma {
    /// The same along both axes.
    pub const fn round(sigma: f32) -> Self {
        Self { x: sigma, y: sigma }
    }

    /// How far from a pixel the blur reads, by axis.
    pub fn reach(self) -> (i32, i32) {
        (AxisPlan::new(self.x).reach(), AxisPlan::new(self.y).reach())
    }
}

/// Widest σ that is convolved directly.
const WIDEST_DIRECT: f32 = 4.0;
/// What one halving and one doubling together add to the variance, in pixels² of the finer grid.
const VARIANCE_A_LEVEL: f32 = 2.5;
pub(crate) const HALVE: [f32; 6] = [1.0 / 32.0, 5.0 / 32.0, 10.0 / 32.0, 10.0 / 32.0, 5.0 / 32.0, 1.0 / 32.0];
/// Weights of the coarse pixel that holds a fine pixel, of its near neighbour and of its far one.
const DOUBLE: [f32; 3] = [10.0 / 16.0, 5.0 / 16.0, 1.0 / 16.0];

pub(crate) struct AxisPlan {
    /// How often it halves.
    pub(crate) levels: u32,
    /// What is convolved then.
    pub(crate) weights: Vec<f32>,
}

impl AxisPlan {
    pub(crate) fn new(sigma: f32) -> Self {
        let mut levels = 0;
        let mut left = sigma * sigma;
        while left >= WIDEST_DIRECT * WIDEST_DIRECT {
            left = (left - VARIANCE_A_LEVEL) / 4.0;
            levels += 1;
        }
        Self { levels, weights: gaussian_weights(left.sqrt()) }
    }

    pub(crate) fn radius(&self) -> i32 {
        (self.weights.len() / 2) as i32
    }

    fn is_identity(&self) -> bool {
        self.levels == 0 && self.weights.len() == 1
    }

    /// What [`Self::ranges`] reads from a pixel, either way, at its farthest: that depends on where on the coarser grids
    /// the pixel lies. Each halving goes 2 pixels of its finer grid beyond what the coarser one reads, each doubling 2,
    /// and pixels within a coarse one another `2^levels - 1`.
    fn reach(&self) -> i32 {
        ((5 + self.radius()) << self.levels) - 5
    }

    /// What is read at each level, finest first, to give `from..to` of the finest.
    fn ranges(&self, from: i32, to: i32) -> Vec<(i32, i32)> {
        let (mut a, mut b) = (from, to);
        for _ in 0..self.levels {
            (a, b) = (a.div_euclid(2) - 1, (b - 1).div_euclid(2) + 2);
        }
        let mut ranges = vec![(a - self.radius(), b + self.radius())];
        for _ in 0..self.levels {
            let (a, b) = ranges[ranges.len() - 1];
            ranges.push((2 * a - 2, 2 * b + 2));
        }
        ranges.reverse();
        ranges
    }

    /// Halves the rows as often as the plan says and convolves them. The first step reads through the edge,
    /// so that a wide blur never holds what lies outside.
    fn down_x<P: Pixel>(
        &self,
        source: &Raster<P>,
        data: Window,
        edge: Edge,
        reads: &[(i32, i32)],
        rows: (i32, i32),
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let (first, wide) = (reads[0].0, (reads[0].1 - reads[0].0) as usize);
        let window = |(x0, x1): (i32, i32)| Window::new(x0, rows.0, x1, rows.1);
        let range = self.after_first(reads);
        let mut made = Raster::written_with(
            window(range),
            cancel,
            || vec![P::default(); wide],
            |scratch, y, row| {
                extend_row(source.row(y), source.window().x0, data, edge, first, scratch);
                if self.levels > 0 {
                    halve_row(scratch, first, range.0, row);
                } else {
                    weigh_neighbours(P::floats(scratch), P::CHANNELS, &self.weights, P::floats_mut(row));
                }
            },
        )?;
        for &range in reads.iter().skip(2) {
            made = halve_x(&made, range, cancel)?;
        }
        if self.levels > 0 { convolve_x(&made, &self.weights, cancel) } else { Ok(made) }
    }

    /// As [`Self::down_x`], down the columns.
    fn down_y<P: Pixel>(
        &self,
        source: &Raster<P>,
        data: Window,
        edge: Edge,
        reads: &[(i32, i32)],
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let nothing = vec![P::default(); source.window().width()];
        let row_at = |y: i32| match edge.index(y, data.y0, data.y1) {
            Some(y) if !source.row(y).is_empty() => P::floats(source.row(y)),
            _ => P::floats(&nothing),
        };
        let radius = self.radius();
        let mut made = Raster::written_with(
            with_rows(source.window(), self.after_first(reads)),
            cancel,
            || Vec::with_capacity(self.weights.len()),
            |rows, y, row| {
                rows.clear();
                if self.levels > 0 {
                    rows.extend((2 * y - 2..2 * y + 4).map(row_at));
                    weigh_rows(rows, &HALVE, P::floats_mut(row));
                } else {
                    rows.extend((y - radius..=y + radius).map(row_at));
                    weigh_rows(rows, &self.weights, P::floats_mut(row));
                }
            },
        )?;
        for &range in reads.iter().skip(2) {
            made = halve_y(&made, range, cancel)?;
        }
        if self.levels > 0 { convolve_y(&made, &self.weights, cancel) } else { Ok(made) }
    }

    /// The run that the first step gives: the next level, or what convolving leaves.
    fn after_first(&self, reads: &[(i32, i32)]) -> (i32, i32) {
        match reads.get(1) {
            Some(next) => *next,
            None => (reads[0].0 + self.radius(), reads[0].1 - self.radius()),
        }
    }

    /// What is held at each level on the way back, finest first.
    fn results(&self, from: i32, to: i32) -> Vec<(i32, i32)> {
        let mut ranges = vec![(from, to)];
        for _ in 0..self.levels {
            let (a, b) = ranges[ranges.len() - 1];
            ranges.push((a.div_euclid(2) - 1, (b - 1).div_euclid(2) + 2));
        }
        ranges
    }
}

/// Samples of a Gaussian at whole distances, scaled to sum to 1; a lone 1 where σ is 0.
pub fn gaussian_weights(sigma: f32) -> Vec<f32> {
    let sigma = f64::from(sigma);
    let radius = (3.5 * sigma).ceil() as i32;
    let sample = |at: i32| (-0.5 * (f64::from(at) / sigma.max(f64::MIN_POSITIVE)).powi(2)).exp();
    let samples: Vec<f64> = (-radius..=radius).map(sample).collect();
    let sum: f64 = samples.iter().sum();
    samples.iter().map(|sample| (sample / sum) as f32).collect()
}

/// Blurs `source` and gives the pixels of `wanted`.
///
/// `data` is where the signal exists; `source` must hold all of it that lies within
/// [`Sigma::reach`] of `wanted`.
pub fn gaussian<P: Pixel>(
    source: &Raster<P>,
    data: Window,
    edge: Edge,
    sigma: Sigma,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let (plan_x, plan_y) = (AxisPlan::new(sigma.x), AxisPlan::new(sigma.y));
    if wanted.is_empty() || (plan_x.is_identity() && plan_y.is_identity()) {
        return Ok(source.extended(wanted, data, edge));
    }
    if data.is_empty() {
        return Ok(Raster::clear(wanted));
    }
    if plan_x.levels == 0 && plan_y.levels == 0 {
        return convolve(source, data, edge, [&plan_x.weights, &plan_y.weights], wanted, cancel);
    }
    let reads_x = plan_x.ranges(wanted.x0, wanted.x1);
    let reads_y = plan_y.ranges(wanted.y0, wanted.y1);
    let rows = edge.reads(reads_y[0], data.y0, data.y1);
    let mut signal = plan_x.down_x(source, data, edge, &reads_x, rows, cancel)?;
    signal = plan_y.down_y(&signal, data, edge, &reads_y, cancel)?;
    let results_x = plan_x.results(wanted.x0, wanted.x1);
    let results_y = plan_y.results(wanted.y0, wanted.y1);
    for &range in results_y.iter().rev().skip(1) {
        signal = double_y(&signal, range, cancel)?;
    }
    for &range in results_x.iter().rev().skip(1) {
        signal = double_x(&signal, range, cancel)?;
    }
    debug_assert_eq!(signal.window(), wanted);
    Ok(signal)
}

/// What one halving adds to the variance, in pixels² of the finer grid.
pub(crate) const HALVING_VARIANCE: f32 = VARIANCE_A_LEVEL / 2.0;

/// Every second pixel of the signal smoothed by the binomial; `source` must hold what `window`, in coarser pixels,
/// reads of it.
pub(crate) fn halved<P: Pixel>(
    source: &Raster<P>,
    window: Window,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    halve_y(&halve_x(source, (window.x0, window.x1), cancel)?, (window.y0, window.y1), cancel)
}

fn with_columns(window: Window, (x0, x1): (i32, i32)) -> Window {
    Window { x0, x1, ..window }
}

fn with_rows(window: Window, (y0, y1): (i32, i32)) -> Window {
    Window { y0, y1, ..window }
}

/// Most rows that are blurred together; the rows about them are convolved along x once more for each such band.
const BAND: usize = 96;
/// Fewest rows that are blurred together, where few are to be shared out.
const LOWEST_BAND: usize = 16;
/// Floats along x that are blurred together down a band: what one result is made of stays in the nearest cache.
const STRIP: usize = 256;

/// How many rows before it is read a strip's part of a row is asked for.
const ROWS_AHEAD: i32 = 2;

/// How many rows are blurred together of so many, so that every thread has its share.
fn rows_of_a_band(height: usize) -> usize {
    height.div_ceil(2 * rayon::current_num_threads()).clamp(LOWEST_BAND, BAND)
}

/// What is convolved: `data` is where it exists, beyond that it is as the edge says.
#[derive(Clone, Copy)]
struct Convolved<'a, P: Pixel> {
    source: &'a Raster<P>,
    data: Window,
    edge: Edge,
}

/// Both axes in one walk: down each strip of a band, a row is convolved along x just before it is needed down y.
fn convolve<P: Pixel>(
    source: &Raster<P>,
    data: Window,
    edge: Edge,
    weights: [&[f32]; 2],
    wanted: Window,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let convolved = Convolved { source, data, edge };
    Raster::written_in_bands(wanted, rows_of_a_band(wanted.height()), cancel, |y0, band| {
        convolved.band::<false>([wanted.x0, y0], wanted.width(), weights, band);
        Ok(())
    })
}

/// Adds to `sum` what the source is convolved to by each pair of kernels, along x and down y. Nothing is beyond the source.
pub(crate) fn add_convolved<P: Pixel>(
    source: &Raster<P>,
    kernels: &[[Vec<f32>; 2]],
    sum: &mut Raster<P>,
    cancel: &Cancel,
) -> Result<(), Cancelled> {
    let convolved = Convolved { source, data: source.window(), edge: Edge::Clear };
    let wanted = sum.window();
    sum.each_band(rows_of_a_band(wanted.height()), cancel, |y0, band| {
        for [along, down] in kernels {
            convolved.band::<true>([wanted.x0, y0], wanted.width(), [along, down], band);
        }
        Ok(())
    })
}

impl<P: Pixel> Convolved<'_, P> {
    /// A band that begins at a pixel, written or added to.
    fn band<const ADDED: bool>(
        self,
        [first_x, y0]: [i32; 2],
        width: usize,
        [along, down]: [&[f32]; 2],
        band: &mut [P],
    ) {
        let Self { source, data, edge } = self;
        let (reach_x, reach_y) = ((along.len() / 2) as i32, (down.len() / 2) as i32);
        let strip = STRIP / P::CHANNELS;
        let row_at = |y: i32| edge.index(y, data.y0, data.y1).map_or(&[][..], |from| source.row(from));
        let held = data.intersect(source.window());
        let whole = Window::sized(width as u32, (band.len() / width) as u32).shifted(first_x, y0);
        // Where nothing is beyond what is held, nothing comes of it farther off than the kernels reach.
        let touched = if edge == Edge::Clear { whole.intersect(held.grow(reach_x, reach_y)) } else { whole };
        if !ADDED && touched != whole {
            band.fill(P::default());
        }
        if touched.is_empty() {
            return;
        }
        let band = &mut band[(touched.y0 - y0) as usize * width..];
        let y0 = touched.y0;
        let rows = touched.height() + 2 * reach_y as usize;
        let mut strips = vec![P::default(); rows * strip];
        let mut scratch = vec![P::default(); strip + 2 * reach_x as usize];
        let (left, right) = ((touched.x0 - first_x) as usize, (touched.x1 - first_x) as usize);
        for column in (left..right).step_by(strip) {
            let wide = strip.min(right - column);
            let x0 = first_x + column as i32 - reach_x;
            let reads = wide + 2 * reach_x as usize;
            let inner = (held.x0 <= x0 && x0 + reads as i32 <= held.x1)
                .then(|| (x0 - source.window().x0) as usize..(x0 - source.window().x0) as usize + reads);
            let part = |y: i32| inner.clone().and_then(|inner| row_at(y).get(inner));
            for at in 0..rows {
                let y = y0 - reach_y + at as i32;
                part(y + ROWS_AHEAD).into_iter().for_each(prefetch::ask_all);
                let from = match part(y) {
                    Some(part) => part,
                    None => {
                        extend_row(row_at(y), source.window().x0, data, edge, x0, &mut scratch[..reads]);
                        &scratch[..reads]
                    }
                };
                let out = P::floats_mut(&mut strips[at * wide..][..wide]);
                weigh_neighbours(P::floats(from), P::CHANNELS, along, out);
                if let Some(line) = (at + 1).checked_sub(down.len()) {
                    let out = P::floats_mut(&mut band[line * width + column..][..wide]);
                    let taps = P::floats(&strips[line * wide..(at + 1) * wide]);
                    weigh::<ADDED>(taps, wide * P::CHANNELS, down, out);
                }
            }
        }
    }
}

fn convolve_x<P: Pixel>(
    source: &Raster<P>,
    weights: &[f32],
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let radius = (weights.len() / 2) as i32;
    let window = source.window();
    let columns = (window.x0 + radius, window.x1 - radius);
    Raster::written(with_columns(window, columns), cancel, |y, row| {
        weigh_neighbours(P::floats(source.row(y)), P::CHANNELS, weights, P::floats_mut(row));
    })
}

fn convolve_y<P: Pixel>(
    source: &Raster<P>,
    weights: &[f32],
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let radius = (weights.len() / 2) as i32;
    let window = source.window();
    Raster::written_with(
        with_rows(window, (window.y0 + radius, window.y1 - radius)),
        cancel,
        || Vec::with_capacity(weights.len()),
        |rows, y, row| {
            rows.clear();
            rows.extend((y - radius..=y + radius).map(|from| P::floats(source.row(from))));
            weigh_rows(rows, weights, P::floats_mut(row));
        },
    )
}

fn halve_x<P: Pixel>(source: &Raster<P>, range: (i32, i32), cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    let window = source.window();
    Raster::written(with_columns(window, range), cancel, |y, row| {
        halve_row(source.row(y), window.x0, range.0, row);
    })
}

/// Halves a row whose first column is `source_x0` into one whose first column is `out_x0`.
pub(crate) fn halve_row<P: Pixel>(source: &[P], source_x0: i32, out_x0: i32, out: &mut [P]) {
    let from = &source[(2 * out_x0 - 2 - source_x0) as usize..];
    for (out, taps) in out.iter_mut().zip(from.windows(6).step_by(2)) {
        let weighed = HALVE.iter().zip(taps);
        *out =
            P::narrow(weighed.fold(P::Wide::default(), |sum, (weight, tap)| sum.plus(tap.widen(), *weight)));
    }
}

fn halve_y<P: Pixel>(source: &Raster<P>, range: (i32, i32), cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    Raster::written(with_rows(source.window(), range), cancel, |y, row| {
        let rows: [&[f32]; 6] = std::array::from_fn(|tap| P::floats(source.row(2 * y - 2 + tap as i32)));
        weigh_rows(&rows, &HALVE, P::floats_mut(row));
    })
}

/// The coarse places that a fine one is made of, nearest first.
#[inline(always)]
fn coarse_neighbours(fine: i32) -> [i32; 3] {
    let holder = fine >> 1;
    let near = 2 * (fine & 1) - 1;
    [holder, holder + near, holder - near]
}

pub(crate) fn double_x<P: Pixel>(
    source: &Raster<P>,
    range: (i32, i32),
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let window = source.window();
    Raster::written(with_columns(window, range), cancel, |y, row| {
        let from = source.row(y);
        for (x, out) in (range.0..).zip(row) {
            let [holder, near, far] = coarse_neighbours(x).map(|at| from[(at - window.x0) as usize].widen());
            let sum = P::Wide::default().plus(holder, DOUBLE[0]);
            *out = P::narrow(sum.plus(near, DOUBLE[1]).plus(far, DOUBLE[2]));
        }
    })
}

pub(crate) fn double_y<P: Pixel>(
    source: &Raster<P>,
    range: (i32, i32),
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    Raster::written(with_rows(source.window(), range), cancel, |y, row| {
        let rows = coarse_neighbours(y).map(|at| P::floats(source.row(at)));
        weigh_rows(&rows, &DOUBLE, P::floats_mut(row));
    })
}

/// Floats that are summed in registers at a time: sums that wait for nothing of each other fill the time that one takes.
const BLOCK: usize = 64;
/// The same, at the end of a row.
const SMALL_BLOCK: usize = 16;

/// `out[i] = Σ weights[k] · source[i + k · step]`.
pub fn weigh_neighbours(source: &[f32], step: usize, weights: &[f32], out: &mut [f32]) {
    weigh::<false>(source, step, weights, out);
}

/// As [`weigh_neighbours`], or added to what `out` holds.
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn weigh<const ADDED: bool>(source: &[f32], step: usize, weights: &[f32], out: &mut [f32]) {
    const FUSED: bool = target_cfg_f!(target_feature = "fma");
    weigh_blocks::<ADDED, FUSED>(Neighbours { source, step }, weights, out);
}

/// `out[i] = Σ weights[k] · rows[k][i]`.
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
pub(crate) fn weigh_rows(rows: &[&[f32]], weights: &[f32], out: &mut [f32]) {
    const FUSED: bool = target_cfg_f!(target_feature = "fma");
    weigh_blocks::<false, FUSED>(Rows(rows), weights, out);
}

/// What is weighed. A trait and not a closure, which would not become part of the loop.
trait Taps: Copy {
    /// What `weights[k]` counts for, from a float of the result on.
    fn from(&self, start: usize, k: usize) -> &[f32];
}

#[derive(Clone, Copy)]
struct Neighbours<'a> {
    source: &'a [f32],
    step: usize,
}

impl Taps for Neighbours<'_> {
    #[inline(always)]
    fn from(&self, start: usize, k: usize) -> &[f32] {
        &self.source[start + k * self.step..]
    }
}

#[derive(Clone, Copy)]
struct Rows<'a>(&'a [&'a [f32]]);

impl Taps for Rows<'_> {
    #[inline(always)]
    fn from(&self, start: usize, k: usize) -> &[f32] {
        &self.0[k][start..]
    }
}

#[inline(always)]
fn weigh_blocks<const ADDED: bool, const FUSED: bool>(taps: impl Taps, weights: &[f32], out: &mut [f32]) {
    let (blocks, rest) = out.as_chunks_mut::<BLOCK>();
    let mut start = 0;
    for block in blocks {
        weigh_block::<ADDED, FUSED, BLOCK>(taps, start, weights, block);
        start += BLOCK;
    }
    let (blocks, rest) = rest.as_chunks_mut::<SMALL_BLOCK>();
    for block in blocks {
        weigh_block::<ADDED, FUSED, SMALL_BLOCK>(taps, start, weights, block);
        start += SMALL_BLOCK;
    }
    for value in rest {
        weigh_block::<ADDED, FUSED, 1>(taps, start, weights, std::array::from_mut(value));
        start += 1;
    }
}

#[inline(always)]
fn weigh_block<const ADDED: bool, const FUSED: bool, const N: usize>(
    taps: impl Taps,
    start: usize,
    weights: &[f32],
    out: &mut [f32; N],
) {
    let mut sums = if ADDED { *out } else { [0.0f32; N] };
    for (k, weight) in weights.iter().enumerate() {
        for (sum, tap) in sums.iter_mut().zip(&taps.from(start, k)[..N]) {
            *sum = if FUSED { tap.mul_add(*weight, *sum) } else { *sum + weight * tap };
        }
    }
    *out = sums;
}
