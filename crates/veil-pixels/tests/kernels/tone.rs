//! Checks of `tone`.

use proptest::prelude::*;
use veil_pixels::colour::tone::*;

#[test]
fn a_straight_curve_changes_nothing_and_ends_go_on_straight() {
    for points in [vec![], vec![[0.0, 0.0], [1.0, 1.0]], vec![[0.0, 0.0], [0.5, 0.5], [1.0, 1.0]]] {
        let tone = Tone::through(&points);
        assert!(tone.is_straight());
        assert_eq!([-2.0, 0.25, 7.0].map(|value| tone.at(value)), [-2.0, 0.25, 7.0]);
    }
    let half = Tone::through(&[[0.0, 0.0], [1.0, 0.5]]);
    assert_eq!((half.at(0.5), half.at(3.0)), (0.25, 1.5));
    // What is infinite goes on too, in a run as alone; what is no number stays that.
    let mut run = [f32::INFINITY; 40];
    half.over_run(&mut run);
    assert_eq!((half.at(f32::INFINITY), run), (f32::MAX * 0.5, [f32::MAX * 0.5; 40]));
    assert!(half.at(f32::NAN).is_nan());
    // The data of Fritsch and Carlson's own example, RPN 14: a long level stretch, then a steep rise.
    let rpn = [
        [7.99, 0.0],
        [8.09, 2.764_29e-5],
        [8.19, 4.374_98e-2],
        [8.7, 0.169_183],
        [9.2, 0.469_428],
        [10.0, 0.943_74],
        [12.0, 0.998_636],
        [15.0, 0.999_919],
        [20.0, 0.999_994],
    ];
    let tone = Tone::through(&rpn);
    let run: Vec<f32> = (0..2400).map(|step| tone.at(8.0 + step as f32 * 0.005)).collect();
    assert!(run.windows(2).all(|pair| pair[1] >= pair[0] - 1e-6), "it only rises");
}

proptest! {
    /// It passes through its points and between two of them stays between their values.
    #[test]
    fn it_passes_through_its_points_and_never_beyond(steps in prop::collection::vec((0.05f64..1.0, -1.0f64..1.0), 2..8)) {
        let mut at = 0.0;
        let points: Vec<[f64; 2]> = steps.iter().map(|(wide, value)| { at += wide; [at, *value] }).collect();
        let tone = Tone::through(&points);
        for pair in points.windows(2) {
            let (low, high) = (pair[0][1].min(pair[1][1]) as f32, pair[0][1].max(pair[1][1]) as f32);
            prop_assert!((tone.at(pair[0][0] as f32) - pair[0][1] as f32).abs() < 1e-4);
            for step in 0..=20 {
                let place = pair[0][0] + (pair[1][0] - pair[0][0]) * f64::from(step) / 20.0;
                let value = tone.at(place as f32);
                prop_assert!(value >= low - 1e-4 && value <= high + 1e-4, "{value} at {place}");
            }
        }
    }
}
