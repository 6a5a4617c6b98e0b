//! What pixels are found by: all that changes them, and nothing else; and what becomes of faults.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::thread;
use std::time::Duration;

use veil_core::controls::{Drawn, Joins, KeyedPoints, PointsKey, PointsWay, ShapePoint, Side};
use veil_core::engine::{Answer, Engine, EngineError, OnFault, Request};
use veil_core::feed::{Feed, Keys};
use veil_core::plates::{PlateError, Plates, Role};
use veil_core::setup::{Link, Media, Setting, Setup, Source, StageEntry, StageId};
use veil_core::signal::{Domain, Pixels, Scale, Take};
use veil_core::spec::{MAIN, MATTE};
use veil_pixels::colour::lut::Lut;
use veil_pixels::{Cancel, Window};

use crate::support::{HEIGHT, MAP, PLATE, SHAPE, SMOOTH, TESTED, WIDTH, setup_with};

const AT: f64 = 1004.0;

fn seen_by(engine: &Engine, setup: &Setup, stage: StageId, frame: f64) -> Pixels {
    let answer = engine.answer(setup, &SMOOTH, Request::whole(stage, frame), &Cancel::new()).unwrap();
    answer.signal.over(answer.window)
}

/// One engine that saw `before` gives of `after` what a new one gives.
fn not_stale(before: &Setup, after: &Setup) {
    let used = Engine::new(1 << 28);
    let old = seen_by(&used, before, TESTED, AT);
    let new = seen_by(&Engine::new(1 << 28), after, TESTED, AT);
    assert!(old != new, "the two setups look the same");
    assert!(seen_by(&used, after, TESTED, AT) == new, "stale pixels are shown");
}

fn tested(setup: &mut Setup) -> &mut StageEntry {
    setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap()
}

fn with(kind: &str, settings: &[(&str, Setting)]) -> Setup {
    let mut setup = setup_with(kind, PLATE);
    tested(&mut setup).links.remove(MATTE);
    for (control, setting) in settings {
        tested(&mut setup).controls.insert((*control).into(), setting.clone());
    }
    setup.check().unwrap();
    setup
}

#[test]
fn what_is_drawn_from_the_shots_start_is_another_when_the_shot_starts_elsewhere_or_runs_faster() {
    let formula = |text: &str| with("formula", &[("first", Setting::Choice(text.into()))]);
    let by_start = [
        with("ring_wave", &[("growth", Setting::number(3.0))]),
        with("arc", &[("churn", Setting::number(0.4))]),
        formula("since * 0.01 * px / wide"),
    ];
    for before in by_start {
        let mut after = before.clone();
        after.picture.frames.first -= 5;
        not_stale(&before, &after);
    }
    let before = formula("secs * px / wide");
    let mut after = before.clone();
    after.picture.fps = 60.0;
    not_stale(&before, &after);
}

fn keyed(values: &[(f64, f64)]) -> Setting {
    let first = Keys::one(values[0].0, values[0].1);
    Setting::Feed(Feed::Keys(
        values[1..].iter().fold(first, |keys, (at, value)| keys.with_value(*at, *value)),
    ))
}

/// The first half of a move that is seen over two moments is before the frame.
#[test]
fn an_edit_of_the_key_before_a_frame_is_seen_in_its_motion_blur() {
    let shutter = [("shutter", Setting::number(360.0)), ("samples", Setting::number(2.0))];
    let moved = |came_from: f64| {
        let mut setup = with("transform", &shutter);
        let way = keyed(&[(AT - 1.0, came_from), (AT, 0.0), (AT + 1.0, 0.0)]);
        tested(&mut setup).controls.insert("move_x".into(), way);
        setup
    };
    not_stale(&moved(12.0), &moved(24.0));
}

/// By hand: of two moments, of which one has no amount, half of what is seen has not moved.
#[test]
fn a_moment_without_amount_counts_as_one_that_does_not_move() {
    let shutter = [("shutter", Setting::number(360.0)), ("samples", Setting::number(2.0))];
    let mut setup = with("transform", &shutter);
    tested(&mut setup).controls.insert("move_x".into(), Setting::number(16.0));
    tested(&mut setup).controls.insert("amount".into(), keyed(&[(AT - 0.25, 0.0), (AT, 1.0)]));
    let engine = Engine::new(1 << 28);
    let Pixels::Picture(seen) = seen_by(&engine, &setup, TESTED, AT) else { panic!("a picture") };
    let Pixels::Picture(still) = seen_by(&engine, &setup, PLATE, AT) else { panic!("a picture") };
    for x in 20..WIDTH as i32 {
        let [here, there] = [x, x - 16].map(|x| still.get(x, 30).unwrap()[0]);
        let mean = (here + there) / 2.0;
        let red = seen.get(x, 30).unwrap()[0];
        assert!((red - mean).abs() < 1e-3, "{x}: {red}, not {mean}");
    }
}

fn drawn(name: &str, frames: &[(f64, f64)]) -> Drawn {
    let corner = |x: f64, y: f64| ShapePoint { at: [x, y], before: [0.0; 2], after: [0.0; 2], soft: 0.0 };
    let key = |(frame, x): &(f64, f64)| PointsKey {
        frame: *frame,
        points: vec![corner(*x, 10.0), corner(x + 20.0, 12.0), corner(x + 8.0, 40.0)],
    };
    Drawn {
        name: name.into(),
        points: KeyedPoints {
            keys: frames.iter().map(key).collect(),
            way: PointsWay::Straight,
            carried: None,
        },
        width: None,
        joins: Joins::Add,
        softens: 0.0,
        opacity: 1.0,
        softness: 3.0,
        side: Side::Both,
        seen: None,
        counts: true,
        locked: false,
        hidden: false,
    }
}

fn outlined(shapes: Vec<Drawn>) -> Setup {
    with("outline", &[("shapes", Setting::Shapes { shapes })])
}

/// What does not change a frame's pixels does not change what they are found by.
#[test]
fn names_locks_and_keys_of_other_frames_leave_what_a_frame_is_found_by() {
    let engine = Engine::new(1 << 20);
    let content = |setup: &Setup| {
        engine.content(setup, &SMOOTH, Request::whole(setup.final_id().unwrap(), AT)).unwrap()
    };
    let last = |setup: &mut Setup| {
        let id = setup.final_id().unwrap();
        let row = setup.stages.iter_mut().find(|row| row.id == id).unwrap();
        *row = row.clone().taking(MAIN, TESTED);
    };
    let made = |shapes: Vec<Drawn>| {
        let mut setup = outlined(shapes);
        last(&mut setup);
        setup
    };
    let plain = made(vec![drawn("one", &[(1001.0, 10.0), (1005.0, 10.0)])]);
    let known = content(&plain);
    let quiet =
        Drawn { name: "another".into(), locked: true, hidden: true, ..drawn("one", &[(1001.0, 10.0)]) };
    assert_eq!(content(&made(vec![quiet.clone()])), known);
    let keyed_later = drawn("one", &[(1001.0, 10.0), (1005.0, 10.0), (1009.0, 70.0)]);
    assert_eq!(content(&made(vec![keyed_later])), known);
    let unused = Drawn { counts: false, ..drawn("two", &[(1001.0, 40.0)]) };
    assert_eq!(content(&made(vec![quiet, unused])), known);
    let mut renamed = plain.clone();
    tested(&mut renamed).name = "an outline".into();
    renamed.media[0].name = "yard".into();
    assert_eq!(content(&renamed), known);
    assert_ne!(content(&made(vec![drawn("one", &[(1001.0, 11.0)])])), known);
}

/// A still picture is worked out once for all frames.
#[test]
fn what_looks_the_same_at_every_frame_is_found_by_the_same() {
    let setup = with("ellipse", &[]);
    let engine = Engine::new(1 << 20);
    let content = |frame: f64| engine.content(&setup, &SMOOTH, Request::whole(TESTED, frame)).unwrap();
    assert_eq!(content(1002.0), content(1009.0));
}

/// Further mattes are softened as they are at the moment that is seen.
#[test]
fn a_further_matte_of_a_moving_row_is_as_it_is_at_each_moment() {
    let shutter = [("shutter", Setting::number(360.0)), ("samples", Setting::number(2.0))];
    let made = |before: f64| {
        let mut setup = with("transform", &shutter);
        let row = tested(&mut setup);
        *row = row
            .clone()
            .taking(MATTE, SHAPE)
            .taking("matte2", SHAPE)
            .with("move_x", keyed(&[(AT - 1.0, 10.0), (AT, 0.0)]))
            .with("matte2_way", Setting::Choice("cut".into()))
            .with("matte2_soften", keyed(&[(AT - 1.0, before), (AT, 0.0)]));
        setup.check().unwrap();
        setup
    };
    let contents = [4.0, 30.0].map(|before| {
        let engine = Engine::new(1 << 20);
        engine.content(&made(before), &SMOOTH, Request::whole(TESTED, AT)).unwrap()
    });
    assert_ne!(contents[0], contents[1]);
}

/// A plate whose pixels cannot be read at one frame, though the file is there, and are read slowly; how often it was asked
/// for is counted.
#[derive(Default)]
struct Broken {
    asked: AtomicUsize,
    read: AtomicUsize,
}

const SLOWLY: Duration = Duration::from_millis(30);

const BROKEN: i32 = 1004;

impl Plates for Broken {
    fn fingerprint(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<u64, PlateError> {
        self.asked.fetch_add(1, Ordering::Relaxed);
        SMOOTH.fingerprint(media, frame, cancel)
    }

    fn domain(&self, _: &Media, _: i32, _: &Cancel) -> Result<Domain, PlateError> {
        let window = Window::sized(WIDTH, HEIGHT);
        Ok(Domain { display: window, data: window })
    }

    fn pass(&self, media: &Media, frame: i32, role: Role, cancel: &Cancel) -> Result<Pixels, PlateError> {
        self.read.fetch_add(1, Ordering::Relaxed);
        thread::sleep(SLOWLY);
        if frame == BROKEN {
            return Err(PlateError::File("the file ends early".into()));
        }
        SMOOTH.pass(media, frame, role, cancel)
    }

    fn lut(&self, media: &Media) -> Result<Arc<Lut>, PlateError> {
        SMOOTH.lut(media)
    }

    fn words(&self, _: &Media, _: i32) -> Result<Vec<(String, String)>, PlateError> {
        Ok(Vec::new())
    }

    fn roles(&self, _: &Media, _: i32) -> Result<Vec<Role>, PlateError> {
        Ok(Vec::new())
    }
}

fn bypassing(stage: StageId, frame: f64) -> Request {
    Request { on_fault: OnFault::Bypass, ..Request::whole(stage, frame) }
}

/// The plate, a grade of it, and Final.
fn graded() -> Setup {
    let mut setup = with("grade", &[("exposure", Setting::number(1.0))]);
    let last = setup.final_id().unwrap();
    let row = setup.stages.iter_mut().find(|row| row.id == last).unwrap();
    *row = row.clone().taking(MAIN, TESTED);
    setup
}

#[test]
fn what_is_made_of_a_faulty_rows_bypass_is_kept_and_the_fault_told_at_that_row_alone() {
    let (setup, plates, engine) = (graded(), Broken::default(), Engine::new(1 << 28));
    let ask = |frame: f64| -> Answer {
        engine.answer(&setup, &plates, bypassing(setup.final_id().unwrap(), frame), &Cancel::new()).unwrap()
    };
    let first = ask(f64::from(BROKEN));
    let told: Vec<_> = first.faults.iter().map(|fault| (fault.stage, fault.message.as_str())).collect();
    assert_eq!(told, [(PLATE, "the file ends early")]);
    // The grade of what the plate hands on was kept.
    let again = ask(f64::from(BROKEN));
    assert!(again.spent.iter().all(|spent| spent.stage != TESTED), "{:?}", again.spent);
    assert_eq!(again.faults, first.faults);
    let error = engine
        .answer(&setup, &plates, Request::whole(setup.final_id().unwrap(), AT), &Cancel::new())
        .unwrap_err();
    assert_eq!(error.to_string(), "`Plate`: the file ends early");
    assert!(matches!(error, EngineError::Stage { stage: PLATE, .. }));
    // Neither passes for a frame that can be read.
    assert!(ask(1003.0).faults.is_empty());
}

/// The mean over the shot of a mean over the shot of …: each row is planned once a frame, not once for each way to it.
#[test]
fn means_over_the_shot_of_each_other_cost_the_sum_and_not_the_product() {
    let mut setup = with("displace", &[]);
    let mut above = MAP;
    for number in 0..5 {
        let id = StageId(40 + number);
        let row = StageEntry::new(id, "neutral", format!("Level {number}"))
            .taking(MAIN, above)
            .with("x", Setting::Choice("range".into()))
            .with("y", Setting::Choice("range".into()));
        let at = setup.row(TESTED).unwrap();
        setup.stages.insert(at, row);
        above = id;
    }
    let row = setup.stages.iter_mut().find(|row| row.id == StageId(6)).unwrap();
    row.links.insert(MAIN.into(), Link { from: Source::Stage(PLATE), take: Some(Take::Luma) });
    let row = tested(&mut setup);
    *row = row.clone().taking("map", above);
    setup.check().unwrap();
    let plates = Broken::default();
    let engine = Engine::new(1 << 28);
    engine.answer(&setup, &plates, bypassing(TESTED, 1003.0), &Cancel::new()).unwrap();
    let asked = plates.asked.load(Ordering::Relaxed);
    assert!(asked < 2000, "{asked} looks at files");
}

/// Of those who ask at once for the same, or part of it, one makes it; who calls it off leaves it to the others.
#[test]
fn what_is_asked_for_at_once_is_made_once() {
    let (setup, plates, engine) = (graded(), Broken::default(), Engine::new(1 << 28));
    let part = Request { window: Some(Window::new(3, 4, 30, 20)), ..Request::whole(TESTED, 1003.0) };
    let requests = [Request::whole(TESTED, 1003.0), part, Request::whole(PLATE, 1003.0), part];
    thread::scope(|scope| {
        for request in requests {
            let (setup, plates, engine) = (&setup, &plates, &engine);
            scope.spawn(move || engine.answer(setup, plates, request, &Cancel::new()).unwrap());
        }
    });
    assert_eq!(plates.read.load(Ordering::Relaxed), 1);
    let called_off = Cancel::new();
    thread::scope(|scope| {
        let first =
            scope.spawn(|| engine.answer(&setup, &plates, Request::whole(TESTED, 1006.0), &called_off));
        let second = scope.spawn(|| {
            thread::sleep(SLOWLY / 3);
            called_off.set();
            engine.answer(&setup, &plates, Request::whole(TESTED, 1006.0), &Cancel::new())
        });
        assert!(matches!(first.join().unwrap(), Err(EngineError::Cancelled) | Ok(_)));
        assert!(second.join().unwrap().is_ok());
    });
}

/// Tiles of a picture that lie beside each other are held as one.
#[test]
fn regions_side_by_side_are_held_together() {
    let (setup, plates, engine) = (graded(), Broken::default(), Engine::new(1 << 28));
    let ask = |window: Window| {
        let request = Request { window: Some(window), ..Request::whole(TESTED, 1003.0) };
        engine.answer(&setup, &plates, request, &Cancel::new()).unwrap().spent.len()
    };
    let (left, right) = (Window::new(0, 0, 40, 64), Window::new(30, 0, 96, 64));
    assert!(ask(left) > 0 && ask(right) > 0);
    assert_eq!(ask(Window::new(0, 0, 96, 64)), 0, "both together are all of it");
}

/// What was counted of one scale or one input is not told of another.
#[test]
fn marks_are_of_the_result_that_is_asked_for() {
    let text = "sqrt(px - 10)";
    let setup = with("formula", &[("first", Setting::Choice(text.into()))]);
    let fine = with("formula", &[("first", Setting::Choice("px / wide".into()))]);
    let engine = Engine::new(1 << 28);
    let marks = |setup: &Setup, scale: u32| {
        let scale = Scale::one_to(scale).unwrap();
        let request = Request { scale, ..bypassing(TESTED, AT) };
        engine.answer(setup, &SMOOTH, request, &Cancel::new()).unwrap().faults
    };
    let full = marks(&setup, 1);
    assert_eq!(full.len(), 1, "{full:?}");
    // A thumbnail of it says what the thumbnail has, and the picture still says what it has.
    marks(&setup, 8);
    assert_eq!(marks(&setup, 1), full);
    assert!(marks(&fine, 1).is_empty());
}

/// A row that looks at one frame is found by what it sees there, wherever it is asked for; what it sees is worked out once,
/// between two frames too, and a key of any other frame is none of its business.
#[test]
fn a_still_frame_is_the_same_at_every_frame_and_worked_out_once() {
    let which = |frame: f64| [("which", Setting::Choice("number".into())), ("frame", Setting::number(frame))];
    let graded = |keys: &[(f64, f64)], frame: f64| {
        let mut setup = with("still_frame", &which(frame));
        let grade =
            StageEntry::new(StageId(30), "grade", "Grade").taking(MAIN, PLATE).with("exposure", keyed(keys));
        let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
        setup.stages.insert(at, grade);
        *tested(&mut setup) = tested(&mut setup).clone().taking(MAIN, StageId(30));
        setup.check().unwrap();
        setup
    };
    let engine = Engine::new(1 << 28);
    let content =
        |setup: &Setup, frame: f64| engine.content(setup, &SMOOTH, Request::whole(TESTED, frame)).unwrap();
    let still = graded(&[(1001.0, 0.0), (1003.0, 1.0), (1009.0, 1.0)], 1002.5);
    assert_eq!(content(&still, 1001.0), content(&still, 1009.0));
    assert_eq!(
        content(&still, 1001.0),
        content(&graded(&[(1001.0, 0.0), (1003.0, 1.0), (1009.0, 4.0)], 1002.5), 1001.0)
    );
    assert_ne!(
        content(&still, 1001.0),
        content(&graded(&[(1001.0, 0.0), (1003.0, 2.0), (1009.0, 1.0)], 1002.5), 1001.0)
    );
    let seen = |frame: f64, of: StageId| {
        let answer = engine.answer(&still, &SMOOTH, Request::whole(of, frame), &Cancel::new()).unwrap();
        (answer.signal.over(answer.window), answer.spent.len())
    };
    let (first, worked) = seen(1001.0, TESTED);
    let (later, again) = seen(1008.0, TESTED);
    assert!(worked > 0 && again == 0, "{worked} rows worked, then {again}");
    assert!(first == later && first == seen(1002.5, StageId(30)).0, "what is keyed stands between its keys");
}

/// What does not work at a moment that is looked at is told at its row, with that moment.
#[test]
fn a_fault_at_another_moment_is_told_with_its_frame() {
    let which = [("which", Setting::Choice("number".into())), ("frame", Setting::number(f64::from(BROKEN)))];
    let (setup, broken) = (with("still_frame", &which), Broken::default());
    let engine = Engine::new(1 << 28);
    let answer = engine.answer(&setup, &broken, bypassing(TESTED, 1001.0), &Cancel::new()).unwrap();
    let [fault] = answer.faults.as_slice() else { panic!("{:?}", answer.faults) };
    assert_eq!(fault.stage, PLATE);
    assert!(
        fault.message.contains("at frame 1004") && fault.message.contains("ends early"),
        "{}",
        fault.message
    );
}
