//! What a figure looks like near each place: mean and spread of the colours of what is wholly figure.
//!
//! Near the edge by itself where there is enough of it, else from farther off, on grids that are each half as fine as the
//! one before (Burt and Adelson, 1983). Sums carry their weight with them, so that nothing counts where nothing is.

use rayon::prelude::*;

use crate::{Cancel, Cancelled, Field, Picture};

use super::before::Screen;

/// Weighed sums: the weight; three colours; their six products; and the excess of the screen's channel above 0, its
/// square, the same below 0. Two are unused.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Moments([f32; 16]);

impl Moments {
    fn add(&mut self, [r, g, b, _]: [f32; 4], excess: f32, weight: f32) {
        let (above, below) = (excess.max(0.0), excess.min(0.0));
        let all = [
            1.0,
            r,
            g,
            b,
            r * r,
            r * g,
            r * b,
            g * g,
            g * b,
            b * b,
            above,
            above * above,
            below,
            below * below,
        ];
        for (sum, value) in self.0.iter_mut().zip(all) {
            *sum += value * weight;
        }
    }

    fn add_weighed(&mut self, other: &Self, weight: f32) {
        for (sum, other) in self.0.iter_mut().zip(other.0) {
            *sum += other * weight;
        }
    }

    /// Itself as far as it holds enough, the rest from elsewhere. `whole` is the weight of a place that is all figure.
    fn over(&self, elsewhere: impl FnOnce() -> Self, whole: f32) -> Self {
        let weight = self.0[0];
        let trust = ((weight / whole - 0.003) / 0.04).clamp(0.0, 1.0);
        let mut sum = Self::default();
        if trust > 0.0 {
            sum.add_weighed(self, trust / weight);
        }
        if trust < 1.0 {
            sum.add_weighed(&elsewhere(), 1.0 - trust);
        }
        sum
    }

    /// How far all this is known, 0–1.
    pub(super) fn known(&self) -> f32 {
        self.0[0].clamp(0.0, 1.0)
    }

    fn at(&self, index: usize) -> f64 {
        f64::from(self.0[index]) / f64::from(self.0[0]).max(1e-9)
    }

    /// The mean colour.
    pub(super) fn mean(&self) -> [f64; 3] {
        [self.at(1), self.at(2), self.at(3)]
    }

    /// How colours go together about their mean: red with red, green and blue, green with green and blue, blue with blue.
    pub(super) fn spread(&self) -> [f64; 6] {
        let [r, g, b] = self.mean();
        let products = [r * r, r * g, r * b, g * g, g * b, b * b];
        std::array::from_fn(|index| {
            let spread = self.at(4 + index) - products[index];
            if matches!(index, 0 | 3 | 5) { spread.max(0.0) } else { spread }
        })
    }

    /// Mean and deviation of the excess where it is above 0, then where it is below.
    pub(super) fn excess(&self) -> [(f64, f64); 2] {
        [10, 12].map(|index| {
            let mean = self.at(index);
            (mean, (self.at(index + 1) - mean * mean).max(0.0).sqrt())
        })
    }
}

/// A grid of sums, each for a square of the picture.
struct Grid {
    width: usize,
    height: usize,
    cells: Vec<Moments>,
}

impl Grid {
    fn written(
        width: usize,
        height: usize,
        cancel: &Cancel,
        f: impl Fn(usize, &mut [Moments]) + Sync,
    ) -> Result<Self, Cancelled> {
        let mut cells = vec![Moments::default(); width * height];
        cells.par_chunks_mut(width.max(1)).enumerate().with_min_len(4).try_for_each(|(y, row)| {
            cancel.check()?;
            f(y, row);
            Ok(())
        })?;
        Ok(Self { width, height, cells })
    }

    fn row(&self, y: usize) -> &[Moments] {
        &self.cells[y * self.width..][..self.width]
    }

    /// Four to one.
    fn halved(&self, cancel: &Cancel) -> Result<Self, Cancelled> {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        Self::written(width, height, cancel, |y, row| {
            for from in [2 * y, 2 * y + 1].into_iter().filter(|from| *from < self.height) {
                for (x, cell) in self.row(from).iter().enumerate().filter(|(_, cell)| cell.0[0] > 0.0) {
                    row[x / 2].add_weighed(cell, 0.25);
                }
            }
        })
    }

    /// Adds a row of it, each cell with a quarter and a half of its neighbours along both axes.
    fn add_softened(&self, y: usize, row: &mut [Moments]) {
        for (from, share) in [(y.checked_sub(1), 0.25), (Some(y), 0.5), (Some(y + 1), 0.25)] {
            let Some(from) = from.filter(|from| *from < self.height) else { continue };
            for (x, cell) in self.row(from).iter().enumerate().filter(|(_, cell)| cell.0[0] > 0.0) {
                row[x].add_weighed(cell, 0.5 * share);
                if x > 0 {
                    row[x - 1].add_weighed(cell, 0.25 * share);
                }
                if x + 1 < self.width {
                    row[x + 1].add_weighed(cell, 0.25 * share);
                }
            }
        }
    }

    /// Between the middles of its cells, at a place in cells from the outer corner of the first.
    fn between(&self, x: f32, y: f32) -> Moments {
        let (x, y) =
            ((x - 0.5).clamp(0.0, self.width as f32 - 1.0), (y - 0.5).clamp(0.0, self.height as f32 - 1.0));
        let (left, top) = (x as usize, y as usize);
        let (right, below) = ((left + 1).min(self.width - 1), (top + 1).min(self.height - 1));
        let (along, down) = (x - left as f32, y - top as f32);
        let mut sum = Moments::default();
        for (row, share) in [(top, 1.0 - down), (below, down)] {
            sum.add_weighed(&self.row(row)[left], share * (1.0 - along));
            sum.add_weighed(&self.row(row)[right], share * along);
        }
        sum
    }
}

/// Pixels along a side of the finest grid's cells.
const CELL: usize = 4;
/// How many grids there are.
const GRIDS: usize = 3;
/// The bell by which pixels right about a place count, σ 1.4: its weights two, one and no pixels away.
const NEAR: [f32; 5] = [0.360, 0.775, 1.0, 0.775, 0.360];

/// What a figure looks like, everywhere.
pub(super) struct Looks<'a> {
    picture: &'a Picture,
    /// How far each pixel is surely of the figure, 0–1.
    sure: &'a Field,
    screen: Screen,
    farther: Grid,
}

impl<'a> Looks<'a> {
    pub(super) fn of(
        picture: &'a Picture,
        sure: &'a Field,
        screen: Screen,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let window = picture.window();
        let (width, height) = (window.width().div_ceil(CELL), window.height().div_ceil(CELL));
        let finest = Grid::written(width, height, cancel, |line, row| {
            let first = window.y0 + (line * CELL) as i32;
            for y in first..(first + CELL as i32).min(window.y1) {
                for (x, (pixel, weight)) in picture.row(y).iter().zip(sure.row(y)).enumerate() {
                    if *weight > 0.0 {
                        row[x / CELL].add(*pixel, screen.excess(*pixel), weight / (CELL * CELL) as f32);
                    }
                }
            }
        })?;
        let mut grids = vec![finest];
        for at in 1..GRIDS {
            grids.push(grids[at - 1].halved(cancel)?);
        }
        let mut farther: Option<Grid> = None;
        for grid in grids.iter().rev() {
            farther = Some(Grid::written(grid.width, grid.height, cancel, |y, row| {
                grid.add_softened(y, row);
                for (x, out) in row.iter_mut().enumerate() {
                    let beyond = || {
                        let place = |at: usize| (at as f32 + 0.5) / 2.0;
                        farther
                            .as_ref()
                            .map(|coarser| coarser.between(place(x), place(y)))
                            .unwrap_or_default()
                    };
                    *out = out.over(beyond, 1.0);
                }
            })?);
        }
        let farther = farther.unwrap_or(Grid { width, height, cells: Vec::new() });
        Ok(Self { picture, sure, screen, farther })
    }

    /// Near the pixel at a column and row of the window.
    pub(super) fn near(&self, column: usize, line: usize) -> Moments {
        let window = self.picture.window();
        let mut here = Moments::default();
        for (dy, down) in NEAR.into_iter().enumerate() {
            let y = window.y0 + (line + dy) as i32 - 2;
            let (colours, weights) = (self.picture.row(y), self.sure.row(y));
            let from = column.saturating_sub(2);
            for at in from..(column + 3).min(weights.len()) {
                if weights[at] > 0.0 {
                    let weight = weights[at] * down * NEAR[at + 2 - column];
                    here.add(colours[at], self.screen.excess(colours[at]), weight);
                }
            }
        }
        let whole = NEAR.iter().sum::<f32>().powi(2);
        let cell = |at: usize| (at as f32 + 0.5) / CELL as f32;
        here.over(|| self.farther.between(cell(column), cell(line)), whole)
    }
}
