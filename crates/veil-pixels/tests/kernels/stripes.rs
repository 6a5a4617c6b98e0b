//! Checks of `stripes`.

use veil_pixels::shape::stripes::*;
use veil_pixels::{Cancel, Window};

/// The share that is covered is that of the width in the period, whatever the width, the edge and the turn.
#[test]
fn lines_cover_their_share_and_lie_where_they_should() {
    let window = Window::sized(1200, 900);
    for (period, width, softness, angle) in
        [(30.0, 6.0, 0.0, 0.0), (30.0, 0.4, 0.0, 0.3), (24.5, 12.0, 9.0, -0.8), (40.0, 30.0, 16.0, 1.2)]
    {
        let stripes = Stripes { origin: [600.0, 450.0], period, width, softness, angle, phase: 0.2 };
        let field = stripes.over(Lines::Along, window, &Cancel::new()).unwrap();
        let share = field.pixels().iter().map(|v| f64::from(*v)).sum::<f64>() / window.area() as f64;
        let wanted = f64::from(width / period);
        assert!((share - wanted).abs() < 0.004 + 0.01 * wanted, "{share} of {wanted}");
    }
    let upright =
        Stripes { origin: [10.5, 0.0], period: 20.0, width: 3.0, softness: 0.0, angle: 0.0, phase: 0.0 };
    let row = upright.over(Lines::Along, Window::sized(40, 1), &Cancel::new()).unwrap();
    let lit: Vec<usize> = (0..40).filter(|x| row.pixels()[*x] > 0.999).collect();
    assert_eq!(lit, [9, 10, 11, 29, 30, 31]);
}
