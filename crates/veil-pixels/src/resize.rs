//! Proxy pictures: whole blocks of pixels averaged into one.
//!
//! - Shape: the result covers [`Window::scaled_down`] of the source's window.
//! - Alignment: blocks are counted from the origin, so that a proxy pixel does not depend on the window.
//! - Edges: a block that is only partly in the window is the mean of the part that is.

use crate::raster::Pixel;
use crate::{Cancel, Cancelled, Raster, Window};

/// The mean of each block of `divisor × divisor` pixels.
pub fn block_means<P: Pixel>(
    source: &Raster<P>,
    divisor: u32,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let Window { x0, y0, x1, y1 } = source.window();
    by_blocks(source, divisor, cancel, |(left, right), (top, bottom)| {
        let (from, to) = (left.max(x0), right.min(x1));
        let rows = top.max(y0)..bottom.min(y1);
        let count = (to - from) * (rows.end - rows.start);
        let mut sum = P::default();
        for line in rows {
            for pixel in &source.row(line)[(from - x0) as usize..(to - x0) as usize] {
                sum = sum.plus(*pixel, 1.0);
            }
        }
        P::default().plus(sum, 1.0 / count as f32)
    })
}

/// The pixel nearest the middle of each block, for signals whose mean over an edge means nothing.
pub fn block_middles<P: Pixel>(
    source: &Raster<P>,
    divisor: u32,
    cancel: &Cancel,
) -> Result<Raster<P>, Cancelled> {
    let Window { x0, y0, x1, y1 } = source.window();
    let half = divisor as i32 / 2;
    by_blocks(source, divisor, cancel, |(left, _), (top, _)| {
        let line = source.row((top + half).clamp(y0, y1 - 1));
        line[((left + half).clamp(x0, x1 - 1) - x0) as usize]
    })
}

/// A raster a `divisor`th the size, each pixel by `f` from the columns and rows of its block.
fn by_blocks<P: Pixel>(
    source: &Raster<P>,
    divisor: u32,
    cancel: &Cancel,
    f: impl Fn((i32, i32), (i32, i32)) -> P + Sync,
) -> Result<Raster<P>, Cancelled> {
    if divisor == 1 {
        return Ok(source.clone());
    }
    let step = divisor as i32;
    let block = |at: i32| (at * step, (at + 1) * step);
    let window = source.window().scaled_down(divisor);
    Raster::written(window, cancel, |y, row| {
        for (x, out) in (window.x0..).zip(row) {
            *out = f(block(x), block(y));
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_proxy_pixel_is_the_mean_of_its_block_also_where_the_block_is_cut() {
        let source = Raster::from_fn(Window::new(-1, 0, 5, 4), |x, y| (x + 10 * y) as f32);
        let proxy = block_means(&source, 4, &Cancel::new()).unwrap();
        assert_eq!(proxy.window(), Window::new(-1, 0, 2, 1));
        assert_eq!(proxy.pixels(), [14.0, 16.5, 19.0]);
    }
}
