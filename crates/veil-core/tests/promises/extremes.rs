//! Controls at their ends, and setups and tools that something has spoilt: an answer or an error, soon, and called off
//! sooner.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::mpsc;
use std::time::{Duration, Instant};

use proptest::prelude::*;
use proptest::sample::Index;
use proptest::test_runner::TestRunner;
use serde_json::Value;
use veil_core::braid::lay_out;
use veil_core::controls::{AnyControl, ControlKind};
use veil_core::engine::{Engine, OnFault, Request, WayTo};
use veil_core::folds::Folds;
use veil_core::setup::{Command, Edit, Setting, Setup, StageEntry, StageId};
use veil_core::spec::MAIN;
use veil_core::{findings, stages};
use veil_pixels::Cancel;

use crate::support::{MadeUp, PLATE, SMOOTH, TESTED, every_stage, setup_with};

/// Nobody looks at a picture for longer before something else is asked for.
const PATIENCE: Duration = Duration::from_millis(200);
/// Within this much of being called off, on a busy machine.
const SOON: Duration = Duration::from_secs(4);

/// Settings of a control's numbers at both of their ends.
fn ends(spec: &AnyControl) -> Vec<Setting> {
    let far = |count: usize| [-1e9, 0.0, 1e9].map(|value| Setting::numbers(&vec![value; count])).to_vec();
    match &spec.kind {
        ControlKind::Number(bounds) => [bounds.least, bounds.most].map(Setting::number).to_vec(),
        ControlKind::Point(_) | ControlKind::Size(_) => far(2),
        ControlKind::Colour { .. } => far(3),
        _ => Vec::new(),
    }
}

/// How long a row's picture takes when it is called off after a while.
fn called_off(setup: &Setup) -> Duration {
    let cancel = Cancel::new();
    let request = Request { on_fault: OnFault::Bypass, ..Request::whole(TESTED, 1004.0) };
    let (done, is_done) = mpsc::channel();
    std::thread::scope(|threads| {
        let begun = Instant::now();
        let cancelled = cancel.clone();
        threads.spawn(move || {
            if is_done.recv_timeout(PATIENCE).is_err() {
                cancelled.set();
            }
        });
        let _ = Engine::new(1 << 28).answer(setup, &SMOOTH, request, &cancel);
        let took = begun.elapsed();
        let _ = done.send(());
        took
    })
}

#[test]
fn every_stage_with_a_control_at_its_end_can_be_called_off() {
    let mut slow = Vec::new();
    for (kind, main) in every_stage() {
        let plain = setup_with(kind, main);
        let stage = stages::all().find(|stage| stage.spec().id == kind).unwrap();
        for spec in &stage.spec().controls {
            for setting in ends(spec) {
                let mut setup = plain.clone();
                let entry = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
                if spec.kind.fits(&setting).is_err() {
                    continue;
                }
                entry.controls.insert(spec.id.into(), setting.clone());
                // It only works where the choice that it belongs to is made.
                if let Some(when) = spec.when {
                    entry.controls.insert(when.control.into(), Setting::Choice(when.is[0].into()));
                }
                let took = called_off(&setup);
                if took > PATIENCE + SOON {
                    slow.push(format!("{kind}: {} at {setting:?} takes {took:?}", spec.name));
                }
            }
        }
    }
    assert!(slow.is_empty(), "{}", slow.join("\n"));
}

/// Shrunk to nothing and shrunk again, a frame would be looked for over a width of a thousand million frames.
#[test]
fn the_way_back_through_warps_to_far_away_stays_near_the_frame() {
    let mut setup = setup_with("transform", PLATE);
    let small = |id: u32, name: &str, from: StageId| {
        let tiny = Setting::number(0.001);
        StageEntry::new(StageId(id), "transform", name)
            .taking(MAIN, from)
            .with("scale_x", tiny.clone())
            .with("scale_y", tiny)
    };
    // What lies between two warps keeps them from being sampled as one.
    let softer = StageEntry::new(StageId(41), "blur", "Between").taking(MAIN, StageId(40));
    let rows = [small(40, "Small", PLATE), softer, small(42, "Smaller", StageId(41))];
    let last = setup.stages.len() - 1;
    setup.stages.splice(last..last, rows);
    setup.check().unwrap();
    let request = Request::whole(StageId(42), 1004.0);
    let places = Engine::new(1 << 28).places(&setup, &SMOOTH, request, WayTo::Head, &Cancel::new());
    assert!(places.unwrap().is_some());
}

/// What is moved by more than a frame's width is told to the pixel.
#[test]
fn a_move_out_of_the_frame_is_as_long_as_it_is() {
    let mut setup = setup_with("transform", PLATE);
    let entry = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
    entry.controls.insert("move_x".into(), Setting::number(400.0));
    setup.check().unwrap();
    let request = Request::whole(TESTED, 1004.0);
    let moves = Engine::new(1 << 28).moves(&setup, &SMOOTH, request, WayTo::Head, &Cancel::new());
    let moves = moves.unwrap().unwrap();
    assert!(moves.pixels().iter().all(|[x, y]| (x - 400.0).abs() < 1e-3 && y.abs() < 1e-3));
}

/// What something may put where a number stood.
const NUMBERS: [f64; 12] =
    [0.0, 1.0, -1.0, 0.5, 1e-300, 1e9, -1e9, 1e300, 2_147_483_648.0, 4_294_967_295.0, 1e17, 2000.0];

/// All places of a value that hold no list and no object, and the lists.
fn places(value: &Value, at: &str, leaves: &mut Vec<String>, lists: &mut Vec<String>) {
    match value {
        Value::Array(entries) => {
            lists.push(at.into());
            (0..)
                .zip(entries)
                .for_each(|(index, entry)| places(entry, &format!("{at}/{index}"), leaves, lists));
        }
        Value::Object(entries) => {
            entries.iter().for_each(|(name, entry)| places(entry, &format!("{at}/{name}"), leaves, lists));
        }
        _ => leaves.push(at.into()),
    }
}

/// A file of text spoilt in a few places: numbers, words, lists, and at times its very letters.
fn spoilt(whole: &Value, changes: &[(Index, u8)]) -> String {
    let mut value = whole.clone();
    for (index, how) in changes {
        let (mut leaves, mut lists) = (Vec::new(), Vec::new());
        places(&value, "", &mut leaves, &mut lists);
        if how % 5 == 0 && !lists.is_empty() {
            if let Some(Value::Array(entries)) = value.pointer_mut(&lists[index.index(lists.len())]) {
                if how % 2 == 0 {
                    entries.pop();
                } else {
                    *entries = std::iter::repeat_n(entries.clone(), 40).flatten().take(400).collect();
                }
            }
        } else if let Some(place) = value.pointer_mut(&leaves[index.index(leaves.len())]) {
            *place = match place {
                Value::Number(_) => NUMBERS[usize::from(*how) % NUMBERS.len()].into(),
                Value::String(text) if how % 3 == 0 => text.repeat(400).into(),
                Value::String(_) if how % 3 == 1 => "x".into(),
                _ => Value::Null,
            };
        }
    }
    let mut text = value.to_string().into_bytes();
    if let Some((index, how)) = changes.first().filter(|(_, how)| how % 11 == 0) {
        let at = index.index(text.len());
        text[at] = *how;
    }
    String::from_utf8_lossy(&text).into_owned()
}

/// Lays out, looks for faults and works out every row, if the setup passes.
fn used(setup: &Setup) {
    if setup.check().is_err() {
        return;
    }
    let engine = Engine::new(1 << 28);
    let _ = lay_out(setup, &Folds::default()).to_json();
    let _ = findings::find(&engine, setup, &SMOOTH, &Cancel::new());
    for stage in &setup.stages {
        let request = Request { on_fault: OnFault::Bypass, ..Request::whole(stage.id, 1004.0) };
        let _ = engine.answer(setup, &SMOOTH, request, &Cancel::new());
    }
}

/// What the system says is the most memory since it was told to forget what was before.
fn peak_kib() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    status.lines().find_map(|line| line.strip_prefix("VmHWM:")?.trim().trim_end_matches(" kB").parse().ok())
}

/// Uses six thousand spoilt forms of each text: never a crash, nothing over ten seconds, nothing over a gigabyte.
fn use_spoilt(name: &str, whole: &[Value], take: impl Fn(&str)) {
    let changes = prop::collection::vec((any::<Index>(), any::<u8>()), 1..5);
    let mut runner =
        TestRunner::new(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(6000) });
    let given = runner.run(&(any::<Index>(), changes), |(which, changes)| {
        let text = spoilt(&whole[which.index(whole.len())], &changes);
        let _ = std::fs::write("/proc/self/clear_refs", "5");
        let begun = Instant::now();
        take(&text);
        prop_assert!(begun.elapsed() < Duration::from_secs(10), "{:?}: {text}", begun.elapsed());
        prop_assert!(peak_kib().is_none_or(|peak| peak < 1 << 20), "{:?} KiB: {text}", peak_kib());
        Ok(())
    });
    assert!(given.is_ok(), "{name}: {given:?}");
}

#[test]
#[ignore = "takes minutes; docs/testing.md"]
fn six_thousand_spoilt_setups_are_refused_or_worked_out() {
    let setups: Vec<Value> = every_stage()
        .into_iter()
        .map(|(kind, main)| serde_json::to_value(setup_with(kind, main)).unwrap())
        .collect();
    use_spoilt("setup", &setups, |text| {
        if let Ok(setup) = Setup::from_json(text) {
            used(&setup);
        }
    });
}

#[test]
#[ignore = "takes minutes; docs/testing.md"]
fn six_thousand_spoilt_tools_are_refused_or_worked_out() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tools");
    let files = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let texts = files.filter(|path| path.extension().is_some_and(|ending| ending == "json"));
    let tools: Vec<Value> =
        texts.map(|path| serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap()).collect();
    let setup = setup_with("invert", PLATE);
    use_spoilt("tool", &tools, |text| {
        let placed =
            format!("{{\"do\":\"place_tool\",\"after\":{},\"scale_lengths\":true,\"tool\":{text}}}", PLATE.0);
        if let Ok(command) = Command::from_json(&placed)
            && let Ok(edit) = Edit::of(&command, &setup)
        {
            used(&edit.0);
        }
    });
}

/// A corner dragged inside the other three opens the plane to the horizon; so large a scale fills a wall. What takes all of
/// either still answers, with what is near the frame, and the row says that it was cut.
#[test]
fn what_reaches_farther_than_anybody_can_use_is_cut_and_told() {
    let corners = [
        ("top_left", [48.0, 40.0]),
        ("top_right", [90.0, 4.0]),
        ("bottom_right", [90.0, 60.0]),
        ("bottom_left", [4.0, 60.0]),
    ];
    let pinned = corners.map(|(corner, at)| (corner, Setting::numbers(&at)));
    let vast = [("scale_x", Setting::number(1000.0)), ("scale_y", Setting::number(1000.0))];
    for (kind, settings) in [("corner_pin", &pinned[..]), ("transform", &vast[..])] {
        for (below, slot) in [("polar", MAIN), ("soften", MAIN), ("blur", MAIN)] {
            let mut setup = setup_with(kind, PLATE);
            let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
            row.links.remove(veil_core::spec::MATTE);
            row.controls
                .extend(settings.iter().map(|(control, setting)| ((*control).into(), setting.clone())));
            let (at, taker) = (setup.row(TESTED).unwrap() + 1, StageId(60));
            setup.stages.insert(at, StageEntry::new(taker, below, "Below").taking(slot, TESTED));
            setup.check().unwrap();
            let request = Request { on_fault: OnFault::Bypass, ..Request::whole(taker, 1004.0) };
            let answer = Engine::new(1 << 28).answer(&setup, &SMOOTH, request, &Cancel::new()).unwrap();
            let pixels = answer.spent.iter().map(|spent| spent.pixels).max().unwrap_or(0);
            assert!(pixels < 1 << 22, "{kind} under {below}: {pixels} pixels were made");
            if kind == "transform" {
                let told: Vec<_> = answer.faults.iter().filter(|fault| fault.stage == TESTED).collect();
                assert!(told.len() == 1 && told[0].message.starts_with("reaches over 96"), "{told:?}");
            }
        }
    }
}

/// A strand that joins itself again and again is gone through once a row, not once for each way through it.
#[test]
fn a_strand_that_joins_itself_many_times_is_gone_through_row_by_row() {
    let mut setup = setup_with("blend", PLATE);
    let mut above = PLATE;
    for number in 0..40 {
        let (glow, blend) = (StageId(100 + number), StageId(200 + number));
        let at = setup.row(TESTED).unwrap();
        let rows = [
            StageEntry::new(glow, "grade", format!("Glow {number}")).taking(MAIN, above),
            StageEntry::new(blend, "blend", format!("Blend {number}"))
                .taking(MAIN, above)
                .taking("layer", glow),
        ];
        setup.stages.splice(at..at, rows);
        above = blend;
    }
    setup.check().unwrap();
    let begun = Instant::now();
    let (engine, cancel) = (Engine::new(1 << 28), Cancel::new());
    let request = Request::whole(above, 1004.0);
    for to in [WayTo::Row(PLATE), WayTo::Row(TESTED), WayTo::Head] {
        let _ = engine.places(&setup, &SMOOTH, request, to, &cancel).unwrap();
    }
    engine.travelled(&setup, &SMOOTH, request).unwrap();
    engine.words(&setup, &SMOOTH, request).unwrap();
    findings::find(&engine, &setup, &SMOOTH, &cancel).unwrap();
    lay_out(&setup, &Default::default());
    assert!(begun.elapsed() < Duration::from_secs(20), "{:?}", begun.elapsed());
}

/// What a library or a stage of ours gets so wrong that it panics is one request's end: the engine's other requests, and
/// the same one asked again, are answered as a new engine answers them, from several threads too.
#[test]
fn what_panics_ends_its_own_request_only() {
    let setup = setup_with("blur", PLATE);
    let broken = MadeUp::of(0, |_| panic!("a reader that is broken"));
    let (engine, request) = (Engine::new(1 << 28), Request::whole(TESTED, 1004.0));
    let fresh = |frame: f64| {
        let request = Request { frame, ..request };
        Engine::new(1 << 28).answer(&setup, &SMOOTH, request, &Cancel::new()).unwrap().signal
    };
    std::thread::scope(|threads| {
        for _ in 0..3 {
            threads.spawn(|| {
                let asked = || engine.answer(&setup, &broken, request, &Cancel::new());
                assert!(catch_unwind(AssertUnwindSafe(asked)).is_err());
            });
        }
        let other = Request { frame: 1006.0, ..request };
        let answer = engine.answer(&setup, &SMOOTH, other, &Cancel::new()).unwrap();
        assert_eq!(answer.signal.pixels, fresh(1006.0).pixels);
    });
    let again = engine.answer(&setup, &SMOOTH, request, &Cancel::new()).unwrap();
    assert_eq!((again.signal.pixels.clone(), again.faults), (fresh(1004.0).pixels.clone(), Vec::new()));
}
