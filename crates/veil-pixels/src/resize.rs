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
    if divisor == 1 {
        return Ok(source.clone());
    }
    let Window { x0, y0, x1, y1 } = source.window();
    let step = divisor as i32;
    let window = source.window().scaled_down(divisor);
    let mut made = Raster::clear(window);
    made.fill_rows(cancel, |y, row| {
        let rows = (y * step).max(y0)..((y + 1) * step).min(y1);
        for (x, out) in (window.x0..).zip(row) {
            let (from, to) = ((x * step).max(x0), ((x + 1) * step).min(x1));
            let mut sum = P::default();
            for line in rows.clone() {
                for pixel in &source.row(line)[(from - x0) as usize..(to - x0) as usize] {
                    sum = sum.plus(*pixel, 1.0);
                }
            }
            let count = (to - from) * (rows.end - rows.start);
            *out = P::default().plus(sum, 1.0 / count as f32);
        }
    })?;
    Ok(made)
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
    let window = source.window().scaled_down(divisor);
    let mut made = Raster::clear(window);
    made.fill_rows(cancel, |y, row| {
        let line = source.row((y * step + step / 2).clamp(y0, y1 - 1));
        for (x, out) in (window.x0..).zip(row) {
            *out = line[((x * step + step / 2).clamp(x0, x1 - 1) - x0) as usize];
        }
    })?;
    Ok(made)
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
