//! A sum of weighed Gaussians, hardly dearer than the narrowest of them alone.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: σ in pixels of this raster, the same along both axes.
//! - Way: the signal is halved once for all of them. Each Gaussian is convolved on the grid on which
//!   [`gaussian`](crate::filter::blur::gaussian) would convolve it, and the sums are doubled from the coarsest grid on. Doubling
//!   a sum is the sum of what is doubled, so that the result is that of each Gaussian by itself, rounding aside.
//! - Edges: nothing comes from beyond the data window.
//! - Source: Burt and Adelson, "The Laplacian Pyramid as a Compact Image Code", 1983.

use crate::buffer::raster::{Pixel, extend_row};
use crate::filter::blur::{AxisPlan, HALVE, add_convolved, double_x, double_y, halve_row, weigh_rows};
use crate::sample::softness::finer;
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// One Gaussian of a mixture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Part {
    /// Its standard deviation, in pixels.
    pub sigma: f32,
    /// How much of the sum it is.
    pub weight: f32,
}

/// The weighed sum of Gaussians of `source` over `wanted`.
///
/// `data` is where the signal exists; `source` must hold all of it that lies within the reach of the widest part.
pub fn mixture<P: Pixel>(
    source: &Raster<P>,
    data: Window,
    parts: &[Part],
    wanted: Window,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    if data.is_empty() || wanted.is_empty() {
        return Ok(Raster::clear(wanted));
    }
    let plans: Vec<AxisPlan> = parts.iter().map(|part| AxisPlan::new(part.sigma)).collect();
    let on_grid = |grid: usize| plans.iter().zip(parts).filter(move |(plan, _)| plan.levels as usize == grid);
    let coarsest = plans.iter().map(|plan| plan.levels as usize).max().unwrap_or(0);
    let results: Vec<Window> =
        std::iter::successors(Some(wanted), |finer| Some(doubled_from(*finer))).take(coarsest + 1).collect();
    let reads = |grid: usize| {
        let radius = on_grid(grid).map(|(plan, _)| plan.radius()).max();
        radius.map_or(Window::EMPTY, |radius| results[grid].grow(radius, radius))
    };
    let mut needed = vec![reads(coarsest)];
    for grid in (0..coarsest).rev() {
        needed.push(reads(grid).union(finer(needed[needed.len() - 1])));
    }
    needed.reverse();
    let mut grids = vec![source.cropped(data.intersect(needed[0]))];
    for needed in &needed[1..] {
        grids.push(halved(&grids[grids.len() - 1], *needed, cancel)?);
    }
    let mut sum: Option<Raster<P>> = None;
    for (grid, held) in grids.iter().enumerate().rev() {
        let window = results[grid];
        let mut here = match sum {
            Some(coarser) => {
                let rows = double_y(&coarser, (window.y0, window.y1), cancel)?;
                double_x(&rows, (window.x0, window.x1), cancel)?
            }
            None => Raster::clear(window),
        };
        let kernels: Vec<[Vec<f32>; 2]> = on_grid(grid)
            .map(|(plan, part)| {
                let weighed = plan.weights.iter().map(|weight| weight * part.weight).collect();
                [plan.weights.clone(), weighed]
            })
            .collect();
        add_convolved(held, &kernels, &mut here, cancel)?;
        sum = Some(here);
    }
    Ok(sum.unwrap_or_else(|| Raster::clear(wanted)))
}

/// What doubling reads of the coarser grid.
fn doubled_from(finer: Window) -> Window {
    let along = |from: i32, to: i32| (from.div_euclid(2) - 1, (to - 1).div_euclid(2) + 2);
    let ((x0, x1), (y0, y1)) = (along(finer.x0, finer.x1), along(finer.y0, finer.y1));
    Window { x0, y0, x1, y1 }
}

/// The next coarser grid, as far as it is needed and holds anything.
fn halved<P: Pixel>(held: &Raster<P>, needed: Window, cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    let whole = held.window();
    let along = |from: i32, to: i32| ((from - 2).div_euclid(2), (to + 1).div_euclid(2) + 1);
    let ((x0, x1), (y0, y1)) = (along(whole.x0, whole.x1), along(whole.y0, whole.y1));
    let window = if whole.is_empty() { whole } else { needed.intersect(Window { x0, y0, x1, y1 }) };
    if window.is_empty() {
        return Ok(Raster::clear(Window::EMPTY));
    }
    let reads = finer(window);
    let rows = Raster::written_with(
        Window { x0: window.x0, x1: window.x1, ..whole },
        cancel,
        || vec![P::default(); reads.width()],
        |scratch, y, row| {
            extend_row(held.row(y), whole.x0, whole, Edge::Clear, reads.x0, scratch);
            halve_row(scratch, reads.x0, window.x0, row);
        },
    )?;
    let nothing = vec![P::default(); window.width()];
    Raster::written(window, cancel, |y, row| {
        let taps: [&[f32]; 6] = std::array::from_fn(|tap| {
            let from = rows.row(2 * y - 2 + tap as i32);
            P::floats(if from.is_empty() { &nothing } else { from })
        });
        weigh_rows(&taps, &HALVE, P::floats_mut(row));
    })
}
