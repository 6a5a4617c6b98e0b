//! Ordered lists of slots: layers and mattes.

use veil_core::feed::{ControlAxis, Feed, FollowFeed};
use veil_core::setup::{Command, Edit, Link, Setting, Setup, StageEntry, StageId};
use veil_core::signal::Pixels;
use veil_core::spec::{MAIN, MATTE};
use veil_pixels::Picture;

use crate::support::{FIELD, PLATE, SHAPE, TESTED, pixels, setup_with};

fn picture(setup: &Setup, id: StageId) -> Picture {
    match pixels(setup, id, 1) {
        Pixels::Picture(picture) => picture,
        _ => panic!("a blend gives a picture"),
    }
}

fn off(a: &Picture, b: &Picture) -> f32 {
    let pairs = a.pixels().as_flattened().iter().zip(b.pixels().as_flattened());
    pairs.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
}

const LAYERS: [(&str, StageId, &str, f64); 3] = [
    ("layer", StageId(31), "multiply", 1.0),
    ("layer2", StageId(32), "plus", 0.4),
    ("layer3", StageId(33), "over", 0.7),
];

/// A plate with three layers on it, the second inside of a matte of its own, all inside of the row's.
fn layered() -> Setup {
    let mut setup = setup_with("blend", PLATE);
    let tested = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    tested.links.retain(|slot, _| [MAIN, MATTE].contains(&slot.as_str()));
    for (slot, from, mode, opacity) in LAYERS {
        tested.links.insert(slot.into(), Link::stage(from));
        tested.controls.insert(format!("{slot}_mode"), Setting::Choice(mode.into()));
        tested.controls.insert(format!("{slot}_opacity"), Setting::number(opacity));
    }
    tested.links.insert("layer2_matte".into(), Link::stage(FIELD));
    let grade = |id, name: &str, gain: f64| {
        StageEntry::new(id, "grade", name).taking(MAIN, PLATE).with("exposure", Setting::number(gain))
    };
    let at = setup.stages.iter().position(|row| row.id == TESTED).unwrap();
    let layers = [(31, "First", -1.0), (32, "Second", 0.5), (33, "Third", 1.5)];
    setup.stages.splice(at..at, layers.map(|(id, name, stops)| grade(StageId(id), name, stops)));
    setup.check().unwrap();
    setup
}

/// A list of layers is what as many rows of one layer give, each on the one before.
#[test]
fn layers_are_laid_one_on_the_other_in_their_order() {
    let setup = layered();
    let mut chain = setup.clone();
    let at = chain.stages.len() - 1;
    let mut below = PLATE;
    for (number, (_, from, mode, opacity)) in LAYERS.into_iter().enumerate() {
        let id = StageId(50 + number as u32);
        let mut row = StageEntry::new(id, "blend", format!("Alone {number}"))
            .taking(MAIN, below)
            .taking("layer", from)
            .taking(MATTE, SHAPE)
            .with("layer_mode", Setting::Choice(mode.into()))
            .with("layer_opacity", Setting::number(opacity));
        if number == 1 {
            row = row.taking("layer_matte", FIELD);
        }
        chain.stages.insert(at + number, row);
        below = id;
    }
    chain.check().unwrap();
    let (listed, alone) = (picture(&chain, TESTED), picture(&chain, below));
    assert!(off(&listed, &alone) < 1e-6);
    assert!(off(&listed, &picture(&chain, PLATE)) > 0.1);
}

#[test]
fn entries_change_places_close_up_and_are_left_out_with_all_that_is_theirs() {
    let setup = layered();
    let done = |setup: &Setup, command: &Command| Edit::of(command, setup).unwrap().0;
    let set = |setup: &Setup, control: &str, on: bool| {
        let setting = Some(Setting::Switch(on));
        done(setup, &Command::Set { stage: TESTED, control: control.into(), setting })
    };
    let swap = Command::SwapEntries { stage: TESTED, slot: "layer2".into(), with: "layer3".into() };
    let swapped = done(&setup, &swap);
    let row = swapped.stage(TESTED).unwrap();
    assert_eq!(row.links["layer3_matte"], Link::stage(FIELD));
    assert_eq!(row.controls["layer3_opacity"], Setting::number(0.4));
    assert!(off(&picture(&swapped, TESTED), &picture(&setup, TESTED)) > 0.01);
    assert_eq!(done(&swapped, &swap), setup);
    // What follows a layer's opacity follows it to its new place.
    let follow = |control: &str| {
        let follow = ControlAxis { stage: TESTED, control: control.into(), axis: 0 };
        Setting::Feed(Feed::Follow(FollowFeed { follow, scale: 1.0, offset: 0.0.into() }))
    };
    let mut following = setup.clone();
    let shape = following.stages.iter_mut().find(|row| row.id == SHAPE).unwrap();
    shape.controls.insert("amount".into(), follow("layer2_opacity"));
    let moved = done(&following, &swap);
    assert_eq!(moved.stage(SHAPE).unwrap().controls["amount"], follow("layer3_opacity"));
    let none = Command::SwapEntries { stage: TESTED, slot: "layer2".into(), with: "matte2".into() };
    assert!(Edit::of(&none, &setup).is_err(), "entries of two lists do not change places");

    // Left out, switched off or unplugged, it is the same picture.
    let unplugged =
        done(&setup, &Command::Link { stage: TESTED, slot: "layer2".into(), from: None, take: None });
    let row = unplugged.stage(TESTED).unwrap();
    assert_eq!(row.links["layer2"], Link::stage(StageId(33)));
    assert_eq!(row.controls["layer2_opacity"], Setting::number(0.7));
    assert!(!row.links.keys().any(|slot| slot.starts_with("layer3") || slot.ends_with("_matte")));
    assert!(!row.controls.keys().any(|control| control.starts_with("layer3_")));
    let off_one = set(&setup, "layer2_counts", false);
    assert_eq!(picture(&off_one, TESTED), picture(&unplugged, TESTED));
}

/// A matte that does not count is as if it were not plugged, and one that is cut out of nothing leaves all else.
#[test]
fn mattes_that_do_not_count_leave_the_others_as_they_are() {
    let mut setup = layered();
    let tested = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    tested.links.insert("matte2".into(), Link::stage(FIELD));
    tested.controls.insert("matte2_way".into(), Setting::Choice("cut".into()));
    let with = |changes: &[(&str, bool)], links: &[(&str, Option<StageId>)]| {
        let mut made = setup.clone();
        let tested = made.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        for (control, on) in changes {
            tested.controls.insert((*control).into(), Setting::Switch(*on));
        }
        for (slot, from) in links {
            match from {
                Some(from) => tested.links.insert((*slot).into(), Link::stage(*from)),
                None => tested.links.remove(*slot),
            };
        }
        picture(&made, TESTED)
    };
    let none = with(&[("matte_counts", false), ("matte2_counts", false)], &[]);
    assert_eq!(none, with(&[], &[("matte", None), ("matte2", None)]));
    let second = with(&[("matte_counts", false)], &[]);
    let alone = with(&[("matte_invert", true)], &[("matte", Some(FIELD)), ("matte2", None)]);
    assert_eq!(second, alone);
    assert!(off(&second, &none) > 0.01);
}
