//! Checks of `measure`.

use veil_pixels::measure::*;
use veil_pixels::{Raster, Window};

#[test]
fn a_checkerboard_has_the_mean_of_its_two_values() {
    let board = Raster::from_fn(Window::sized(8, 8), |x, y| if (x + y) % 2 == 0 { 3.0f32 } else { -1.0 });
    let found = statistics(&board, Window::new(2, 2, 6, 6)).unwrap();
    assert_eq!((found.least[0], found.mean[0], found.most[0]), (-1.0, 1.0, 3.0));
    assert_eq!(statistics(&board, Window::new(20, 0, 30, 4)), None);
    assert_eq!(mean_difference(&board, &Raster::clear(Window::new(4, 4, 20, 20))), 2.0);
}
