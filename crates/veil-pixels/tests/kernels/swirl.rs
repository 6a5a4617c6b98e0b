//! Checks of `swirl`.

use veil_pixels::warp::swirl::*;
use veil_pixels::{Cancel, Window};

/// By hand: near the centre a quarter turn counter-clockwise brings to the right of it what lay below it.
#[test]
fn the_middle_is_turned_by_the_whole_angle_and_the_rim_by_none() {
    let swirl = Swirl { centre: [200.0, 200.0], radius: 150.0, angle: std::f32::consts::FRAC_PI_2 };
    let map = swirl.over(Window::sized(400, 400), &Cancel::new()).unwrap();
    // The pixel (202, 199) has its centre 2.5 right and 0.5 up; it is read 0.5 right and 2.5 down.
    let [x, y] = map.get(202, 199).unwrap();
    assert!((x - 2.0).abs() < 0.02 && (y + 3.0).abs() < 0.02, "{x} {y}");
    assert_eq!(map.get(200, 40), Some([0.0; 2]));
    let still = Swirl { radius: 0.0, ..swirl }.over(Window::sized(9, 9), &Cancel::new()).unwrap();
    assert!(still.pixels().iter().all(|moved| *moved == [0.0; 2]));
}
