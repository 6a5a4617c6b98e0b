//! The screen's colour at every pixel, from where it is seen.
//!
//! Light on a screen changes slowly, so a surface of the second order is fitted to what is surely screen, and what is far
//! from it counts less and less (iteratively reweighted least squares: Holland and Welsch, 1977). It goes on behind the
//! figure, where means of what is near would only repeat the rim. What folds and shadows leave is added as a mean of
//! what is near.

use crate::{Cancel, Cancelled, Picture, Raster, Rgba, Window};

use super::{Screen, colour, less};

/// Every so many pixels along both axes one is looked at.
const STEP: usize = 4;
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

/// The solution of a symmetric system that is given by its upper half, after Cholesky.
fn solved(mut sums: [[f64; TERMS]; TERMS], mut rights: [[f64; 3]; TERMS]) -> [[f64; 3]; TERMS] {
    for row in 0..TERMS {
        let pivot = sums[row][row];
        for below in row + 1..TERMS {
            let share = sums[row][below] / pivot;
            for column in below..TERMS {
                sums[below][column] -= share * sums[row][column];
            }
            for channel in 0..3 {
                rights[below][channel] -= share * rights[row][channel];
            }
        }
    }
    for row in (0..TERMS).rev() {
        for channel in 0..3 {
            let known: f64 =
                (row + 1..TERMS).map(|column| sums[row][column] * rights[column][channel]).sum();
            rights[row][channel] = (rights[row][channel] - known) / sums[row][row];
        }
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
    let seen: Vec<(f64, f64, [f32; 3])> = (window.y0..window.y1)
        .step_by(STEP)
        .flat_map(|y| (window.x0..).step_by(STEP).zip(picture.row(y).iter().step_by(STEP)).map(move |(x, p)| (x, y, *p)))
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
    let cells = left_over(picture, &surface, &surely, most, cancel)?;
    Raster::written_with(window, cancel, Vec::new, |line, y, row| {
        between_rows(&cells, (y - window.y0) as f32, line);
        for (at, out) in row.iter_mut().enumerate() {
            let x = at as f32 / CELL as f32 - 0.5 + 0.5 / CELL as f32;
            let (left, share) = (x.floor(), x - x.floor());
            let cell = |at: f32| line[(at.max(0.0) as usize).min(line.len() - 1)];
            let (a, b) = (cell(left), cell(left + 1.0));
            let surface = surface.at(f64::from(window.x0) + at as f64, f64::from(y));
            let whole: [f32; 3] = std::array::from_fn(|c| (surface[c] + a[c] + (b[c] - a[c]) * share).max(1e-4));
            *out = [whole[0], whole[1], whole[2], 1.0];
        }
    })
}

/// A row of cells as they are at the row `y` of the picture.
fn between_rows(cells: &Picture, y: f32, line: &mut Vec<Rgba>) {
    let y = y / CELL as f32 - 0.5 + 0.5 / CELL as f32;
    let last = cells.window().y1 - 1;
    let row = |at: f32| cells.row((at as i32).clamp(0, last));
    let share = y - y.floor();
    line.clear();
    line.extend(row(y.floor()).iter().zip(row(y.floor() + 1.0)).map(|(above, below)| {
        std::array::from_fn::<f32, 4, _>(|at| above[at] + (below[at] - above[at]) * share)
    }));
}

/// What the surface leaves of the screen, in the mean of what is near, a cell for every few pixels.
fn left_over(
    picture: &Picture,
    surface: &Surface,
    surely: &Surely,
    most: f32,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let window = picture.window();
    let cells = Window::sized(
        (window.width() as u32).div_ceil(CELL as u32),
        (window.height() as u32).div_ceil(CELL as u32),
    );
    // Sums over each cell: of what is left, and of pixels; once for what is near the surface, once for all screen.
    let sums = |x: i32, y: i32, most: f32| -> (Rgba, bool) {
        let (mut sum, mut figure) = ([0.0; 4], false);
        let (left, top) = (window.x0 + x * CELL, window.y0 + y * CELL);
        let middle = surface.at(f64::from(left) + 3.5, f64::from(top) + 3.5);
        for y in (top..(top + CELL).min(window.y1)).step_by(2) {
            let from = (left - window.x0) as usize;
            let row = picture.row(y);
            for (at, pixel) in row[from..(from + CELL as usize).min(row.len())].iter().enumerate().step_by(2) {
                let fitted = surface.at(f64::from(left) + at as f64, f64::from(y));
                figure |= surely.screen.excess(*pixel) * 2.0
                    < surely.screen.excess([middle[0], middle[1], middle[2], 1.0]);
                if surely.holds(*pixel) && off(colour(*pixel), fitted) < most {
                    for (sum, left) in sum.iter_mut().zip(less(colour(*pixel), fitted)) {
                        *sum += left;
                    }
                    sum[3] += 1.0;
                }
            }
        }
        (sum, figure)
    };
    let strict = Raster::from_fn(cells, |x, y| sums(x, y, most).0);
    let figure = Raster::from_fn(cells, |x, y| f32::from(u8::from(sums(x, y, most).1)));
    // Away from any figure what is off by more is a fold or a shadow of the screen, and not its mixture with an edge.
    let counted = Raster::from_fn(cells, |x, y| {
        let beside = (-1..=1).flat_map(|dy| (-1..=1).map(move |dx| (x + dx, y + dy)));
        let clear = beside.filter_map(|(x, y)| figure.get(x, y)).all(|figure| figure == 0.0);
        if clear { sums(x, y, 0.5).0 } else { strict.get(x, y).unwrap_or([0.0; 4]) }
    });
    let mut found = Raster::clear(cells);
    for sigma in [5.0, 1.0] {
        let near = crate::blur::gaussian(&counted, cells, crate::Edge::Clear, crate::blur::Sigma::round(sigma), cells, cancel)?;
        found.fill_rows(cancel, |y, row: &mut [Rgba]| {
            for (out, near) in row.iter_mut().zip(near.row(y)) {
                let share = ((near[3] / 16.0 - 0.02) / 0.2).clamp(0.0, 1.0);
                if share > 0.0 {
                    *out = std::array::from_fn(|at| out[at] + (near[at] / near[3] - out[at]) * share);
                }
            }
        })?;
    }
    Ok(found)
}
