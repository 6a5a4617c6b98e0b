//! Checks of `grade`.

use veil_pixels::colour::grade::*;

#[test]
fn one_stop_doubles_the_light_and_no_grade_is_the_input_bit_for_bit() {
    let colour = [0.1, -0.3, 7.5];
    assert_eq!(Grade::NONE.apply(colour), colour);
    assert_eq!(Grade { exposure: 1.0, ..Grade::NONE }.apply(colour), [0.2, -0.6, 15.0]);
}

/// Common practice: lift raises black and leaves white, contrast leaves its pivot, gamma leaves 0 and 1.
#[test]
fn each_control_leaves_the_value_that_the_trade_expects() {
    let lift = Grade { lift: [0.1; 3], ..Grade::NONE };
    assert_eq!(lift.apply([0.0, 0.0, 1.0]), [0.1, 0.1, 1.0]);
    let contrast = Grade { contrast: 1.7, ..Grade::NONE };
    assert!((contrast.apply([0.18, 0.0, 0.0])[0] - 0.18).abs() < 1e-6);
    let gamma = Grade { gamma: [2.0; 3], ..Grade::NONE };
    assert_eq!(gamma.apply([0.0, 0.25, 1.0]), [0.0, 0.5, 1.0]);
    let grey = Grade { saturation: 0.0, ..Grade::NONE }.apply([1.0, 0.0, 0.0]);
    assert!(grey.iter().all(|value| (value - 0.2126).abs() < 1e-6));
}

#[test]
fn levels_push_the_points_to_black_and_white_and_a_closed_span_is_a_threshold() {
    let levels = Levels { in_low: 0.2, in_high: 0.6, gamma: 1.0, out_low: 0.0, out_high: 1.0, clamp: true };
    assert_eq!(
        [0.0, 0.2, 0.4, 0.6, 2.0].map(|v| (levels.apply(v) * 1e4).round() / 1e4),
        [0.0, 0.0, 0.5, 1.0, 1.0]
    );
    let threshold = Levels { in_high: 0.2, ..levels };
    assert_eq!([0.19, 0.2, 0.21].map(|v| threshold.apply(v)), [0.0, 0.0, 1.0]);
}
