//! Things placed: pinned by corners, fitted to a box, seen while they move, and followed by others.

use veil_core::bracket;
use veil_core::engine::{Engine, OnFault, Request};
use veil_core::feed::{ControlAxis, Feed, FollowFeed, Keys, Others};
use veil_core::fit::{FitWay, box_of, fit};
use veil_core::setup::{Command, Edit, Setting, Setup, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::{MAIN, MATTE};
use veil_pixels::{Field, Raster, Window};

use crate::support::{FIELD, HEIGHT, PLATE, SHAPE, TESTED, WIDTH, pair, pixels, setup_with};

fn set(setup: &Setup, stage: StageId, control: &str, setting: Setting) -> Setup {
    let command = Command::Set { stage, control: control.into(), setting: Some(setting) };
    Edit::of(&command, setup).unwrap().0
}

fn bare(kind: &str, main: StageId) -> Setup {
    let mut setup = setup_with(kind, main);
    setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap().links.remove(MATTE);
    setup
}

fn field(setup: &Setup, stage: StageId) -> Field {
    match pixels(setup, stage, 1) {
        Pixels::Field(field) => field,
        other => panic!("{other:?}"),
    }
}

/// Sum, mean place along x, and variance about it.
fn spread(field: &Field) -> [f64; 3] {
    let window = field.window();
    let all = || {
        (window.y0..window.y1)
            .flat_map(|y| (window.x0..window.x1).map(move |x| (x, y)))
            .map(|(x, y)| (f64::from(x) + 0.5, f64::from(field.get(x, y).unwrap())))
    };
    let sum: f64 = all().map(|(_, value)| value).sum();
    let mean = all().map(|(x, value)| x * value).sum::<f64>() / sum;
    [sum, mean, all().map(|(x, value)| (x - mean).powi(2) * value).sum::<f64>() / sum]
}

/// What moves by `v` pixels a frame is smeared over `v · shutter / 360`: evenly spaced over a length `l` its variance grows
/// by `l² / 12 · (1 − 1/n²)` for `n` samples, about the place it has at the frame. Source: the variance of a uniform
/// distribution, continuous and discrete.
#[test]
fn what_moves_is_smeared_by_as_much_as_it_moves_while_the_shutter_is_open() {
    let mut setup = bare("transform", SHAPE);
    setup = set(&setup, SHAPE, "radii", pair(9.0, 9.0));
    setup = set(&setup, SHAPE, "softness", Setting::number(0.0));
    let move_x = Feed::Keys(Keys::one(1002.0, -24.0).with_value(1006.0, 24.0));
    let straight = Command::ShapeKeys {
        picked: vec![
            serde_json::from_value(serde_json::json!({
                "of": { "stage": 9, "control": "move_x" }, "frames": [1002.0],
            }))
            .unwrap(),
        ],
        shape: serde_json::from_value(serde_json::json!({ "ease": "straight" })).unwrap(),
    };
    setup = set(&setup, TESTED, "move_x", Setting::Feed(move_x));
    setup = Edit::of(&straight, &setup).unwrap().0;
    let sharp = spread(&field(&setup, TESTED));
    let open = set(&setup, TESTED, "shutter", Setting::number(270.0));
    let open = set(&open, TESTED, "samples", Setting::number(9.0));
    let smeared = spread(&field(&open, TESTED));
    let length: f64 = 12.0 * 0.75;
    let grown = length * length / 12.0 * (1.0 - 1.0 / 81.0);
    // Samples stand in the middles of nine equal parts, a ninth of the length apart.
    assert!((smeared[0] / sharp[0] - 1.0).abs() < 1e-3, "{smeared:?} {sharp:?}");
    assert!((smeared[1] - sharp[1]).abs() < 0.02, "{smeared:?} {sharp:?}");
    assert!((smeared[2] - sharp[2] - grown).abs() < 0.15, "{} {grown}", smeared[2] - sharp[2]);
    // It is then no part of a bracket; at rest it is what it was, bit for bit.
    let row = |setup: &Setup| setup.stage(TESTED).unwrap().clone();
    assert_eq!(bracket::members(&open, &row(&open)).len(), 1);
    let still = set(&open, TESTED, "move_x", Setting::number(5.0));
    let plain = set(&still, TESTED, "shutter", Setting::number(0.0));
    assert_eq!(field(&still, TESTED).pixels(), field(&plain, TESTED).pixels());
}

/// An outline that is keyed to move is smeared as a warp is, over its own way. Its moments lie a whole pixel apart, where
/// pixels show its variance as it is.
#[test]
fn an_outline_on_its_way_is_smeared_over_that_way() {
    let corners = [[0.0, 20.0], [12.0, 20.0], [12.0, 32.0], [0.0, 32.0]];
    let points = |right: f64| -> Vec<_> {
        corners.iter().map(|[x, y]| serde_json::json!({ "at": [x + right, *y] })).collect()
    };
    let shapes = serde_json::json!({ "shapes": [{
        "name": "one", "way": "straight",
        "keys": [{ "frame": 1002.0, "points": points(20.0) }, { "frame": 1006.0, "points": points(92.0) }],
    }] });
    let setup = bare("outline", PLATE);
    let sharp = set(&setup, TESTED, "shapes", serde_json::from_value(shapes).unwrap());
    let open = set(&sharp, TESTED, "shutter", Setting::number(180.0));
    let open = set(&open, TESTED, "samples", Setting::number(9.0));
    let (sharp, smeared) = (spread(&field(&sharp, TESTED)), spread(&field(&open, TESTED)));
    let length: f64 = 18.0 * 0.5;
    let grown = length * length / 12.0 * (1.0 - 1.0 / 81.0);
    assert!((smeared[0] - 144.0).abs() < 1e-2 && (sharp[0] - 144.0).abs() < 1e-2, "{smeared:?} {sharp:?}");
    assert!((smeared[1] - 62.0).abs() < 1e-2, "{smeared:?}");
    assert!((smeared[2] - sharp[2] - grown).abs() < 1e-3, "{} {grown}", smeared[2] - sharp[2]);
}

/// Turned over about the middle of the frame, a picture has its rows or columns the other way round, bit for bit.
#[test]
fn what_is_mirrored_has_its_pixels_the_other_way_round() {
    let setup = bare("transform", FIELD);
    let before = field(&setup, FIELD);
    let (right, bottom) = (WIDTH as i32 - 1, HEIGHT as i32 - 1);
    for (way, across, down) in [("across", true, false), ("down", false, true), ("both", true, true)] {
        let after = field(&set(&setup, TESTED, "mirrored", Setting::Choice(way.into())), TESTED);
        for (x, y) in (0..=right).flat_map(|x| (0..=bottom).map(move |y| (x, y))) {
            let from = (if across { right - x } else { x }, if down { bottom - y } else { y });
            assert_eq!(after.get(x, y), before.get(from.0, from.1), "{way}: {x}, {y}");
        }
    }
}

/// Places of the frame, and where OpenCV lays them.
const PLACES: [([f64; 2], [f64; 2]); 3] = [
    ([20.0, 10.0], [24.685_458_5, 13.338_899_4]),
    ([48.0, 32.0], [46.577_777_8, 29.775_555_6]),
    ([80.0, 55.5], [74.797_857_7, 49.736_194_7]),
];

/// Source of the places: OpenCV 5.0.0, getPerspectiveTransform and perspectiveTransform.
#[test]
fn a_pin_lays_the_frame_between_its_corners_and_its_inverse_brings_it_back() {
    let corners = [
        ("top_left", 10.0, 6.0),
        ("top_right", 84.0, 12.0),
        ("bottom_right", 90.0, 58.0),
        ("bottom_left", 4.0, 50.0),
    ];
    let mut setup = bare("corner_pin", FIELD);
    for (control, x, y) in corners {
        setup = set(&setup, TESTED, control, pair(x, y));
    }
    let (before, after) = (field(&setup, FIELD), field(&setup, TESTED));
    let read = |field: &Field, [x, y]: [f64; 2]| {
        use veil_pixels::sample::resample::{Filter, Sampler};
        let sampler = Sampler::new(field, field.window(), veil_pixels::Edge::Hold);
        sampler.at(Filter::Cubic, x as f32, y as f32)
    };
    for (from, to) in PLACES {
        let (wanted, got) = (read(&before, from), read(&after, to));
        assert!((wanted - got).abs() < 0.01, "{from:?}: {got}, not {wanted}");
    }
    let back = set(&setup, TESTED, "inverse", Setting::Switch(true));
    let stage = veil_core::setup::StageEntry::new(StageId(30), "corner_pin", "Back");
    let mut both = setup.clone();
    let mut stage = stage.taking("main", TESTED);
    stage.controls = back.stage(TESTED).unwrap().controls.clone();
    let last = both.stages.len() - 1;
    both.stages.insert(last, stage);
    let round = field(&both, StageId(30));
    for (x, y) in (4..WIDTH as i32 - 4).flat_map(|x| (4..HEIGHT as i32 - 4).map(move |y| (x, y))) {
        assert!((round.get(x, y).unwrap() - before.get(x, y).unwrap()).abs() < 1e-3, "{x}, {y}");
    }
    let flat = set(&setup, TESTED, "top_right", pair(7.0, 28.0));
    let told = Engine::new(1 << 24).answer(
        &flat,
        &crate::support::SMOOTH,
        Request { on_fault: OnFault::Bypass, ..Request::whole(TESTED, 1004.0) },
        &veil_pixels::Cancel::new(),
    );
    assert!(told.unwrap().faults.iter().any(|fault| fault.message.contains("three corners in a line")));
}

#[test]
fn what_is_fitted_lies_where_its_box_is() {
    let matte: Field = Raster::from_fn(Window::sized(80, 60), |x, y| {
        if (20..44).contains(&x) && (10..52).contains(&y) { 0.7 } else { 0.3 }
    });
    assert_eq!(box_of(&matte), Window::new(20, 10, 44, 52));
    let (from, to) = (Window::new(0, 0, 96, 64), Window::new(20, 10, 44, 52));
    for kind in ["transform", "corner_pin"] {
        for (way, box_wanted) in
            [(FitWay::Inside, [20.0, 44.0, 23.0, 39.0]), (FitWay::Stretch, [20.0, 44.0, 10.0, 52.0])]
        {
            let setup = bare(kind, PLATE);
            let command = fit(&setup, TESTED, from, to, way).unwrap();
            let fitted = Edit::of(&command, &setup).unwrap().0;
            let Pixels::Picture(picture) = pixels(&fitted, TESTED, 1) else { panic!("a picture") };
            let alpha = |x: i32, y: i32| f64::from(picture.get(x, y).unwrap_or_default()[3]);
            let (mut wide, mut high) = (0.0, 0.0);
            for step in 0..96 {
                wide += alpha(step, 31);
                high += if step < 64 { alpha(32, step) } else { 0.0 };
            }
            let [left, right, top, bottom] = box_wanted;
            assert!((wide - (right - left)).abs() < 0.6, "{kind} {way:?}: {wide} wide");
            assert!((high - (bottom - top)).abs() < 0.6, "{kind} {way:?}: {high} high");
            assert!(alpha(left as i32 + 1, 31) > 0.9 && alpha(left as i32 - 2, 31) < 0.1, "{kind} {way:?}");
        }
    }
    let setup = bare("blur", PLATE);
    assert!(fit(&setup, TESTED, from, to, FitWay::Over).unwrap_err().to_string().contains("Corner pin"));
    let setup = bare("transform", PLATE);
    assert!(
        fit(&setup, TESTED, from, Window::EMPTY, FitWay::Over).unwrap_err().to_string().contains("matte")
    );
}

/// What follows an outline goes where it goes, and keeps those places as keys when the outline is gone.
#[test]
fn an_outline_is_followed_and_what_followed_it_stays_when_it_is_gone() {
    let setup = setup_with("outline", PLATE);
    let shapes = serde_json::json!({ "shapes": [{
        "name": "one", "way": "straight",
        "keys": [
            { "frame": 1001.0, "points": [{ "at": [10.0, 10.0] }, { "at": [30.0, 10.0] }, { "at": [20.0, 28.0] }] },
            { "frame": 1005.0, "points": [{ "at": [18.0, 14.0] }, { "at": [38.0, 14.0] }, { "at": [28.0, 32.0] }] },
        ],
    }] });
    let setup = set(&setup, TESTED, "shapes", serde_json::from_value(shapes).unwrap());
    let follow = |axis| {
        let follow = ControlAxis { stage: TESTED, control: "shapes".into(), axis };
        Feed::Follow(FollowFeed { follow, scale: 1.0, offset: 2.0.into() })
    };
    let centre = Setting::Axes { axes: vec![follow(0), follow(1)] };
    let with = set(&setup, SHAPE, "centre", centre);
    let at = |setup: &Setup, frame: f64| {
        [0, 1].map(|axis| {
            let of = ControlAxis { stage: SHAPE, control: "centre".into(), axis };
            setup.number(&of, setup.moment(frame)).unwrap()
        })
    };
    assert_eq!([at(&with, 1001.0), at(&with, 1003.0)], [[22.0, 18.0], [26.0, 20.0]]);
    let gone = Edit::of(&Command::Remove { stage: TESTED }, &with).unwrap().0;
    for frame in [1001.0, 1005.0] {
        let (was, is) = (at(&with, frame), at(&gone, frame));
        assert!((0..2).all(|axis| (was[axis] - is[axis]).abs() < 1e-9), "{frame}: {is:?}, not {was:?}");
    }
}

/// By hand: the corners of a plane that is turned about the axis up, moved away and slid are seen where lines from them to the
/// eye meet the frame; a pin by those corners gives the same picture.
#[test]
fn a_plane_in_space_is_seen_as_its_corners_are() {
    let (wide, high) = (f64::from(WIDTH), f64::from(HEIGHT));
    let ([x, y, z], turn, size, view) = ([9.0, 5.0, -20.0], 35f64.to_radians(), 0.9, 50f64.to_radians());
    let mut plane = bare("plane_in_space", PLATE);
    let row = plane.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    row.links.retain(|slot, _| slot == MAIN);
    let place = Setting::numbers(&[x, y, z, 0.0, 35.0, 0.0, size, size, size]);
    let plane = set(&set(&plane, TESTED, "place", place), TESTED, "view", Setting::number(50.0));
    let eye = wide / 2.0 / (view / 2.0).tan();
    let seen = |right: f64, up: f64| {
        let (along, up) = (right * size, up * size);
        let share = eye / (eye - (z - along * turn.sin()));
        pair(wide / 2.0 + (x + along * turn.cos()) * share, high / 2.0 - (y + up) * share)
    };
    let mut pinned = bare("corner_pin", PLATE);
    let corners = [
        ("top_left", -1.0, 1.0),
        ("top_right", 1.0, 1.0),
        ("bottom_right", 1.0, -1.0),
        ("bottom_left", -1.0, -1.0),
    ];
    for (corner, right, up) in corners {
        pinned = set(&pinned, TESTED, corner, seen(right * wide / 2.0, up * high / 2.0));
    }
    let picture = |setup: &Setup| match pixels(setup, TESTED, 1) {
        Pixels::Picture(picture) => picture,
        other => panic!("{other:?}"),
    };
    let (plane, pinned) = (picture(&plane), picture(&pinned));
    for (a, b) in plane.pixels().iter().zip(pinned.pixels()) {
        assert!(a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-3), "{a:?}, not {b:?}");
    }
    assert!(
        plane.pixels().iter().any(|pixel| pixel[3] > 0.9)
            && plane.pixels().iter().any(|pixel| pixel[3] == 0.0)
    );
}
