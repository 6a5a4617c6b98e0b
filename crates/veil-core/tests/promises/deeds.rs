//! Any edit of a setup, made up.

use proptest::prelude::*;
use serde_json::json;
use veil_core::controls::{AnyControl, ChoiceSpec, ColourSpec, ControlKind, Grip, Lattice, Own};
use veil_core::feed::{
    ControlAxis, Feed, FollowFeed, Formula, FormulaFeed, KeyMove, KeyShape, Keys, Span, WaveFeed, WaveForm,
};
use veil_core::setup::{
    Command, CopiedRows, FaceplateEntry, HandOnKeys, NewRow, OwnKind, PickedKeys, Setting, Setup, Source,
    StageId, Stand, Tab, Tool,
};
use veil_core::{shape, stages};

/// Every kind of stage, and so often again those that most is built of.
fn kind(number: usize) -> String {
    const USUAL: [&str; 8] = ["noise", "ellipse", "levels", "soften", "displace", "blur", "grade", "blend"];
    let all: Vec<_> = stages::all().map(|stage| stage.spec().id).collect();
    let number = number % (2 * all.len());
    all.get(number).copied().unwrap_or(USUAL[number % USUAL.len()]).to_owned()
}

/// Any row of the setup as it then is.
fn row() -> impl Strategy<Value = usize> {
    0usize..14
}

/// What may be done, with rows, slots and kinds by number: whatever there is of them is taken in turn.
#[derive(Clone, Debug)]
pub(crate) enum Deed {
    Add(usize, usize),
    Remove(usize),
    Move(usize, usize),
    Switch(usize, bool),
    Rename(usize, String),
    Link(usize, usize, usize),
    Put(usize, f64, f64),
    Key(usize, f64),
    Unkey(usize, f64),
    MoveKeys(usize, f64),
    ShapeKeys(usize, f64),
    Formula(usize),
    MakeTool(usize, usize),
    PlaceTool(usize),
    TakeTool(usize),
    AddOwn(usize, usize),
    RemoveOwn(usize),
    NameOwn(usize),
    Duplicate(usize, usize, bool),
    Paste(usize, usize),
    SplitOff(usize, usize),
    ReplaceKind(usize, usize),
    Words(usize, String),
    Together(usize, usize),
    Follow(usize, usize),
    Wave(usize),
    Turn(usize, usize, f64),
    Keys(usize, usize, f64),
    Choose(usize, usize, usize),
    Draw(usize, f64),
    Pull(usize, f64, f64),
    Alter(usize, usize),
    Start(i32, bool),
}

const SLOTS: [&str; 5] = ["main", "map", "layer", "matte", "matte2"];

/// Any of them.
pub(crate) fn deed() -> impl Strategy<Value = Deed> {
    let frame = || (1001i32..1005).prop_map(f64::from);
    prop_oneof![
        (any::<usize>(), row()).prop_map(|(kind, after)| Deed::Add(kind, after)),
        row().prop_map(Deed::Remove),
        (row(), row()).prop_map(|(a, b)| Deed::Move(a, b)),
        (row(), any::<bool>()).prop_map(|(a, on)| Deed::Switch(a, on)),
        (row(), "[a-z ]{0,6}").prop_map(|(a, name)| Deed::Rename(a, name)),
        (row(), row(), 0usize..5).prop_map(|(a, b, slot)| Deed::Link(a, b, slot)),
        (row(), 0.0..1.0, frame()).prop_map(|(a, value, frame)| Deed::Put(a, value, frame)),
        (row(), frame()).prop_map(|(a, frame)| Deed::Key(a, frame)),
        (row(), frame()).prop_map(|(a, frame)| Deed::Unkey(a, frame)),
        (row(), frame()).prop_map(|(a, frame)| Deed::MoveKeys(a, frame)),
        (row(), frame()).prop_map(|(a, frame)| Deed::ShapeKeys(a, frame)),
        row().prop_map(Deed::Formula),
        (row(), row()).prop_map(|(a, b)| Deed::MakeTool(a, b)),
        row().prop_map(Deed::PlaceTool),
        row().prop_map(Deed::TakeTool),
        (row(), 0usize..4).prop_map(|(a, kind)| Deed::AddOwn(a, kind)),
        row().prop_map(Deed::RemoveOwn),
        row().prop_map(Deed::NameOwn),
        (row(), row(), any::<bool>()).prop_map(|(a, b, linked)| Deed::Duplicate(a, b, linked)),
        (row(), row()).prop_map(|(a, after)| Deed::Paste(a, after)),
        (row(), 0usize..4).prop_map(|(a, slot)| Deed::SplitOff(a, slot)),
        (row(), any::<usize>()).prop_map(|(a, kind)| Deed::ReplaceKind(a, kind)),
        (row(), "[a-z]{0,4}").prop_map(|(a, text)| Deed::Words(a, text)),
        (row(), row()).prop_map(|(a, b)| Deed::Together(a, b)),
        (row(), row()).prop_map(|(a, b)| Deed::Follow(a, b)),
        row().prop_map(Deed::Wave),
        (row(), any::<usize>(), 0.0..1.0).prop_map(|(a, control, share)| Deed::Turn(a, control, share)),
        (row(), any::<usize>(), 0.0..1.0).prop_map(|(a, control, share)| Deed::Keys(a, control, share)),
        (row(), any::<usize>(), any::<usize>())
            .prop_map(|(a, control, entry)| Deed::Choose(a, control, entry)),
        (row(), 0.0..1.0).prop_map(|(a, share)| Deed::Draw(a, share)),
        (row(), 0.0..1.0, frame()).prop_map(|(a, share, frame)| Deed::Pull(a, share, frame)),
        (row(), any::<usize>()).prop_map(|(a, which)| Deed::Alter(a, which)),
        (-3i32..3, any::<bool>()).prop_map(|(by, fast)| Deed::Start(by, fast)),
    ]
}

/// Mostly changes of the controls of a row and of those that it is made of.
pub(crate) fn turning(of: usize) -> impl Strategy<Value = Deed> {
    let row = move || prop_oneof![3 => Just(of), 1 => 0..of];
    prop_oneof![
        3 => (row(), any::<usize>(), 0.0..1.0).prop_map(|(a, control, share)| Deed::Turn(a, control, share)),
        2 => (row(), any::<usize>(), 0.0..1.0).prop_map(|(a, control, share)| Deed::Keys(a, control, share)),
        2 => (row(), any::<usize>(), any::<usize>()).prop_map(|(a, control, entry)| Deed::Choose(a, control, entry)),
        1 => (row(), 0.0..1.0).prop_map(|(a, share)| Deed::Draw(a, share)),
        1 => (row(), 0.0..1.0).prop_map(|(a, share)| Deed::Pull(a, share, 1004.0)),
        1 => (-3i32..3, any::<bool>()).prop_map(|(by, fast)| Deed::Start(by, fast)),
        2 => deed(),
    ]
}

fn picked(stage: StageId, frame: f64) -> Vec<PickedKeys> {
    vec![PickedKeys { of: ControlAxis { stage, control: "amount".into(), axis: 0 }, frames: vec![frame] }]
}

/// A control that is made of numbers, and what sets all of them to a share of its slider's run; of keys, from where it stands
/// by a frame.
fn number_of(
    setup: &Setup,
    row: StageId,
    number: usize,
    share: f64,
) -> Option<(String, impl Fn(Option<f64>) -> Setting)> {
    let controls = shape::all_controls(setup.stage(row)?);
    let spec = *controls.get(number % controls.len().max(1))?;
    let (axes, low, high) = match &spec.kind {
        ControlKind::Number(bounds) => (1, bounds.slider.0, bounds.slider.1),
        ControlKind::Colour(ColourSpec { slider, .. }) => (3, slider.0, slider.1),
        ControlKind::Point(_) | ControlKind::Size(_) => (2, 0.0, 80.0),
        ControlKind::Space(_) => (9, 0.2, 30.0),
        ControlKind::Camera(_) => (8, 1.0, 30.0),
        _ => return None,
    };
    let value = low + (high - low) * share;
    let feed = move |keyed: Option<f64>| match keyed {
        None => Feed::Fixed(value),
        Some(frame) => Feed::Keys(Keys::one(frame, low).with_value(frame + 3.0, value)),
    };
    let setting = move |keyed: Option<f64>| match axes {
        1 => Setting::Feed(feed(keyed)),
        _ => Setting::Axes { axes: vec![feed(keyed); axes] },
    };
    Some((spec.id.to_owned(), setting))
}

/// The control of a row that is drawn on the picture, and what it is set to.
fn drawn_of(setup: &Setup, row: StageId) -> Option<(&'static AnyControl, Setting)> {
    let entry = setup.stage(row)?;
    let spec = shape::controls(entry).into_iter().find(|spec| spec.grip == Grip::Drawn)?;
    Some((spec, shape::setting(setup, entry, spec)))
}

/// Something drawn, larger or smaller.
fn drawing(kind: &ControlKind, share: f64) -> Option<Setting> {
    let (near, far) = (4.0 + 20.0 * share, 60.0 - 20.0 * share);
    let points =
        json!([{ "at": [near, near] }, { "at": [far, near], "after": [3, 9] }, { "at": [near, far] }]);
    let line = json!({ "keys": [{ "frame": 1001, "points": points }] });
    let drawn = match kind {
        ControlKind::Shapes(_) => {
            json!({ "shapes": [{ "name": "one", "keys": line["keys"], "softness": 4 }] })
        }
        ControlKind::Pairs(spec) => {
            let mut amounts =
                vec![json!(share), json!({ "wave": "climb", "period": 12, "span": { "low": 0, "high": 1 } })];
            amounts.extend((spec.own == Own::AmountAndDissolve).then(|| json!(1.0 - share)));
            json!({ "pairs": {
                "pairs": [{ "name": "one", "rest": line, "goal": line, "ties": [[0, 1.5]], "own": share > 0.5 }],
                "fences": [{ "name": "two", "line": line, "closed": false }],
                "amounts": amounts,
            } })
        }
        ControlKind::Lattice(_) => {
            let over = Lattice::over(2, 3, [0.0; 2], [90.0 * share, 64.0], 1001.0);
            return Some(Setting::Lattice { lattice: over });
        }
        _ => return None,
    };
    serde_json::from_value(drawn).ok()
}

/// The command of a deed; none where the setup has nothing for it.
pub(crate) fn command(deed: &Deed, setup: &Setup) -> Option<Command> {
    let id = |row: usize| setup.stages[row % setup.stages.len()].id;
    // Half of the time on another strand, where that is meant.
    let place = |row: usize| NewRow {
        after: Some(id(row)),
        on: row.is_multiple_of(2).then(|| id(row * 5 + 3)),
        ..NewRow::default()
    };
    let control = || "amount".to_owned();
    Some(match deed {
        Deed::Add(number, after) => Command::Add { kind: kind(*number), place: place(*after) },
        Deed::Remove(row) => Command::Remove { stage: id(*row) },
        Deed::Move(row, to) => Command::Move { stage: id(*row), to: *to % setup.stages.len() },
        Deed::Switch(row, on) => Command::Switch { stage: id(*row), on: *on },
        Deed::Rename(row, name) => Command::Rename { stage: id(*row), name: name.clone() },
        Deed::Link(row, from, slot) => Command::Link {
            stage: id(*row),
            slot: SLOTS[*slot].into(),
            from: Some(Source::Stage(id(*from))),
            take: None,
        },
        Deed::Put(row, value, frame) => {
            let keys = if *value < 0.5 { HandOnKeys::Key } else { HandOnKeys::MovesAll };
            let values = vec![Some(*value)];
            Command::Put { stage: id(*row), control: control(), values, frame: *frame, keys }
        }
        Deed::Key(row, frame) => {
            Command::Key { stage: id(*row), control: control(), frame: *frame, axis: None }
        }
        Deed::Unkey(row, frame) => {
            Command::Unkey { stage: id(*row), control: control(), frame: *frame, axis: None }
        }
        Deed::MoveKeys(row, frame) => Command::MoveKeys {
            picked: picked(id(*row), *frame),
            by: KeyMove { later: 1.0, higher: -0.25, ..KeyMove::default() },
        },
        Deed::ShapeKeys(row, frame) => {
            Command::ShapeKeys { picked: picked(id(*row), *frame), shape: KeyShape::Flat }
        }
        Deed::Formula(row) => {
            let formula = Formula::parse("0.5 + 0.5 * sin(since)").ok()?;
            let setting = Setting::Feed(Feed::Formula(FormulaFeed::new(formula)));
            Command::Set { stage: id(*row), control: control(), setting: Some(setting) }
        }
        Deed::MakeTool(a, b) => Command::MakeTool {
            rows: vec![id(*a), id(*b)],
            name: "piece".into(),
            inputs: Vec::new(),
            otherwise: Vec::new(),
            faceplate: vec![FaceplateEntry {
                label: "how much".into(),
                stage: id(*a),
                control: control(),
                range: None,
                default: None,
            }],
        },
        Deed::Duplicate(a, b, linked) => Command::Duplicate { rows: vec![id(*a), id(*b)], linked: *linked },
        Deed::Paste(row, after) => {
            let copied = Box::new(CopiedRows::of(setup, &[id(*row)]).ok()?);
            Command::Paste { copied, place: place(*after) }
        }
        Deed::SplitOff(row, slot) => Command::SplitOff { stage: id(*row), slot: SLOTS[*slot].into() },
        Deed::ReplaceKind(row, number) => Command::ReplaceKind { stage: id(*row), kind: kind(*number) },
        Deed::Words(row, text) => Command::Together {
            commands: vec![
                Command::Note { stage: id(*row), text: text.clone() },
                Command::Mark { rows: vec![id(*row)], tab: Some(Tab::Moss) },
                Command::Group { rows: vec![id(*row), id(*row + 2)], name: text.clone() },
            ],
        },
        Deed::Together(a, b) => Command::Together {
            commands: vec![Command::Remove { stage: id(*a) }, Command::StandAlone { stage: id(*b) }],
        },
        Deed::Follow(row, of) => {
            let follow = ControlAxis { stage: id(*of), control: control(), axis: 0 };
            let feed = Feed::Follow(FollowFeed { follow, scale: 0.5, offset: 0.1.into() });
            Command::Set { stage: id(*row), control: control(), setting: Some(Setting::Feed(feed)) }
        }
        Deed::Wave(row) => {
            let span = Span { low: 0.2, high: 0.8 };
            let wave = WaveFeed {
                wave: WaveForm::Climb,
                period: 12.0,
                phase: 0.0,
                span,
                seed: 4,
                offset: 0.0.into(),
            };
            Command::Set {
                stage: id(*row),
                control: control(),
                setting: Some(Setting::Feed(Feed::Wave(wave))),
            }
        }
        Deed::Turn(row, number, share) => {
            let (control, value) = number_of(setup, id(*row), *number, *share)?;
            Command::Set { stage: id(*row), control, setting: Some(value(None)) }
        }
        Deed::Keys(row, number, share) => {
            let (control, value) = number_of(setup, id(*row), *number, *share)?;
            Command::Set { stage: id(*row), control, setting: Some(value(Some(1003.0))) }
        }
        Deed::Choose(row, number, entry) => {
            let controls = shape::all_controls(setup.stage(id(*row))?);
            let spec = controls.get(number % controls.len().max(1))?;
            let setting = match &spec.kind {
                ControlKind::Choice(ChoiceSpec { options, .. }) => {
                    Setting::Choice(options[entry % options.len()].id.into())
                }
                ControlKind::Switch(_) => Setting::Switch(entry % 2 == 0),
                ControlKind::Media(_) => Setting::Media { media: setup.media.first()?.id },
                _ => return None,
            };
            Command::Set { stage: id(*row), control: spec.id.into(), setting: Some(setting) }
        }
        Deed::Draw(row, share) => {
            let (spec, _) = drawn_of(setup, id(*row))?;
            let setting = Some(drawing(&spec.kind, *share)?);
            Command::Set { stage: id(*row), control: spec.id.into(), setting }
        }
        Deed::Pull(row, share, frame) => {
            let (spec, setting) = drawn_of(setup, id(*row))?;
            let drawn = setting.drawn();
            let shape = (share * drawn.len() as f64) as usize;
            let mut points = drawn.get(shape)?.at(*frame);
            let pulled = (share * 7.0) as usize % points.len().max(1);
            points.get_mut(pulled)?.at[0] += 9.0 * share;
            let keys = if *share > 0.7 { HandOnKeys::MovesAll } else { HandOnKeys::Key };
            let (control, stand) =
                (spec.id.into(), if pulled.is_multiple_of(2) { Stand::Drawn } else { Stand::Seen });
            Command::PutShape { stage: id(*row), control, shape, points, stand, frame: *frame, keys }
        }
        Deed::Alter(row, which) => {
            let (spec, _) = drawn_of(setup, id(*row))?;
            let deeds = [
                json!({ "add_row": which % 3 }),
                json!({ "add_column": which % 4 }),
                json!({ "remove_row": which % 3 }),
                json!({ "over": [3, 2, 70, 50] }),
            ];
            let deed = deeds[which % deeds.len()].clone();
            Command::Alter { stage: id(*row), control: spec.id.into(), deed }
        }
        Deed::Start(by, fast) => {
            let mut picture = setup.picture;
            picture.frames.first = 1001 + by;
            picture.fps = if *fast { 48.0 } else { 24.0 };
            Command::About { name: setup.name.clone(), picture }
        }
        Deed::PlaceTool(after) => {
            let row = setup.stages.iter().find(|stage| stage.tool.is_some())?.id;
            let tool = Box::new(Tool::from_row(setup, row)?);
            Command::PlaceTool { tool, place: place(*after), scale_lengths: true }
        }
        Deed::AddOwn(at, kind) => {
            let kind = [OwnKind::Number, OwnKind::Point, OwnKind::Colour, OwnKind::Switch][*kind];
            let stage = if setup.own_of(id(*at)).is_empty() && setup.stage(id(*at))?.tool.is_none() {
                StageId::WHOLE
            } else {
                id(*at)
            };
            Command::AddOwn { stage, name: "pulse".into(), kind }
        }
        Deed::RemoveOwn(at) => {
            let own = setup.own_of(StageId::WHOLE);
            let control = own.get(at % own.len().max(1))?.id.clone();
            Command::RemoveOwn { stage: StageId::WHOLE, control }
        }
        Deed::NameOwn(row) => {
            let formula = Formula::parse("0.5 * pulse + pulse_2.x").ok()?;
            let setting = Setting::Feed(Feed::Formula(FormulaFeed::new(formula)));
            Command::Set { stage: id(*row), control: control(), setting: Some(setting) }
        }
        Deed::TakeTool(at) => {
            let tools: Vec<StageId> =
                setup.stages.iter().filter(|stage| stage.tool.is_some()).map(|stage| stage.id).collect();
            let stage = *tools.get(at % tools.len().max(1))?;
            let tool = Box::new(Tool::from_row(setup, tools[0])?);
            Command::TakeTool { stage, tool, scale_lengths: true }
        }
    })
}
