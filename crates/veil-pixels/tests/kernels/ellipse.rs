//! Checks of `ellipse`.

use veil_pixels::shape::ellipse::*;
use veil_pixels::{Cancel, Window};

fn area(ellipse: &Ellipse) -> f64 {
    let field = ellipse.over(Window::sized(300, 300), &Cancel::new()).unwrap();
    field.pixels().iter().map(|v| f64::from(*v)).sum()
}

/// Area of an ellipse: π·a·b.
#[test]
fn the_coverage_sums_to_the_area_whatever_the_turn() {
    for (radii, angle) in [([60.0f32, 60.0f32], 0.0f32), ([100.0, 40.0], 0.0), ([100.0, 40.0], 0.6)] {
        let ellipse = Ellipse { centre: [150.3, 149.8], radii, angle, softness: 0.0, side: SoftSide::Both };
        let truth = std::f64::consts::PI * f64::from(radii[0]) * f64::from(radii[1]);
        assert!((area(&ellipse) / truth - 1.0).abs() < 1e-5, "{radii:?} {angle}");
    }
}

#[test]
fn it_turns_counter_clockwise_as_seen_and_covers_nothing_outside_its_window() {
    let ellipse = Ellipse {
        centre: [150.0, 150.0],
        radii: [90.0, 20.0],
        angle: 0.5,
        softness: 20.0,
        side: SoftSide::Outward,
    };
    let field = ellipse.over(Window::sized(300, 300), &Cancel::new()).unwrap();
    // Up and to the right of the centre, y being down.
    assert_eq!(field.get(210, 117), Some(1.0));
    assert_eq!(field.get(210, 183), Some(0.0));
    for y in 0..300 {
        for x in 0..300 {
            assert!(ellipse.window().holds(x, y) || field.get(x, y) == Some(0.0), "{x}, {y}");
        }
    }
}
