//! Checks of `select`.

use veil_pixels::shape::select::*;

/// Worked by hand: a smoothstep a quarter of the way is 0.15625.
#[test]
fn soft_ends_lie_outside_and_hard_ones_belong_to_the_range() {
    let band = Band { low: 0.4, high: 0.6, soft: [0.2, 0.0] };
    assert_eq!([0.4, 0.5, 0.6].map(|value| band.of(value)), [1.0; 3]);
    assert!((band.of(0.25) - 0.156_25).abs() < 1e-6);
    assert_eq!([0.2, 0.61, f32::NAN, f32::INFINITY].map(|value| band.of(value)), [0.0; 4]);
    let turned = Band { low: 0.6, high: 0.4, soft: [0.0; 2] };
    assert_eq!(turned.of(0.5), 0.0, "nothing lies between ends that have passed each other");
}

#[test]
fn solids_reach_as_far_on_every_axis() {
    let ball = Solid::Ball { centre: [1.0, 2.0, 3.0], radius: 5.0, soft: 2.0 };
    assert_eq!(ball.of([4.0, 6.0, 3.0]), 1.0);
    assert!((ball.of([1.0, 2.0, 9.0]) - 0.5).abs() < 1e-6);
    let block = Solid::Box { centre: [0.0; 3], half: [1.0, 2.0, 3.0], soft: 1.0 };
    assert_eq!(block.of([1.0, -2.0, 3.0]), 1.0);
    assert_eq!(block.of([1.8, 2.6, 0.0]), 0.0);
    assert!((block.of([1.3, 2.4, 0.0]) - 0.5).abs() < 1e-6);
}
