//! Other frames than one's own.

use veil_core::engine::{Engine, Request};
use veil_core::feed::{Ease, Feed, KeyShape, Keys};
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;
use veil_pixels::{Cancel, Window};

use crate::motion::{MOVED, on_moved};
use crate::support::{PLATE, SMOOTH, TESTED, setup_with};

const SECOND: StageId = StageId(30);
const LATE: [f64; 4] = [1001.0, 1002.0, 1005.0, 1010.0];

fn choice(id: &str) -> Setting {
    Setting::Choice(id.into())
}

/// A stage on the plate alone.
fn on_plate(kind: &str, set: &[(&str, Setting)]) -> Setup {
    let mut setup = setup_with(kind, PLATE);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    let alone = StageEntry::new(TESTED, kind, "Tested").taking(MAIN, PLATE);
    *row = set.iter().fold(alone, |row, (control, setting)| row.with(control, setting.clone()));
    setup.check().unwrap();
    setup
}

fn seen(setup: &Setup, id: StageId, frame: f64) -> Pixels {
    let answer =
        Engine::new(1 << 28).answer(setup, &SMOOTH, Request::whole(id, frame), &Cancel::new()).unwrap();
    answer.signal.over(answer.window)
}

#[test]
fn a_shift_shows_that_frame_and_one_back_undoes_it() {
    let mut setup = on_plate("shift", &[("by", Setting::number(3.0))]);
    let back =
        StageEntry::new(SECOND, "shift", "Back").taking(MAIN, TESTED).with("by", Setting::number(-3.0));
    let at = setup.stages.len() - 1;
    setup.stages.insert(at, back);
    setup.check().unwrap();
    for frame in LATE {
        assert!(seen(&setup, TESTED, frame) == seen(&setup, PLATE, frame + 3.0), "{frame}");
        assert!(seen(&setup, SECOND, frame) == seen(&setup, PLATE, frame), "{frame}");
    }
}

/// At rate 1, and where keys go through a frame's own number, nothing is changed, bit for bit.
#[test]
fn at_its_own_pace_a_retime_is_what_comes_in() {
    let own = Keys::one(1001.0, 1001.0)
        .with_value(1010.0, 1010.0)
        .shaped(&[1001.0], KeyShape::Ease(Ease::Straight));
    let by_number = [("by", choice("number")), ("shown", Setting::Feed(Feed::Keys(own)))];
    for between in ["nearest", "blended", "flow"] {
        let between = ("between", choice(between));
        let by_rate = [("rate", Setting::number(1.0)), between.clone()];
        for set in [by_rate.to_vec(), by_number.iter().cloned().chain([between]).collect()] {
            let setup = on_plate("retime", &set);
            for frame in LATE {
                assert!(seen(&setup, TESTED, frame) == seen(&setup, PLATE, frame), "{set:?} at {frame}");
            }
        }
    }
}

/// By hand, the area below the line: a rate that is keyed from 0 to 2 in eight frames has gone by two frames after four.
#[test]
fn a_keyed_rate_is_summed() {
    let keys =
        Keys::one(1001.0, 0.0).with_value(1009.0, 2.0).shaped(&[1001.0], KeyShape::Ease(Ease::Straight));
    let set = [("rate", Setting::Feed(Feed::Keys(keys))), ("between", choice("nearest"))];
    let setup = on_plate("retime", &set);
    for (frame, shown) in
        [(1001.0, 1001.0), (1002.0, 1001.0), (1005.0, 1003.0), (1009.0, 1009.0), (1010.0, 1011.0)]
    {
        assert!(seen(&setup, TESTED, frame) == seen(&setup, PLATE, shown), "{frame}");
    }
}

/// What moves is, between two frames, where it would have been: as near as reading between pixels leaves it, and far nearer than
/// both frames blended.
#[test]
fn between_frames_what_moves_is_on_its_way() {
    let apart = |between: &str| {
        let row = StageEntry::new(TESTED, "retime", "Tested").with("between", choice(between));
        let setup = on_moved(row.with("rate", Setting::number(0.5)));
        let inner = |id: StageId, frame: f64| match seen(&setup, id, frame) {
            Pixels::Field(field) => field.cropped(field.window().grow(-12, -12)),
            _ => panic!("a retimed field is a field"),
        };
        let (found, wanted) = (inner(TESTED, 1006.0), inner(MOVED, 1003.5));
        let pairs = found.pixels().iter().zip(wanted.pixels());
        pairs.map(|(a, b)| (a - b).abs()).sum::<f32>() / wanted.pixels().len() as f32
    };
    let (flow, blended) = (apart("flow"), apart("blended"));
    assert!(flow < 0.15 * blended, "{flow} along the flow, {blended} blended");
}

#[test]
fn without_a_frame_that_is_kept_an_afterimage_is_what_comes_in() {
    for set in [[("count", Setting::number(0.0))], [("keeps", Setting::number(0.0))]] {
        let setup = on_plate("afterimage", &set);
        assert!(seen(&setup, TESTED, 1005.0) == seen(&setup, PLATE, 1005.0), "{set:?}");
    }
    // Before the shot's first frame there was nothing.
    let setup = on_plate("afterimage", &[("laid", choice("plus"))]);
    assert!(seen(&setup, TESTED, 1001.0) == seen(&setup, PLATE, 1001.0));
}

/// By hand: with one frame kept by a half and added, it is this frame and half of the one before.
#[test]
fn an_afterimage_adds_what_is_left_of_the_frame_before() {
    let set = [("count", Setting::number(1.0)), ("keeps", Setting::number(0.5)), ("laid", choice("plus"))];
    let setup = on_plate("afterimage", &set);
    let [Pixels::Picture(found), Pixels::Picture(now), Pixels::Picture(before)] =
        [(TESTED, 1005.0), (PLATE, 1005.0), (PLATE, 1004.0)].map(|(id, frame)| seen(&setup, id, frame))
    else {
        panic!("pictures")
    };
    for ((found, now), before) in found.pixels().iter().zip(now.pixels()).zip(before.pixels()) {
        assert!((0..3).all(|at| (found[at] - now[at] - before[at] / 2.0).abs() < 1e-6) && found[3] == 1.0);
    }
}

/// At the shot's first frame those before it do not count.
#[test]
fn a_mean_over_frames_takes_those_of_the_shot() {
    let set = [("gives", choice("mean")), ("before", Setting::number(2.0)), ("after", Setting::number(1.0))];
    let setup = on_plate("over_frames", &set);
    let [Pixels::Picture(found), Pixels::Picture(first), Pixels::Picture(second)] =
        [(TESTED, 1001.0), (PLATE, 1001.0), (PLATE, 1002.0)].map(|(id, frame)| seen(&setup, id, frame))
    else {
        panic!("pictures")
    };
    let middle = Window::new(20, 20, 60, 40);
    let pixels = |picture: &veil_pixels::Picture| picture.cropped(middle).pixels().as_flattened().to_vec();
    for ((found, a), b) in pixels(&found).iter().zip(pixels(&first)).zip(pixels(&second)) {
        assert!((found - f32::midpoint(a, b)).abs() < 1e-6);
    }
    let still = on_plate("over_frames", &[("before", Setting::number(0.0)), ("after", Setting::number(0.0))]);
    assert!(seen(&still, TESTED, 1004.0) == seen(&still, PLATE, 1004.0));
}
