//! Checks of `controls::points` and `controls::shapes`.

use proptest::prelude::*;
use veil_core::controls::*;
use veil_core::feed::{ControlAxis, Moment, Others};
use veil_core::tracks::{Track, TrackId};

fn drawn(way: PointsWay, frames: &[f64], places: &[f64]) -> KeyedPoints {
    let key = |(frame, place): (&f64, &f64)| PointsKey {
        frame: *frame,
        points: vec![ShapePoint { at: [*place, -place], before: [0.0; 2], after: [1.0, 0.0], soft: 0.0 }],
    };
    KeyedPoints { keys: frames.iter().zip(places).map(key).collect(), way, carried: None }
}

/// Nothing else.
struct Alone;

impl Others for Alone {
    fn number(&self, _of: &ControlAxis, _moment: Moment) -> Option<f64> {
        None
    }

    fn track(&self, _id: TrackId) -> Option<&Track> {
        None
    }
}

/// Turned by 30 degrees counter-clockwise as seen, half as large again, and moved.
#[test]
fn an_outline_says_where_it_stands() {
    let points = |turn: f64, size: f64, at: [f64; 2]| {
        let (sin, cos) = turn.to_radians().sin_cos();
        let place =
            |[x, y]: [f64; 2]| [at[0] + size * (cos * x + sin * y), at[1] + size * (cos * y - sin * x)];
        [[-9.0, -4.0], [12.0, -4.0], [12.0, 6.0], [-15.0, 2.0]].map(|corner| ShapePoint {
            at: place(corner),
            before: [0.0; 2],
            after: [0.0; 2],
            soft: 0.0,
        })
    };
    let mut shape = drawn(PointsWay::Straight, &[1001.0], &[0.0]);
    shape.keys[0].points = points(0.0, 1.0, [40.0, 30.0]).to_vec();
    let shape = shape.with_key(1009.0, points(30.0, 1.5, [52.0, 21.0]).to_vec());
    let near = |a: [f64; 4], b: [f64; 4]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-9);
    let outline: Drawn =
        serde_json::from_value(serde_json::json!({ "name": "one", "keys": shape.keys })).unwrap();
    let drawn = |shapes: Vec<Drawn>| Setting::Shapes { shapes };
    let stands = |setting: &Setting, now: f64| {
        let moment = Moment { now, since: 0.0, secs: 0.0 };
        [0, 1, 2, 3].map(|axis| {
            ControlKind::Shapes(ShapesSpec).number(setting, axis, moment, &Alone).unwrap_or(f64::NAN)
        })
    };
    let one = drawn(vec![outline]);
    assert!(near(stands(&one, 1001.0), [40.0, 30.0, 1.0, 0.0]), "{:?}", stands(&one, 1001.0));
    assert!(near(stands(&one, 1009.0), [52.0, 21.0, 1.5, 30.0]), "{:?}", stands(&one, 1009.0));
    assert!(stands(&drawn(Vec::new()), 1001.0)[0].is_nan());
}

proptest! {
    /// However it goes from key to key, it passes through them; without a jolt where that is asked for.
    #[test]
    fn a_keyed_shape_passes_through_its_keys(places in prop::collection::vec(-500.0f64..500.0, 2..7)) {
        let frames: Vec<f64> = (0..places.len()).map(|at| 1001.0 + (at * at) as f64).collect();
        for way in [PointsWay::Smooth, PointsWay::Straight, PointsWay::Step] {
            let shape = drawn(way, &frames, &places);
            for (frame, place) in frames.iter().zip(&places) {
                prop_assert!((shape.at(*frame)[0].at[0] - place).abs() < 1e-9);
            }
            if way == PointsWay::Smooth {
                for frame in &frames[1..frames.len() - 1] {
                    let at = |by: f64| shape.at(frame + by)[0].at[0];
                    prop_assert!(((at(1e-4) - at(0.0)) - (at(0.0) - at(-1e-4))).abs() < 1e-3);
                }
            }
            let new = [ShapePoint { at: [7.0, 8.0], before: [0.0; 2], after: [2.0, 0.0], soft: 3.0 }];
            let moved = shape.moved_as_a_whole(1001.5, &new);
            prop_assert!((moved.at(1001.5)[0].at[0] - 7.0).abs() < 1e-6);
            let keyed = shape.with_key(1001.5, new.to_vec());
            prop_assert_eq!((keyed.keys.len(), keyed.at(1001.5)[0].soft), (frames.len() + 1, 3.0));
            prop_assert!(keyed.check().is_ok());
        }
    }
}
