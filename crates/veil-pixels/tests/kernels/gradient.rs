//! Checks of `gradient`.

use veil_pixels::shape::gradient::*;

fn stop(at: f32, value: f32, alpha: f32) -> Stop {
    Stop { at, colour: [value, 0.0, 2.0 * value], alpha, smooth: false }
}

/// Places and values by hand, and those of CSS Images Level 3: red to transparent mixes premultiplied.
#[test]
fn stops_stand_where_they_are_put_and_a_clear_one_darkens_nothing() {
    let gradient = Gradient::new(vec![stop(0.75, 4.0, 0.0), stop(0.25, 1.0, 1.0)], Spread::Hold);
    assert_eq!(gradient.at(-3.0), [1.0, 0.0, 2.0, 1.0]);
    assert_eq!(gradient.at(0.25), [1.0, 0.0, 2.0, 1.0]);
    assert_eq!(gradient.at(0.5), [0.5, 0.0, 1.0, 0.5]);
    assert_eq!(gradient.at(0.9), [0.0; 4]);
    let of = |spread| Gradient::new(vec![stop(0.0, 0.0, 1.0), stop(1.0, 1.0, 1.0)], spread).at(1.25)[0];
    let all = [Spread::Hold, Spread::Mirror, Spread::Repeat, Spread::Clear].map(of);
    assert_eq!(all, [1.0, 0.75, 0.25, 0.0]);
    let smooth =
        Gradient::new(vec![Stop { smooth: true, ..stop(0.0, 0.0, 1.0) }, stop(1.0, 1.0, 1.0)], Spread::Hold);
    assert_eq!(smooth.at(0.25)[0], 0.156_25);
}

#[test]
fn runs_lie_where_their_points_are_and_one_of_no_length_is_its_last_stop() {
    let linear = Run::Linear { from: [10.0, 10.0], to: [10.0, 30.0] };
    assert_eq!(linear.place([99.0, 15.0]), 0.25);
    let radial = |radius| Run::Radial { centre: [10.0, 10.0], radius };
    assert_eq!((radial(10.0).place([13.0, 14.0]), radial(0.0).place([10.0, 10.0])), (0.5, 1.0));
    // A quarter of the way round, clockwise as seen, is down where it begins to the right.
    let angular = Run::Angular { centre: [10.0, 10.0], begins: [20.0, 10.0] };
    assert!((angular.place([10.0, 17.0]) - 0.25).abs() < 1e-6);
}

/// A row of places, back and forth over stops of which two stand at one place, has the bits that each has alone.
#[test]
fn a_row_of_places_is_each_of_them() {
    let stops = [stop(0.2, 3.0, 1.0), stop(0.5, 1.0, 0.5), stop(0.5, 6.0, 1.0), stop(0.9, 0.1, 0.0)];
    let places: Vec<f32> =
        (0..200).map(|at| (at * 37 % 200) as f32 / 60.0 - 1.0).chain([0.5, 0.2, f32::NAN]).collect();
    for spread in [Spread::Hold, Spread::Mirror, Spread::Repeat, Spread::Clear] {
        for count in 0..=stops.len() {
            let gradient = Gradient::new(stops[..count].to_vec(), spread);
            let mut row = vec![[7.0; 4]; places.len()];
            gradient.row(&places, &mut row);
            for (place, got) in places.iter().zip(&row) {
                let alone = gradient.at(*place).map(f32::to_bits);
                assert_eq!(got.map(f32::to_bits), alone, "{place} of {count} stops, {spread:?}");
            }
        }
    }
}
