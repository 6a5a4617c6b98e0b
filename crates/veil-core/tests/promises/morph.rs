//! From one picture to another along outlines.

use proptest::prelude::*;
use serde_json::json;
use veil_core::controls::Own;
use veil_core::feed::Feed;
use veil_core::plates::Role;
use veil_core::setup::{Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::{MAIN, MATTE};
use veil_pixels::{Raster, Window};

use crate::stages::pairs;
use crate::support::{
    HEIGHT, MadeUp, OTHER, PLATE, SMOOTH, TESTED, WIDTH, ask_of, pixels, setup_with, smooth,
};

const FRAME: Window = Window::sized(WIDTH, HEIGHT);
const DEPTH: StageId = StageId(30);

/// A morph from the plate to a softer one.
fn morph(shape: f64, dissolve: f64, outlines: Setting) -> Setup {
    let mut setup = setup_with("morph", PLATE);
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    row.links.remove(MATTE);
    let set =
        [("shape", Setting::number(shape)), ("dissolve", Setting::number(dissolve)), ("outlines", outlines)];
    *row = set.into_iter().fold(row.clone(), |row, (control, setting)| row.with(control, setting));
    setup.check().unwrap();
    setup
}

/// A square in the plate, and the same further to the right in the other.
fn square(further: f64, own_dissolve: bool) -> Setting {
    let corners = |x: f64| {
        let at = [[x, 16.0], [x + 40.0, 16.0], [x + 40.0, 48.0], [x, 48.0]].map(|at| json!({ "at": at }));
        json!({ "keys": [{ "frame": 1001, "points": at }] })
    };
    let ties: Vec<[u32; 2]> = (0..4).map(|at| [at, at]).collect();
    let pair = json!({ "name": "square", "rest": corners(20.0), "goal": corners(20.0 + further), "ties": ties,
        "own_dissolve": own_dissolve });
    serde_json::from_value(json!({ "pairs": { "pairs": [pair], "amounts": [1, 1] } })).unwrap()
}

/// The plate moved to the right by a transform stands for the other picture.
fn with_other_moved(mut setup: Setup, by: f64) -> Setup {
    let other = setup.stages.iter_mut().find(|row| row.id == OTHER).unwrap();
    *other =
        StageEntry::new(OTHER, "transform", "Moved").taking(MAIN, PLATE).with("move_x", Setting::number(by));
    let depth = StageEntry::new(DEPTH, "pass", "Depth").taking("picture", TESTED);
    let at = setup.stages.len() - 1;
    setup.stages.insert(at, depth);
    setup.check().unwrap();
    setup
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn both_ends_are_the_two_pictures_bit_for_bit(outlines in pairs(Own::AmountAndDissolve)) {
        let Some(Setting::Pairs { pairs }) = outlines else { panic!("pairs") };
        for (end, picture) in [(0.0, PLATE), (1.0, OTHER)] {
            let mut pairs = pairs.clone();
            pairs.amounts.fill(Feed::Fixed(end));
            let setup = morph(end, end, Setting::Pairs { pairs });
            prop_assert!(pixels(&setup, TESTED, 1) == pixels(&setup, picture, 1), "at {end}");
        }
    }
}

/// By mathematics: of a picture and the same moved on, what is on the way is the picture moved part of it, however much is
/// seen of either.
#[test]
fn half_way_between_a_picture_and_the_same_moved_on_it_is_moved_half_way() {
    for (shape, dissolve) in [(0.5, 0.2), (0.25, 0.8)] {
        let setup = with_other_moved(morph(shape, dissolve, square(8.0, false)), 8.0);
        let half = with_other_moved(morph(0.0, 0.0, square(8.0, false)), 8.0 * shape);
        let inner = FRAME.grow(-12, -8);
        let [Pixels::Picture(found), Pixels::Picture(wanted)] =
            [pixels(&setup, TESTED, 1), pixels(&half, OTHER, 1)]
        else {
            panic!("pictures")
        };
        let (found, wanted) = (found.cropped(inner), wanted.cropped(inner));
        let both = found.pixels().as_flattened().iter().zip(wanted.pixels().as_flattened());
        let off = both.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 2e-3, "{off} at {shape}");
    }
}

const NEAR: f32 = 1.5;
const FAR: f32 = 9.0;

const DEPTHS: MadeUp = MadeUp::of(9, |role| match role {
    Role::Depth => Some(Pixels::Field(Raster::from_fn(FRAME, |x, _| if x < 48 { NEAR } else { FAR }))),
    role => Some(smooth(role, 1001)),
});

#[test]
fn depth_comes_along_from_the_picture_that_is_seen_more_and_is_never_averaged() {
    for dissolve in [0.3, 0.7] {
        let setup = with_other_moved(morph(0.5, dissolve, square(8.0, false)), 8.0);
        let Pixels::Field(depth) = ask_of(&DEPTHS, &setup, DEPTH, 1, None).signal.over(FRAME) else {
            panic!("a field")
        };
        for x in 8..WIDTH as i32 - 8 {
            let wanted = if x < 52 { NEAR } else { FAR };
            assert_eq!(depth.get(x, 32), Some(wanted), "at {x} where {dissolve} is seen of the other");
        }
    }
}

#[test]
fn depth_is_that_of_the_main_picture_where_the_other_brings_none() {
    let mut setup = with_other_moved(morph(0.0, 0.8, square(8.0, false)), 8.0);
    let other = setup.stages.iter_mut().find(|row| row.id == OTHER).unwrap();
    *other = StageEntry::new(OTHER, "fill", "Fill");
    setup.check().unwrap();
    let Pixels::Field(depth) = ask_of(&DEPTHS, &setup, DEPTH, 1, None).signal.over(FRAME) else {
        panic!("a field")
    };
    assert_eq!([40, 60].map(|x| depth.get(x, 32)), [Some(NEAR), Some(FAR)]);
}

#[test]
fn a_pair_with_a_dissolve_of_its_own_is_the_other_picture_while_the_rest_is_not() {
    let setup = morph(0.0, 0.0, square(0.0, true));
    let [Pixels::Picture(found), Pixels::Picture(plate), Pixels::Picture(other)] = [TESTED, PLATE, OTHER]
        .map(|id| ask_of(&SMOOTH, &with_reach(&setup, 12.0), id, 1, None).signal.over(FRAME))
    else {
        panic!("pictures")
    };
    let inside = Window::new(21, 17, 59, 47);
    let apart = |x, y| found.get(x, y).unwrap()[0] - other.get(x, y).unwrap()[0];
    let off = inside.rows().flat_map(|y| (21..59).map(move |x| apart(x, y).abs())).fold(0.0, f32::max);
    assert!(off < 1e-4, "{off}");
    let beyond = Window::new(76, 0, WIDTH as i32, HEIGHT as i32);
    assert!(found.cropped(beyond) == plate.cropped(beyond));
}

fn with_reach(setup: &Setup, reach: f64) -> Setup {
    let mut setup = setup.clone();
    let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    *row = row.clone().with("reach", Setting::number(reach));
    setup
}
