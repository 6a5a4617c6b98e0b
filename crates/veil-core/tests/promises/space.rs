//! What is seen through a camera.

use veil_core::camera::{CameraAt, Lens};
use veil_core::engine::{Engine, Request};
use veil_core::plates::{Plates, Role};
use veil_core::setup::{MediaId, Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::MAIN;
use veil_pixels::{Cancel, Picture, Raster, Window};

use crate::support::{HEIGHT, MadeUp, OTHER, PLATE, SMOOTH, TESTED, WIDTH, setup_with};

const DEPTHS: StageId = StageId(31);
const SIZE: [f64; 2] = [WIDTH as f64, HEIGHT as f64];
/// 50 mm before 36, five metres before a card that is 1.8 wide: half as large as the frame.
const CAMERA: [f64; 8] = [0.0, 0.0, 5.0, 0.0, 0.0, 0.0, 50.0, 36.0];

fn setup(kind: &str, set: &[(&str, Setting)]) -> Setup {
    let mut setup = setup_with(kind, PLATE);
    let alone = StageEntry::new(TESTED, kind, "Tested").taking(MAIN, PLATE);
    let made = set.iter().fold(alone, |row, (control, setting)| row.with(control, setting.clone()));
    *setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap() = made;
    setup
}

fn choice(id: &str) -> Setting {
    Setting::Choice(id.into())
}

fn by_hand(numbers: [f64; 8]) -> [(&'static str, Setting); 2] {
    [("camera", choice("hand")), ("by_hand", Setting::numbers(&numbers))]
}

fn seen_of(setup: &Setup, plates: &dyn Plates, frame: f64) -> Picture {
    setup.check().unwrap();
    let answer =
        Engine::new(1 << 28).answer(setup, plates, Request::whole(TESTED, frame), &Cancel::new()).unwrap();
    match answer.signal.over(Window::sized(WIDTH, HEIGHT)) {
        Pixels::Picture(picture) => picture,
        other => panic!("a picture, not {:?}", other.kind()),
    }
}

fn seen(setup: &Setup) -> Picture {
    seen_of(setup, &SMOOTH, 1004.0)
}

/// The largest difference, this far inside of the frame.
fn apart(a: &Picture, b: &Picture, margin: i32) -> f32 {
    let inner = a.window().grow(-margin, -margin);
    let (a, b) = (a.cropped(inner), b.cropped(inner));
    let each = a.pixels().iter().flatten().zip(b.pixels().iter().flatten());
    each.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
}

fn card(camera: [f64; 8], set: &[(&str, Setting)]) -> Setup {
    let all: Vec<_> = by_hand(camera)
        .into_iter()
        .chain([("width", Setting::number(1.8))])
        .chain(set.iter().cloned())
        .collect();
    setup("plane_in_space", &all)
}

/// By hand: what stands square before a camera is a scale about the middle; slid by 10 of its own pixels it is moved by 5;
/// under a camera on its head it stands on its head.
#[test]
fn a_card_is_seen_where_the_lens_throws_it() {
    let as_moved = |x: f64, y: f64, angle: f64| {
        let set = [("scale_x", 0.5), ("scale_y", 0.5), ("move_x", x), ("move_y", y), ("angle", angle)];
        seen(&setup("transform", &set.map(|(control, value)| (control, Setting::number(value)))))
    };
    let number = Setting::number;
    let slid = [("slide_x", number(10.0)), ("slide_y", number(-4.0)), ("spin", number(30.0))];
    let mut on_its_head = CAMERA;
    on_its_head[5] = 180.0;
    for (made, wanted) in [
        (card(CAMERA, &[]), as_moved(0.0, 0.0, 0.0)),
        (card(CAMERA, &slid), as_moved(5.0, 2.0, 30.0)),
        (card(on_its_head, &[]), as_moved(0.0, 0.0, 180.0)),
    ] {
        assert!(apart(&seen(&made), &wanted, 0) < 2e-4, "{}", apart(&seen(&made), &wanted, 0));
    }
}

/// Behind the camera nothing is seen, and edge on it is told, with the plate handed on.
#[test]
fn a_card_behind_or_edge_on_breaks_nothing() {
    let behind = card([0.0, 0.0, -5.0, 0.0, 0.0, 0.0, 50.0, 36.0], &[]);
    assert!(seen(&behind).pixels().iter().all(|pixel| *pixel == [0.0; 4]));
    let stand = Setting::numbers(&[0.0, 0.0, 0.0, 0.0, 90.0, 0.0, 1.0, 1.0, 1.0]);
    let edge_on = card(CAMERA, &[("stand", stand)]);
    let request = Request::whole(TESTED, 1004.0);
    let told =
        Engine::new(1 << 28).answer(&edge_on, &SMOOTH, request, &Cancel::new()).err().unwrap().to_string();
    assert!(told.contains("edge on"), "{told}");
}

/// Thrown from where it is seen, a picture is what it was, whatever it is thrown onto; and what is thrown from a frame is, there,
/// as it was.
#[test]
fn what_is_thrown_back_from_the_same_eye_is_as_it_was() {
    let plate = seen(&setup("grade", &[]));
    let stand = |tilt: f64| Setting::numbers(&[0.3, 0.5, -1.0, tilt, 25.0, 5.0, 1.0, 1.0, 1.0]);
    for tilt in [0.0, -35.0] {
        let set = [("onto", choice("card")), ("stand", stand(tilt)), ("frame", Setting::number(1004.0))];
        let thrown = seen(&setup("projector", &set));
        assert!(apart(&thrown, &plate, 4) < 2e-3, "{}", apart(&thrown, &plate, 4));
    }
}

/// The lens of `support::walking` at a frame.
fn walking(frame: i32) -> CameraAt {
    crate::support::walking(frame).camera
}

/// Where the rays of the walking camera meet the plane z = −1, at frame 1008.
fn wall(role: Role) -> Option<Pixels> {
    let camera = walking(1008);
    (role == Role::Beauty).then(|| {
        Pixels::Picture(Raster::from_fn(Window::sized(WIDTH, HEIGHT), |x, y| {
            let ray = camera.ray([f64::from(x) + 0.5, f64::from(y) + 0.5], SIZE);
            let depth = (-1.0 - camera.place[2]) / ray[2];
            let at = [0, 1, 2].map(|axis| (camera.place[axis] + ray[axis] * depth) as f32);
            [at[0], at[1], at[2], 1.0]
        }))
    })
}

/// Onto the places of a wall it is as onto a card in that wall.
#[test]
fn a_position_pass_is_thrown_onto_as_the_card_that_it_shows() {
    let stand = Setting::numbers(&[0.0, 0.0, -1.0, 0.0, 0.0, 0.0, 1.0, 1.0, 1.0]);
    let frame = ("frame", Setting::number(1002.0));
    let onto_card = setup("projector", &[("onto", choice("card")), ("stand", stand), frame.clone()]);
    let mut onto_places = setup("projector", &[frame]);
    let row = onto_places.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = row.clone().taking("position", PLATE).taking(MAIN, OTHER);
    let plates = MadeUp::of(7, wall);
    let mut card = onto_card;
    let row = card.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = row.clone().taking(MAIN, OTHER);
    let (on_card, on_places) = (seen_of(&card, &plates, 1008.0), seen_of(&onto_places, &plates, 1008.0));
    assert!(apart(&on_card, &on_places, 8) < 0.01, "{}", apart(&on_card, &on_places, 8));
    assert!(apart(&on_card, &seen_of(&card, &plates, 1002.0), 8) > 0.05, "the camera has moved");
}

/// A depth pass of 3 metres on the left and 8 on the right.
fn two_depths(role: Role) -> Option<Pixels> {
    (role == Role::Depth).then(|| {
        let depth = |x: i32, _: i32| if x < 48 { 3.0 } else { 8.0 };
        Pixels::Field(Raster::from_fn(Window::sized(WIDTH, HEIGHT), depth))
    })
}

/// A card five metres off is behind what is three metres off, and before what is eight: by depth, by one over it, and by shares.
#[test]
fn what_is_nearer_hides_a_card() {
    let whole = seen(&card(CAMERA, &[]));
    let mut hidden = card(CAMERA, &[]);
    let media = Setting::Media { media: MediaId(1) };
    let pass = StageEntry::new(DEPTHS, "pass", "Depth").with("media", media).with("pass", choice("depth"));
    hidden.stages.insert(1, pass);
    let row = hidden.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = row.clone().taking("depth", DEPTHS);
    let made = seen_of(&hidden, &MadeUp::of(8, two_depths), 1004.0);
    let (left, right) = (Window::new(24, 16, 48, 48), Window::new(48, 16, 72, 48));
    assert!(made.cropped(left).pixels().iter().all(|pixel| *pixel == [0.0; 4]));
    assert!(made.cropped(right) == whole.cropped(right));
}

/// 35 mm before a frame 36 wide take in 54.4° across (common practice, from memory).
#[test]
fn a_lens_takes_in_what_a_handbook_says() {
    let lens = Lens::Focal { focal_mm: 35.0, sensor_width_mm: 36.0 };
    let across = 2.0 * (SIZE[0] / 2.0 / lens.zoom(SIZE)).atan().to_degrees();
    assert!((across - 54.4).abs() < 0.05, "{across}");
}

fn with_passes(kind: &str, set: &[(&str, Setting)], slots: &[(&str, &str)]) -> Setup {
    let mut setup = setup(kind, set);
    for (number, (slot, role)) in slots.iter().enumerate() {
        let id = StageId(DEPTHS.0 + number as u32);
        let media = Setting::Media { media: MediaId(1) };
        setup.stages.insert(
            1,
            StageEntry::new(id, "pass", format!("Pass {number}"))
                .with("media", media)
                .with("pass", choice(role)),
        );
        let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        *row = row.clone().taking(slot, id);
    }
    setup
}

fn number(value: f64) -> Setting {
    Setting::number(value)
}

/// By hand: a fog of 0.1 a metre, white at most 0.8, over three metres and over eight.
#[test]
fn fog_hides_by_depth() {
    let set = [("density", number(0.1)), ("most", number(0.8)), ("colour", Setting::numbers(&[1.0; 3]))];
    let plates = MadeUp::of(8, two_depths);
    let plate = seen_of(&setup("grade", &[]), &plates, 1004.0);
    let foggy = seen_of(&with_passes("fog", &set, &[("depth", "depth")]), &plates, 1004.0);
    for (x, metres) in [(10, 3.0f32), (90, 8.0)] {
        let (from, to) = (plate.get(x, 30).unwrap(), foggy.get(x, 30).unwrap());
        let hidden = 0.8 * (1.0 - (-0.1 * metres).exp());
        (0..3).for_each(|at| assert!((to[at] - (from[at] + (1.0 - from[at]) * hidden)).abs() < 1e-5));
    }
}

/// The two depths told otherwise: as one over them, and as shares between 2 and 12 metres.
fn told_inversely(role: Role) -> Option<Pixels> {
    let depth = |x: i32, _: i32| if x < 48 { 1.0 / 3.0 } else { 1.0 / 8.0 };
    (role == Role::Depth).then(|| Pixels::Field(Raster::from_fn(Window::sized(WIDTH, HEIGHT), depth)))
}

fn told_as_shares(role: Role) -> Option<Pixels> {
    let depth = |x: i32, _: i32| if x < 48 { 0.1 } else { 0.6 };
    (role == Role::Depth).then(|| Pixels::Field(Raster::from_fn(Window::sized(WIDTH, HEIGHT), depth)))
}

fn no_depths(role: Role) -> Option<Pixels> {
    let depth = |x: i32, y: i32| [0.0, -3.0, f32::NAN, f32::INFINITY][((x + y) % 4) as usize];
    (role == Role::Depth).then(|| Pixels::Field(Raster::from_fn(Window::sized(WIDTH, HEIGHT), depth)))
}

/// Whatever a depth pass counts, what is at the same depth is hidden alike; what is 0, negative, infinite or no number is
/// infinitely far.
#[test]
fn a_depth_pass_means_what_it_is_said_to() {
    let foggy = |plates: MadeUp, set: &[(&str, Setting)]| {
        seen_of(&with_passes("fog", set, &[("depth", "depth")]), &plates, 1004.0)
    };
    let wanted = foggy(MadeUp::of(8, two_depths), &[]);
    let inverse = foggy(MadeUp::of(9, told_inversely), &[("depth_is", choice("inverse"))]);
    let shares = [("depth_is", choice("share")), ("near", number(2.0)), ("far", number(12.0))];
    let shares = foggy(MadeUp::of(10, told_as_shares), &shares);
    assert!(apart(&wanted, &inverse, 0) < 1e-5 && apart(&wanted, &shares, 0) < 1e-5);
    let nothing = foggy(MadeUp::of(11, no_depths), &[("colour", Setting::numbers(&[0.25; 3]))]);
    assert!(nothing.pixels().iter().flatten().all(|part| (part - 0.25).abs() < 1e-5 || *part == 1.0));
}

/// By hand: light of a half falls on a picture as half as much again; no light, or light that is kept off, changes no bit; soft
/// light leaves black and white.
#[test]
fn light_is_cast_by_hand() {
    let plate = seen(&setup("grade", &[]));
    let colour = ("colour", Setting::numbers(&[1.0, 0.5, 0.0]));
    let lit = seen(&setup("cast_light", &[("strength", number(0.5)), colour.clone()]));
    for (from, to) in plate.pixels().iter().zip(lit.pixels()) {
        let wanted = [from[0] * 1.5, from[1] * 1.25, from[2]];
        (0..3).for_each(|at| assert!((to[at] - wanted[at]).abs() < 1e-5));
    }
    assert!(seen(&setup("cast_light", &[("strength", number(0.0)), colour.clone()])) == plate);
    let ends = |value: f64| {
        let mut made = setup("cast_light", &[("way", choice("soft")), colour.clone()]);
        let flat = StageEntry::new(StageId(31), "grade", "Flat")
            .taking(MAIN, PLATE)
            .with("gain", Setting::numbers(&[0.0; 3]));
        made.stages.insert(1, flat.with("offset", Setting::numbers(&[value; 3])));
        let row = made.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        *row = row.clone().taking(MAIN, StageId(31));
        seen(&made).get(20, 20).unwrap()
    };
    for value in [0.0, 1.0] {
        let [red, green, blue, _] = ends(value);
        assert!(
            [red, green, blue].iter().all(|part| (part - value as f32).abs() < 1e-4),
            "{red} {green} {blue}"
        );
    }
}

/// A wall that faces the camera, with its places.
fn facing_wall(role: Role) -> Option<Pixels> {
    let window = Window::sized(WIDTH, HEIGHT);
    match role {
        Role::Normal => Some(Pixels::Picture(Raster::from_fn(window, |_, _| [0.0, 0.0, 1.0, 1.0]))),
        Role::Position => Some(Pixels::Picture(Raster::from_fn(window, |x, y| {
            [(x as f32 - 47.5) / 16.0, (31.5 - y as f32) / 16.0, 0.0, 1.0]
        }))),
        Role::Beauty => Some(Pixels::Picture(Raster::from_fn(window, |_, _| [0.5, 0.25, 0.125, 1.0]))),
        _ => None,
    }
}

/// By hand: a lamp two metres before the middle of a wall, as strong as said at two metres; beside it by two metres it is twice as
/// far squared, seen at 45°.
#[test]
fn a_lamp_lights_a_wall_by_its_passes() {
    let slots = [("normals", "normal"), ("position", "position")];
    let set = [
        ("x", number(0.0)),
        ("y", number(0.0)),
        ("z", number(2.0)),
        ("reach", number(2.0)),
        ("gloss", number(0.0)),
    ];
    let plates = MadeUp::of(12, facing_wall);
    let lit = seen_of(&with_passes("relight", &set, &slots), &plates, 1004.0);
    let more = |x: i32, y: i32| lit.get(x, y).unwrap()[0] / 0.5 - 1.0;
    assert!((more(47, 31) - 1.0).abs() < 0.01, "{}", more(47, 31));
    let aside = 0.5 * 0.5f32.sqrt();
    assert!((more(79, 31) - aside).abs() < 0.02, "{}", more(79, 31));
}
