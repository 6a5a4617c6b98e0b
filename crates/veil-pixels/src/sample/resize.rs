//! Pictures of fewer pixels: proxies, of whole blocks, and any smaller size, of the areas it covers.
//!
//! - Shape of a proxy: it covers [`Window::scaled_down`] of the source's window.
//! - Alignment of a proxy: blocks are counted from the origin, so that a proxy pixel does not depend on the window.
//! - Edges: a block that is only partly in the window is the mean of the part that is.

use crate::buffer::raster::{Pixel, Wide};
use crate::{Cancel, Cancelled, Raster, Window};

/// The mean of each block of `divisor × divisor` pixels.
pub fn block_means<P: Pixel>(
    source: &Raster<P>,
    divisor: u32,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    if divisor == 1 {
        return Ok(source.clone());
    }
    let (from, step) = (source.window(), divisor as i32);
    let window = from.scaled_down(divisor);
    let begin = || vec![P::default(); from.width()];
    Raster::written_with(window, cancel, begin, |sums, y, row| {
        let lines = ((y * step).max(from.y0)..((y + 1) * step).min(from.y1)).map(|line| source.row(line));
        block_means_of(lines, from.x0, divisor, sums, row);
    })
}

/// A row of [`block_means`] from the lines of its blocks, all of which begin at a column. `sums` is room for one line.
fn block_means_of<'a, P: Pixel>(
    lines: impl Iterator<Item = &'a [P]>,
    x0: i32,
    divisor: u32,
    sums: &mut [P],
    row: &mut [P],
) {
    let mut high = 0;
    for line in lines {
        let (sums, line) = (P::floats_mut(sums), P::floats(line));
        match high {
            0 => sums.copy_from_slice(line),
            _ => sums.iter_mut().zip(line).for_each(|(sum, value)| *sum += value),
        }
        high += 1;
    }
    let mean = |columns: &[P]| {
        let sum = columns.iter().fold(P::Wide::default(), |sum, column| sum.plus(column.widen(), 1.0));
        P::narrow(sum.times(1.0 / (columns.len() * high) as f32))
    };
    let step = divisor as i32;
    // The first block may begin before the lines do, the last may end behind them.
    let mut rest = &*sums;
    for (x, out) in (x0.div_euclid(step)..).zip(row) {
        let wide = ((x + 1) * step - (x * step).max(x0)) as usize;
        let (columns, after) = rest.split_at(wide.min(rest.len()));
        (*out, rest) = (mean(columns), after);
    }
}

/// The pixel nearest the middle of each block, for signals whose mean over an edge means nothing.
pub fn block_middles<P: Pixel>(
    source: &Raster<P>,
    divisor: u32,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    if divisor == 1 {
        return Ok(source.clone());
    }
    let Window { x0, y0, x1, y1 } = source.window();
    let step = divisor as i32;
    let middle = |at: i32, first: i32, end: i32| (at * step + step / 2).clamp(first, end - 1);
    let window = source.window().scaled_down(divisor);
    Raster::written(window, cancel, |y, row| {
        let line = source.row(middle(y, y0, y1));
        for (x, out) in (window.x0..).zip(row) {
            *out = line[(middle(x, x0, x1) - x0) as usize];
        }
    })
}

/// A raster of `width × height` pixels from the origin on, each the mean of the part of `source` that it covers,
/// pixels at its border counted by the part of them that lies within. Neither side may grow; one that would is kept.
pub fn shrunk<P: Pixel>(
    source: &Raster<P>,
    width: u32,
    height: u32,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let from = source.window();
    let (columns, rows) = (Shares::new(from.width(), width), Shares::new(from.height(), height));
    let window = Window::sized(columns.count() as u32, rows.count() as u32);
    let wide = source.window().width();
    let begin = || vec![P::Wide::default(); wide];
    Raster::written_with(window, cancel, begin, |column_sums, y, out| {
        column_sums.fill(P::Wide::default());
        for (line, share) in rows.of(y as usize) {
            for (sum, pixel) in column_sums.iter_mut().zip(source.row(from.y0 + line as i32)) {
                *sum = sum.plus(pixel.widen(), share);
            }
        }
        for (x, out) in out.iter_mut().enumerate() {
            let parts = columns.of(x);
            let mean = parts.fold(P::Wide::default(), |sum, (at, share)| sum.plus(column_sums[at], share));
            *out = P::narrow(mean);
        }
    })
}

/// Which of the pixels along an axis each of fewer pixels is the mean of.
struct Shares {
    length: usize,
    count: usize,
}

impl Shares {
    fn new(length: usize, wanted: u32) -> Self {
        Self { length, count: (wanted as usize).clamp(1, length.max(1)) }
    }

    const fn count(&self) -> usize {
        self.count
    }

    /// The pixels of one, with the share each has of its mean.
    fn of(&self, index: usize) -> impl Iterator<Item = (usize, f32)> {
        // In units of a `count`th of a pixel, so that the bounds are whole numbers.
        let (from, to) = (index * self.length, (index + 1) * self.length);
        let count = self.count;
        let length = self.length;
        (from / count..to.div_ceil(count)).map(move |at| {
            let covered = to.min((at + 1) * count) - from.max(at * count);
            (at, covered as f32 / length as f32)
        })
    }
}
