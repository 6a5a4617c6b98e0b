//! Checks of `strokes`.

use veil_pixels::shape::strokes::*;
use veil_pixels::{Cancel, Window};

fn dot(x: f32, y: f32, width: f32, light: f32) -> Dot {
    Dot { at: [x, y], width, light }
}

/// By geometry: what a straight line of width w covers over its length is w times that length, thin or wide.
#[test]
fn a_line_gives_as_much_light_as_its_area() {
    for (width, softness, angle) in [(4.0, 0.0, 0.0f32), (0.3, 0.0, 0.4), (1.0, 0.0, 1.2), (9.0, 6.0, 0.9)] {
        let (c, s) = (angle.cos(), angle.sin());
        let stroke = vec![
            dot(150.0 - 100.0 * c, 150.0 - 100.0 * s, width, 2.0),
            dot(150.0 + 100.0 * c, 150.0 + 100.0 * s, width, 2.0),
        ];
        let field = Strokes::new(&[stroke], softness).over(Window::sized(300, 300), &Cancel::new()).unwrap();
        let sum: f64 = field.pixels().iter().map(|value| f64::from(*value)).sum();
        let area = f64::from(width * 200.0) * 2.0;
        assert!((sum / area - 1.0).abs() < 0.06, "{width} {softness} {angle}: {sum} of {area}");
    }
}

#[test]
fn joints_are_no_brighter_than_the_line_and_a_part_is_the_crop() {
    let stroke = vec![dot(20.0, 20.0, 5.0, 1.0), dot(60.0, 25.0, 5.0, 1.0), dot(30.0, 70.0, 1.0, 0.5)];
    let strokes = Strokes::new(&[stroke], 0.0);
    let whole = strokes.over(Window::sized(100, 100), &Cancel::new()).unwrap();
    assert!(whole.pixels().iter().all(|light| (0.0..=1.0).contains(light)));
    assert!(Window::sized(100, 100).contains(strokes.window()));
    let part = Window::new(31, 12, 70, 55);
    assert_eq!(strokes.over(part, &Cancel::new()).unwrap(), whole.cropped(part));
}
