//! One line of a signal, stretched over all of it: what is left varies along one axis only.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: the line's place and the width of its band in pixels of the raster, pixel centres at halves.
//! - The line is the mean of a band about it, each row or column by the part of it that lies in the band. A band is a pixel
//!   wide at least, so that a line that moves slowly is read evenly between two rows.
//! - Edges: beyond the data window across the line, the border is held; along it, nothing is added.

use crate::buffer::raster::{Pixel, Wide};
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// Which line is stretched.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Line {
    /// A row, over all rows.
    Row,
    /// A column, over all columns.
    Column,
}

/// A line to stretch.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stretch {
    /// Which way it runs.
    pub line: Line,
    /// Where it is: from the top of a row, from the left of a column.
    pub at: f32,
    /// How much about it is averaged.
    pub band: f32,
}

impl Stretch {
    /// The rows or columns of the band with their parts, which sum to 1, of a signal that runs `from..to` across them.
    fn parts(self, from: i32, to: i32) -> Vec<(i32, f32)> {
        let half = f64::from(self.band.max(1.0)) / 2.0;
        let at = f64::from(self.at).clamp(f64::from(from) - half, f64::from(to) + half);
        let (low, high) = (at - half, at + half);
        let mut parts: Vec<(i32, f32)> = Vec::new();
        for index in low.floor() as i32..high.ceil() as i32 {
            let part = (high.min(f64::from(index) + 1.0) - low.max(f64::from(index))) / (high - low);
            let held = index.clamp(from, to - 1);
            match parts.last_mut() {
                Some((last, sum)) if *last == held => *sum += part as f32,
                _ => parts.push((held, part as f32)),
            }
        }
        parts
    }

    /// What of a signal that exists in `data` is read for a window.
    pub fn reads(self, wanted: Window, data: Window) -> Window {
        if data.is_empty() {
            return Window::EMPTY;
        }
        let ends = |from, to| {
            let parts = self.parts(from, to);
            (parts[0].0, parts[parts.len() - 1].0 + 1)
        };
        match self.line {
            Line::Row => {
                let (y0, y1) = ends(data.y0, data.y1);
                Window::new(wanted.x0, y0, wanted.x1, y1).intersect(data)
            }
            Line::Column => {
                let (x0, x1) = ends(data.x0, data.x1);
                Window::new(x0, wanted.y0, x1, wanted.y1).intersect(data)
            }
        }
    }

    /// The stretched line over a window. `source` must hold what [`Self::reads`] names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        if data.is_empty() {
            return Ok(Raster::clear(wanted));
        }
        match self.line {
            Line::Row => {
                let parts = self.parts(data.y0, data.y1);
                let across = Window::new(wanted.x0, 0, wanted.x1, 1);
                let read = |y: i32| source.cropped(Window::new(data.x0, y, data.x1, y + 1));
                let mut sum = vec![P::Wide::default(); across.width()];
                for (y, part) in parts {
                    let row = read(y);
                    let held = Window { y0: y, y1: y + 1, ..across };
                    let row = row.extended(held, row.window(), Edge::Clear);
                    sum.iter_mut()
                        .zip(row.row(y))
                        .for_each(|(sum, pixel)| *sum = sum.plus(pixel.widen(), part));
                }
                let line: Vec<P> = sum.into_iter().map(P::narrow).collect();
                Raster::written(wanted, cancel, |_, row| row.copy_from_slice(&line))
            }
            Line::Column => {
                let parts = self.parts(data.x0, data.x1);
                Raster::written(wanted, cancel, |y, row| {
                    let mean = parts.iter().fold(P::Wide::default(), |sum, (x, part)| {
                        sum.plus(source.get(*x, y).unwrap_or_default().widen(), *part)
                    });
                    row.fill(P::narrow(mean));
                })
            }
        }
    }
}
