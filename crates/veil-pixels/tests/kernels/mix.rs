//! Checks of `mix`.

use veil_pixels::blend::mix::*;
use veil_pixels::{Cancel, Raster, Window};

#[test]
fn nothing_and_all_are_exact_beside_infinities() {
    let window = Window::sized(3, 1);
    let from = Raster::flat(window, [0.1f32, f32::INFINITY, -2.0, 1.0]);
    let to = Raster::flat(window, [0.7f32, 0.2, f32::INFINITY, 0.0]);
    let matte = Raster::from_fn(window, |x, _| x as f32);
    let mixed = mix(&from, &to, 1.0, Some(&matte), &Cancel::new()).unwrap();
    assert_eq!((mixed.get(0, 0), mixed.get(1, 0)), (from.get(0, 0), to.get(1, 0)));
    assert_eq!(mix(&from, &to, 0.0, None, &Cancel::new()).unwrap(), from);
}
