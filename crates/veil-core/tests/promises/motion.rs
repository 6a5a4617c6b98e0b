//! Motion between frames, through stages that move what they take.

use veil_core::feed::{Ease, Feed, KeyShape, Keys};
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;

use crate::support::{FIELD, PLATE, TESTED, ask, pair, setup_with};

pub(crate) const MOVED: StageId = StageId(40);
const BACK: StageId = StageId(41);
const NEXT: StageId = StageId(42);
/// How far all moves from one frame to the next.
const STEP: [f64; 2] = [3.5, -1.25];

/// The motion map of a noise that is moved.
fn moving(to: &str, gives: &str) -> Setup {
    let tested = StageEntry::new(TESTED, "motion_map", "Tested");
    on_moved(tested.with("to", Setting::Choice(to.into())).with("gives", Setting::Choice(gives.into())))
}

/// A noise that a transform moves, and a row that takes it.
pub(crate) fn on_moved(tested: StageEntry) -> Setup {
    let mut setup = setup_with("motion_map", PLATE);
    let straight = KeyShape::Ease(Ease::Straight);
    let keys = |by: f64| Keys::one(1001.0, 0.0).with_value(1010.0, 9.0 * by).shaped(&[1001.0], straight);
    let along = |by: f64| Setting::Feed(Feed::Keys(keys(by)));
    let noise = setup.stages.iter_mut().find(|row| row.id == FIELD).unwrap();
    *noise = noise.clone().with("size", pair(12.0, 9.0));
    let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
    let moved = StageEntry::new(MOVED, "transform", "Moved")
        .taking(MAIN, FIELD)
        .with("move_x", along(STEP[0]))
        .with("move_y", along(STEP[1]))
        .with("outside", Setting::Choice("mirror".into()));
    setup.stages[at] = tested.taking(MAIN, MOVED);
    setup.stages.insert(at, moved);
    setup.check().unwrap();
    setup
}

/// The mean over what stays in the picture.
fn mean(setup: &Setup, scale: u32) -> Vec<f32> {
    let answer = ask(setup, TESTED, scale, None);
    let inner = answer.window.grow(-12 / scale as i32, -12 / scale as i32);
    let over = answer.signal.over(inner);
    let (floats, channels) = match &over {
        Pixels::Field(field) => (field.pixels(), 1),
        Pixels::Map(map) => (map.pixels().as_flattened(), 2),
        Pixels::Picture(_) => panic!("a motion map gives no picture"),
    };
    let of = |channel: usize| {
        floats.iter().skip(channel).step_by(channels).sum::<f32>() * channels as f32 / floats.len() as f32
    };
    (0..channels).map(of).collect()
}

/// Common practice: the move that was keyed above is the one that is found, forth and back, in full-resolution pixels at
/// any scale.
#[test]
fn the_move_that_was_keyed_is_found_at_every_scale_and_way() {
    for (to, times) in [("next", 1.0), ("before", -1.0)] {
        for scale in [1, 2] {
            let found = mean(&moving(to, "moves"), scale);
            let off = [0, 1].map(|axis| (f64::from(found[axis]) - times * STEP[axis]).abs());
            assert!(off.iter().all(|off| *off < 0.15), "{to} at 1:{scale}: {found:?}");
        }
    }
    let sure = mean(&moving("next", "sureness"), 1);
    assert!(sure[0] > 0.95, "{sure:?}");
}

/// Common practice: the next frame, moved back by the motion that leads to it, is this frame.
#[test]
fn the_next_frame_is_brought_back_by_its_motion() {
    let mut setup = moving("next", "moves");
    let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
    let next = StageEntry::new(NEXT, "still_frame", "Next")
        .taking(MAIN, MOVED)
        .with("which", Setting::Choice("number".into()))
        .with("frame", Setting::number(1005.0));
    let back = StageEntry::new(BACK, "displace", "Back")
        .taking(MAIN, NEXT)
        .taking("map", TESTED)
        .with("strength_x", Setting::number(-1.0))
        .with("strength_y", Setting::number(-1.0))
        .with("softness", Setting::number(0.0));
    setup.stages.splice(at + 1..at + 1, [next, back]);
    setup.check().unwrap();
    let field = |id: StageId| {
        let answer = ask(&setup, id, 1, None);
        match answer.signal.over(answer.window.grow(-12, -12)) {
            Pixels::Field(field) => field,
            _ => panic!("a moved field is a field"),
        }
    };
    let apart = |a: StageId| {
        let (a, b) = (field(a), field(MOVED));
        let pairs = a.pixels().iter().zip(b.pixels());
        pairs.map(|(a, b)| (a - b).abs()).sum::<f32>() / a.pixels().len() as f32
    };
    let (before, after) = (apart(NEXT), apart(BACK));
    // A noise as fine as this loses some by being read between its pixels.
    assert!(after < 0.12 * before, "{before} before, {after} after");
}
