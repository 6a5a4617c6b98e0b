//! A window of pixels in memory, and the walk over its rows.

use std::sync::Arc;

use rayon::prelude::*;
use wide::f32x4;

use crate::buffer::pool::Pool;
use crate::{Cancel, Cancelled, Edge, Window};

/// What a pixel is made of: one, two or four floats.
pub trait Pixel: Copy + Default + PartialEq + Send + Sync + std::fmt::Debug + 'static {
    /// Floats a pixel.
    const CHANNELS: usize;
    /// Memory that rasters of this pixel hand on to each other.
    fn pool() -> &'static Pool<Self>;
    /// All floats of a run of pixels, in order.
    fn floats(pixels: &[Self]) -> &[f32];
    /// All floats of a run of pixels, in order, to write to.
    fn floats_mut(pixels: &mut [Self]) -> &mut [f32];
    /// The pixel in a register that holds all of its floats, for sums of many.
    type Wide: Wide;
    /// Into a register.
    fn widen(self) -> Self::Wide;
    /// Back from a register.
    fn narrow(wide: Self::Wide) -> Self;
    /// Two pixels above two, mixed down and then along by shares of the lower and of the right one; exactly two are
    /// in each row.
    #[inline(always)]
    fn mix_pairs(above: &[Self], below: &[Self], [x, y]: [f32; 2]) -> Self::Wide {
        let toward = |from: Self::Wide, to: Self::Wide, share| from.plus(to.plus(from, -1.0), share);
        let column = |at: usize| toward(above[at].widen(), below[at].widen(), y);
        toward(column(0), column(1), x)
    }
    /// Four rows of four, weighed down the columns by `weights[1]` and then along by `weights[0]`: the even columns and
    /// the odd ones apart, since two neighbouring pixels fill a register.
    #[inline(always)]
    fn weigh_four<'r>(row: impl Fn(usize) -> &'r [Self], weights: [&[f32; 4]; 2]) -> Self::Wide {
        weighed_by_columns(row, weights)
    }
    /// `self + other · weight`, float by float.
    #[inline(always)]
    fn plus(self, other: Self, weight: f32) -> Self {
        Self::narrow(self.widen().plus(other.widen(), weight))
    }
    /// From `self` at 0 to `other` at 1. Exactly `self` at 0 and exactly `other` at 1.
    #[inline(always)]
    fn mix(self, other: Self, t: f32) -> Self {
        Self::narrow(self.widen().mix(other.widen(), t))
    }
}

/// Rows of taps, weighed down the columns by `weights[1]` and then along by `weights[0]`, the even columns and the odd
/// ones apart.
#[inline(always)]
pub(crate) fn weighed_by_columns<'r, P: Pixel, const N: usize>(
    row: impl Fn(usize) -> &'r [P],
    weights: [&[f32; N]; 2],
) -> P::Wide {
    let weigh = |at: usize| {
        let first = row(0)[at].widen().times(weights[1][0]);
        (1..N).fold(first, |sum, number| sum.plus(row(number)[at].widen(), weights[1][number]))
    };
    let share = |at: usize| weigh(at).times(weights[0][at]);
    let mut sums = [share(0), if N > 1 { share(1) } else { P::Wide::default() }];
    for at in 2..N {
        sums[at % 2] = sums[at % 2].plus(weigh(at), weights[0][at]);
    }
    if N > 1 { sums[0].plus(sums[1], 1.0) } else { sums[0] }
}

/// Floats that are worked on together.
pub trait Wide: Copy + Default {
    /// `self · weight`, float by float.
    fn times(self, weight: f32) -> Self;
    /// `self + other · weight`, float by float.
    fn plus(self, other: Self, weight: f32) -> Self;
    /// From `self` at 0 to `other` at 1. Exactly `self` at 0 and exactly `other` at 1.
    #[inline(always)]
    fn mix(self, other: Self, t: f32) -> Self {
        if t == 1.0 { other } else { self.plus(other.plus(self, -1.0), t) }
    }
}

impl Wide for f32 {
    #[inline(always)]
    fn times(self, weight: f32) -> Self {
        self * weight
    }
    #[inline(always)]
    fn plus(self, other: Self, weight: f32) -> Self {
        self + other * weight
    }
}

impl Wide for [f32; 2] {
    #[inline(always)]
    fn times(self, weight: f32) -> Self {
        [self[0] * weight, self[1] * weight]
    }
    #[inline(always)]
    fn plus(self, other: Self, weight: f32) -> Self {
        [self[0] + other[0] * weight, self[1] + other[1] * weight]
    }
}

impl Wide for f32x4 {
    #[inline(always)]
    fn times(self, weight: f32) -> Self {
        self * Self::splat(weight)
    }
    #[inline(always)]
    fn plus(self, other: Self, weight: f32) -> Self {
        self + other * Self::splat(weight)
    }
}

impl Pixel for f32 {
    const CHANNELS: usize = 1;
    fn pool() -> &'static Pool<Self> {
        static POOL: Pool<f32> = Pool::new();
        &POOL
    }
    fn floats(pixels: &[Self]) -> &[f32] {
        pixels
    }
    fn floats_mut(pixels: &mut [Self]) -> &mut [f32] {
        pixels
    }
    type Wide = Self;
    #[inline(always)]
    fn widen(self) -> Self {
        self
    }
    #[inline(always)]
    fn narrow(wide: Self) -> Self {
        wide
    }
    /// All columns in one register.
    #[inline(always)]
    fn weigh_four<'r>(row: impl Fn(usize) -> &'r [Self], [along, down]: [&[f32; 4]; 2]) -> Self {
        let taps = |number: usize| match row(number) {
            [a, b, c, d, ..] => f32x4::new([*a, *b, *c, *d]),
            _ => f32x4::splat(0.0),
        };
        let first = taps(0).times(down[0]);
        let columns = (1..4).fold(first, |sum, number| sum.plus(taps(number), down[number]));
        let [a, b, c, d] = (columns * f32x4::new(*along)).to_array();
        (a + c) + (b + d)
    }
}

macro_rules! pixel_of_floats {
    ($count:literal, $wide:ty $(, $more:item)*) => {
        impl Pixel for [f32; $count] {
            const CHANNELS: usize = $count;
            fn pool() -> &'static Pool<Self> {
                static POOL: Pool<[f32; $count]> = Pool::new();
                &POOL
            }
            fn floats(pixels: &[Self]) -> &[f32] {
                pixels.as_flattened()
            }
            fn floats_mut(pixels: &mut [Self]) -> &mut [f32] {
                pixels.as_flattened_mut()
            }
            type Wide = $wide;
            #[inline(always)]
            fn widen(self) -> $wide {
                self.into()
            }
            #[inline(always)]
            fn narrow(wide: $wide) -> Self {
                wide.into()
            }
            $($more)*
        }
    };
}
pixel_of_floats!(2, [f32; 2]);
pixel_of_floats!(
    4,
    f32x4,
    /// Two pixels side by side as eight floats, which one register holds.
    #[inline(always)]
    fn mix_pairs(above: &[Self], below: &[Self], [x, y]: [f32; 2]) -> f32x4 {
        let (above, below) = (&above.as_flattened()[..8], &below.as_flattened()[..8]);
        let mut columns = [0.0f32; 8];
        for index in 0..8 {
            columns[index] = above[index] + (below[index] - above[index]) * y;
        }
        let mut pixel = [0.0f32; 4];
        for index in 0..4 {
            pixel[index] = columns[index] + (columns[index + 4] - columns[index]) * x;
        }
        pixel.into()
    }
);

/// Rows that one worker does in a run.
const ROWS_AT_ONCE: usize = 32;
/// Pixels that one worker sets in a run.
const PIXELS_AT_ONCE: usize = 1 << 15;

/// Memory that goes back to its pool.
#[derive(Debug, PartialEq)]
struct Buffer<P: Pixel>(Vec<P>);

impl<P: Pixel> Drop for Buffer<P> {
    fn drop(&mut self) {
        P::pool().give(std::mem::take(&mut self.0));
    }
}

impl<P: Pixel> Clone for Buffer<P> {
    fn clone(&self) -> Self {
        let mut pixels = P::pool().take(self.0.len());
        let runs = pixels.par_chunks_mut(PIXELS_AT_ONCE).zip(self.0.par_chunks(PIXELS_AT_ONCE));
        runs.for_each(|(to, from)| to.copy_from_slice(from));
        Self(pixels)
    }
}

/// The pixels of one window, row after row. Clones share their pixels until one of them is written to.
#[derive(Clone, Debug, PartialEq)]
pub struct Raster<P: Pixel> {
    window: Window,
    pixels: Arc<Buffer<P>>,
}

impl<P: Pixel> Raster<P> {
    /// All zero.
    pub fn clear(window: Window) -> Self {
        Self::flat(window, P::default())
    }

    /// Every pixel the same.
    pub fn flat(window: Window, pixel: P) -> Self {
        let mut pixels = P::pool().take(window.area());
        pixels.par_chunks_mut(PIXELS_AT_ONCE).for_each(|run| run.fill(pixel));
        Self::new(window, pixels)
    }

    /// Pixels of no known value, for those who write every one of them.
    fn unwritten(window: Window) -> Self {
        Self::new(window, P::pool().take(window.area()))
    }

    fn new(window: Window, pixels: Vec<P>) -> Self {
        Self { window, pixels: Arc::new(Buffer(pixels)) }
    }

    fn pixels_mut(&mut self) -> &mut [P] {
        &mut Arc::make_mut(&mut self.pixels).0
    }

    /// From pixels in row order; `None` when their number is not the window's area.
    pub fn from_pixels(window: Window, pixels: Vec<P>) -> Option<Self> {
        (pixels.len() == window.area()).then(|| Self::new(window, pixels))
    }

    /// Each pixel from its column and row, rows in parallel.
    pub fn from_fn(window: Window, f: impl Fn(i32, i32) -> P + Sync) -> Self {
        Self::written(window, &Cancel::new(), |y, row| {
            for (x, pixel) in (window.x0..).zip(row) {
                *pixel = f(x, y);
            }
        })
        .expect("a flag that nobody else holds is never set")
    }

    /// Rows that `f` writes, in parallel, given each one's number. It must write every pixel: what a row holds
    /// before is not known.
    pub fn written(
        window: Window,
        cancel: &Cancel,
        f: impl Fn(i32, &mut [P]) + Sync,
    ) -> Result<Self, Cancelled> {
        Self::written_with(window, cancel, || (), |(), y, row| f(y, row))
    }

    /// As [`Self::written`], with scratch space that `make` gives once for a run of rows that follow each other.
    pub fn written_with<S>(
        window: Window,
        cancel: &Cancel,
        make: impl Fn() -> S + Sync,
        f: impl Fn(&mut S, i32, &mut [P]) + Sync,
    ) -> Result<Self, Cancelled> {
        let mut made = Self::unwritten(window);
        made.fill_rows_with(cancel, make, f)?;
        Ok(made)
    }

    /// Bands of so many rows, the last one lower, that `f` writes whole, in parallel, given each one's first row. What a
    /// band holds before is not known. The first error ends it.
    pub fn written_in_bands<E: From<Cancelled> + Send>(
        window: Window,
        rows: usize,
        cancel: &Cancel,
        f: impl Fn(i32, &mut [P]) -> Result<(), E> + Sync,
    ) -> Result<Self, E> {
        let mut made = Self::unwritten(window);
        made.each_band(rows, cancel, f)?;
        Ok(made)
    }

    /// Bands of so many rows, the last one lower, all of which `f` writes whole, in whatever order. What a band holds before
    /// is not known.
    pub fn written_apart<E>(
        window: Window,
        rows: usize,
        f: impl FnOnce(Vec<&mut [P]>) -> Result<(), E>,
    ) -> Result<Self, E> {
        let mut made = Self::unwritten(window);
        let length = (window.width() * rows).max(1);
        f(made.pixels_mut().chunks_mut(length).collect())?;
        Ok(made)
    }

    /// Calls `f` with bands of so many rows and each one's first row, in parallel, until `cancel` is set.
    pub(crate) fn each_band<E: From<Cancelled> + Send>(
        &mut self,
        rows: usize,
        cancel: &Cancel,
        f: impl Fn(i32, &mut [P]) -> Result<(), E> + Sync,
    ) -> Result<(), E> {
        let (first, length) = (self.window.y0, self.window.width() * rows);
        if length == 0 {
            return Ok(());
        }
        in_bands(self.pixels_mut(), length, &|number, band| {
            cancel.check()?;
            f(first + (number * rows) as i32, band)
        })
    }

    /// Which pixels these are.
    pub fn window(&self) -> Window {
        self.window
    }

    /// All pixels in row order.
    pub fn pixels(&self) -> &[P] {
        &self.pixels.0
    }

    /// Bytes held.
    pub fn bytes(&self) -> usize {
        self.pixels.0.len() * size_of::<P>()
    }

    /// One row, or nothing where the row lies outside.
    pub fn row(&self, y: i32) -> &[P] {
        if y < self.window.y0 || y >= self.window.y1 {
            return &[];
        }
        let width = self.window.width();
        let start = (y - self.window.y0) as usize * width;
        &self.pixels.0[start..start + width]
    }

    /// A run of a row from a pixel on, as long as `room` is, which is used where some of it lies outside: nothing is there.
    pub fn run<'a>(&'a self, x0: i32, y: i32, room: &'a mut [P]) -> &'a [P] {
        let row = self.row(y);
        let from = i64::from(x0) - i64::from(self.window.x0);
        match usize::try_from(from).ok().and_then(|from| row.get(from..from + room.len())) {
            Some(run) => run,
            None if row.is_empty() => {
                room.fill(P::default());
                room
            }
            None => {
                extend_row(row, self.window.x0, self.window, Edge::Clear, x0, room);
                room
            }
        }
    }

    /// One pixel; `None` outside.
    pub fn get(&self, x: i32, y: i32) -> Option<P> {
        self.window.holds(x, y).then(|| self.row(y)[(x - self.window.x0) as usize])
    }

    /// Sets one pixel. Outside the window nothing happens.
    pub fn set(&mut self, x: i32, y: i32, pixel: P) {
        if self.window.holds(x, y) {
            let index = (y - self.window.y0) as usize * self.window.width() + (x - self.window.x0) as usize;
            self.pixels_mut()[index] = pixel;
        }
    }

    /// Calls `f` with each row's number and pixels, in parallel, until `cancel` is set.
    pub fn fill_rows(&mut self, cancel: &Cancel, f: impl Fn(i32, &mut [P]) + Sync) -> Result<(), Cancelled> {
        self.fill_rows_with(cancel, || (), |(), y, row| f(y, row))
    }

    /// As [`Self::fill_rows`], with scratch space that `make` gives once for a run of rows.
    pub fn fill_rows_with<S>(
        &mut self,
        cancel: &Cancel,
        make: impl Fn() -> S + Sync,
        f: impl Fn(&mut S, i32, &mut [P]) + Sync,
    ) -> Result<(), Cancelled> {
        let width = self.window.width();
        self.each_band(ROWS_AT_ONCE, cancel, |first, band| {
            let mut scratch = make();
            for (y, row) in (first..).zip(band.chunks_mut(width)) {
                f(&mut scratch, y, row);
            }
            Ok(())
        })
    }

    /// A new raster, each pixel by `f`, rows in parallel.
    pub fn map<Q: Pixel>(&self, cancel: &Cancel, f: impl Fn(P) -> Q + Sync) -> Result<Raster<Q>, Cancelled> {
        Raster::written(self.window, cancel, |y, row| {
            for (out, pixel) in row.iter_mut().zip(self.row(y)) {
                *out = f(*pixel);
            }
        })
    }

    /// Each pixel by `f`, in place, rows in parallel.
    pub fn change(&mut self, cancel: &Cancel, f: impl Fn(P) -> P + Sync) -> Result<(), Cancelled> {
        self.fill_rows(cancel, |_, row| {
            for pixel in row {
                *pixel = f(*pixel);
            }
        })
    }

    /// The smallest window with all pixels that are so; empty where none is.
    pub fn bounds(&self, is_so: impl Fn(&P) -> bool + Sync) -> Window {
        let of_row = |y: i32| {
            let row = self.row(y);
            let (first, last) = (row.iter().position(&is_so)?, row.iter().rposition(&is_so)?);
            let left = self.window.x0;
            Some(Window::new(left + first as i32, y, left + last as i32 + 1, y + 1))
        };
        let rows = (self.window.y0..self.window.y1).into_par_iter().filter_map(of_row);
        rows.reduce_with(Window::union).unwrap_or(Window::EMPTY)
    }

    /// These pixels and those of another beside or over them, which go before; none where both do not make a rectangle.
    pub fn with(&self, other: &Self) -> Option<Self> {
        let window = self.window.union(other.window);
        let covered = self.window.area() + other.window.area() - self.window.intersect(other.window).area();
        if covered != window.area() {
            return None;
        }
        let mut made = Self::unwritten(window);
        let width = window.width().max(1);
        made.pixels_mut().par_chunks_mut(width).zip(window.y0..window.y1).for_each(|(row, y)| {
            for part in [self, other] {
                if (part.window.y0..part.window.y1).contains(&y) {
                    let from = (part.window.x0 - window.x0) as usize;
                    row[from..from + part.window.width()].copy_from_slice(part.row(y));
                }
            }
        });
        Some(made)
    }

    /// The pixels of another window: those it has, the rest by `edge`, as seen from `data`.
    ///
    /// `data` is where the signal exists; what it holds must be in this raster as far as `window`
    /// reads it, and counts as zero where it is not.
    pub fn extended(&self, window: Window, data: Window, edge: Edge) -> Self {
        if window == self.window && data.contains(window) {
            return self.clone();
        }
        let width = window.width();
        if data.is_empty() || self.window.is_empty() || width == 0 {
            return Self::clear(window);
        }
        let mut made = Self::unwritten(window);
        made.pixels_mut().par_chunks_mut(width).enumerate().for_each(|(line, out)| {
            let from_y = edge.index(window.y0 + line as i32, data.y0, data.y1);
            match from_y.map(|y| self.row(y)) {
                Some(source) if !source.is_empty() => {
                    extend_row(source, self.window.x0, data, edge, window.x0, out);
                }
                _ => out.fill(P::default()),
            }
        });
        made
    }

    /// The same pixels, elsewhere: moved to the right and down.
    pub fn shifted(self, x: i32, y: i32) -> Self {
        Self { window: self.window.shifted(x, y), ..self }
    }

    /// The part of it in `window`.
    pub fn cropped(&self, window: Window) -> Self {
        let inside = window.intersect(self.window);
        if inside == self.window {
            return self.clone();
        }
        let mut made = Self::unwritten(inside);
        let width = inside.width();
        if width > 0 {
            let skip = (inside.x0 - self.window.x0) as usize;
            made.pixels_mut().par_chunks_mut(width).enumerate().for_each(|(line, out)| {
                let y = inside.y0 + line as i32;
                out.copy_from_slice(&self.row(y)[skip..skip + width]);
            });
        }
        made
    }
}

/// Fills `out`, whose first column is `out_x0`, from a row that starts at `source_x0`.
pub(crate) fn extend_row<P: Pixel>(
    source: &[P],
    source_x0: i32,
    data: Window,
    edge: Edge,
    out_x0: i32,
    out: &mut [P],
) {
    let source_x1 = source_x0 + source.len() as i32;
    let inner0 = out_x0.max(data.x0).max(source_x0);
    let inner1 = (out_x0 + out.len() as i32).min(data.x1).min(source_x1);
    let beyond = |from: i32, out: &mut [P]| {
        if edge == Edge::Clear {
            return out.fill(P::default());
        }
        for (x, pixel) in (from..).zip(out) {
            *pixel = edge
                .index(x, data.x0, data.x1)
                .filter(|at| (source_x0..source_x1).contains(at))
                .map_or_else(P::default, |at| source[(at - source_x0) as usize]);
        }
    };
    if inner1 <= inner0 {
        return beyond(out_x0, out);
    }
    let (left, rest) = out.split_at_mut((inner0 - out_x0) as usize);
    let (middle, right) = rest.split_at_mut((inner1 - inner0) as usize);
    beyond(out_x0, left);
    middle.copy_from_slice(&source[(inner0 - source_x0) as usize..(inner1 - source_x0) as usize]);
    beyond(inner1, right);
}

/// What is done with a run of pixels and its number.
type OfBand<'a, P, E> = &'a (dyn Fn(usize, &mut [P]) -> Result<(), E> + Sync);

/// Calls `f` with each run of `length` pixels and its number, in parallel. What is called is not known to the compiler,
/// so that the parallel loop is compiled once, and not for each kernel.
fn in_bands<P: Pixel, E: Send>(pixels: &mut [P], length: usize, f: OfBand<'_, P, E>) -> Result<(), E> {
    pixels.par_chunks_mut(length).enumerate().try_for_each(|(number, band)| f(number, band))
}
