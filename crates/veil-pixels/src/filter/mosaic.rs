//! A signal in cells of one value each.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: cell sizes and the corner of one of the cells, in pixels of the raster; a cell is a pixel at least.
//! - A pixel belongs to the cell that its centre lies in. A cell has the mean of its pixels, or that of the one in its
//!   middle, or the means flow from cell centre to cell centre along straight lines.
//! - Edges: a cell that the data window cuts is made of what lies inside; one that lies outside is nothing.

use rayon::prelude::*;

use crate::buffer::raster::{Pixel, Wide};
use crate::{Cancel, Cancelled, Raster, Window};

/// What a cell shows.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum CellValue {
    /// The mean of its pixels.
    #[default]
    Mean,
    /// The pixel in its middle.
    Sample,
    /// The means, flowing into each other.
    Smooth,
}

/// Cells over the plane.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Mosaic {
    /// Width and height of a cell.
    pub cell: [f32; 2],
    /// The corner of one.
    pub corner: [f32; 2],
    /// What each shows.
    pub value: CellValue,
}

impl Mosaic {
    fn size(self, axis: usize) -> f64 {
        f64::from(self.cell[axis]).max(1.0)
    }

    /// The place of a pixel's centre, counted in cells.
    fn cells_at(self, axis: usize, pixel: i32) -> f64 {
        (f64::from(pixel) + 0.5 - f64::from(self.corner[axis])) / self.size(axis)
    }

    /// The pixels of a cell along an axis.
    fn pixels_of(self, axis: usize, cell: i64) -> std::ops::Range<i32> {
        let edge = |cell: i64| {
            let place = cell as f64 * self.size(axis) + f64::from(self.corner[axis]);
            let first = (place - 0.5).ceil() as i32;
            // Rounding must not give a pixel to two cells.
            if (self.cells_at(axis, first - 1).floor() as i64) >= cell {
                first - 1
            } else if (self.cells_at(axis, first).floor() as i64) < cell {
                first + 1
            } else {
                first
            }
        };
        edge(cell)..edge(cell + 1)
    }

    /// The cells that the pixels of a window are made of, by axis; the neighbours too where they flow.
    fn cells_of(self, window: Window) -> [std::ops::Range<i64>; 2] {
        let about = i64::from(self.value == CellValue::Smooth);
        let run = |axis: usize, first: i32, end: i32| {
            let cell = |pixel| self.cells_at(axis, pixel).floor() as i64;
            cell(first) - about..cell(end - 1) + 1 + about
        };
        [run(0, window.x0, window.x1), run(1, window.y0, window.y1)]
    }

    /// What of a signal that exists in `data` is read for a window.
    pub fn reads(self, wanted: Window, data: Window) -> Window {
        if wanted.is_empty() {
            return Window::EMPTY;
        }
        let [x, y] = self.cells_of(wanted);
        let ends = |axis: usize, run: &std::ops::Range<i64>| {
            (self.pixels_of(axis, run.start).start, self.pixels_of(axis, run.end - 1).end)
        };
        let ((x0, x1), (y0, y1)) = (ends(0, &x), ends(1, &y));
        Window::new(x0, y0, x1, y1).intersect(data)
    }

    /// The cells over a window. `source` must hold what [`Self::reads`] names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        if wanted.is_empty() {
            return Ok(Raster::clear(wanted));
        }
        let [across, down] = self.cells_of(wanted);
        let wide = (across.end - across.start) as usize;
        let rows: Vec<Vec<P>> = down
            .clone()
            .into_par_iter()
            .map(|row| {
                cancel.check()?;
                let rows = self.pixels_of(1, row);
                Ok(across
                    .clone()
                    .map(|column| self.of_cell(source, data, self.pixels_of(0, column), &rows))
                    .collect())
            })
            .collect::<Result<_, Cancelled>>()?;
        let cell = |axis: usize, pixel: i32, first: i64| {
            (self.cells_at(axis, pixel).floor() as i64 - first) as usize
        };
        if self.value != CellValue::Smooth {
            return Raster::written(wanted, cancel, |y, out| {
                let cells = &rows[cell(1, y, down.start)];
                for (x, out) in (wanted.x0..).zip(out) {
                    *out = cells[cell(0, x, across.start)];
                }
            });
        }
        // Between the centres of two cells, which lie half a cell from their corners.
        let between = |axis: usize, pixel: i32, first: i64, count: usize| {
            let place = self.cells_at(axis, pixel) - 0.5 - first as f64;
            let before = (place.floor() as usize).min(count - 2);
            (before, (place - before as f64) as f32)
        };
        Raster::written(wanted, cancel, |y, out| {
            let (above, lower) = between(1, y, down.start, rows.len());
            for (x, out) in (wanted.x0..).zip(out) {
                let (left, right) = between(0, x, across.start, wide);
                let pair = |row: &[P]| row[left].widen().mix(row[left + 1].widen(), right);
                *out = P::narrow(pair(&rows[above]).mix(pair(&rows[above + 1]), lower));
            }
        })
    }

    fn of_cell<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        columns: std::ops::Range<i32>,
        rows: &std::ops::Range<i32>,
    ) -> P {
        let inside = Window::new(columns.start, rows.start, columns.end, rows.end).intersect(data);
        if inside.is_empty() {
            return P::default();
        }
        if self.value == CellValue::Sample {
            let middle = |run: &std::ops::Range<i32>| run.start + (run.end - run.start) / 2;
            let (x, y) = (middle(&columns), middle(rows));
            return source
                .get(x.clamp(inside.x0, inside.x1 - 1), y.clamp(inside.y0, inside.y1 - 1))
                .unwrap_or_default();
        }
        let share = 1.0 / inside.area() as f32;
        let skip = (inside.x0 - source.window().x0) as usize;
        let sum = inside.rows().fold(P::Wide::default(), |sum, y| {
            let row = &source.row(y)[skip..][..inside.width()];
            sum.plus(row.iter().fold(P::Wide::default(), |sum, pixel| sum.plus(pixel.widen(), 1.0)), 1.0)
        });
        P::narrow(sum.times(share))
    }
}
