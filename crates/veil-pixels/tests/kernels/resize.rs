//! Checks of `resize`.

use veil_pixels::sample::resize::*;
use veil_pixels::{Cancel, Raster, Window};

/// By hand: of five pixels the first of two covers two and a half.
#[test]
fn shrinking_gives_the_mean_of_what_each_pixel_covers() {
    let source = Raster::from_fn(Window::new(3, 7, 8, 8), |x, _| (x - 3) as f32);
    let small = shrunk(&source, 2, 1, &Cancel::new()).unwrap();
    assert_eq!(small.window(), Window::sized(2, 1));
    let wanted = [(0.0 + 1.0 + 0.5 * 2.0) / 2.5, (0.5 * 2.0 + 3.0 + 4.0) / 2.5];
    assert!(small.pixels().iter().zip(wanted).all(|(a, b)| (a - b).abs() < 1e-6), "{small:?}");
    assert_eq!(shrunk(&source, 9, 4, &Cancel::new()).unwrap().pixels(), source.pixels());
}

#[test]
fn a_proxy_pixel_is_the_mean_of_its_block_also_where_the_block_is_cut() {
    let source = Raster::from_fn(Window::new(-1, 0, 5, 4), |x, y| (x + 10 * y) as f32);
    let proxy = block_means(&source, 4, &Cancel::new()).unwrap();
    assert_eq!(proxy.window(), Window::new(-1, 0, 2, 1));
    assert_eq!(proxy.pixels(), [14.0, 16.5, 19.0]);
}
