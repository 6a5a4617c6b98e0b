//! The screen's colour at every pixel, from where it is seen.
//!
//! Light on a screen changes slowly, so a surface of the second order is fitted to what is surely screen, and what is far
//! from it counts less and less (iteratively reweighted least squares: Holland and Welsch, 1977). It goes on behind the
//! figure, where means of what is near would only repeat the rim. What folds and shadows leave is added as a mean of
//! what is near.

use rayon::prelude::*;

use crate::filter::blur::{Sigma, gaussian};
use crate::{Cancel, Cancelled, Edge, Picture, Raster, Rgba, Window};

use super::before::{Screen, colour, less};

/// About how many pixels the surface is fitted to, and how far apart they are at least.
const LOOKED_AT: f32 = 8192.0;
const LEAST_STEP: usize = 4;
/// Pixels along a side of a cell for what the surface leaves.
const CELL: i32 = 8;
/// Share of the screen's excess, for its brightness, from which a pixel is surely screen.
const SURELY: f32 = 0.8;
/// Numbers of a surface of the second order.
const TERMS: usize = 6;
/// How often the surface is fitted anew.
const ROUNDS: usize = 4;
/// How many standard deviations of what is left a pixel may be off, to count.
const COUNTS: f32 = 4.3;
/// How far off the surface, as a share of it, folds and shadows of the screen may be.
const FOLDS: f32 = 0.5;

/// What counts as screen by its colour alone.
struct Surely {
    screen: Screen,
    excess: f32,
    green: f32,
}

impl Surely {
    fn new(screen: Screen, about: Rgba) -> Self {
        let excess = screen.excess(about);
        Self { screen, excess, green: SURELY * excess / about[screen.channel()].max(1e-6) }
    }

    /// A darker corner of the screen is as green for its brightness.
    fn holds(&self, pixel: Rgba) -> bool {
        let excess = self.screen.excess(pixel);
        excess > self.excess * 0.25 && excess / pixel[self.screen.channel()].max(1e-6) > self.green
    }
}

/// A colour that changes over a window as a polynomial of the second order.
struct Surface {
    window: Window,
    terms: [[f64; 3]; TERMS],
}

impl Surface {
    fn basis(window: Window, x: f64, y: f64) -> [f64; TERMS] {
        let x = (x - f64::from(window.x0)) / window.width() as f64 * 2.0 - 1.0;
        let y = (y - f64::from(window.y0)) / window.height() as f64 * 2.0 - 1.0;
        [1.0, x, y, x * x, x * y, y * y]
    }

    fn at(&self, x: f64, y: f64) -> [f32; 3] {
        let basis = Self::basis(self.window, x, y);
        std::array::from_fn(|channel| {
            let sum: f64 = basis.iter().zip(&self.terms).map(|(basis, term)| basis * term[channel]).sum();
            sum.max(1e-4) as f32
        })
    }

    /// The one that comes nearest to the weighed colours. Where they say too little it stays level.
    fn through(window: Window, seen: &[(f64, f64, [f32; 3])], weights: &[f32]) -> Self {
        let mut sums = [[0.0; TERMS]; TERMS];
        let mut rights = [[0.0; 3]; TERMS];
        for ((x, y, colour), weight) in seen.iter().zip(weights) {
            let basis = Self::basis(window, *x, *y);
            for row in 0..TERMS {
                let weighed = basis[row] * f64::from(*weight);
                for column in row..TERMS {
                    sums[row][column] += weighed * basis[column];
                }
                for channel in 0..3 {
                    rights[row][channel] += weighed * f64::from(colour[channel]);
                }
            }
        }
        let total = sums[0][0];
        for (row, level) in [0.0, 1e-5, 1e-5, 1e-4, 1e-4, 1e-4].into_iter().enumerate() {
            sums[row][row] += level * total + 1e-9;
        }
        Self { window, terms: solved(sums, rights) }
    }
}

/// The solution of a symmetric system that is given by its upper half, by elimination.
fn solved(mut sums: [[f64; TERMS]; TERMS], mut rights: [[f64; 3]; TERMS]) -> [[f64; 3]; TERMS] {
    for row in 0..TERMS {
        let (upper, right) = (sums[row], rights[row]);
        for below in row + 1..TERMS {
            let share = upper[below] / upper[row];
            sums[below].iter_mut().zip(upper).skip(below).for_each(|(sum, upper)| *sum -= share * upper);
            rights[below].iter_mut().zip(right).for_each(|(sum, right)| *sum -= share * right);
        }
    }
    for row in (0..TERMS).rev() {
        let (known, open) = (rights[row], rights.split_at(row + 1).1);
        rights[row] = std::array::from_fn(|channel| {
            let below = sums[row].iter().skip(row + 1).zip(open).map(|(sum, open)| sum * open[channel]);
            (known[channel] - below.sum::<f64>()) / sums[row][row]
        });
    }
    rights
}

/// How far a colour is from what the surface says, as a share of it.
fn off(seen: [f32; 3], fitted: [f32; 3]) -> f32 {
    let square = |[a, b, c]: [f32; 3]| a * a + b * b + c * c;
    (square(less(seen, fitted)) / square(fitted)).sqrt()
}

/// A surface through what is surely screen, and how far off a pixel of the screen may be.
fn surface(picture: &Picture, surely: &Surely) -> Option<(Surface, f32)> {
    let window = picture.window();
    let step = ((window.area() as f32 / LOOKED_AT).sqrt() as usize).max(LEAST_STEP);
    let seen: Vec<(f64, f64, [f32; 3])> = (window.y0..window.y1)
        .step_by(step)
        .flat_map(|y| {
            let row = (window.x0..).zip(picture.row(y)).step_by(step);
            row.map(move |(x, pixel)| (x, y, *pixel))
        })
        .filter(|(_, _, pixel)| surely.holds(*pixel))
        .map(|(x, y, pixel)| (f64::from(x), f64::from(y), colour(pixel)))
        .collect();
    if seen.len() < 4 * TERMS {
        return None;
    }
    let mut weights = vec![1.0f32; seen.len()];
    let mut found = None;
    for _ in 0..ROUNDS {
        let surface = Surface::through(window, &seen, &weights);
        let offs: Vec<f32> = seen.iter().map(|(x, y, seen)| off(*seen, surface.at(*x, *y))).collect();
        let mut sorted = offs.clone();
        let middle = sorted.len() / 2;
        let deviation = *sorted.select_nth_unstable_by(middle, f32::total_cmp).1 * 1.5 + 0.004;
        for (weight, off) in weights.iter_mut().zip(&offs) {
            *weight = (-0.5 * (off / (2.0 * deviation)).powi(2)).exp();
        }
        found = Some((surface, deviation * COUNTS));
    }
    found
}

/// The screen's colour at every pixel; `about` is its colour roughly, and all there is where none of it is seen.
pub fn fitted(
    picture: &Picture,
    about: [f32; 3],
    screen: Screen,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let window = picture.window();
    let about = [about[0], about[1], about[2], 1.0];
    let surely = Surely::new(screen, about);
    let Some((surface, most)) = surface(picture, &surely) else { return Ok(Raster::flat(window, about)) };
    cancel.check()?;
    let cells = by_cell(picture, &surface, &surely, most, cancel)?;
    Raster::written_with(window, cancel, Vec::new, |line, y, row| {
        between_rows(&cells, in_cells(y - window.y0), line);
        // Between the middles of two cells the colour goes straight.
        let first = line[0];
        let half = (CELL / 2) as usize;
        let ends = row.len().min(half);
        row[..ends].fill(first);
        for (pair, run) in line.windows(2).zip(row[ends..].chunks_mut(CELL as usize)) {
            for (at, out) in run.iter_mut().enumerate() {
                let share = (at as f32 + 0.5) / CELL as f32;
                *out = std::array::from_fn(|channel| {
                    pair[0][channel] + (pair[1][channel] - pair[0][channel]) * share
                });
            }
        }
        let covered = ends + (line.len() - 1) * CELL as usize;
        if let (Some(rest), Some(last)) = (row.get_mut(covered..), line.last()) {
            rest.fill(*last);
        }
    })
}

/// Where a pixel's row lies, in cells from the middle of the first.
fn in_cells(line: i32) -> f32 {
    (line as f32 + 0.5) / CELL as f32 - 0.5
}

/// A row of cells as they are at a row of the picture.
fn between_rows(cells: &Picture, y: f32, line: &mut Vec<Rgba>) {
    let last = cells.window().y1 - 1;
    let row = |at: f32| cells.row((at as i32).clamp(0, last));
    let share = y - y.floor();
    line.clear();
    line.extend(row(y.floor()).iter().zip(row(y.floor() + 1.0)).map(|(above, below)| {
        std::array::from_fn::<f32, 4, _>(|at| above[at] + (below[at] - above[at]) * share)
    }));
}

/// What is found of the screen in one cell: sums of what the surface leaves, and of pixels.
#[derive(Clone, Copy, Default)]
struct Found {
    /// Of what is near the surface.
    near: Rgba,
    /// Of all screen.
    all: Rgba,
    /// Whether something of the cell is half covered by a figure or more.
    figure: bool,
}

/// Looks at every other pixel of a cell, whose first one is given. Within it the surface counts as plane.
fn found_in(picture: &Picture, surface: &Surface, surely: &Surely, most: f32, left: i32, top: i32) -> Found {
    let window = picture.window();
    let at = |x: i32, y: i32| surface.at(f64::from(x), f64::from(y));
    let corner = at(left, top);
    let (along, down) = (less(at(left + CELL, top), corner), less(at(left, top + CELL), corner));
    let half = surely.screen.excess([corner[0], corner[1], corner[2], 1.0]) / 2.0;
    let mut found = Found::default();
    for y in (top..(top + CELL).min(window.y1)).step_by(2) {
        let row = &picture.row(y)[(left - window.x0) as usize..];
        let v = (y - top) as f32 / CELL as f32;
        for (x, pixel) in row.iter().take(CELL as usize).enumerate().step_by(2) {
            found.figure |= surely.screen.excess(*pixel) < half;
            if !surely.holds(*pixel) {
                continue;
            }
            let u = x as f32 / CELL as f32;
            let fitted: [f32; 3] = std::array::from_fn(|c| corner[c] + along[c] * u + down[c] * v);
            let far = off(colour(*pixel), fitted);
            let left = less(colour(*pixel), fitted);
            for (sum, counts) in [(&mut found.near, far < most), (&mut found.all, far < FOLDS)] {
                if counts {
                    (0..3).for_each(|channel| sum[channel] += left[channel]);
                    sum[3] += 1.0;
                }
            }
        }
    }
    found
}

/// The screen's colour in the middle of each cell.
fn by_cell(
    picture: &Picture,
    surface: &Surface,
    surely: &Surely,
    most: f32,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let window = picture.window();
    let [wide, high] = [window.width(), window.height()].map(|pixels| (pixels as i32 + CELL - 1) / CELL);
    let cells = Window::sized(wide as u32, high as u32);
    let place = |x: i32, y: i32| (window.x0 + x * CELL, window.y0 + y * CELL);
    let look = |index: i32| {
        let (left, top) = place(index % wide, index / wide);
        found_in(picture, surface, surely, most, left, top)
    };
    let found: Vec<Found> = (0..wide * high).into_par_iter().with_min_len(256).map(look).collect();
    cancel.check()?;
    // Away from any figure what is off by more is a fold or a shadow of the screen, and not its mixture with an edge.
    let counted = Raster::from_fn(cells, |x, y| {
        let beside = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| (x + dx, y + dy)));
        let mut held = beside.filter(|(x, y)| cells.holds(*x, *y));
        let here = &found[(y * wide + x) as usize];
        if held.any(|(x, y)| found[(y * wide + x) as usize].figure) { here.near } else { here.all }
    });
    let mut whole: Picture = Raster::from_fn(cells, |x, y| {
        let (left, top) = place(x, y);
        let middle = f64::from(CELL - 1) / 2.0;
        let [r, g, b] = surface.at(f64::from(left) + middle, f64::from(top) + middle);
        [r, g, b, 1.0]
    });
    let surfaces = whole.clone();
    for sigma in [5.0, 1.0] {
        let near = gaussian(&counted, cells, Edge::Clear, Sigma::round(sigma), cells, cancel)?;
        whole.fill_rows(cancel, |y, row: &mut [Rgba]| {
            for ((out, near), surface) in row.iter_mut().zip(near.row(y)).zip(surfaces.row(y)) {
                let share = ((near[3] / 16.0 - 0.02) / 0.2).clamp(0.0, 1.0);
                if share > 0.0 {
                    for channel in 0..3 {
                        let here = surface[channel] + near[channel] / near[3];
                        out[channel] = (out[channel] + (here - out[channel]) * share).max(1e-4);
                    }
                }
            }
        })?;
    }
    Ok(whole)
}
