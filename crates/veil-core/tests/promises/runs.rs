//! Neighbouring rows that work on each pixel alone are worked out in one pass, and give what they give alone.

use proptest::prelude::*;
use veil_core::engine::{Engine, OnFault, Request};
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::{MAIN, MATTE};
use veil_pixels::{Cancel, Window};

use crate::support::{FIELD, OTHER, PLATE, SHAPE, SMOOTH, TESTED, setup_with};

/// What may stand in a chain, with a control that makes it do something.
const KINDS: [(&str, &str, f64); 12] = [
    ("grade", "exposure", 0.7),
    ("levels", "in_low", 0.2),
    ("clamp", "high", 0.6),
    ("invert", "amount", 1.0),
    ("hue_shift", "angle", 40.0),
    ("tint", "amount", 1.0),
    ("tone_curve", "amount", 1.0),
    ("colour_space", "amount", 1.0),
    ("channel_route", "amount", 1.0),
    ("alpha", "value", 0.4),
    ("blend", "layer_opacity", 0.7),
    ("combine_fields", "field2_amount", 0.6),
];
/// Those that work on fields.
const OF_FIELDS: [&str; 5] = ["levels", "clamp", "invert", "tone_curve", "combine_fields"];

/// What a kind takes besides the row above it.
fn taking_more(entry: StageEntry, kind: &str) -> StageEntry {
    let chosen = |choice: &str| Setting::Choice(choice.into());
    match kind {
        "channel_route" => entry.taking("third", OTHER).with("green_of", chosen("third")),
        "alpha" => entry.taking("from", SHAPE).with("how", chosen("multiply")),
        "blend" => entry
            .taking("layer", OTHER)
            .taking("layer_matte", SHAPE)
            .with("layer_mode", chosen("soft_light"))
            .taking("layer2", PLATE),
        "combine_fields" => entry.taking("field2", SHAPE).with("field2_meet", chosen("multiply")),
        _ => entry,
    }
}

#[derive(Clone, Copy, Debug)]
struct Row {
    kind: usize,
    amount: f64,
    matted: bool,
    on: bool,
}

fn row() -> impl Strategy<Value = Row> {
    let amount = prop_oneof![2 => Just(1.0), 1 => Just(0.0), 2 => 0.0..1.0];
    (0..KINDS.len(), amount, any::<bool>(), prop::bool::weighted(0.85))
        .prop_map(|(kind, amount, matted, on)| Row { kind, amount, matted, on })
}

/// The rows one below the other; `tapped`, something else takes each of them, so that none joins another.
fn chain(from: StageId, rows: &[Row], tapped: bool) -> (Setup, StageId) {
    let mut setup = setup_with("transform", from);
    setup.stages.retain(|entry| entry.id != TESTED);
    let mut above = from;
    for (number, Row { kind, amount, matted, on }) in rows.iter().enumerate() {
        let (kind, control, value) = KINDS[*kind];
        let fits = if from == FIELD { OF_FIELDS.contains(&kind) } else { kind != "combine_fields" };
        let kind = if fits { kind } else { "invert" };
        let id = StageId(100 + number as u32);
        let mut entry = StageEntry::new(id, kind, format!("Row {number}")).taking(MAIN, above);
        if kind == KINDS.iter().find(|known| known.1 == control).map_or("", |known| known.0) {
            entry = entry.with(control, Setting::number(value));
        }
        entry = taking_more(entry, kind).with("amount", Setting::number(*amount));
        entry.on = *on;
        if *matted {
            entry = entry.taking(MATTE, SHAPE).with("matte_soften", Setting::number(2.0));
        }
        let at = setup.stages.len() - 1;
        setup.stages.insert(at, entry);
        if tapped {
            let tap = StageEntry::new(StageId(200 + number as u32), "soften", format!("Tap {number}"))
                .taking(MAIN, id);
            setup.stages.insert(at + 1, tap);
        }
        above = id;
    }
    setup.check().unwrap();
    (setup, above)
}

fn seen(setup: &Setup, stage: StageId, window: Window) -> (Pixels, usize) {
    let request =
        Request { window: Some(window), on_fault: OnFault::Bypass, ..Request::whole(stage, 1004.0) };
    let answer = Engine::new(1 << 26).answer(setup, &SMOOTH, request, &Cancel::new()).unwrap();
    (answer.signal.over(window), answer.spent.len())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn a_run_gives_what_its_rows_give_alone(
        rows in prop::collection::vec(row(), 1..9), of_field in any::<bool>(),
        x in -20i32..80, y in -20i32..50, w in 1i32..60, h in 1i32..40
    ) {
        let from = if of_field { FIELD } else { PLATE };
        let window = Window::new(x, y, x + w, y + h);
        let (together, last) = chain(from, &rows, false);
        let (apart, end) = chain(from, &rows, true);
        prop_assert_eq!(seen(&together, last, window).0, seen(&apart, end, window).0);
    }
}

#[test]
fn each_row_of_a_run_is_told_its_time_and_no_frame_is_held_between_them() {
    let plain = Row { kind: 0, amount: 1.0, matted: false, on: true };
    let (setup, last) = chain(PLATE, &[plain; 5], false);
    let engine = Engine::new(1 << 28);
    let request = Request::whole(last, 1004.0);
    let answer = engine.answer(&setup, &SMOOTH, request, &Cancel::new()).unwrap();
    let rows: Vec<_> = answer.spent.iter().filter(|spent| spent.stage.0 >= 100).collect();
    assert!(rows.len() == 5 && rows.iter().all(|spent| spent.pixels > 0 && spent.ms > 0.0), "{rows:?}");
    let middle = Request::whole(StageId(102), 1004.0);
    assert!(!engine.holds(&setup, &SMOOTH, middle) && engine.holds(&setup, &SMOOTH, request));
    // What is held is not worked out again.
    engine.answer(&setup, &SMOOTH, middle, &Cancel::new()).unwrap();
    let mut changed = setup.clone();
    let row = changed.stages.iter_mut().find(|row| row.id == last).unwrap();
    row.controls.insert("exposure".into(), Setting::number(-1.0));
    let spent = engine.answer(&changed, &SMOOTH, request, &Cancel::new()).unwrap().spent;
    let rows: Vec<_> = spent.iter().map(|spent| spent.stage.0).collect();
    assert_eq!(rows, [103, 104]);
}
