//! Checks of `outline`.

use proptest::prelude::*;
use veil_pixels::shape::ellipse::SoftSide;
use veil_pixels::shape::outline::*;
use veil_pixels::{Cancel, Window};

use crate::exact::clipped;

fn corner(x: f64, y: f64) -> Knot {
    Knot { at: [x, y], before: [0.0; 2], after: [0.0; 2], soft: 0.0 }
}

fn sum(outline: &Outline) -> f64 {
    let field = outline.over(Window::sized(100, 100), &Cancel::new()).unwrap();
    field.pixels().iter().map(|v| f64::from(*v)).sum()
}

/// Four cubic arcs with the usual handles stand for a circle within 3 in 10000 of its radius.
#[test]
fn curves_cover_what_they_enclose() {
    let (r, k) = (30.0, 30.0 * 0.552_284_75);
    let knot = |x: f64, y: f64, dx: f64, dy: f64| Knot {
        at: [50.0 + x * r, 50.0 + y * r],
        before: [-dx * k, -dy * k],
        after: [dx * k, dy * k],
        soft: 0.0,
    };
    let knots = vec![
        knot(1.0, 0.0, 0.0, 1.0),
        knot(0.0, 1.0, -1.0, 0.0),
        knot(-1.0, 0.0, 0.0, -1.0),
        knot(0.0, -1.0, 1.0, 0.0),
    ];
    let circle = Outline { knots, width: None, side: SoftSide::Both };
    let area = std::f64::consts::PI * r * r;
    assert!((sum(&circle) / area - 1.0).abs() < 6e-4, "{}", sum(&circle) / area);

    // A straight line with a width is a box with round ends.
    let line = Outline {
        knots: vec![corner(20.0, 50.0), corner(80.0, 50.0)],
        width: Some(10.0),
        side: SoftSide::Both,
    };
    let wanted = 600.0 + std::f64::consts::PI * 25.0;
    assert!((sum(&line) / wanted - 1.0).abs() < 3e-3, "{} {wanted}", sum(&line));
}

proptest! {
    /// Curves about a middle wind once; each pixel is the share of it that the flattened outline takes up.
    #[test]
    fn drawn_curves_cover_what_exact_clipping_gives(
        points in prop::collection::vec((6.0f64..24.0, -0.3f64..0.3, 0.0f64..0.45), 3..9),
    ) {
        let count = points.len() as f64;
        let knot = |(number, (reach, lean, bend)): (usize, &(f64, f64, f64))| {
            let turn = number as f64 / count * std::f64::consts::TAU;
            // Handles along the way round, short enough that no curve meets another.
            let way = [-(turn + lean).sin(), (turn + lean).cos()];
            let length = bend * reach * std::f64::consts::TAU / count / 2.0;
            let handle = way.map(|way| way * length);
            let at = [30.0 + reach * turn.cos(), 29.0 + reach * turn.sin()];
            Knot { at, before: handle.map(|way| -way), after: handle, soft: 0.0 }
        };
        let knots = points.iter().enumerate().map(knot).collect();
        let outline = Outline { knots, width: None, side: SoftSide::Both };
        let (window, corners) = (Window::sized(60, 58), outline.corners());
        let field = outline.over(window, &Cancel::new()).unwrap();
        for (x, y) in (0..60).flat_map(|x| (0..58).map(move |y| (x, y))) {
            let truth = clipped(&corners, f64::from(x), f64::from(y));
            let got = f64::from(field.get(x, y).unwrap());
            prop_assert!((got - truth).abs() < 1e-3, "{x}, {y}: {got}, not {truth}");
        }
    }
}

#[test]
fn a_soft_edge_is_as_long_as_its_points_say() {
    let mut knots = vec![corner(20.0, 20.0), corner(80.0, 20.0), corner(80.0, 80.0), corner(20.0, 80.0)];
    (knots[0].soft, knots[3].soft) = (16.0, 16.0);
    let soft = Outline { knots, width: None, side: SoftSide::Outward };
    let field = soft.over(Window::sized(100, 100), &Cancel::new()).unwrap();
    // Half the length beyond the left side it is half; the right side is hard.
    let left = field.get(11, 50).unwrap();
    assert!((left - 0.5).abs() < 0.1, "{left}");
    assert_eq!((field.get(30, 50), field.get(81, 50)), (Some(1.0), Some(0.0)));
    let all = soft.window();
    let beyond = (0..100).flat_map(|y| (0..100).map(move |x| (x, y))).filter(|(x, y)| !all.holds(*x, *y));
    assert!(beyond.into_iter().all(|(x, y)| field.get(x, y) == Some(0.0)));
}
