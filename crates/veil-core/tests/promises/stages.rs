//! What every stage promises, checked on each one that is registered.

use proptest::prelude::*;
use serde_json::json;
use veil_core::controls::{AnyControl, ChoiceSpec, ColourSpec, ControlKind, Lattice, Own, Stop};
use veil_core::engine::{Engine, Request};
use veil_core::setup::{Command, Edit, Link, Setting, Setup, Source, StageEntry, StageId};
use veil_core::signal::{Pixels, SignalKind, Take};
use veil_core::{each_kind, stages};
use veil_pixels::sample::resize::block_means;
use veil_pixels::{Cancel, Edge, Raster, Window};

use crate::support::{
    FIELD, HEIGHT, MAP, MadeUp, PLATE, SHAPE, TESTED, WIDTH, ask, ask_anyhow, ask_of, every_stage, pair,
    pixels, setup_with, smooth,
};

fn set(setup: &Setup, stage: StageId, control: &str, setting: Setting) -> Setup {
    let mut made = setup.clone();
    let entry = made.stages.iter_mut().find(|entry| entry.id == stage).unwrap();
    entry.controls.insert(control.into(), setting);
    made.check().unwrap();
    made
}

fn cropped(pixels: &Pixels, window: Window) -> Pixels {
    each_kind!(pixels, raster => raster.extended(window, raster.window(), Edge::Clear))
}

fn floats(pixels: &Pixels) -> Vec<f32> {
    match pixels {
        Pixels::Picture(raster) => raster.pixels().as_flattened().to_vec(),
        Pixels::Field(raster) => raster.pixels().to_vec(),
        Pixels::Map(raster) => raster.pixels().as_flattened().to_vec(),
    }
}

#[test]
fn a_region_of_every_stage_is_the_crop_of_the_whole() {
    for (kind, main) in every_stage() {
        let setup = setup_with(kind, main);
        let whole = pixels(&setup, TESTED, 1);
        for window in [Window::new(13, 9, 50, 41), Window::new(0, 0, 3, 64), Window::new(70, 30, 96, 31)] {
            let region = ask(&setup, TESTED, 1, Some(window)).signal.over(window);
            assert_eq!(region, cropped(&whole, window), "{kind} on {main:?} in {window:?}");
        }
    }
}

#[test]
fn every_stage_gives_the_same_bits_on_one_thread_and_on_two() {
    let on = |threads: usize, setup: &Setup| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
        pool.install(|| pixels(setup, TESTED, 1))
    };
    for (kind, main) in every_stage() {
        let setup = setup_with(kind, main);
        assert_eq!(on(1, &setup), on(2, &setup), "{kind} on {main:?}");
    }
}

#[test]
fn amount_nought_hands_on_the_main_input_bit_for_bit_or_nothing_of_a_source() {
    for (kind, main) in every_stage() {
        let spec = stages::all().find(|stage| stage.spec().id == kind).unwrap().spec();
        let setup = set(&setup_with(kind, main), TESTED, "amount", Setting::number(0.0));
        let got = pixels(&setup, TESTED, 1);
        let expected = pixels(&setup, main, 1);
        if spec.main.is_some() && got.kind() == expected.kind() {
            assert_eq!(got, expected, "{kind} on {main:?}");
        } else if spec.main.is_none() {
            assert!(floats(&got).iter().all(|value| *value == 0.0), "{kind}");
        }
    }
}

/// A proxy is held against the full picture brought down to its size, by each stage's own tolerance, at half and, twice
/// as wide, at a quarter of its size.
#[test]
fn a_proxy_of_every_stage_agrees_with_the_full_picture_within_its_tolerance() {
    let mut off = Vec::new();
    for (kind, main) in every_stage() {
        let spec = stages::all().find(|stage| stage.spec().id == kind).unwrap().spec();
        let setup = setup_with(kind, main);
        let full = pixels(&setup, TESTED, 1);
        for scale in [2, 4] {
            let brought_down =
                each_kind!(&full, raster => block_means(raster, scale, &Cancel::new()).unwrap());
            let (proxy, full) = (floats(&pixels(&setup, TESTED, scale)), floats(&brought_down));
            assert_eq!(proxy.len(), full.len());
            let sum: f64 = proxy.iter().zip(&full).map(|(a, b)| f64::from((a - b).abs())).sum();
            let largest = full.iter().fold(1.0f32, |most, value| most.max(value.abs()));
            let mean = sum / full.len() as f64 / f64::from(largest);
            // Of the small frame a quarter is mostly border, where there is less to go by; what haze is made of keeps to it.
            let most = if scale == 4 && kind != "displace" {
                2.0 * spec.proxy_tolerance
            } else {
                spec.proxy_tolerance
            };
            if mean > most {
                off.push(format!("{kind} on {main:?} at 1/{scale}: {mean:.4} > {most}"));
            }
        }
    }
    assert!(off.is_empty(), "{}", off.join("\n"));
}

#[test]
fn a_strength_of_nought_and_a_map_of_zeros_leave_the_picture_bit_for_bit() {
    let setup = setup_with("displace", PLATE);
    let plate = pixels(&setup, PLATE, 1);
    let still = set(
        &set(&setup, TESTED, "strength_x", Setting::number(0.0)),
        TESTED,
        "strength_y",
        Setting::number(0.0),
    );
    assert_eq!(pixels(&still, TESTED, 1), plate);
    let zeros = set(&set(&setup, MAP, "x", Setting::number(0.0)), MAP, "y", Setting::number(0.0));
    let soft = set(&zeros, TESTED, "softness", Setting::number(2.0));
    assert_eq!(pixels(&soft, TESTED, 1), plate);
}

/// Common practice, as worked in the words: value times strength is the distance moved, x to the right, y down.
#[test]
fn a_map_value_times_the_strength_is_how_far_the_picture_moves() {
    // The map is a pass whose values are known, and nothing weakens it.
    let mut setup = setup_with("displace", PLATE);
    let map = setup.stages.iter_mut().find(|entry| entry.id == MAP).unwrap();
    map.kind.0 = "pass".into();
    map.controls.clear();
    map.links.clear();
    map.controls.insert("media".into(), Setting::Media { media: veil_core::setup::MediaId(1) });
    map.controls.insert("pass".into(), Setting::Choice("motion".into()));
    setup.stages.iter_mut().find(|entry| entry.id == TESTED).unwrap().links.remove("matte");
    setup.check().unwrap();
    let setup = set(
        &set(&setup, TESTED, "strength_x", Setting::number(12.0)),
        TESTED,
        "strength_y",
        Setting::number(3.0),
    );
    let setup = set(&setup, TESTED, "sampling", Setting::Choice("linear".into()));
    let (Pixels::Picture(plate), Pixels::Picture(moved), Pixels::Map(map)) =
        (pixels(&setup, PLATE, 1), pixels(&setup, TESTED, 1), pixels(&setup, MAP, 1))
    else {
        panic!("a plate, its displacement and a map");
    };
    let window = Window::sized(WIDTH, HEIGHT);
    let sampler = veil_pixels::sample::resample::Sampler::new(&plate, window, Edge::Mirror);
    for (x, y) in [(30, 20), (48, 32), (60, 40)] {
        let [move_x, move_y] = map.get(x, y).unwrap();
        let from = (x as f32 + 0.5 - 12.0 * move_x, y as f32 + 0.5 - 3.0 * move_y);
        let expected = sampler.at(veil_pixels::sample::resample::Filter::Linear, from.0, from.1);
        let got = moved.get(x, y).unwrap();
        assert!(
            got.iter().zip(expected).all(|(a, b)| (a - b).abs() < 1e-5),
            "{x}, {y}: {got:?} {expected:?}"
        );
    }
}

/// The largest and least numbers of a half float side by side, alpha from 0 to 1.
const EXTREME: MadeUp = MadeUp::of(3, |role| {
    const VALUES: [f32; 7] = [65_504.0, -65_504.0, 6e-8, 0.0, 1.0, -6e-5, 0.18];
    let value = |x: i32, y: i32, c: i32| VALUES[(x * 3 + y * 5 + c).rem_euclid(7) as usize];
    let window = Window::sized(WIDTH, HEIGHT);
    Some(match role.kind() {
        SignalKind::Picture => Pixels::Picture(Raster::from_fn(window, |x, y| {
            [value(x, y, 0), value(x, y, 1), value(x, y, 2), ((x + y) % 5) as f32 / 4.0]
        })),
        SignalKind::Field => Pixels::Field(Raster::from_fn(window, |x, y| value(x, y, 3))),
        SignalKind::Map => Pixels::Map(Raster::from_fn(window, |x, y| [value(x, y, 0), value(x, y, 4)])),
    })
});

/// A plate whose frame has two values that are no numbers.
const FLAWED: MadeUp = MadeUp::of(4, |role| {
    let mut pixels = smooth(role, 1004);
    if let Pixels::Picture(picture) = &mut pixels {
        picture.set(30, 20, [f32::NAN, 0.5, f32::INFINITY, 1.0]);
    }
    Some(pixels)
});

#[test]
fn what_is_no_number_in_a_file_is_told_on_its_row_even_when_a_lower_row_is_held() {
    let engine = Engine::new(1 << 26);
    let setup = setup_with("blur", PLATE);
    for _ in 0..2 {
        let request = Request::whole(TESTED, 1004.0);
        let answer = engine.answer(&setup, &FLAWED, request, &Cancel::new()).unwrap();
        assert!(floats(&answer.signal.pixels).iter().all(|value| value.is_finite()));
        let [fault] = &answer.faults[..] else { panic!("{:?}", answer.faults) };
        assert!(
            fault.stage == PLATE
                && fault.message.contains(
                    "a value that is no number and 0 here and a value that is infinite and ±65504 here"
                ),
            "{fault:?}"
        );
    }
}

/// What a formula cannot work out is 0 and told, for the frame where it is.
#[test]
fn what_a_formula_cannot_work_out_is_nothing_and_its_row_is_marked() {
    let setup = setup_with("formula", PLATE);
    let bad = set(&setup, TESTED, "first", Setting::Choice("1 / (px - 0.5)".into()));
    let answer = ask(&bad, TESTED, 1, None);
    assert!(floats(&answer.signal.pixels).iter().all(|value| value.is_finite()));
    let told: Vec<&str> = answer.faults.iter().map(|fault| fault.message.as_str()).collect();
    assert!(told.iter().any(|message| message.contains("values of the formula")), "{told:?}");
    assert!(ask(&setup, TESTED, 1, None).faults.is_empty());
}

/// A value from anywhere in a control's own bounds.
fn anywhere(spec: &'static AnyControl) -> BoxedStrategy<Option<Setting>> {
    match &spec.kind {
        ControlKind::Number(number) => {
            let (least, most) = (number.least, number.most);
            let slider = number.slider;
            prop_oneof![3 => slider.0..=slider.1, 1 => least..=most]
                .prop_map(move |v| Some(Setting::number(v)))
                .boxed()
        }
        ControlKind::Switch(_) => any::<bool>().prop_map(|on| Some(Setting::Switch(on))).boxed(),
        ControlKind::Choice(ChoiceSpec { options, .. }) => {
            (0..options.len()).prop_map(move |index| Some(Setting::Choice(options[index].id.into()))).boxed()
        }
        ControlKind::Point(_) | ControlKind::Size(_) => {
            ((-200.0..300.0), (-200.0..300.0)).prop_map(|(x, y)| Some(pair(x, y))).boxed()
        }
        ControlKind::Colour(ColourSpec { slider, .. }) => {
            let run = slider.0..=slider.1;
            let axes = prop::collection::vec(run.prop_map(veil_core::feed::Feed::Fixed), 3);
            axes.prop_map(|axes| Some(Setting::Axes { axes })).boxed()
        }
        ControlKind::Stops(_) => {
            let stop = (0.0..=1.0, prop::array::uniform3(-2.0..8.0), 0.0..=1.0, any::<bool>())
                .prop_map(|(at, colour, alpha, smooth)| Stop { at, colour, alpha, smooth });
            prop::collection::vec(stop, 1..6).prop_map(|stops| Some(Setting::Stops { stops })).boxed()
        }
        ControlKind::Shapes(_) => outlines(),
        ControlKind::Lattice(_) => lattices(),
        ControlKind::Pairs(spec) => pairs(spec.own),
        ControlKind::Space(_) => {
            prop::array::uniform9(-30.0f64..30.0).prop_map(|numbers| Some(Setting::numbers(&numbers))).boxed()
        }
        ControlKind::Camera(_) => prop::array::uniform8(-30.0f64..30.0)
            .prop_map(|[x, y, z, pan, tilt, roll, focal, width]| {
                let lens = [focal.abs() + 1.0, width.abs() + 1.0];
                Some(Setting::numbers(&[x, y, z, pan, tilt, roll, lens[0], lens[1]]))
            })
            .boxed(),
        ControlKind::Curve(_) => {
            let point = prop::array::uniform2(-1.0..3.0);
            prop::collection::vec(point, 1..6).prop_map(|curve| Some(Setting::Curve { curve })).boxed()
        }
        ControlKind::Media(_) | ControlKind::Names(_) | ControlKind::Text(_) | ControlKind::Formula(_) => {
            Just(None).boxed()
        }
    }
}

/// Any lattice over and beyond the frame, however it is bent.
pub(crate) fn lattices() -> BoxedStrategy<Option<Setting>> {
    let moved = |(rows, columns): (usize, usize)| {
        let ways = prop::collection::vec(prop::array::uniform2(-9.0f64..9.0), (rows + 1) * (columns + 1));
        ways.prop_map(move |ways| {
            let mut lattice = Lattice::over(rows, columns, [-4.0, 2.0], [90.0, 60.0], 1001.0);
            let points = lattice.moved.keys[0].points.iter_mut();
            points.zip(&ways).for_each(|(point, by)| point.at = [point.at[0] + by[0], point.at[1] + by[1]]);
            Some(Setting::Lattice { lattice })
        })
    };
    (1usize..5, 1usize..5).prop_flat_map(moved).boxed()
}

/// Any pairs of outlines with ties, of any number of points, and fences.
pub(crate) fn pairs(own: Own) -> BoxedStrategy<Option<Setting>> {
    let points = || prop::collection::vec(prop::array::uniform2(-60.0..160.0f64), 2..6);
    let line = |places: &[[f64; 2]]| json!({ "keys": [{ "frame": 1001, "points": places.iter().map(|at| json!({ "at": at })).collect::<Vec<_>>() }] });
    let ties = prop::collection::vec(prop::array::uniform2(0.0..1.0f64), 0..4);
    let pair = (points(), points(), ties, any::<bool>()).prop_map(move |(rest, goal, ties, closed)| {
        json!({ "name": "one", "closed": closed, "rest": line(&rest), "goal": line(&goal), "ties": ties, "own": !closed, "own_dissolve": closed })
    });
    let fence = points().prop_map(move |places| json!({ "name": "fence", "line": line(&places) }));
    let all = (prop::collection::vec(pair, 0..3), prop::collection::vec(fence, 0..2), 0.0..1.0f64);
    all.prop_map(move |(pairs, fences, amount)| {
        let dissolves = if own == Own::AmountAndDissolve { pairs.len() } else { 0 };
        let amounts = vec![amount; pairs.len() + fences.len() + dissolves];
        let set = json!({ "pairs": { "pairs": pairs, "fences": fences, "amounts": amounts } });
        Some(serde_json::from_value(set).unwrap())
    })
    .boxed()
}

/// Any outlines: closed, open, of any number of points, reaching beyond the frame.
fn outlines() -> BoxedStrategy<Option<Setting>> {
    let pair = || prop::array::uniform2(-60.0..160.0);
    let way = || prop::array::uniform2(-40.0..40.0);
    let point = (pair(), way(), way(), 0.0..30.0).prop_map(
        |(at, before, after, soft)| json!({ "at": at, "before": before, "after": after, "soft": soft }),
    );
    let shape = (prop::collection::vec(point, 1..8), prop::option::of(0.0..20.0), 0.0..1.0, 0usize..3).prop_map(
        |(points, width, opacity, joins): (Vec<_>, Option<f64>, f64, usize)| {
            let joins = ["add", "cut", "intersect"][joins];
            json!({ "name": "one", "keys": [{ "frame": 1001, "points": points }], "width": width, "opacity": opacity,
                "joins": joins, "softness": 4.0 })
        },
    );
    let setting =
        |shapes: Vec<serde_json::Value>| serde_json::from_value(json!({ "shapes": shapes })).unwrap();
    prop::collection::vec(shape, 0..4).prop_map(move |shapes| Some(setting(shapes))).boxed()
}

fn a_stage_anyhow() -> impl Strategy<Value = (String, Setup)> {
    prop::sample::select(every_stage()).prop_flat_map(|(kind, main)| {
        let spec = stages::all().find(|stage| stage.spec().id == kind).unwrap().spec();
        let settings: Vec<_> = spec.controls.iter().map(anywhere).collect();
        settings.prop_map(move |settings| {
            let mut setup = setup_with(kind, main);
            for (control, setting) in spec.controls.iter().zip(settings) {
                if let Some(setting) = setting {
                    setup = set(&setup, TESTED, control.id, setting);
                }
            }
            (format!("{kind} on {main:?}"), setup)
        })
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn no_controls_within_their_bounds_give_what_is_not_a_number((name, setup) in a_stage_anyhow()) {
        let got = pixels(&setup, TESTED, 2);
        prop_assert!(floats(&got).iter().all(|value| value.is_finite()), "{name}");
        // A plate that uses all of a half float's range, without any smoothness.
        for scale in [1, 2] {
            let answer = ask_of(&EXTREME, &setup, TESTED, scale, None);
            prop_assert!(floats(&answer.signal.pixels).iter().all(|value| value.is_finite()), "{name}, extremes");
        }
    }

    #[test]
    fn a_region_is_the_crop_of_the_whole_for_any_controls(
        (name, setup) in a_stage_anyhow(), x in 0i32..80, y in 0i32..50, w in 1i32..40, h in 1i32..30
    ) {
        let window = Window::new(x, y, x + w, y + h).intersect(Window::sized(WIDTH, HEIGHT));
        let whole = ask_anyhow(&setup, TESTED, None);
        let region = ask_anyhow(&setup, TESTED, Some(window)).signal.over(window);
        prop_assert_eq!(region, cropped(&whole.signal.over(whole.window), window), "{}", name);
    }
}

/// Common practice: what is added, cut and intersected is what the mattes' coverages say pixel by pixel; an empty place
/// in the list closes up and nothing else changes.
#[test]
fn a_list_of_mattes_is_met_in_order_and_closes_up() {
    let mut setup = setup_with("grade", PLATE);
    let tested = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    tested.controls.insert("gain".into(), Setting::numbers(&[0.0; 3]));
    tested.controls.insert("matte2_way".into(), Setting::Choice("cut".into()));
    tested.controls.insert("matte3_way".into(), Setting::Choice("add".into()));
    tested.controls.insert("matte3_invert".into(), Setting::Switch(true));
    let other = StageEntry::new(StageId(40), "ellipse", "Other")
        .with("centre", pair(30.0, 20.0))
        .with("radii", pair(16.0, 9.0))
        .with("softness", Setting::number(8.0));
    let take = |row: &mut StageEntry, slot: &str, from: StageId| {
        let take = (from == PLATE).then_some(Take::Luma);
        row.links.insert(slot.into(), Link { from: Source::Stage(from), take });
    };
    take(tested, "matte2", StageId(40));
    take(tested, "matte3", PLATE);
    setup.stages.insert(5, other);
    setup.check().unwrap();
    let field = |setup: &Setup, id: StageId| match pixels(setup, id, 1) {
        Pixels::Field(field) => field,
        _ => panic!("a matte is a field"),
    };
    let picture = |setup: &Setup, id: StageId| match pixels(setup, id, 1) {
        Pixels::Picture(picture) => picture,
        _ => panic!("a grade gives a picture"),
    };
    let (shape, cut, plate) = (field(&setup, SHAPE), field(&setup, StageId(40)), picture(&setup, PLATE));
    let seen = picture(&setup, TESTED);
    for (y, x) in (0..HEIGHT as i32).flat_map(|y| (0..WIDTH as i32).map(move |x| (y, x))) {
        let [r, g, b, _] = plate.get(x, y).unwrap();
        let luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
        let kept = shape.get(x, y).unwrap() * (1.0 - cut.get(x, y).unwrap());
        let wanted = kept.max(1.0 - luma.clamp(0.0, 1.0));
        let found = 1.0 - seen.get(x, y).unwrap()[0] / r;
        assert!((found - wanted).abs() < 1e-4, "{x},{y}: {found}, not {wanted}");
    }

    // As a row of its own it is the same, softened ones too.
    let softened = set(&setup, TESTED, "matte2_soften", Setting::number(3.0));
    let (made, edit) = Edit::of(&Command::MattesToRow { stage: TESTED }, &softened).unwrap();
    let (before, after) = (picture(&softened, TESTED), picture(&made, TESTED));
    let off = before.pixels().as_flattened().iter().zip(after.pixels().as_flattened());
    assert!(off.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max) < 1e-5);
    assert_eq!(made.stage(edit.row.unwrap()).unwrap().kind.0, "combine_fields");
    assert_eq!(made.stage(TESTED).unwrap().links.keys().filter(|slot| slot.starts_with("matte")).count(), 1);

    let link = |slot: &str| Command::Link { stage: TESTED, slot: slot.into(), from: None, take: None };
    let (closed, _) = Edit::of(&link("matte2"), &setup).unwrap();
    let row = closed.stage(TESTED).unwrap();
    assert_eq!(row.links["matte2"].from, Source::Stage(PLATE));
    assert_eq!(row.controls["matte2_invert"], Setting::Switch(true));
    assert!(!row.links.contains_key("matte3") && !row.controls.contains_key("matte3_invert"));
}

/// Laws of the maximum, the product and the screen (W3C Compositing and Blending Level 1), on whole fields.
#[test]
fn fields_that_are_combined_keep_the_laws_of_what_they_meet_by() {
    let combined = |first: StageId, meet: &str, second: StageId| {
        let mut setup = setup_with("combine_fields", first);
        let tested = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        tested.links.retain(|slot, _| slot == "main" || slot == "field2");
        tested.links.insert("field2".into(), Link::stage(second));
        tested.controls.insert("field2_meet".into(), Setting::Choice(meet.into()));
        setup.check().unwrap();
        match pixels(&setup, TESTED, 1) {
            Pixels::Field(field) => field,
            _ => panic!("fields give a field"),
        }
    };
    for meet in ["maximum", "minimum", "multiply", "add", "difference", "screen"] {
        let (there, back) = (combined(FIELD, meet, SHAPE), combined(SHAPE, meet, FIELD));
        let off = there.pixels().iter().zip(back.pixels()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 1e-6, "{meet}: {off}");
    }
    let shape = combined(SHAPE, "maximum", SHAPE);
    assert_eq!(combined(SHAPE, "minimum", SHAPE), shape, "both are idempotent");
    assert!(combined(SHAPE, "difference", SHAPE).pixels().iter().all(|value| *value == 0.0));
}

/// A preset sets what the stage has, within its bounds, and makes it do something.
#[test]
fn every_preset_fits_its_stage_and_changes_what_it_gives() {
    for (kind, main) in every_stage() {
        let stage = stages::all().find(|stage| stage.spec().id == kind).unwrap();
        for preset in stage.presets() {
            let plain = setup_with(kind, main);
            let made = preset.settings.iter().fold(plain.clone(), |setup, (control, setting)| {
                set(&setup, TESTED, control, setting.clone())
            });
            assert_ne!(pixels(&made, TESTED, 1), pixels(&plain, TESTED, 1), "{} of {kind}", preset.name);
        }
    }
}
