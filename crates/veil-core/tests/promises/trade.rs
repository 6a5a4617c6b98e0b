//! Rules of the trade, and what fields promise over time and chance.

use proptest::prelude::*;
use veil_core::controls::Stop;
use veil_core::engine::{Engine, Request};
use veil_core::feed::{ControlAxis, Feed, FollowFeed};
use veil_core::setup::{Link, Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;
use veil_core::stages;
use veil_pixels::{Cancel, Field, Map, Picture, Window};

use crate::support::{
    FIELD, HEIGHT, MAP, OTHER, PLATE, SHAPE, SMOOTH, TESTED, WIDTH, ask, ask_anyhow, pair, pixels, setup_with,
};

const FRAME: Window = Window::sized(WIDTH, HEIGHT);

fn picture(setup: &Setup, stage: StageId) -> Picture {
    let Pixels::Picture(picture) = pixels(setup, stage, 1) else { panic!("a picture") };
    picture
}

fn field(setup: &Setup, stage: StageId, frame: f64) -> Field {
    let request = Request::whole(stage, frame);
    let answer = Engine::new(1 << 28).answer(setup, &SMOOTH, request, &Cancel::new()).unwrap();
    let Pixels::Field(field) = answer.signal.over(FRAME) else { panic!("a field") };
    field
}

fn map(setup: &Setup, stage: StageId) -> Map {
    let Pixels::Map(map) = pixels(setup, stage, 1) else { panic!("a map") };
    map
}

/// The tested stage with its main input and one layer alone, and some controls.
fn tested(kind: &str, main: StageId, controls: &[(&str, Setting)]) -> Setup {
    let mut setup = setup_with(kind, main);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    row.links.retain(|slot, _| [MAIN, "layer", "map"].contains(&slot.as_str()));
    for (control, setting) in controls {
        row.controls.insert((*control).into(), setting.clone());
    }
    setup.check().unwrap();
    setup
}

fn choice(id: &str) -> Setting {
    Setting::Choice(id.into())
}

fn formula(id: StageId, text: &str) -> StageEntry {
    StageEntry::new(id, "formula", "Formula").with("first", choice(text))
}

/// Common practice: over one pixel a noise hardly rises, so its slope is raised; then air is seen to move by about
/// half a pixel to five.
#[test]
fn the_slope_of_noise_is_small_and_raised_it_moves_as_haze_does() {
    let setup = tested("displace", PLATE, &[]);
    let rise = |stage: StageId| {
        let map = map(&setup, stage);
        let lengths = map.pixels().iter().map(|[x, y]| f64::from(x.hypot(*y)));
        lengths.sum::<f64>() / map.pixels().len() as f64
    };
    assert!(rise(StageId(6)) < 0.05, "{}", rise(StageId(6)));
    assert!((0.5..5.0).contains(&rise(MAP)), "{}", rise(MAP));
}

/// Common practice: A minus B and B minus A are two operations; of opaque pictures each is the other below 0.
#[test]
fn a_minus_b_is_not_b_minus_a() {
    let minus = |mode: &str| picture(&tested("blend", PLATE, &[("layer_mode", choice(mode))]), TESTED);
    let (one, other) = (minus("minus"), minus("minus_from"));
    let opposite =
        one.pixels().iter().zip(other.pixels()).all(|(a, b)| (0..3).all(|c| (a[c] + b[c]).abs() < 1e-6));
    assert!(opposite);
    assert!(one.pixels().iter().any(|pixel| pixel[0].abs() > 0.02));
}

/// Common practice: glows and arcs are added or screened; added they have more punch.
#[test]
fn plus_has_more_punch_than_screen() {
    let blended = |mode: &str| picture(&tested("blend", PLATE, &[("layer_mode", choice(mode))]), TESTED);
    let (plus, screen, plate) =
        (blended("plus"), blended("screen"), picture(&setup_with("blend", PLATE), PLATE));
    for ((plus, screen), plate) in plus.pixels().iter().zip(screen.pixels()).zip(plate.pixels()) {
        assert!(
            (0..3).all(|c| plus[c] >= screen[c] && screen[c] >= plate[c]),
            "{plus:?} {screen:?} {plate:?}"
        );
    }
}

/// Common practice: a normal map's red is x, its green is y, its blue is z.
#[test]
fn a_normal_map_has_x_in_red_y_in_green_and_z_in_blue() {
    let lit = |text: &str| {
        let mut setup = tested("normal_map", FIELD, &[]);
        setup.stages.insert(0, formula(StageId(30), text));
        let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        *row = row.clone().taking(MAIN, StageId(30));
        picture(&setup, TESTED).get(48, 32).unwrap()
    };
    let [flat, right, down] = ["0.5", "px * 0.02", "py * 0.02"].map(lit);
    assert!((flat[0] - 0.5).abs() < 1e-6 && (flat[1] - 0.5).abs() < 1e-6 && flat[2] > 0.99, "{flat:?}");
    assert!((right[0] - 0.5).abs() > 0.05 && (right[1] - 0.5).abs() < 1e-6 && right[2] < 0.99, "{right:?}");
    assert!((down[1] - 0.5).abs() > 0.05 && (down[0] - 0.5).abs() < 1e-6 && down[2] < 0.99, "{down:?}");
}

/// Common practice: multiplying two mattes leaves where both are.
#[test]
fn mattes_multiplied_leave_where_both_are() {
    let mut setup = tested("combine_fields", SHAPE, &[("field2_meet", choice("multiply"))]);
    setup.stages.insert(0, formula(StageId(30), "step(48, px)"));
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = row.clone().taking("field2", StageId(30));
    let (shape, both) = (field(&setup, SHAPE, 1004.0), field(&setup, TESTED, 1004.0));
    for x in [20, 40, 56, 70] {
        let wanted = if x < 48 { 0.0 } else { shape.get(x, 32).unwrap() };
        assert_eq!(both.get(x, 32), Some(wanted), "{x}");
    }
}

/// Common practice: a crop may cut pixels without changing the frame.
#[test]
fn a_crop_cuts_pixels_and_leaves_the_frame() {
    let cut = [("first", pair(20.0, 10.0)), ("last", pair(60.0, 40.0))];
    let domain = ask(&tested("crop", PLATE, &cut), TESTED, 1, None).signal.domain;
    assert_eq!((domain.display, domain.data), (FRAME, Window::new(20, 10, 60, 40)));
}

/// Where the loop is as long as the shot, its last frame is followed by its first.
#[test]
fn a_looped_noise_meets_its_first_frame_after_its_last() {
    for basis in ["gradient", "simplex", "value", "cells"] {
        let setup = tested(
            "noise",
            PLATE,
            &[("looped", Setting::number(10.0)), ("churn", Setting::number(0.3)), ("basis", choice(basis))],
        );
        let at = |frame: f64| field(&setup, TESTED, frame);
        let apart = |a: &Field, b: &Field| {
            a.pixels().iter().zip(b.pixels()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
        };
        let (first, last, next) = (at(1001.0), at(1010.0), at(1011.0));
        assert!(apart(&first, &next) < 1e-5, "{basis}: {}", apart(&first, &next));
        let steps: Vec<f32> = (1001..1010).map(|n| apart(&at(f64::from(n)), &at(f64::from(n + 1)))).collect();
        let most = steps.iter().copied().fold(0.0, f32::max);
        assert!(
            most > 0.01 && apart(&last, &first) <= most * 1.5,
            "{basis}: {most} {}",
            apart(&last, &first)
        );
    }
}

#[test]
fn another_seed_is_another_picture_of_every_stage_that_has_one() {
    let mut seen = 0;
    for stage in
        stages::all().filter(|stage| stage.spec().controls.iter().any(|control| control.id == "seed"))
    {
        let id = stage.spec().id;
        // There is no hole to be filled.
        if id == "fill_hole" {
            continue;
        }
        let seeded = |seed: f64| {
            // A wipe is uneven only where that is asked for.
            let mut controls = vec![("seed", Setting::number(seed))];
            if id == "wipe" {
                controls.push(("noise", Setting::number(0.5)));
            }
            pixels(&tested(id, PLATE, &controls), TESTED, 1)
        };
        assert_eq!(seeded(3.0), seeded(3.0), "{id}");
        assert_ne!(seeded(3.0), seeded(4.0), "{id}");
        seen += 1;
    }
    assert!(seen >= 3, "{seen}");
}

/// A kind of stage, its main input, and controls.
type Case = (&'static str, StageId, Vec<(&'static str, Setting)>);

/// Values that nobody means are bounded: an answer comes, and all of it is numbers.
#[test]
fn sizes_of_nothing_and_strengths_of_a_million_are_bounded() {
    let number = Setting::number;
    let red = Stop { at: 0.4, colour: [0.9, 0.1, 0.2], alpha: 1.0, smooth: false };
    let stops = |stops: Vec<Stop>| Setting::Stops { stops };
    let huge = [("strength_x", number(1.0e6)), ("strength_y", number(1.0e6)), ("softness", number(10.0))];
    let cases: Vec<Case> = vec![
        ("gradient", PLATE, vec![("stops", stops(vec![red]))]),
        ("gradient", PLATE, vec![("shape", choice("radial")), ("radius", number(0.0))]),
        ("ring_wave", PLATE, vec![("radius", number(0.0)), ("wavelength", number(0.0))]),
        ("ellipse", PLATE, vec![("radii", pair(0.0, 0.0)), ("softness", number(0.0))]),
        ("vignette", PLATE, vec![("radii", pair(0.0, 0.0)), ("softness", number(0.0))]),
        ("bulge", PLATE, vec![("radii", pair(0.0, 0.0))]),
        ("swirl", PLATE, vec![("radius", number(0.0)), ("angle", number(1.0e6))]),
        ("mosaic", FIELD, vec![("wide", number(0.0)), ("high", number(0.0))]),
        ("stripes", PLATE, vec![("period", number(0.0)), ("width", number(0.0))]),
        ("noise", PLATE, vec![("size", pair(0.0, 0.0))]),
        ("text", PLATE, vec![("size", number(0.0))]),
        ("displace", PLATE, huge.to_vec()),
        ("push_map", FIELD, vec![("strength", number(1.0e6))]),
        ("glow", PLATE, vec![("size", number(1.0e6)), ("strength", number(1.0e6)), ("octaves", number(6.0))]),
        ("zoom_blur", PLATE, vec![("zoom", number(1.0e6))]),
        (
            "arc",
            PLATE,
            vec![("roughness", number(1.0e6)), ("branches", number(1.0e6)), ("detail", number(0.0))],
        ),
        ("formula", PLATE, vec![("first", choice("1 / (px - px)"))]),
    ];
    for (kind, main, controls) in cases {
        let mut setup = setup_with(kind, main);
        let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        row.controls.extend(controls.into_iter().map(|(control, setting)| (control.to_owned(), setting)));
        // What a document refuses it refuses by the name of the row.
        if let Err(error) = setup.check() {
            assert!(error.to_string().contains("Tested"), "{error}");
            continue;
        }
        let answer = ask_anyhow(&setup, TESTED, None);
        let whole = match answer.signal.over(answer.window) {
            Pixels::Picture(picture) => picture.pixels().as_flattened().to_vec(),
            Pixels::Field(field) => field.pixels().to_vec(),
            Pixels::Map(map) => map.pixels().as_flattened().to_vec(),
        };
        assert!(whole.iter().all(|value| value.is_finite()), "{kind}");
    }
}

#[test]
fn a_gradient_of_one_stop_is_that_colour_and_one_of_radius_nought_its_outermost() {
    let stop = |at: f64, colour: [f64; 3]| Stop { at, colour, alpha: 1.0, smooth: false };
    let stops = |stops: Vec<Stop>| ("stops", Setting::Stops { stops });
    let one = picture(&tested("gradient", PLATE, &[stops(vec![stop(0.4, [0.75, 0.125, 0.5])])]), TESTED);
    assert!(one.pixels().iter().all(|pixel| *pixel == [0.75, 0.125, 0.5, 1.0]));
    let two = stops(vec![stop(0.0, [1.0, 0.0, 0.0]), stop(1.0, [0.0, 0.25, 0.0])]);
    let nothing = [two, ("shape", choice("radial")), ("radius", Setting::number(0.0))];
    let outermost = picture(&tested("gradient", PLATE, &nothing), TESTED);
    assert!(outermost.pixels().iter().all(|pixel| *pixel == [0.0, 0.25, 0.0, 1.0]));
}

/// A letter that the face lacks is told on the row, by itself, and the others stand.
#[test]
fn letters_that_the_font_lacks_are_told_on_the_row() {
    let setup = tested("text", PLATE, &[("text", choice("sea 塩")), ("size", Setting::number(20.0))]);
    let answer = ask_anyhow(&setup, TESTED, None);
    let told: Vec<&str> = answer.faults.iter().map(|fault| fault.message.as_str()).collect();
    assert!(told.iter().any(|message| message.contains('塩')), "{told:?}");
    assert!(picture(&setup, TESTED).pixels().iter().any(|pixel| pixel[3] > 0.5));
}

/// Width and height are linked by letting one follow the other.
#[test]
fn one_number_of_a_control_may_follow_another_of_the_same() {
    let follow = ControlAxis { stage: TESTED, control: "size".into(), axis: 0 };
    let linked = Feed::Follow(FollowFeed { follow, scale: 2.0, offset: Default::default() });
    let size = Setting::Axes { axes: vec![Feed::Fixed(12.0), linked] };
    let setup = tested("noise", PLATE, &[("size", size)]);
    let plain = tested("noise", PLATE, &[("size", pair(12.0, 24.0))]);
    assert_eq!(field(&setup, TESTED, 1004.0), field(&plain, TESTED, 1004.0));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Common practice: a map whose neutral level is its mean moves the picture as a whole nowhere.
    #[test]
    fn a_neutral_centred_map_does_not_drift(
        seed in 0i32..500, wide in 6.0f64..60.0, high in 6.0f64..60.0, strength in 1.0f64..60.0
    ) {
        let mut setup = tested("neutral", MAP, &[]);
        for row in &mut setup.stages {
            match row.id {
                FIELD => {
                    row.controls.insert("size".into(), pair(wide, high));
                    row.controls.insert("seed".into(), Setting::number(f64::from(seed)));
                }
                MAP => {
                    row.controls.insert("x".into(), Setting::number(strength));
                    row.controls.insert("y".into(), Setting::number(strength));
                }
                OTHER => row.on = true,
                _ => {}
            }
        }
        let centred = map(&setup, TESTED);
        for axis in 0..2 {
            let sum: f64 = centred.pixels().iter().map(|value| f64::from(value[axis])).sum();
            let mean = sum / centred.pixels().len() as f64;
            prop_assert!(mean.abs() < 0.01, "{mean} px");
        }
    }
}

/// By hand, common practice: five levels from 0 to 1 lie a quarter apart, and go on so beyond; half of the softness lies on
/// either side of the middle between two.
#[test]
fn steps_round_to_levels_that_go_on_beyond_their_ends() {
    let stepped = |value: f64, softness: f64| {
        let controls = [("levels", Setting::number(5.0)), ("softness", Setting::number(softness))];
        let mut setup = tested("steps", FIELD, &controls);
        let at = setup.stages.iter().position(|row| row.id == FIELD).unwrap();
        setup.stages[at] = formula(FIELD, &format!("{value}"));
        field(&setup, TESTED, 1001.0).get(40, 30).unwrap()
    };
    for (value, level) in [(0.3, 0.25), (0.37, 0.25), (0.38, 0.5), (0.99, 1.0), (1.3, 1.25), (-0.2, -0.25)] {
        assert!((stepped(value, 0.0) - level).abs() < 1e-6, "{value}: {}", stepped(value, 0.0));
    }
    assert!((stepped(0.375, 0.5) - 0.375).abs() < 1e-6);
    assert!((stepped(0.4375, 0.5) - 0.5).abs() < 1e-6, "{}", stepped(0.4375, 0.5));
}

/// Colours that were only looked at as hues come back as they were, soft edges among them.
#[test]
fn there_and_back_a_picture_is_as_it_was() {
    let mut setup = tested("hsv", PLATE, &[]);
    let back = StageId(40);
    let row = StageEntry::new(back, "hsv", "Back").with("way", choice("from_hsv")).taking(MAIN, TESTED);
    let last = setup.stages.len() - 1;
    setup.stages.insert(last, row);
    setup.check().unwrap();
    let (before, after) = (picture(&setup, PLATE), picture(&setup, back));
    for (before, after) in before.pixels().iter().zip(after.pixels()) {
        let near = before.iter().zip(after).all(|(before, after)| (before - after).abs() < 1e-5);
        assert!(near, "{before:?} {after:?}");
    }
}

/// By hand: with beauty `b` and a light's pass `l`, a gain of 2 gives `b + l`, none gives `b − l`, and one that does not count, or a gain
/// of 1, the bits of `b`.
#[test]
fn a_light_is_balanced_by_its_pass_and_the_rest_stays() {
    let balanced = |controls: &[(&str, Setting)]| {
        let mut setup = tested("light_balance", PLATE, controls);
        let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        row.links.insert("light1".into(), Link::stage(OTHER));
        setup.check().unwrap();
        [PLATE, OTHER, TESTED].map(|row| picture(&setup, row))
    };
    let gain = |gain: f64| ("light1_gain", Setting::number(gain));
    let off = ("light1_counts", Setting::Switch(false));
    for (gain, sign) in [(gain(2.0), 1.0), (gain(0.0), -1.0)] {
        let [beauty, light, made] = balanced(&[gain]);
        let share = |x: i32, y: i32, of: &Picture| of.get(x, y).unwrap_or_default();
        for (x, y) in (0..HEIGHT as i32).flat_map(|y| (0..WIDTH as i32).map(move |x| (x, y))) {
            let [beauty, light, made] = [&beauty, &light, &made].map(|of| share(x, y, of));
            assert!((0..3).all(|at| (made[at] - (beauty[at] + sign * light[at])).abs() < 1e-6), "{x} {y}");
            assert_eq!(made[3], beauty[3]);
        }
    }
    for controls in [vec![gain(1.0)], vec![gain(3.0), off]] {
        let [beauty, _, made] = balanced(&controls);
        assert!(made == beauty);
    }
}
