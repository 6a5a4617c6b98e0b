//! Edits, their inverses, and setups that are refused.

use proptest::prelude::*;
use serde_json::json;
use veil_core::controls::Lattice;
use veil_core::feed::{ControlAxis, Feed, FollowFeed, Formula, FormulaFeed, Keys};
use veil_core::setup::{
    Command, CopiedRows, Earlier, Edit, HandOnKeys, NewRow, OwnKind, Setting, Setup, SetupError, Source,
    StageEntry, StageId,
};

use crate::deeds::{command, deed};
use crate::support::{PLATE, TESTED, setup_with};

proptest! {
    #![proptest_config(ProptestConfig::with_cases(160))]

    #[test]
    fn any_edits_followed_by_their_undos_give_the_first_setup(deeds in prop::collection::vec(deed(), 1..24)) {
        let first = setup_with("displace", PLATE);
        let mut setup = first.clone();
        let mut done = Vec::new();
        for deed in &deeds {
            let Some(command) = command(deed, &setup) else { continue };
            // A refused command changes nothing; what was done leaves a setup that holds together.
            if let Ok((new, edit)) = Edit::of(&command, &setup) {
                new.check().unwrap();
                prop_assert_eq!(&Edit::apply(&edit.forward, &setup).unwrap(), &new);
                setup = new;
                done.push(edit);
            }
        }
        let text = serde_json::to_string(&setup).unwrap();
        prop_assert_eq!(&serde_json::from_str::<Setup>(&text).unwrap(), &setup);
        while let Some(edit) = done.pop() {
            setup = Edit::apply(&edit.backward, &setup).unwrap();
        }
        prop_assert_eq!(setup, first);
    }
}

#[test]
fn removing_a_stage_heals_the_strand_and_a_new_one_goes_in_on_it() {
    let mut setup = setup_with("blur", PLATE);
    let last = setup.stages.len() - 1;
    setup.stages[last] = setup.stages[last].clone().taking("main", TESTED);
    let place = NewRow { after: Some(TESTED), ..NewRow::default() };
    let (added, edit) = Edit::of(&Command::Add { kind: "grade".into(), place }, &setup).unwrap();
    let grade = edit.row.unwrap();
    assert_eq!(added.stage(grade).unwrap().links["main"].from, Source::Stage(TESTED));
    assert_eq!(added.stages[last + 1].links["main"].from, Source::Stage(grade));
    let (healed, _) = Edit::of(&Command::Remove { stage: TESTED }, &added).unwrap();
    assert_eq!(healed.stage(grade).unwrap().links["main"].from, Source::Stage(PLATE));
}

/// Copied rows put into the same setup and into an empty one are the rows again, up to their ids and names.
#[test]
fn rows_copied_as_text_are_the_same_rows_wherever_they_are_put_in() {
    let setup = setup_with("displace", PLATE);
    let all: Vec<StageId> =
        setup.stages.iter().filter(|row| !row.kind.is_final()).map(|row| row.id).collect();
    let text = serde_json::to_string(&CopiedRows::of(&setup, &all).unwrap()).unwrap();
    let copied: CopiedRows = serde_json::from_str(&text).unwrap();
    let paste = Command::Paste { copied: Box::new(copied), place: NewRow::default() };
    let empty = Setup::empty("other", setup.picture);
    let (other, _) = Edit::of(&paste, &empty).unwrap();
    assert_eq!(other.media, setup.media);
    let (twice, edit) = Edit::of(&paste, &setup).unwrap();
    assert_eq!(twice.stages.len(), 2 * setup.stages.len() - 1);
    let row = |setup: &Setup, name: &str| setup.stages.iter().find(|row| row.name == name).unwrap().id;
    let here = crate::support::pixels(&setup, TESTED, 1);
    assert_eq!(crate::support::pixels(&other, row(&other, "Tested"), 1), here);
    assert_eq!(
        crate::support::pixels(&twice, edit.row.unwrap(), 1),
        crate::support::pixels(&setup, all[all.len() - 1], 1)
    );
}

#[test]
fn a_linked_copy_follows_what_it_does_not_set_itself_until_it_stands_alone() {
    let setup = setup_with("blur", PLATE);
    let (copied, edit) = Edit::of(&Command::Duplicate { rows: vec![TESTED], linked: true }, &setup).unwrap();
    let copy = edit.row.unwrap();
    let put = |stage, control: &str, value: f64| Command::Set {
        stage,
        control: control.into(),
        setting: Some(Setting::number(value)),
    };
    let done = |setup: &Setup, command: Command| Edit::of(&command, setup).unwrap().0;
    let value = |setup: &Setup, row: StageId, control: &str| {
        setup.setting(setup.stage(row).unwrap(), control).cloned()
    };
    let changed = done(&done(&copied, put(TESTED, "amount", 0.25)), put(copy, "matte_soften", 3.0));
    assert_eq!(value(&changed, copy, "amount"), Some(Setting::number(0.25)));
    assert_eq!(value(&changed, TESTED, "matte_soften"), None);
    // A copy of the copy is on its own, with the values it had.
    let (twice, edit) = Edit::of(&Command::Duplicate { rows: vec![copy], linked: false }, &changed).unwrap();
    let third = edit.row.unwrap();
    let values = ["amount", "matte_soften"].map(|control| value(&twice, third, control));
    assert_eq!(values, [Some(Setting::number(0.25)), Some(Setting::number(3.0))]);
    // A default of its own is kept, or the copy would follow again.
    let own = done(&changed, put(copy, "amount", 1.0));
    assert_eq!(value(&own, copy, "amount"), Some(Setting::number(1.0)));
    let gone = done(&changed, Command::Remove { stage: TESTED });
    assert_eq!(value(&gone, copy, "amount"), Some(Setting::number(0.25)));
    let alone = done(&done(&changed, Command::StandAlone { stage: copy }), put(TESTED, "amount", 0.5));
    assert_eq!(value(&alone, copy, "amount"), Some(Setting::number(0.25)));
}

/// A number follows another, scaled and shifted; what goes away leaves its values behind; loops are named.
#[test]
fn a_number_that_follows_another_keeps_its_values_when_that_goes_and_a_loop_is_named() {
    let setup = setup_with("blur", PLATE);
    let keys = Feed::Keys(Keys::one(1001.0, 0.2).with_value(1005.0, 0.6));
    let set = |stage, control: &str, feed: Feed| Command::Set {
        stage,
        control: control.into(),
        setting: Some(Setting::Feed(feed)),
    };
    let follow = |stage, control: &str| {
        let follow = ControlAxis { stage, control: control.into(), axis: 0 };
        Feed::Follow(FollowFeed { follow, scale: 10.0, offset: 1.0.into() })
    };
    let done = |setup: &Setup, command: Command| Edit::of(&command, setup).unwrap().0;
    let shape = crate::support::SHAPE;
    let keyed =
        done(&done(&setup, set(shape, "amount", keys)), set(TESTED, "matte_soften", follow(shape, "amount")));
    let at = |setup: &Setup, frame: f64| {
        let row = setup.stage(TESTED).unwrap();
        veil_core::shape::number(setup, row, "matte_soften", 0, setup.moment(frame)).unwrap()
    };
    let values = [1001.0, 1003.0, 1005.0].map(|frame| at(&keyed, frame));
    assert_eq!(values, [3.0, 5.0, 7.0]);
    // A dragged follower is shifted and goes on following.
    let put = Command::Put {
        stage: TESTED,
        control: "matte_soften".into(),
        values: vec![Some(9.0)],
        frame: 1003.0,
        keys: HandOnKeys::Key,
    };
    assert_eq!(at(&done(&keyed, put), 1005.0), 11.0);
    let gone = done(&keyed, Command::Remove { stage: shape });
    assert_eq!([1001.0, 1003.0, 1005.0].map(|frame| at(&gone, frame)), values);
    let copied = Box::new(CopiedRows::of(&keyed, &[TESTED]).unwrap());
    let paste = Command::Paste { copied, place: NewRow::default() };
    let (other, edit) = Edit::of(&paste, &Setup::empty("other", setup.picture)).unwrap();
    let row = other.stage(edit.row.unwrap()).unwrap();
    let pasted = |frame| veil_core::shape::number(&other, row, "matte_soften", 0, other.moment(frame));
    assert_eq!([1001.0, 1003.0, 1005.0].map(|frame| pasted(frame).unwrap()), values);
    let loops =
        Edit::of(&set(shape, "amount", follow(TESTED, "matte_soften")), &keyed).unwrap_err().to_string();
    assert!(loops.starts_with("a loop: ") && loops.contains("soften matte of Tested"), "{loops}");
    let nowhere = Edit::of(&set(shape, "amount", follow(TESTED, "matte_invert")), &keyed).unwrap_err();
    assert!(nowhere.to_string().contains("which is not a number"), "{nowhere}");
}

/// Two setups differ in what was done between them, in nothing else; going on from the first is one step.
#[test]
fn what_was_done_between_two_versions_is_told_row_by_row_and_can_be_gone_back_on() {
    let first = setup_with("displace", PLATE);
    let done = |setup: &Setup, command: Command| Edit::of(&command, setup).unwrap().0;
    let set = Command::Set { stage: TESTED, control: "softness".into(), setting: Some(Setting::number(0.5)) };
    let off = Command::Switch { stage: StageId(6), on: false };
    let plug = Command::Link { stage: TESTED, slot: "matte".into(), from: None, take: None };
    let place = NewRow { after: Some(PLATE), ..NewRow::default() };
    let second = [set, off, plug, Command::Add { kind: "grade".into(), place }]
        .into_iter()
        .fold(first.clone(), |setup, command| done(&setup, command));
    let found = second.difference(&first);
    let said = |row: &str| {
        found.iter().find(|one| one.row == row).map(|one| one.what.join("; ")).unwrap_or_default()
    };
    assert_eq!(said("Grade"), "is new");
    assert_eq!(said("Slope"), "is off");
    assert!(
        said("Tested").contains("then 0.5") && said("Tested").contains("matte takes Shape, then nothing"),
        "{found:?}"
    );
    assert!(said("Field").is_empty() && said("Shape").is_empty());
    let (back, edit) =
        Edit::of(&Command::GoOnFrom { setup: Box::new(first.clone()), once: Earlier::Version(1) }, &second)
            .unwrap();
    assert_eq!((&back, back.difference(&first).len()), (&first, 0));
    assert_eq!(Edit::apply(&edit.backward, &back).unwrap(), second);
}

#[test]
fn a_strand_split_off_for_one_taker_leaves_the_others_as_they_were() {
    let setup = setup_with("displace", PLATE);
    let before = setup.takers(PLATE).len();
    let (split, edit) = Edit::of(&Command::SplitOff { stage: TESTED, slot: "main".into() }, &setup).unwrap();
    let own = edit.row.unwrap();
    assert_eq!(split.stage(TESTED).unwrap().links["main"].from, Source::Stage(own));
    assert_eq!((split.takers(PLATE).len(), split.takers(own).len()), (before - 1, 1));
}

#[test]
fn a_row_that_becomes_another_kind_keeps_what_fits_and_is_refused_where_its_takers_would_not() {
    let setup = setup_with("blur", PLATE);
    let put = Command::Set { stage: TESTED, control: "amount".into(), setting: Some(Setting::number(0.3)) };
    let setup = Edit::of(&put, &setup).unwrap().0;
    let become_kind =
        |kind: &str| Edit::of(&Command::ReplaceKind { stage: TESTED, kind: kind.into() }, &setup);
    let made = become_kind("grade").unwrap().0;
    let row = made.stage(TESTED).unwrap();
    assert_eq!((row.name.as_str(), row.controls.get("amount")), ("Tested", Some(&Setting::number(0.3))));
    assert_eq!(row.links, setup.stage(TESTED).unwrap().links);
    let moved = setup_with("displace", PLATE);
    let field = Command::ReplaceKind { stage: StageId(6), kind: "levels".into() };
    let refused = Edit::of(&field, &moved).unwrap_err().to_string();
    assert!(refused.starts_with("`Map` wants a map in `main`"), "{refused}");
}

/// A control of one's own is keyed, named in a row's formula and in a formula of pixels, followed in a loop in vain, and
/// leaves its values behind when it goes.
#[test]
fn a_control_of_ones_own_drives_rows_and_leaves_its_values_behind() {
    let setup = setup_with("formula", PLATE);
    let done = |setup: &Setup, command: Command| Edit::of(&command, setup).unwrap().0;
    let whole = StageId::WHOLE;
    let made = done(&setup, Command::AddOwn { stage: whole, name: "Pulse!".into(), kind: OwnKind::Number });
    let own = made.own_of(whole)[0].clone();
    assert_eq!((own.id.as_str(), own.word.as_str()), ("own1", "pulse"));
    let named = |stage: StageId, control: &str, text: &str| {
        let setting = Setting::Feed(Feed::Formula(FormulaFeed::new(Formula::parse(text).unwrap())));
        Command::Set { stage, control: control.into(), setting: Some(setting) }
    };
    let keyed = [(1001.0, 0.25), (1005.0, 0.75)].into_iter().fold(made, |setup, (frame, value)| {
        let (stage, control) = (whole, own.id.clone());
        let setup = done(&setup, Command::Key { stage, control: control.clone(), frame, axis: None });
        done(&setup, Command::Put { stage, control, values: vec![Some(value)], frame, keys: HandOnKeys::Key })
    });
    let driven = done(&keyed, named(TESTED, "amount", "1 - pulse"));
    let text = Setting::Choice("px * pulse / wide".into());
    let driven = done(&driven, Command::Set { stage: TESTED, control: "first".into(), setting: Some(text) });
    let amount = |setup: &Setup, frame: f64| {
        let row = setup.stage(TESTED).unwrap();
        veil_core::shape::number(setup, row, "amount", 0, setup.moment(frame)).unwrap()
    };
    assert_eq!([1001.0, 1005.0].map(|frame| amount(&driven, frame)), [0.75, 0.25]);

    let renamed =
        done(&driven, Command::RenameOwn { stage: whole, control: own.id.clone(), name: "beat".into() });
    assert_eq!(crate::support::pixels(&renamed, TESTED, 1), crate::support::pixels(&driven, TESTED, 1));
    let gone = done(&driven, Command::RemoveOwn { stage: whole, control: own.id.clone() });
    assert_eq!(gone.own_of(whole), []);
    assert_eq!(crate::support::pixels(&gone, TESTED, 1), crate::support::pixels(&driven, TESTED, 1));

    let refused = |command: Command| Edit::of(&command, &driven).unwrap_err().to_string();
    assert!(refused(named(whole, &own.id, "pulse + 1")).starts_with("a loop: "));
    assert!(refused(named(TESTED, "amount", "pules")).contains("no `pules`"));
    let text = Setting::Choice("px * pules".into());
    let set = Command::Set { stage: TESTED, control: "first".into(), setting: Some(text) };
    assert!(refused(set).contains("no `pules`"));
}

#[test]
fn what_does_not_hold_together_is_refused_with_a_sentence_that_names_it() {
    let setup = setup_with("displace", PLATE);
    let refused = |command: Command| Edit::of(&command, &setup).unwrap_err().to_string();
    let link = |stage: StageId, slot: &str, from: StageId| Command::Link {
        stage,
        slot: slot.into(),
        from: Some(Source::Stage(from)),
        take: None,
    };
    assert!(
        refused(link(StageId(6), "matte", TESTED)).starts_with("a loop: "),
        "{}",
        refused(link(StageId(6), "matte", TESTED))
    );
    assert_eq!(
        refused(link(TESTED, "map", PLATE)),
        "`Tested` wants a map in `map`, but `Plate` gives a picture"
    );
    let set =
        |setting: Setting| Command::Set { stage: TESTED, control: "amount".into(), setting: Some(setting) };
    assert_eq!(refused(set(Setting::number(1.5))), "`amount` of `Tested` takes 0 to 1");
    assert_eq!(refused(set(Setting::Choice("much".into()))), "`amount` of `Tested` wants a number");
    assert!(refused(Command::Remove { stage: StageId(1) }).contains("final row"));
}

/// What is drawn to bend a picture and does not hold together: a sentence that names row and control, and the outlines that were
/// there stay.
#[test]
fn ties_beyond_an_outline_too_many_of_them_and_a_lattice_of_one_point_are_refused() {
    let drawn = |ties: Vec<[f64; 2]>| -> Setting {
        let line = json!({ "keys": [{ "frame": 1001, "points": [{ "at": [20, 20] }, { "at": [60, 20] }, { "at": [40, 50] }] }] });
        let pair = json!({ "name": "brow", "rest": line, "goal": line, "ties": ties });
        serde_json::from_value(json!({ "pairs": { "pairs": [pair], "amounts": [1] } })).unwrap()
    };
    let set = |control: &str, setting: Setting| Command::Set {
        stage: TESTED,
        control: control.into(),
        setting: Some(setting),
    };
    let (setup, _) =
        Edit::of(&set("outlines", drawn(vec![[0.0, 0.0]])), &setup_with("shape_warp", PLATE)).unwrap();
    let refused =
        |ties: Vec<[f64; 2]>| Edit::of(&set("outlines", drawn(ties)), &setup).unwrap_err().to_string();
    let beyond = refused(vec![[0.5, 3.5]]);
    assert_eq!(beyond, "`outlines` of `Tested` has an outline `brow` with a tie beyond its end");
    let many = refused((0..10_000).map(|at| [f64::from(at) / 5000.0; 2]).collect());
    assert_eq!(many, "`outlines` of `Tested` has an outline `brow` with more than 500 ties");

    let mut point = Lattice::over(1, 1, [0.0; 2], [96.0, 64.0], 1001.0);
    (point.rows, point.columns) = (0, 0);
    point.rest.truncate(1);
    let refused =
        Edit::of(&set("lattice", Setting::Lattice { lattice: point }), &setup_with("lattice", PLATE));
    assert_eq!(
        refused.unwrap_err().to_string(),
        "`lattice` of `Tested` takes 1 to 40 rows and as many columns"
    );
}

fn broken(change: impl Fn(&mut Setup)) -> SetupError {
    let mut setup = setup_with("displace", PLATE);
    change(&mut setup);
    setup.check().unwrap_err()
}

#[test]
fn a_setup_file_with_a_fault_is_refused_and_the_fault_named() {
    let loops = broken(|setup| {
        let noise = setup.stages.iter_mut().find(|stage| stage.id == StageId(6)).unwrap();
        *noise = noise.clone().taking("matte", TESTED);
    });
    assert!(
        matches!(&loops, SetupError::Loop(names) if names.first() == names.last() && names.contains(&"Tested".to_owned())),
        "{loops}"
    );
    let unknown = broken(|setup| setup.stages[0].kind.0 = "wobble".into());
    assert_eq!(unknown.to_string(), "`Plate` is of the unknown kind `wobble`");
    for path in ["../x.exr", "/etc/x.exr", "a\\b.exr", "c:x.exr", "a//b.exr", ""] {
        assert!(matches!(broken(|setup| setup.media[0].path = path.into()), SetupError::Path(_)), "{path}");
    }
    assert!(matches!(broken(|setup| setup.format = 99), SetupError::Format(99)));
    assert!(matches!(broken(|setup| setup.picture.width = 0), SetupError::Picture { what: "size" }));
    assert!(matches!(
        broken(|setup| setup.stages.push(StageEntry::new(StageId(77), "noise", "Late"))),
        SetupError::Final
    ));
    let text = serde_json::to_string(&setup_with("noise", PLATE))
        .unwrap()
        .replace("\"octaves\":1.0", "\"octaves\":\"many\"");
    let wrong: Setup = serde_json::from_str(&text).unwrap();
    assert_eq!(wrong.check().unwrap_err().to_string(), "`octaves` of `Field` wants a number");
}

/// A plate that is blurred, and a noise with its map beside it.
fn plate_and_map() -> Setup {
    let mut setup = setup_with("blur", PLATE);
    let last = setup.final_id().unwrap();
    setup.stages.retain(|row| [PLATE, last].contains(&row.id));
    let rows = [
        StageEntry::new(TESTED, "blur", "soft").taking("main", PLATE),
        StageEntry::new(NOISE, "noise", "noise"),
        StageEntry::new(RISE, "steepness_map", "rise").taking("main", NOISE),
    ];
    setup.stages.splice(1..1, rows);
    setup.stages[4] = StageEntry::new(last, "final", "Final").taking("main", TESTED);
    setup.check().unwrap();
    setup
}

const NOISE: StageId = StageId(30);
const RISE: StageId = StageId(31);

#[test]
fn a_new_row_takes_a_selected_map_or_field_where_it_is_meant_and_goes_on_the_shown_strand() {
    let setup = plate_and_map();
    let added = |kind: &str, after: StageId, on: Option<StageId>| {
        let place = NewRow { after: Some(after), on, ..NewRow::default() };
        let (new, edit) = Edit::of(&Command::Add { kind: kind.into(), place }, &setup).unwrap();
        let row = new.stage(edit.row.unwrap()).unwrap().clone();
        let from = |slot: &str| row.links.get(slot).map(|link| link.from);
        (new.clone(), row.id, from("main"), from("map"), from("source"))
    };
    let stage = |id| Some(Source::Stage(id));
    // A map: into the map's slot; the picture that is shown is bent, and what took it takes the bent one.
    let (new, id, main, map, _) = added("displace", RISE, Some(TESTED));
    assert_eq!((main, map), (stage(TESTED), stage(RISE)));
    let last = new.stage(new.final_id().unwrap()).unwrap();
    assert_eq!(last.links["main"].from, Source::Stage(id));
    // The map itself is shown: the strand that ends in the last row is meant.
    let (_, _, main, map, _) = added("displace", RISE, Some(RISE));
    assert_eq!((main, map), (stage(TESTED), stage(RISE)));
    // A field, for what works on pictures alone: in its own slot of fields, before the matte.
    let (_, _, main, _, source) = added("glow", NOISE, Some(PLATE));
    assert_eq!((main, source), (stage(PLATE), stage(NOISE)));
    // A source stands beside it, and takes it only in a slot of its own.
    let (new, id, ..) = added("gradient", NOISE, Some(TESTED));
    assert!(new.stage(id).unwrap().links.is_empty());
    // A field, for what goes on from a field: on its own strand. So does everything the plain way.
    let (_, _, main, ..) = added("levels", NOISE, Some(TESTED));
    assert_eq!(main, stage(NOISE));
    let (_, _, main, map, _) = added("displace", RISE, None);
    assert_eq!((main, map), (stage(RISE), None));
}
