//! One engine with a shared cache gives what a new one gives, whatever was asked of it before.

use proptest::prelude::*;
use veil_core::engine::{Engine, Holding, OnFault, Request, Trial};
use veil_core::setup::{Edit, Setup};
use veil_core::signal::{Pixels, Scale};
use veil_pixels::{Cancel, Window};

use crate::deeds::{Deed, command, turning};
use crate::support::{HEIGHT, PLATE, SMOOTH, TESTED, WIDTH, every_stage, setup_with};

/// What is asked for.
#[derive(Clone, Copy, Debug)]
struct Asked {
    /// The row, by number.
    row: usize,
    frame: f64,
    /// The scale, by number.
    scale: usize,
    window: Option<[i32; 4]>,
    on_fault: OnFault,
}

fn asked() -> impl Strategy<Value = Asked> {
    let window = [0i32..90, 0i32..60, 1i32..50, 1i32..40].prop_map(|[x, y, w, h]| [x, y, x + w, y + h]);
    let frame = prop_oneof![4 => (999i32..1013).prop_map(f64::from), 1 => 1001.0..1009.0];
    let on_fault = prop_oneof![4 => Just(OnFault::Bypass), 1 => Just(OnFault::Fail)];
    (0usize..14, frame, 0usize..4, prop::option::of(window), on_fault)
        .prop_map(|(row, frame, scale, window, on_fault)| Asked { row, frame, scale, window, on_fault })
}

/// All that an answer says but what it cost; numbers by their bits.
fn said(engine: &Engine, setup: &Setup, asked: &Asked) -> String {
    let Asked { row, frame, scale, window, on_fault } = *asked;
    let stage = setup.stages[row % setup.stages.len()].id;
    let scale = Scale::one_to([1, 2, 4, 8][scale]).unwrap();
    let window = window.map(|[x0, y0, x1, y1]| Window::new(x0, y0, x1, y1).scaled_down(scale.divisor()));
    let request = Request { scale, window, on_fault, ..Request::whole(stage, frame) };
    match engine.answer(setup, &SMOOTH, request, &Cancel::new()) {
        Err(error) => format!("{error:?}"),
        Ok(answer) => {
            let over = answer.signal.over(answer.window);
            let floats = match &over {
                Pixels::Picture(picture) => picture.pixels().as_flattened(),
                Pixels::Field(field) => field.pixels(),
                Pixels::Map(map) => map.pixels().as_flattened(),
            };
            let bits: Vec<u8> = floats.iter().flat_map(|value| value.to_bits().to_le_bytes()).collect();
            let hash = blake3::hash(&bits);
            format!("{:?} {:?} {hash} {:?}", over.kind(), answer.signal.domain, answer.faults)
        }
    }
}

/// Made up: which stage is tried, what is asked again and again, and the edits between, each with something else that is
/// asked once.
#[derive(Clone, Debug)]
struct Case {
    kind: usize,
    again: Asked,
    steps: Vec<(Deed, Option<Asked>)>,
}

/// Where the stage that is tried stands among the rows.
const TRIED: usize = 6;

fn case() -> impl Strategy<Value = Case> {
    let again = (asked(), prop_oneof![4 => Just(TRIED), 1 => 0usize..14])
        .prop_map(|(asked, row)| Asked { row, ..asked });
    let steps = prop::collection::vec((turning(TRIED), prop::option::weighted(0.3, asked())), 2..7);
    (any::<usize>(), again, steps).prop_map(|(kind, again, steps)| Case { kind, again, steps })
}

/// The same edits on two setups of which one starts elsewhere and runs faster, asked by turns of one engine.
fn agrees(Case { kind, again, steps }: &Case) -> Result<(), TestCaseError> {
    let kinds = every_stage();
    let (kind, main) = kinds[kind % kinds.len()];
    let mut setups = [setup_with(kind, main), setup_with(kind, main)];
    (setups[1].picture.frames.first, setups[1].picture.fps) = (998, 30.0);
    let shared = Engine::new(1 << 26);
    for (deed, once) in steps {
        for setup in &mut setups {
            let done = command(deed, setup).and_then(|command| Edit::of(&command, setup).ok());
            if let Some((edited, _)) = done {
                *setup = edited;
            }
            for asked in once.iter().chain([again]) {
                let (used, new) = (said(&shared, setup, asked), said(&Engine::new(1 << 26), setup, asked));
                prop_assert_eq!(used, new, "a {} after {:?}", kind, deed);
            }
        }
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2000))]

    #[test]
    fn a_shared_engine_gives_what_a_new_one_gives(case in case()) {
        agrees(&case)?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200_000))]

    #[test]
    #[ignore = "takes long; for changes of the engine"]
    fn a_shared_engine_gives_what_a_new_one_gives_two_hundred_thousand_times(case in case()) {
        agrees(&case)?;
    }
}

/// A plate's row hands on the pixels that were read: two frames of it fit where four pictures would not, and what is
/// handed on goes with what it is of.
#[test]
fn pixels_that_are_handed_on_are_counted_once() {
    let setup = setup_with("invert", PLATE);
    let one = u64::from(WIDTH * HEIGHT) * 16;
    let engine = Engine::new(2 * one + one / 2);
    let requests = [1003.0, 1004.0, 1005.0].map(|frame| Request::whole(PLATE, frame));
    let [first, second, third] = requests;
    let ask = |request| engine.answer(&setup, &SMOOTH, request, &Cancel::new()).unwrap();
    let made = ask(first);
    ask(second);
    assert!(engine.holds(&setup, &SMOOTH, first) && engine.holds(&setup, &SMOOTH, second));
    let again = ask(first);
    assert!(again.spent.is_empty() && again.signal.pixels == made.signal.pixels);
    ask(third);
    assert_eq!(requests.map(|request| engine.holds(&setup, &SMOOTH, request)), [true, false, true]);
}

/// What is passed through while something is dragged gives way to what comes after it, and to nothing else; what is seen
/// once the drag ends, or was before it, stays.
#[test]
fn what_trials_make_gives_way_to_later_trials() {
    let mut setup = setup_with("fill", PLATE);
    (setup.picture.width, setup.picture.height) = (2000, 1000);
    let engine = Engine::new(4 << 30);
    let at = |number: u32, holding| Request { holding, ..Request::whole(TESTED, f64::from(1001 + number)) };
    let tried = |number: u32| at(number, Holding::Trial(Trial::of(&format!("try {number}"))));
    let coloured = |number: u32| {
        let mut setup = setup.clone();
        let colour =
            serde_json::from_value(serde_json::json!({ "axes": [f64::from(number) / 100.0, 0.5, 0.5] }));
        let fill = setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap();
        fill.controls.insert("colour".into(), colour.unwrap());
        setup
    };
    let ask = |number: u32, request| {
        engine.answer(&coloured(number), &SMOOTH, request, &Cancel::new()).unwrap();
    };
    ask(50, at(0, Holding::Kept));
    ask(0, tried(0));
    ask(1, tried(1));
    ask(1, at(1, Holding::Kept));
    (2..12).for_each(|number| ask(number, tried(number)));
    let held = |number: u32| engine.holds(&coloured(number), &SMOOTH, at(number % 50, Holding::Kept));
    assert_eq!([50, 0, 1, 2, 10, 11].map(held), [true, false, true, false, true, true]);
}
