//! Box and triangle blur of any width, at a cost that grows with its logarithm.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: the box's full width in pixels of the raster, by axis; up to 1 leaves the axis bit for bit as it is. A
//!   width that is no odd whole number weighs its two end pixels by the part that lies in the box.
//! - [`Profile::Triangle`] is the box of half the width, twice.
//! - Sums are built by doubling: those of 2ⁿ⁺¹ pixels from two of 2ⁿ. A pixel's sum is put together in the same
//!   order wherever it stands, so that a region equals the crop of the whole, which a running sum would not give.
//! - Edges: as the [`Edge`] says, outside the data window.

use crate::buffer::raster::Pixel;
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// How a pixel is spread along an axis.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Profile {
    /// Evenly.
    Box,
    /// Falling straight to the ends.
    Triangle,
}

/// A blur by axis.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BoxBlur {
    /// How a pixel is spread.
    pub profile: Profile,
    /// Full width along the rows.
    pub x: f32,
    /// Full width down the columns.
    pub y: f32,
}

/// One box along an axis.
#[derive(Clone, Copy)]
struct Span {
    /// Whole pixels in the middle, an odd number.
    whole: usize,
    /// The part of each of the two beyond them that lies in the box; 0 where they are not read.
    end: f32,
    /// One over the width.
    share: f32,
}

impl Span {
    fn new(width: f32) -> Self {
        let width = width.max(1.0);
        let whole = ((width - 1.0) / 2.0).floor() as usize * 2 + 1;
        Self { whole, end: (width - whole as f32) / 2.0, share: 1.0 / width }
    }

    const fn reach(self) -> i32 {
        (self.whole / 2) as i32 + if self.end > 0.0 { 1 } else { 0 }
    }

    /// `out[i]` is the box about `source[i + reach · step]`; `sums` and `total` are scratch space.
    fn run(self, source: &[f32], step: usize, out: &mut [f32], sums: &mut Vec<f32>) {
        let reach = self.reach() as usize;
        let from = reach - self.whole / 2;
        sums.clear();
        sums.extend_from_slice(&source[from * step..]);
        out.fill(0.0);
        let (mut size, mut start) = (1, 0);
        while size <= self.whole {
            if self.whole & size != 0 {
                for (out, sum) in out.iter_mut().zip(&sums[start * step..]) {
                    *out += sum;
                }
                start += size;
            }
            let far = size * step;
            for index in 0..sums.len().saturating_sub(far) {
                sums[index] += sums[index + far];
            }
            size *= 2;
        }
        let ends = source.iter().zip(&source[2 * reach * step..]);
        for (out, (before, after)) in out.iter_mut().zip(ends) {
            *out = (*out + self.end * (before + after)) * self.share;
        }
    }
}

impl BoxBlur {
    fn spans(self, width: f32) -> Vec<Span> {
        let spans = match self.profile {
            Profile::Box => vec![Span::new(width)],
            Profile::Triangle => vec![Span::new(width / 2.0); 2],
        };
        spans.into_iter().filter(|span| span.reach() > 0).collect()
    }

    /// How far from a pixel the blur reads, by axis.
    pub fn reach(self) -> (i32, i32) {
        let reach = |width: f32| self.spans(width).iter().map(|span| span.reach()).sum();
        (reach(self.x), reach(self.y))
    }

    /// The pixels of `wanted`. `data` is where the signal exists; `source` must hold what [`Edge::reads_window`] of
    /// `wanted` grown by [`Self::reach`] names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        edge: Edge,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let (reach_x, reach_y) = self.reach();
        let mut made = source.extended(wanted.grow(reach_x, reach_y), data, edge);
        for span in self.spans(self.x) {
            made = along_rows(&made, span, cancel)?;
        }
        for span in self.spans(self.y) {
            made = down_columns(&made, span, cancel)?;
        }
        Ok(made)
    }
}

fn along_rows<P: Pixel>(source: &Raster<P>, span: Span, cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    let window = source.window().grow(-span.reach(), 0);
    Raster::written_with(window, cancel, Vec::new, |sums, y, row| {
        span.run(P::floats(source.row(y)), P::CHANNELS, P::floats_mut(row), sums);
    })
}

/// Columns side by side that are summed together, so that what they read stays near at hand.
const STRIP: usize = 64;

fn down_columns<P: Pixel>(source: &Raster<P>, span: Span, cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    use rayon::prelude::*;
    let window = source.window().grow(0, -span.reach());
    let wide = window.width() * P::CHANNELS;
    let starts: Vec<usize> = (0..wide).step_by(STRIP).collect();
    let strips = starts.into_par_iter().map(|start| {
        cancel.check()?;
        let count = STRIP.min(wide - start);
        let mut read = Vec::with_capacity(count * source.window().height());
        for y in source.window().y0..source.window().y1 {
            read.extend_from_slice(&P::floats(source.row(y))[start..start + count]);
        }
        let (mut out, mut sums) = (vec![0.0; count * window.height()], Vec::new());
        span.run(&read, count, &mut out, &mut sums);
        Ok((start, count, out))
    });
    let strips: Vec<(usize, usize, Vec<f32>)> = strips.collect::<Result<_, Cancelled>>()?;
    Raster::written(window, cancel, |y, row| {
        let line = (y - window.y0) as usize;
        let row = P::floats_mut(row);
        for (start, count, strip) in &strips {
            row[*start..start + count].copy_from_slice(&strip[line * count..][..*count]);
        }
    })
}
