//! No stage gives other pixels than before without saying so: bakes and caches outlive an update only if they fit.

use std::collections::BTreeMap;
use std::path::PathBuf;

use serde::{Deserialize, Serialize};
use serde_json::json;
use veil_core::controls::{AnyControl, ControlKind, Lattice, Own};
use veil_core::setup::{Setting, Setup, StageId, StageKind};
use veil_core::signal::Pixels;
use veil_core::stages;

use crate::support::{FIELD, HEIGHT, PLATE, TESTED, WIDTH, ask_anyhow, every_stage, pair, setup_with};

/// A revision, a few of the floats that it gave and the means of all, without their signs.
#[derive(Debug, Serialize, Deserialize)]
struct Kept {
    revision: u32,
    floats: Vec<f32>,
}

fn file() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/promises/revisions.json")
}

/// How often each stage is set to something else: as it starts, many change nothing.
const TURNS: usize = 2;

/// What a control is set to at a turn; none where it stays as it is. That goes by its id, so that another control beside it
/// changes nothing.
fn moved(control: &AnyControl, turn: usize) -> Option<Setting> {
    let number = control.id.bytes().map(usize::from).sum::<usize>();
    let spread = (0.618 * number as f64).fract();
    let share = if turn == 1 { spread } else { 1.0 - spread };
    let between = |(low, high): (f64, f64), share: f64| low + (high - low) * (0.1 + 0.8 * share);
    let outline = |x: f64| {
        let places = [[x, 8.0], [x + 50.0, 14.0], [x + 34.0, 55.0], [x + 6.0, 40.0]];
        let points: Vec<_> = places.iter().map(|at| json!({ "at": at, "soft": 3.0 })).collect();
        json!({ "keys": [{ "frame": 1001, "points": points }] })
    };
    let read = |set: serde_json::Value| Some(serde_json::from_value(set).unwrap());
    match &control.kind {
        ControlKind::Number(spec) if spec.whole => Some(Setting::number(between(spec.slider, share).round())),
        ControlKind::Number(spec) => Some(Setting::number(between(spec.slider, share))),
        ControlKind::Switch(_) => Some(Setting::Switch((number + turn).is_multiple_of(2))),
        ControlKind::Choice(spec) => {
            let options = &spec.options;
            Some(Setting::Choice(options[(number + turn) % options.len()].id.into()))
        }
        ControlKind::Point(spec) => {
            let [x, y] = spec.default_share;
            Some(pair(f64::from(WIDTH) * x + 12.0 * share, f64::from(HEIGHT) * y - 9.0 * share))
        }
        ControlKind::Size(_) => Some(pair(8.0 + 40.0 * share, 30.0 - 20.0 * share)),
        ControlKind::Colour(spec) => {
            let axes = [share, (share + 0.3).fract(), (share + 0.6).fract()];
            Some(Setting::numbers(&axes.map(|share| between(spec.slider, share))))
        }
        ControlKind::Curve(_) => {
            Some(Setting::Curve { curve: vec![[0.0, 0.05], [0.2 + 0.4 * share, 0.55], [1.0, 0.9]] })
        }
        ControlKind::Shapes(_) => {
            let mut shape = outline(5.0 + 20.0 * share);
            shape["name"] = "one".into();
            shape["softness"] = 4.into();
            read(json!({ "shapes": [shape] }))
        }
        ControlKind::Pairs(spec) => {
            let pair = json!({ "name": "one", "rest": outline(10.0), "goal": outline(10.0 + 20.0 * share) });
            let amounts = if spec.own == Own::Amount { vec![0.8] } else { vec![0.8, 0.3] };
            read(json!({ "pairs": { "pairs": [pair], "fences": [], "amounts": amounts } }))
        }
        ControlKind::Lattice(_) => {
            let mut lattice = Lattice::over(2, 3, [4.0, 2.0], [88.0, 58.0], 1001.0);
            let points = lattice.moved.keys[0].points.iter_mut();
            points.step_by(3).for_each(|point| point.at = [point.at[0] + 9.0 * share, point.at[1] + 4.0]);
            Some(Setting::Lattice { lattice })
        }
        ControlKind::Space(_) => Some(Setting::numbers(&[0.1, -0.1, share, 12.0, -20.0, 8.0, 1.0, 1.0, 1.0])),
        ControlKind::Camera(_) => {
            Some(Setting::numbers(&[0.4, 0.5, 2.5 + share, 3.0, -1.0, 2.0, 40.0, 36.0]))
        }
        ControlKind::Stops(_)
        | ControlKind::Media(_)
        | ControlKind::Names(_)
        | ControlKind::Text(_)
        | ControlKind::Formula(_) => None,
    }
}

/// A stage with everything set that has its own kind of number, at a turn; 0 is as it starts.
fn set_up(kind: &'static str, main: StageId, turn: usize) -> Setup {
    let mut setup = setup_with(kind, main);
    let spec = stages::find(&StageKind(kind.into())).unwrap().spec();
    let tested = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
    for control in spec.controls.iter().filter(|_| turn > 0) {
        if let Some(setting) = moved(control, turn) {
            tested.controls.insert(control.id.into(), setting);
        }
    }
    setup.check().unwrap();
    setup
}

/// What every stage gives of the made-up plate: floats on a grid over the frame, and the means.
fn given() -> BTreeMap<String, Kept> {
    let mut all = BTreeMap::new();
    let turns =
        (0..=TURNS).flat_map(|turn| every_stage().into_iter().map(move |(kind, main)| (kind, main, turn)));
    for (kind, main, turn) in turns {
        let stage = stages::find(&StageKind(kind.into())).unwrap();
        // What cannot work, set like this, hands on what it takes.
        let answer = ask_anyhow(&set_up(kind, main, turn), TESTED, None);
        let over = answer.signal.over(answer.window);
        let (floats, channels) = match &over {
            Pixels::Picture(picture) => (picture.pixels().as_flattened(), 4),
            Pixels::Field(field) => (field.pixels(), 1),
            Pixels::Map(map) => (map.pixels().as_flattened(), 2),
        };
        let at = |x: usize, y: usize| (y * WIDTH as usize + x) * channels;
        let grid = (0..3).flat_map(|row| (0..4).map(move |column| (13 + 23 * column, 9 + 21 * row)));
        let mean = |channel: usize| {
            let of_channel = floats.iter().skip(channel).step_by(channels);
            of_channel.map(|value| f64::from(value.abs())).sum::<f64>() / (floats.len() / channels) as f64
        };
        let means = (0..channels).map(|channel| mean(channel) as f32);
        let floats = grid.flat_map(|(x, y)| floats[at(x, y)..][..channels].to_vec()).chain(means).collect();
        let takes = match main {
            PLATE => "picture",
            FIELD => "field",
            _ => "map",
        };
        let turned = if turn == 0 { String::new() } else { format!(", turn {turn}") };
        all.insert(format!("{kind} of a {takes}{turned}"), Kept { revision: stage.revision(), floats });
    }
    all
}

#[test]
fn a_stage_that_gives_other_pixels_has_another_revision() {
    let kept: BTreeMap<String, Kept> = serde_json::from_slice(&std::fs::read(file()).unwrap()).unwrap();
    let given = given();
    for (what, now) in &given {
        let before = kept.get(what);
        let before = before.unwrap_or_else(|| panic!("{what} is new: run `keep_what_stages_give`"));
        let same = before.floats.len() == now.floats.len()
            && before.floats.iter().zip(&now.floats).all(|(a, b)| (a - b).abs() <= 1e-4 * a.abs().max(1.0));
        if before.revision == now.revision {
            assert!(
                same,
                "{what} gives other pixels than before: raise its revision, then run `keep_what_stages_give`"
            );
        } else {
            assert!(same, "{what} has a new revision: run `keep_what_stages_give`");
        }
    }
    assert_eq!(kept.len(), given.len(), "a stage is gone: run `keep_what_stages_give`");
}

#[test]
#[ignore = "writes what stages give now; run it when a revision was raised or a stage is new"]
fn keep_what_stages_give() {
    let text = serde_json::to_string(&given()).unwrap().replace("\"},\"", "\"},\n\"").replace("]},", "]},\n");
    std::fs::write(file(), text + "\n").unwrap();
}
