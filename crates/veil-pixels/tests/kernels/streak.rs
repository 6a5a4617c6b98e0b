//! Checks of `streak`.

use veil_pixels::filter::streak::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

#[test]
fn a_streak_down_is_a_streak_across_turned_and_no_length_changes_nothing() {
    let data = Window::sized(31, 31);
    let noisy = Raster::from_fn(data, |x, y| ((x * 7919 + y * 104_729) % 1013) as f32 / 1013.0);
    let turned = Raster::from_fn(data, |x, y| noisy.get(y, x).unwrap());
    let quarter = std::f32::consts::FRAC_PI_2;
    let blurred = |picture: &Raster<f32>, length: f32, angle: f32| {
        Streak { length, angle }.apply(picture, data, Edge::Hold, data, &Cancel::new()).unwrap()
    };
    let (across, down) = (blurred(&noisy, 9.0, 0.3), blurred(&turned, 9.0, -quarter - 0.3));
    for y in 0..31 {
        for x in 0..31 {
            assert!((across.get(x, y).unwrap() - down.get(y, x).unwrap()).abs() < 1e-5, "{x} {y}");
        }
    }
    assert_eq!(blurred(&noisy, 0.0, 0.7), noisy);
}
