//! Checks of `steepness`.

use veil_pixels::filter::steepness::*;
use veil_pixels::{Cancel, Map, Raster, Window};

fn over(f: impl Fn(f32, f32) -> f32 + Sync, distance: f32) -> Map {
    let data = Window::sized(96, 64);
    let field = Raster::from_fn(data, |x, y| f(x as f32 + 0.5, y as f32 + 0.5));
    steepness(&field, data, distance, 1.0, data, &Cancel::new()).unwrap()
}

/// By hand: the derivative of 0.7x − 0.2y is (0.7, −0.2), at the border too.
#[test]
fn a_plane_has_one_slope_everywhere() {
    for distance in [0.5, 1.0, 2.5, 7.0] {
        for m in over(|x, y| 0.7 * x - 0.2 * y, distance).pixels() {
            assert!((m[0] - 0.7).abs() < 1e-4 && (m[1] + 0.2).abs() < 1e-4, "{m:?} over {distance}");
        }
    }
}

/// By hand: the central difference of sin(kx) over d is k·cos(kx)·sin(kd)/(kd).
#[test]
fn a_sine_has_the_slope_that_calculus_gives() {
    let (k, distance) = (0.21f32, 2.0f32);
    let map = over(|x, _| (k * x).sin(), distance);
    for x in 3..90 {
        let place = x as f32 + 0.5;
        let truth = k * (k * place).cos() * (k * distance).sin() / (k * distance);
        let got = map.get(x, 30).unwrap();
        assert!((got[0] - truth).abs() < 1e-4 && got[1].abs() < 1e-5, "{got:?} {truth}");
    }
}
