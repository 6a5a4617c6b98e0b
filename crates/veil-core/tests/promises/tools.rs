//! Tools: made of rows, changed inside, taken anew, and those that ship.

use veil_core::engine::{Engine, Request};
use veil_core::plates::Role;
use veil_core::setup::{Command, Edit, FaceplateEntry, NewRow, Setting, Setup, Source, StageId, Tool};
use veil_core::signal::Pixels;
use veil_pixels::{Cancel, Raster, Window};

use crate::findings::put_on_the_plate;
use crate::support::{HEIGHT, MAP, MadeUp, PLATE, TESTED, WIDTH, setup_with};

/// The same pixels before and after: a tool is only another way to see the rows.
#[test]
fn rows_made_into_a_tool_give_the_same_pixels_here_and_in_another_setup() {
    let setup = setup_with("displace", PLATE);
    let rows = vec![StageId(3), StageId(6), MAP, TESTED];
    let make = Command::MakeTool {
        rows,
        name: "haze".into(),
        inputs: vec!["plate".into(), "where".into()],
        otherwise: Vec::new(),
        faceplate: Vec::new(),
    };
    let (made, edit) = Edit::of(&make, &setup).unwrap();
    let row = edit.row.unwrap();
    let about = made.stage(row).unwrap().tool.clone().unwrap();
    assert_eq!(about.inputs.iter().map(|input| input.name.as_str()).collect::<Vec<_>>(), ["plate", "where"]);
    assert_eq!(crate::support::pixels(&made, row, 1), crate::support::pixels(&setup, TESTED, 1));

    let text = serde_json::to_string(&Tool::from_row(&made, row).unwrap()).unwrap();
    let tool: Tool = serde_json::from_str(&text).unwrap();
    tool.check().unwrap();
    let mut other = setup_with("blur", PLATE);
    other.stages.retain(|stage| {
        stage.id != TESTED && stage.id != StageId(3) && stage.id != StageId(6) && stage.id != MAP
    });
    let place = NewRow { after: Some(PLATE), ..NewRow::default() };
    let put = Command::PlaceTool { tool: Box::new(tool), place, scale_lengths: false };
    let (placed, edit) = Edit::of(&put, &other).unwrap();
    let row = edit.row.unwrap();
    let from = Some(Source::Stage(crate::support::SHAPE));
    let plug = Command::Link { stage: row, slot: "input2".into(), from, take: None };
    let (placed, _) = Edit::of(&plug, &placed).unwrap();
    assert_eq!(crate::support::pixels(&placed, row, 1), crate::support::pixels(&setup, TESTED, 1));
}

/// One shot changes a tool inside and keeps it; the other is as it was until it takes the new number, and then keeps the
/// faceplate's values that a person gave it.
#[test]
fn a_tools_row_is_a_copy_of_its_own_once_changed_inside_and_takes_another_number_when_asked() {
    let setup = setup_with("displace", PLATE);
    let shown = |label: &str, control: &str| FaceplateEntry {
        label: label.into(),
        stage: TESTED,
        control: control.into(),
        range: None,
        default: Some(Setting::number(1.0)),
    };
    let make = Command::MakeTool {
        rows: vec![StageId(3), StageId(6), MAP, TESTED],
        name: "haze".into(),
        inputs: Vec::new(),
        otherwise: Vec::new(),
        faceplate: vec![shown("across", "strength_x"), shown("down", "strength_y")],
    };
    let done = |setup: &Setup, command: Command| Edit::of(&command, setup).unwrap();
    let (made, edit) = done(&setup, make);
    let row = edit.row.unwrap();
    let is_own = |setup: &Setup| setup.stage(row).unwrap().tool.as_ref().unwrap().own;
    let set = |stage: StageId, control: &str, value: f64| {
        let setting = Some(Setting::number(value));
        Command::Set { stage, control: control.into(), setting }
    };

    let other = done(&made, set(TESTED, "strength_x", 2.5)).0;
    assert!(!is_own(&other), "the faceplate is there to be changed");
    let changed = done(&made, set(MAP, "x", 20.0)).0;
    assert!(is_own(&changed));
    let kept = done(&changed, Command::KeptAs { stage: row, number: 2 }).0;
    assert!(!is_own(&kept));
    let kept = done(&kept, set(TESTED, "strength_y", 1.0)).0;

    let tool = Box::new(Tool::from_row(&kept, row).unwrap());
    let taken = done(&other, Command::TakeTool { stage: row, tool, scale_lengths: false }).0;
    assert_eq!(taken.stage(row).unwrap().tool.as_ref().unwrap().number, 2);
    let wanted = done(&kept, set(TESTED, "strength_x", 2.5)).0;
    assert_eq!(crate::support::pixels(&taken, row, 1), crate::support::pixels(&wanted, row, 1));
}

/// What ships on the rack is what anybody's tool file may be, and its effect is there as soon as it is put on a plate.
#[test]
fn every_tool_that_ships_is_valid_and_goes_on_a_plate_as_it_is() {
    let schema: serde_json::Value = serde_json::from_str(&veil_core::setup::tool_schema()).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../tools");
    let mut names = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let file = entry.unwrap().path();
        if file.extension().is_none_or(|ending| ending != "json") {
            continue;
        }
        let written: serde_json::Value =
            serde_json::from_str(&std::fs::read_to_string(&file).unwrap()).unwrap();
        let first = validator.iter_errors(&written).next().map(|error| error.to_string());
        assert_eq!(first, None, "{}", file.display());
        let tool: Tool = serde_json::from_value(written).unwrap();
        tool.check().unwrap();
        assert!(file.with_extension("webp").is_file(), "{} has no picture", file.display());
        let place = NewRow { after: Some(PLATE), ..NewRow::default() };
        let put = Command::PlaceTool { tool: Box::new(tool.clone()), place, scale_lengths: true };
        let (setup, edit) = Edit::of(&put, &setup_with("blur", PLATE)).unwrap();
        let row = setup.stage(edit.row.unwrap()).unwrap();
        if tool.about.inputs.first().is_some_and(|input| input.kind == tool.about.gives) {
            let from = row.links.get("main").map(|link| link.from);
            assert_eq!(from, Some(Source::Stage(PLATE)), "{}", tool.about.name);
        }
        names.push(tool.about.name);
    }
    assert!(names.len() >= 12, "{names:?}");
}

/// A light thing before a green screen.
const SCREENED: MadeUp = MadeUp::of(32, |role| {
    let pixel = |x: i32, y: i32| match (x - 48).abs() + (y - 32).abs() < 36 {
        true => [2.0, 1.8, 1.9, 1.0],
        false => [0.06, 0.42, 0.09, 1.0],
    };
    (role == Role::Beauty).then(|| Pixels::Picture(Raster::from_fn(Window::sized(WIDTH, HEIGHT), pixel)))
});

fn seen_at(setup: &Setup, row: StageId, frame: f64) -> Pixels {
    let answer =
        Engine::new(1 << 28).answer(setup, &SCREENED, Request::whole(row, frame), &Cancel::new()).unwrap();
    answer.signal.over(answer.window)
}

/// Put on one plate, nothing else plugged in and nothing set.
#[test]
fn every_shipped_tool_does_something_as_soon_as_it_is_put_on() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../tools");
    let mut tried = 0;
    for file in std::fs::read_dir(folder).unwrap().map(|file| file.unwrap().path()) {
        if file.extension().is_some_and(|ending| ending == "json") {
            let tool: Tool = serde_json::from_slice(&std::fs::read(&file).unwrap()).unwrap();
            let (setup, row) = put_on_the_plate(tool);
            // Glitches come and go.
            let mut frames = (1004..1028).map(f64::from);
            let does = frames.any(|frame| seen_at(&setup, row, frame) != seen_at(&setup, PLATE, frame));
            assert!(does, "{} changes nothing", file.display());
            tried += 1;
        }
    }
    assert_eq!(tried, 16);
}
