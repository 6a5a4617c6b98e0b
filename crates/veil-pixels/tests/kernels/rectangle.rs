//! Checks of `rectangle`.

use veil_pixels::shape::ellipse::SoftSide;
use veil_pixels::shape::rectangle::*;
use veil_pixels::{Cancel, Window};

#[test]
fn its_coverage_sums_to_its_area_and_a_soft_edge_lies_on_its_side() {
    let hard = Rectangle {
        centre: [60.2, 50.9],
        half: [31.3, 17.7],
        angle: 0.4,
        softness: 0.0,
        side: SoftSide::Both,
    };
    let sum = |shape: Rectangle| {
        let field = shape.over(Window::sized(140, 120), &Cancel::new()).unwrap();
        field.pixels().iter().map(|v| f64::from(*v)).sum::<f64>()
    };
    let area = 4.0 * f64::from(hard.half[0]) * f64::from(hard.half[1]);
    assert!((sum(hard) / area - 1.0).abs() < 1e-5);
    let soft = |side| sum(Rectangle { softness: 12.0, side, ..hard });
    assert!(soft(SoftSide::Inward) < area && area < soft(SoftSide::Outward));
    let field = Rectangle { softness: 12.0, side: SoftSide::Outward, ..hard };
    let all = field.over(Window::sized(140, 120), &Cancel::new()).unwrap();
    let beyond =
        (0..120).flat_map(|y| (0..140).map(move |x| (x, y))).filter(|(x, y)| !field.window().holds(*x, *y));
    assert!(beyond.into_iter().all(|(x, y)| all.get(x, y) == Some(0.0)));
}
