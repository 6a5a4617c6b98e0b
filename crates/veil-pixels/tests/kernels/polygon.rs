//! Checks of `polygon`.

use proptest::prelude::*;
use veil_pixels::shape::polygon::*;
use veil_pixels::{Cancel, Window};

use crate::exact::clipped;

proptest! {
    /// Stars about a middle wind once, whatever their corners.
    #[test]
    fn coverage_is_that_of_exact_clipping(reaches in prop::collection::vec(0.5f64..26.0, 3..12), shift in -20.0f64..20.0) {
        let count = reaches.len() as f64;
        let corner = |(number, reach): (usize, &f64)| {
            let turn = number as f64 / count * std::f64::consts::TAU + 0.3;
            [16.0 + shift + reach * turn.cos(), 13.0 + reach * turn.sin()]
        };
        let corners: Vec<[f64; 2]> = reaches.iter().enumerate().map(corner).collect();
        let window = Window::new(-3, -2, 34, 29);
        let field = Polygon::new([corners.clone()]).over(window, &Cancel::new()).unwrap();
        for y in window.y0..window.y1 {
            for x in window.x0..window.x1 {
                let truth = clipped(&corners, f64::from(x), f64::from(y));
                let got = f64::from(field.get(x, y).unwrap());
                prop_assert!((got - truth).abs() < 2e-6, "{x}, {y}: {got}, not {truth}");
            }
        }
    }
}

#[test]
fn outlines_that_wind_the_same_way_cover_once_and_those_that_wind_back_are_holes() {
    let square = |from: f64, to: f64| vec![[from, from], [to, from], [to, to], [from, to]];
    let back = |from, to| square(from, to).into_iter().rev().collect::<Vec<_>>();
    let sum = |outlines: Vec<Vec<[f64; 2]>>| {
        let field = Polygon::new(outlines).over(Window::sized(20, 20), &Cancel::new()).unwrap();
        field.pixels().iter().map(|v| f64::from(*v)).sum::<f64>()
    };
    assert_eq!(sum(vec![square(2.0, 12.5), square(4.0, 8.0)]), 110.25);
    assert!((sum(vec![square(2.0, 12.5), back(4.0, 8.0)]) - 94.25).abs() < 1e-6);
    assert_eq!(sum(vec![vec![[2.0, 2.0], [9.0, 9.0]]]), 0.0);
}
