//! Checks of `tracks`.

use veil_core::setup::StageId;
use veil_core::tracks::*;

fn track(places: &[(i32, f64)], smooth: f64) -> Track {
    let sample = |x: f64| TrackSample {
        at: [x, 10.0],
        scale: 1.0,
        turn: 0.0,
        likeness: 0.9,
        corners: None,
        surface: None,
    };
    Track {
        at: [0.0, 10.0],
        smooth,
        samples: places.iter().map(|(frame, x)| (*frame, sample(*x))).collect(),
        ..Track::new(TrackId(1), "lantern", StageId(2), 1001)
    }
}

#[test]
fn gaps_are_gone_over_evenly_and_ends_stay() {
    let found = track(&[(1001, 0.0), (1002, 2.0), (1006, 10.0)], 0.0);
    let x = |frame: f64| found.number(TrackAxis::X, frame).unwrap();
    assert_eq!([990.0, 1001.5, 1004.0, 1020.0].map(x), [0.0, 1.0, 6.0, 10.0]);
    assert!(track(&[], 0.0).sample(1001.0).is_none());
}

#[test]
fn smoothing_takes_what_trembles_off_and_leaves_an_even_move() {
    let even: Vec<(i32, f64)> = (0..30).map(|at| (1001 + at, f64::from(at) * 3.0)).collect();
    let trembling: Vec<(i32, f64)> =
        even.iter().map(|(frame, x)| (*frame, x + if frame % 2 == 0 { 0.5 } else { -0.5 })).collect();
    let (even, trembling) = (track(&even, 2.0), track(&trembling, 2.0));
    for frame in 1001..=1030 {
        let truth = f64::from(frame - 1001) * 3.0;
        assert!((even.number(TrackAxis::X, f64::from(frame)).unwrap() - truth).abs() < 1e-9);
    }
    assert!((trembling.number(TrackAxis::X, 1015.0).unwrap() - 42.0).abs() < 0.05);
}
