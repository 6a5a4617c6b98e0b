//! Faults are found where they are, and not where they are not.

use serde_json::json;
use veil_core::controls::Lattice;
use veil_core::engine::Engine;
use veil_core::feed::{Feed, Keys};
use veil_core::findings::{FaultKind, Finding, find};
use veil_core::plates::Role;
use veil_core::setup::{
    Command, Edit, Link, NewRow, Otherwise, Setting, Setup, Source, StageEntry, StageId, Tool,
};
use veil_core::signal::{Pixels, SignalKind, Take};
use veil_core::spec::{MAIN, MATTE};
use veil_core::view;
use veil_pixels::{Cancel, Field, Picture, Raster, Window};

use crate::support::{FIELD, HEIGHT, MAP, MadeUp, PLATE, SHAPE, SMOOTH, TESTED, WIDTH, pair, setup_with};

fn found_in(plates: &MadeUp, setup: &Setup) -> Vec<Finding> {
    find(&Engine::new(1 << 28), setup, plates, &Cancel::new()).unwrap()
}

/// The faults of one row.
fn faults(setup: &Setup, stage: StageId) -> Vec<FaultKind> {
    found_in(&SMOOTH, setup).into_iter().filter(|one| one.stage == stage).map(|one| one.fault).collect()
}

fn tested(setup: &mut Setup) -> &mut StageEntry {
    setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap()
}

fn set(setup: &mut Setup, stage: StageId, control: &str, setting: Setting) {
    let row = setup.stages.iter_mut().find(|row| row.id == stage).unwrap();
    row.controls.insert(control.into(), setting);
}

#[test]
fn a_working_row_has_no_fault() {
    for kind in ["blur", "grade", "displace"] {
        let mut setup = setup_with(kind, PLATE);
        if kind == "grade" {
            set(&mut setup, TESTED, "saturation", Setting::number(0.5));
        }
        // A shape does not go with a picture that was moved; nothing was moved here.
        assert_eq!(faults(&setup, TESTED), [], "{kind}");
    }
    // A pixel's blur is nothing at an eighth of the scale, and yet it works.
    let mut slight = setup_with("blur", PLATE);
    set(&mut slight, TESTED, "size_x", Setting::number(1.0));
    set(&mut slight, TESTED, "size_y", Setting::number(1.0));
    assert_eq!(faults(&slight, TESTED), []);
}

#[test]
fn rows_that_are_off_or_change_nothing_and_keys_outside_are_told_and_mended() {
    let mut setup = setup_with("blur", PLATE);
    tested(&mut setup).on = false;
    let off = found_in(&SMOOTH, &setup);
    let mend = off.iter().find(|one| one.stage == TESTED).and_then(|one| one.mend.clone()).unwrap();
    let (mended, _) = Edit::of(&mend.command, &setup).unwrap();
    assert_eq!(faults(&mended, TESTED), []);

    let keys = Keys::one(980.0, 0.5).with_value(1005.0, 1.0);
    set(&mut setup, TESTED, "amount", Setting::Feed(Feed::Keys(keys)));
    tested(&mut setup).on = true;
    assert_eq!(faults(&setup, TESTED), [FaultKind::KeyOutside]);

    let still = setup_with("grade", PLATE);
    assert_eq!(faults(&still, TESTED), [FaultKind::Idle]);
}

/// A tool that blurs a picture where a field says.
fn with_tool(otherwise: Otherwise) -> Setup {
    let mut setup = setup_with("grade", PLATE);
    set(&mut setup, TESTED, "saturation", Setting::number(0.5));
    tested(&mut setup).links.insert(MATTE.into(), Link { from: Source::Stage(FIELD), take: None });
    let faceplate = Vec::new();
    let names = vec!["picture".into(), "where".into()];
    let otherwise = vec![Otherwise::Nothing, otherwise];
    let make =
        Command::MakeTool { rows: vec![TESTED], name: "faded".into(), inputs: names, otherwise, faceplate };
    Edit::of(&make, &setup).unwrap().0
}

#[test]
fn an_empty_input_of_a_tool_takes_what_stands_in_for_it_or_is_told_once() {
    let tool = |setup: &Setup| setup.stages.iter().find(|row| row.tool.is_some()).unwrap().id;
    let emptied = |mut setup: Setup| {
        let id = tool(&setup);
        setup.stages.iter_mut().find(|row| row.id == id).unwrap().links.remove("input2");
        setup.check().unwrap();
        setup
    };
    let stands_in = emptied(with_tool(Otherwise::Input(0)));
    let inner = stands_in.stage(TESTED).unwrap();
    let matte = stands_in.outer_source(inner.links[MATTE], inner.inside);
    assert_eq!(matte, Some((PLATE, Some(Take::Luma))));
    assert!(found_in(&SMOOTH, &stands_in).iter().all(|one| one.fault != FaultKind::EmptyInput));
    // Without it the row inside works everywhere, as a row without a matte does, and nothing is wrong.
    let open = emptied(with_tool(Otherwise::Nothing));
    assert_eq!(faults(&open, tool(&open)), []);
    // Nothing can stand in for itself or be what comes after it.
    let odd = std::panic::catch_unwind(|| with_tool(Otherwise::Input(1)));
    assert!(odd.is_err());
}

/// The shipped crackle, put on the plate alone.
fn crackling(otherwise: Otherwise) -> (Setup, StageId) {
    let shipped = include_str!("../../../../tools/crackle-along-edges.json");
    let mut tool: Tool = serde_json::from_str(shipped).unwrap();
    tool.about.inputs[1].otherwise = otherwise;
    put_on_the_plate(tool)
}

pub(crate) fn put_on_the_plate(tool: Tool) -> (Setup, StageId) {
    let setup = setup_with("grade", PLATE);
    let place = NewRow { after: Some(PLATE), ..NewRow::default() };
    let takes = !tool.about.inputs.is_empty();
    let (mut setup, row) =
        Edit::of(&Command::PlaceTool { tool: Box::new(tool), place, scale_lengths: true }, &setup).unwrap();
    let row = row.row.unwrap();
    if takes {
        let link = Link { from: Source::Stage(PLATE), take: None };
        setup.stages.iter_mut().find(|entry| entry.id == row).unwrap().links.insert(MAIN.into(), link);
    }
    setup.check().unwrap();
    (setup, row)
}

#[test]
fn what_waits_for_an_empty_input_is_told_at_that_input_and_only_there() {
    let (setup, row) = crackling(Otherwise::Nothing);
    let within = |one: &&Finding| setup.stage(one.stage).is_some_and(|entry| entry.inside == Some(row));
    let found = found_in(&SMOOTH, &setup);
    let told: Vec<_> = found.iter().filter(|one| one.stage == row).map(|one| one.fault).collect();
    assert_eq!(told, [FaultKind::EmptyInput], "{found:?}");
    assert!(found.iter().filter(within).all(|one| one.fault != FaultKind::Idle), "{found:?}");
    // A light thing on a dark ground has edges by itself.
    let lit = MadeUp::of(31, |role| {
        let light = |x: i32, y: i32| if (x - 48).abs() + (y - 32).abs() < 24 { 0.8 } else { 0.05 };
        let pixel = |x, y| [light(x, y), light(x, y), light(x, y), 1.0];
        (role.kind() == SignalKind::Picture)
            .then(|| Pixels::Picture(Raster::from_fn(Window::sized(WIDTH, HEIGHT), pixel)))
    });
    let (setup, row) = crackling(Otherwise::Input(0));
    let of_tool: Vec<_> = found_in(&lit, &setup).into_iter().filter(|one| one.stage == row).collect();
    assert_eq!(of_tool, []);
}

#[test]
fn mattes_that_are_the_same_everywhere_are_told_with_their_channel() {
    let mut setup = setup_with("blur", PLATE);
    tested(&mut setup)
        .links
        .insert(MATTE.into(), Link { from: Source::Stage(PLATE), take: Some(Take::Alpha) });
    let open = found_in(&SMOOTH, &setup);
    let open = open.iter().find(|one| one.stage == TESTED).unwrap();
    assert_eq!(open.fault, FaultKind::OpenMatte);
    assert!(open.message.contains("its alpha"), "{}", open.message);
    set(&mut setup, TESTED, "matte_invert", Setting::Switch(true));
    assert!(faults(&setup, TESTED).contains(&FaultKind::ClosedMatte));
}

/// Common practice: noise from 0 to 1 taken as a move drifts by its mean; centred on 0 it does not.
#[test]
fn a_map_without_a_neutral_level_drifts_and_a_strong_one_folds() {
    let mut setup = setup_with("displace", PLATE);
    tested(&mut setup).links.remove(MATTE);
    set(&mut setup, MAP, "x", Setting::number(400.0));
    set(&mut setup, MAP, "y", Setting::number(400.0));
    assert_eq!(faults(&setup, TESTED), [FaultKind::Fold]);

    let mut drifting = setup_with("displace", PLATE);
    tested(&mut drifting).links.remove(MATTE);
    let formula = StageEntry::new(StageId(30), "formula", "Push")
        .with("gives", Setting::Choice("map".into()))
        .with("first", Setting::Choice("6 + sin(px * 0.2)".into()));
    drifting.stages.insert(4, formula);
    tested(&mut drifting).links.insert("map".into(), Link::stage(StageId(30)));
    drifting.check().unwrap();
    assert_eq!(faults(&drifting, TESTED), [FaultKind::Drift]);
}

/// A lattice that is pulled over itself, and one that is not.
#[test]
fn a_lattice_that_lies_on_its_back_somewhere_is_told() {
    let size = [f64::from(WIDTH), f64::from(HEIGHT)];
    for (pulled, wanted) in [(0.1, vec![]), (0.8, vec![FaultKind::Fold])] {
        let wanted: Vec<FaultKind> = [FaultKind::KeyedOnce].into_iter().chain(wanted).collect();
        let mut setup = setup_with("lattice", PLATE);
        tested(&mut setup).links.remove(MATTE);
        let mut lattice = Lattice::over(4, 4, [0.0; 2], size, 1001.0);
        lattice.moved.keys[0].points[12].at[0] += pulled * size[0];
        set(&mut setup, TESTED, "lattice", Setting::Lattice { lattice });
        assert_eq!(faults(&setup, TESTED), wanted, "{pulled}");
    }
}

/// A side that hardly moves beside the rest is told until it is pulled as well, and seen where ways are told by pixel.
#[test]
fn a_part_of_a_lattice_that_hardly_moves_is_told() {
    let size = [f64::from(WIDTH), f64::from(HEIGHT)];
    let keyed = |left: f64| {
        let mut lattice = Lattice::over(3, 4, [0.0; 2], size, 1001.0);
        let ways = lattice.moved.at(1001.0).into_iter().enumerate().map(|(corner, mut point)| {
            point.at[1] += if corner % 5 < 2 { left } else { 7.0 };
            point
        });
        lattice.moved = lattice.moved.with_key(1010.0, ways.collect());
        lattice
    };
    for (left, dull, wanted) in [(0.5, vec![0, 4, 8], vec![FaultKind::Dull]), (4.0, vec![], vec![])] {
        assert_eq!(keyed(left).dull_cells(), dull);
        let mut setup = setup_with("lattice", PLATE);
        tested(&mut setup).links.remove(MATTE);
        set(&mut setup, TESTED, "lattice", Setting::Lattice { lattice: keyed(left) });
        assert_eq!(faults(&setup, TESTED), wanted, "{left}");
    }
    let ways: Field = Raster::from_fn(Window::sized(40, 20), |x, _| if x < 10 { 1.0 } else { 6.0 });
    let dull = view::dull(&ways, &Cancel::new()).unwrap();
    assert!((0..40).all(|x| dull.get(x, 9) == Some(if x < 10 { 1.0 } else { 0.0 })));
    assert_eq!(view::mean(&view::dull(&Raster::clear(Window::sized(9, 9)), &Cancel::new()).unwrap()), 0.0);
}

#[test]
fn crossed_ties_a_lattice_that_stands_still_and_a_draft_are_told_before_a_render() {
    let corners = [[20, 10], [70, 10], [70, 50], [20, 50]].map(|at| json!({ "at": at }));
    let line = json!({ "keys": [{ "frame": 1001, "points": corners }] });
    for (ties, wanted) in [
        // Once around from another corner is no crossing; there and back is.
        (json!([[0, 1], [1, 2], [2, 3], [3, 0]]), vec![FaultKind::Draft]),
        (json!([[0, 0], [1, 2], [2, 1]]), vec![FaultKind::CrossedTies, FaultKind::Draft]),
    ] {
        let mut setup = setup_with("shape_warp", PLATE);
        tested(&mut setup).links.remove(MATTE);
        let pair = json!({ "name": "head", "rest": line, "goal": line, "ties": ties });
        let pairs = serde_json::from_value(json!({ "pairs": { "pairs": [pair], "amounts": [1] } })).unwrap();
        set(&mut setup, TESTED, "outlines", pairs);
        set(&mut setup, TESTED, "quality", Setting::Choice("quick".into()));
        let found: Vec<FaultKind> =
            faults(&setup, TESTED).into_iter().filter(|kind| *kind != FaultKind::Fold).collect();
        assert_eq!(found, wanted);
    }
    let at = |places: &[[i32; 2]]| json!({ "keys": [{ "frame": 1001, "points": places.iter().map(|at| json!({ "at": at })).collect::<Vec<_>>() }] });
    let square = at(&[[20, 10], [70, 10], [70, 50], [20, 50]]);
    let crossing = at(&[[20, 10], [70, 50], [70, 10], [20, 50]]);
    let wider = at(&[[20, 10], [76, 10], [76, 50], [20, 50]]);
    let all = json!([[0, 0], [1, 1], [2, 2], [3, 3]]);
    let [inside, around, across] = [(30, 20, 10), (4, 4, 84), (60, 4, 30)].map(|(x, y, wide)| {
        at(&[[x, y], [x + wide, y], [x + wide, y + 56.min(wide)], [x, y + 56.min(wide)]])
    });
    for (rest, goal, ties, fence, firmness, wanted) in [
        (&square, &wider, &all, Some(&around), 1, vec![]),
        (&square, &wider, &all, Some(&inside), 1, vec![]),
        (&square, &wider, &all, Some(&across), 1, vec![FaultKind::AcrossFence]),
        (&square, &wider, &all, Some(&across), 0, vec![]),
        (&square, &crossing, &all, None, 1, vec![FaultKind::CrossesItself]),
        (&square, &wider, &json!([]), None, 1, vec![FaultKind::Untied]),
        (&square, &square, &json!([]), None, 1, vec![]),
        (
            &at(&[[20, 10], [70, 50]]),
            &at(&[[20, 10], [70, 40]]),
            &json!([[0, 0], [1, 1]]),
            None,
            1,
            vec![FaultKind::RoundNothing],
        ),
    ] {
        let mut setup = setup_with("shape_warp", PLATE);
        tested(&mut setup).links.remove(MATTE);
        let pair = json!({ "name": "head", "rest": rest, "goal": goal, "ties": ties });
        let fences: Vec<_> = fence.map(|line| json!({ "name": "wall", "line": line })).into_iter().collect();
        let amounts = if fence.is_some() { json!([1, firmness]) } else { json!([1]) };
        let pairs = json!({ "pairs": { "pairs": [pair], "fences": fences, "amounts": amounts } });
        set(&mut setup, TESTED, "outlines", serde_json::from_value(pairs).unwrap());
        let told = |kind: &FaultKind| !matches!(kind, FaultKind::Fold | FaultKind::Idle);
        let found: Vec<FaultKind> = faults(&setup, TESTED).into_iter().filter(told).collect();
        assert_eq!(found, wanted, "{goal} with {fence:?} as firm as {firmness}");
    }
    let mut setup = setup_with("lattice", PLATE);
    tested(&mut setup).links.remove(MATTE);
    let mut lattice = Lattice::over(2, 2, [0.0; 2], [f64::from(WIDTH), f64::from(HEIGHT)], 1001.0);
    lattice.moved.keys[0].points[4].at[0] += 4.0;
    let mut later = lattice.moved.keys[0].clone();
    later.frame = 1010.0;
    lattice.moved.keys.push(later);
    set(&mut setup, TESTED, "lattice", Setting::Lattice { lattice });
    assert_eq!(faults(&setup, TESTED), []);
}

#[test]
fn a_matte_from_before_the_move_is_told() {
    let mut setup = setup_with("blur", PLATE);
    let media = setup.stages[0].controls["media"].clone();
    let pick = StageEntry::new(StageId(30), "id_pick", "Pick")
        .with("media", media)
        .with("names", Setting::Names(vec!["kiln".into()]));
    let moved = StageEntry::new(StageId(31), "transform", "Turn")
        .taking(MAIN, PLATE)
        .with("angle", Setting::number(8.0));
    setup.stages.splice(5..5, [pick, moved]);
    tested(&mut setup).links.insert(MATTE.into(), Link::stage(StageId(30)));
    assert_eq!(faults(&setup, TESTED), []);
    tested(&mut setup).links.insert(MAIN.into(), Link::stage(StageId(31)));
    assert_eq!(faults(&setup, TESTED), [FaultKind::LeftBehind]);
}

/// Common practice: an element cut off inside the frame while its matte is open shows a straight edge.
#[test]
fn an_insert_that_ends_inside_its_matte_is_told() {
    let mut setup = setup_with("blend", PLATE);
    let small = StageEntry::new(StageId(30), "transform", "Small")
        .taking(MAIN, PLATE)
        .with("scale_x", Setting::number(0.5))
        .with("scale_y", Setting::number(0.5));
    setup.stages.insert(5, small);
    tested(&mut setup).links.insert("layer".into(), Link::stage(StageId(30)));
    set(&mut setup, SHAPE, "radii", pair(f64::from(WIDTH), f64::from(HEIGHT)));
    assert!(faults(&setup, TESTED).contains(&FaultKind::InsertEdge));
    set(&mut setup, SHAPE, "radii", pair(9.0, 5.0));
    assert!(!faults(&setup, TESTED).contains(&FaultKind::InsertEdge));
}

/// A soft disc of one colour: as it should be, with its colour everywhere, and multiplied twice.
fn disc(of: fn(f32) -> f32) -> Picture {
    Raster::from_fn(Window::sized(WIDTH, HEIGHT), |x, y| {
        let away = (x as f32 - 48.0).hypot(y as f32 - 32.0);
        let alpha = ((30.0 - away) / 28.0).clamp(0.0, 1.0);
        let light = 0.8 * of(alpha);
        [light, light, light, alpha]
    })
}

#[test]
fn colour_that_does_not_fit_its_alpha_is_told() {
    let once = MadeUp::of(41, |role| (role == Role::Beauty).then(|| Pixels::Picture(disc(|alpha| alpha))));
    let never = MadeUp::of(42, |role| (role == Role::Beauty).then(|| Pixels::Picture(disc(|_| 1.0))));
    let setup = setup_with("blend", PLATE);
    let of = |plates: &MadeUp| -> Vec<FaultKind> {
        found_in(plates, &setup).into_iter().filter(|one| one.stage == TESTED).map(|one| one.fault).collect()
    };
    assert!(!of(&once).contains(&FaultKind::NotPremultiplied));
    assert!(of(&never).contains(&FaultKind::NotPremultiplied));
}

/// A shipped tool may do what would be a fault of a person's own rows, and lasts as long as it lasts.
#[test]
fn of_a_tool_from_the_rack_only_its_use_is_told() {
    let shipped: Tool = serde_json::from_str(include_str!("../../../../tools/burst.json")).unwrap();
    let (setup, burst) = put_on_the_plate(shipped);
    let laid = StageEntry::new(StageId(900), "blend", "laid on").taking(MAIN, PLATE).taking("layer", burst);
    let mut setup = setup;
    let at = setup.row(burst).unwrap() + 1;
    setup.stages.insert(at, laid);
    setup.check().unwrap();
    let within = |setup: &Setup, id: StageId| setup.stage(id).is_some_and(|row| row.inside == Some(burst));
    let of_burst = |setup: &Setup| -> Vec<Finding> {
        let of = |one: &Finding| [burst, StageId(900)].contains(&one.stage) || within(setup, one.stage);
        found_in(&SMOOTH, setup).into_iter().filter(of).collect()
    };
    let told = of_burst(&setup);
    let kinds: Vec<_> = told.iter().map(|one| (one.stage, one.fault)).collect();
    assert_eq!(kinds, [(burst, FaultKind::KeyOutside)], "{told:?}");
    // Once it is changed inside it is the person's own.
    setup.stages.iter_mut().find(|row| row.id == burst).unwrap().tool.as_mut().unwrap().own = true;
    assert!(of_burst(&setup).iter().any(|one| within(&setup, one.stage)));
}

/// A plate at twice its speed runs out half way; at half, or where it goes back in time, it does not.
#[test]
fn a_row_that_shows_what_its_plate_does_not_have_is_told() {
    for (rate, wanted) in [(2.0, vec![FaultKind::BeyondPlate]), (0.5, vec![])] {
        let mut setup = setup_with("retime", PLATE);
        tested(&mut setup).links.remove(MATTE);
        set(&mut setup, TESTED, "rate", Setting::number(rate));
        assert_eq!(faults(&setup, TESTED), wanted, "{rate}");
    }
}
