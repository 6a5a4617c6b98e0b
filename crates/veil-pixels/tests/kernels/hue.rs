//! Checks of `hue`.

use veil_pixels::colour::LUMA_709;
use veil_pixels::colour::hue::*;

/// By geometry: three thirds of a turn are none, grey stays grey, luma stays, and a third brings red to green.
#[test]
fn a_turn_keeps_luma_and_grey_and_goes_from_red_to_green() {
    let third = std::f32::consts::TAU / 3.0;
    let luma =
        |colour: [f32; 3]| colour.iter().zip(LUMA_709).map(|(value, weight)| value * weight).sum::<f32>();
    let turn = HueTurn::new(third, 1.0, LUMA_709);
    for colour in [[0.8, 0.2, 0.1], [0.3, 0.3, 0.3], [2.5, -0.1, 0.7]] {
        let turned = turn.of(colour);
        assert!((luma(turned) - luma(colour)).abs() < 1e-5);
        let back = turn.of(turn.of(turned));
        assert!(back.iter().zip(colour).all(|(a, b)| (a - b).abs() < 1e-5), "{back:?} not {colour:?}");
    }
    let [r, g, b] = turn.of([1.0, 0.0, 0.0]);
    assert!(g > r && g > b && (r - b).abs() < 1e-6, "{r} {g} {b}");
    let grey = HueTurn::new(1.0, 0.0, LUMA_709).of([0.9, 0.1, 0.4]);
    assert!(grey.iter().all(|value| (value - luma([0.9, 0.1, 0.4])).abs() < 1e-6));
}
