//! Setups that are deeper than a stack is: long chains, numbers that follow each other, formulas without end.

use veil_core::braid::lay_out;
use veil_core::engine::{Engine, Request};
use veil_core::feed::{ControlAxis, Feed, FollowFeed, Formula, FormulaFeed};
use veil_core::folds::Folds;
use veil_core::setup::{Command, Edit, Frames, Setting, Setup, SetupError, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;
use veil_pixels::Cancel;

use crate::support::{PLATE, SMOOTH, TESTED, every_stage, setup_with};

const ROWS: u32 = 10_000;

const fn link(number: u32) -> StageId {
    StageId(1000 + number)
}

/// A plate, grades one on the other, and the final row.
fn chain() -> Setup {
    let mut setup = setup_with("grade", PLATE);
    let last = setup.stages.last().unwrap().clone();
    setup.stages.retain(|row| row.id == PLATE);
    for number in 0..ROWS {
        let above = if number == 0 { PLATE } else { link(number - 1) };
        let row = StageEntry::new(link(number), "grade", format!("Grade {number}")).taking(MAIN, above);
        setup.stages.push(row);
    }
    setup.stages.push(last.taking(MAIN, link(ROWS - 1)));
    setup
}

fn exposure(stops: f64) -> Setting {
    Setting::number(stops)
}

/// What one row does at its end, ten thousand others hand on.
#[test]
fn a_chain_of_ten_thousand_rows_is_checked_edited_laid_out_and_worked_out() {
    let setup = chain();
    setup.check().unwrap();
    let set =
        |stage, stops| Command::Set { stage, control: "exposure".into(), setting: Some(exposure(stops)) };
    let (setup, _) = Edit::of(&set(link(0), 1.0), &setup).unwrap();
    assert_eq!(lay_out(&setup, &Folds::default()).rows.len(), ROWS as usize + 2);
    let engine = Engine::new(64 << 20);
    let cancel = Cancel::new();
    let request = |stage| Request::whole(stage, 1003.0);
    let first = |stage| {
        let answer = engine.answer(&setup, &SMOOTH, request(stage), &cancel).unwrap();
        assert!(matches!(answer.signal.pixels, Pixels::Picture(_)));
        answer.signal.pixels.first()
    };
    let (plate, last) = (first(PLATE), first(link(ROWS - 1)));
    assert!((last[0] - 2.0 * plate[0]).abs() < 1e-5, "{plate:?} {last:?}");
    assert!(engine.holds(&setup, &SMOOTH, request(setup.final_id().unwrap())));
    assert!(engine.travelled(&setup, &SMOOTH, request(link(ROWS - 1))).unwrap().is_some());
    assert_eq!(engine.effect(&setup, &SMOOTH, request(link(ROWS - 1)), &cancel).unwrap(), Some(0.0));
}

fn following(stage: StageId) -> Feed {
    let follow = ControlAxis { stage, control: "exposure".into(), axis: 0 };
    Feed::Follow(FollowFeed { follow, scale: 1.0, offset: Default::default() })
}

#[test]
fn a_number_is_followed_through_ten_thousand_rows() {
    let mut setup = chain();
    for row in setup.stages.iter_mut().skip(2).take(ROWS as usize - 1) {
        row.controls.insert("exposure".into(), Setting::Feed(following(StageId(row.id.0 - 1))));
    }
    setup.check().unwrap();
    let set = Command::Set { stage: link(0), control: "exposure".into(), setting: Some(exposure(0.25)) };
    let (setup, _) = Edit::of(&set, &setup).unwrap();
    let row = setup.stage(link(ROWS - 1)).unwrap();
    let value = veil_core::shape::number(&setup, row, "exposure", 0, setup.moment(1003.0));
    assert_eq!(value, Some(0.25));
}

/// Each follows the one before twice, so that the last would be worked out of 2⁶⁰ numbers.
#[test]
fn numbers_that_double_with_every_row_are_refused_by_name() {
    let mut setup = chain();
    for row in setup.stages.iter_mut().skip(2).take(60) {
        let names = ["a", "b"].map(|name| (name.to_owned(), following(StageId(row.id.0 - 1))));
        let formula =
            FormulaFeed { names: names.into(), ..FormulaFeed::new(Formula::parse("a + b").unwrap()) };
        row.controls.insert("exposure".into(), Setting::Feed(Feed::Formula(formula)));
    }
    assert!(matches!(setup.check(), Err(SetupError::FollowsTooMany(name)) if name.contains("Grade")));
}

#[test]
fn what_nobody_can_mean_is_refused_where_it_is_said() {
    let terms = vec!["now"; 20_000].join("+");
    assert!(Formula::parse(&terms).unwrap_err().expected.contains("letters"));
    let refused = |change: fn(&mut Setup)| {
        let mut setup = setup_with("grade", PLATE);
        change(&mut setup);
        setup.check().unwrap_err().to_string()
    };
    let reversed = refused(|setup| setup.media[0].frames = Some(Frames { first: 5, last: 1 }));
    assert!(reversed.contains("ends before it begins"), "{reversed}");
    assert!(refused(|setup| (setup.picture.width, setup.picture.height) = (32_768, 32_768)).contains("size"));
    let endless = Frames { first: i32::MIN, last: i32::MAX };
    assert!(
        refused(|setup| setup.picture.frames = Frames { first: i32::MIN, last: i32::MAX }).contains("range")
    );
    assert!(format!("{}-{}", endless.first, endless.last).parse::<Frames>().is_err());
}

/// Eight digits are the most that the name of a frame's file has.
#[test]
fn every_stage_works_at_the_furthest_frames() {
    for (kind, main) in every_stage() {
        let mut setup = setup_with(kind, main);
        setup.picture.frames = Frames { first: -400_000, last: 400_000 };
        for frame in [-99_999_999.0, 99_999_999.0] {
            let answer =
                Engine::new(1 << 20).answer(&setup, &SMOOTH, Request::whole(TESTED, frame), &Cancel::new());
            assert!(answer.is_ok(), "{kind} at {frame}: {:?}", answer.err());
        }
    }
}

#[test]
fn bursts_come_again_however_late_it_is() {
    let gate: Feed = serde_json::from_value(serde_json::json!({
        "burst": { "shortest": 1.0, "longest": 5.0 }, "pause": { "shortest": 1.0, "longest": 9.0 }, "chance": 0.5, "span": { "low": 0.0, "high": 1.0 }
    }))
    .unwrap();
    let setup = setup_with("grade", PLATE);
    let share = |first: u32| {
        let open = (first..first + 4000)
            .filter(|frame| gate.at(setup.moment(f64::from(*frame)), &setup) > 0.5)
            .count();
        open as f64 / 4000.0
    };
    let (early, late) = (share(1001), share(90_000_000));
    assert!((early - late).abs() < 0.05, "{early} {late}");
    assert!(gate.at(setup.moment(1e300), &setup).is_finite());
}
