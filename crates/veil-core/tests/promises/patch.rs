//! Places that are painted over with others.

use serde_json::{Value, json};
use veil_core::engine::{Engine, Request};
use veil_core::setup::{Setting, Setup, StageEntry};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;
use veil_pixels::{Cancel, Picture};

use crate::support::{OTHER, PLATE, SMOOTH, TESTED, setup_with};

/// A stroke from left to right through the middle, 12 pixels wide.
fn stroke(more: Value) -> Value {
    let point = |x: f64| json!({ "at": [x, 32.0] });
    let mut stroke = json!({ "name": "one", "width": 12.0, "keys": [{ "frame": 1001, "points": [point(30.0), point(60.0)] }] });
    stroke.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    stroke
}

fn patch(stroke: Value, set: &[(&str, Value)]) -> Setup {
    let mut setup = setup_with("patch", PLATE);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = StageEntry::new(TESTED, "patch", "Tested").taking(MAIN, PLATE);
    let set = set.iter().cloned().chain([("strokes", json!({ "shapes": [stroke] }))]);
    for (control, value) in set {
        row.controls.insert(control.into(), serde_json::from_value::<Setting>(value).unwrap());
    }
    setup.check().unwrap();
    setup
}

fn places(brings: [f64; 2], lands: [f64; 2]) -> [(&'static str, Value); 2] {
    [("brings", json!({ "axes": brings })), ("lands", json!({ "axes": lands }))]
}

fn seen(setup: &Setup, row: veil_core::setup::StageId, frame: f64) -> Picture {
    let answer =
        Engine::new(1 << 28).answer(setup, &SMOOTH, Request::whole(row, frame), &Cancel::new()).unwrap();
    match answer.signal.over(answer.window) {
        Pixels::Picture(picture) => picture,
        other => panic!("a patch is a picture, not {:?}", other.kind()),
    }
}

#[test]
fn what_is_brought_from_where_it_lands_changes_nothing() {
    for blends in ["as_is", "gradients"] {
        for more in [json!({}), json!({ "softness": 9.0, "opacity": 0.7 })] {
            let setup = patch(stroke(more), &[("blends", json!(blends))]);
            assert!(seen(&setup, TESTED, 1004.0) == seen(&setup, PLATE, 1004.0), "{blends}");
        }
    }
}

/// By hand: from 15 pixels to the right and 4 down, this frame's or another's, this picture's or another's.
#[test]
fn a_stroke_brings_that_place_of_that_frame() {
    let from = places([60.0, 40.0], [45.0, 36.0]);
    let of = |more: &[(&'static str, Value)]| {
        let set: Vec<_> = from.iter().chain(more).cloned().chain([("blends", json!("as_is"))]).collect();
        patch(stroke(json!({})), &set)
    };
    let mut another = of(&[]);
    another
        .stages
        .iter_mut()
        .find(|row| row.id == TESTED)
        .unwrap()
        .links
        .insert("source".into(), veil_core::setup::Link::stage(OTHER));
    let cases = [
        (of(&[]), PLATE, 1004.0),
        (of(&[("at", json!("later")), ("later", json!(-2))]), PLATE, 1002.0),
        (of(&[("at", json!("number")), ("number", json!(1009))]), PLATE, 1009.0),
        (another, OTHER, 1004.0),
    ];
    for (setup, row, frame) in cases {
        let (made, brought, before) =
            (seen(&setup, TESTED, 1004.0), seen(&setup, row, frame), seen(&setup, PLATE, 1004.0));
        let (own, wanted) = (made.get(45, 32).unwrap(), brought.get(60, 36).unwrap());
        assert!((0..4).all(|at| (own[at] - wanted[at]).abs() < 1e-5), "{frame}: {own:?} for {wanted:?}");
        assert_eq!(made.get(45, 5), before.get(45, 5), "{frame}");
    }
}

/// What is brought from a place twice as bright leaves no edge with its gradients kept: a step across the stroke's border is no
/// larger than the picture has anyway; as it is, it is seen.
#[test]
fn with_its_gradients_kept_no_edge_of_light_is_left() {
    let steps = |blends: &str| {
        let from = places([75.0, 12.0], [45.0, 32.0]);
        let setup = patch(stroke(json!({})), &[from[0].clone(), from[1].clone(), ("blends", json!(blends))]);
        let made = seen(&setup, TESTED, 1004.0);
        let step = |y: i32| (made.get(45, y).unwrap()[0] - made.get(45, y - 1).unwrap()[0]).abs();
        (24..42).map(step).fold(0.0, f32::max)
    };
    let (kept, as_is) = (steps("gradients"), steps("as_is"));
    assert!(kept < 0.1 && as_is > 8.0 * kept, "{kept} beside {as_is}");
}

#[test]
fn a_stroke_is_seen_at_its_frames_only() {
    let from = places([60.0, 40.0], [45.0, 32.0]);
    let setup = patch(stroke(json!({ "seen": { "first": 1003, "last": 1005 } })), &from);
    for frame in [1001.0, 1002.0, 1003.0, 1005.0, 1006.0] {
        let changed = seen(&setup, TESTED, frame) != seen(&setup, PLATE, frame);
        assert_eq!(changed, (1003.0..=1005.0).contains(&frame), "{frame}");
    }
    let backward = json!({ "shapes": [stroke(json!({ "seen": { "first": 1005, "last": 1003 } }))] });
    let mut wrong = setup;
    wrong
        .stages
        .iter_mut()
        .find(|row| row.id == TESTED)
        .unwrap()
        .controls
        .insert("strokes".into(), serde_json::from_value(backward).unwrap());
    assert!(wrong.check().unwrap_err().to_string().contains("before"));
}

#[test]
fn what_lies_outside_brings_nothing_and_is_told() {
    let setup = patch(stroke(json!({})), &places([900.0, 40.0], [45.0, 32.0]));
    let answer =
        Engine::new(1 << 28).answer(&setup, &SMOOTH, Request::whole(TESTED, 1004.0), &Cancel::new()).unwrap();
    assert!(answer.faults.iter().any(|fault| fault.stage == TESTED && fault.message.contains("outside")));
    assert!(seen(&setup, TESTED, 1004.0) == seen(&setup, PLATE, 1004.0));
}
