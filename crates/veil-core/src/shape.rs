//! The slots and controls a row has, whether it is a stage or a tool.

use std::sync::LazyLock;

use crate::control::{ControlKind, ControlSpec, Stop, Unit, Value};
use crate::drawn::{MOST_SHAPES, laid, stand};
use crate::feed::{ControlAxis, Feed, Moment, Others, PixelFormula};
use crate::lists;
use crate::mattes;
use crate::setup::{Link, PictureFormat, Setting, Setup, StageEntry, StageId, ToolUse};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Belongs, Gives, MAIN, MATTE};
use crate::stages;

/// No text is longer, in bytes.
const LONGEST_TEXT: usize = 4000;

/// A place where a row takes a signal.
#[derive(Clone, Debug, PartialEq)]
pub struct Slot {
    /// In links.
    pub id: &'static str,
    /// As shown.
    pub name: String,
    /// Which kinds it takes.
    pub accepts: Accepts,
    /// What it belongs to.
    pub belongs: Belongs,
}

/// The control ids that every row with an amount has.
pub mod common {
    /// How much of the stage is seen, 0–1.
    pub const AMOUNT: &str = "amount";
    /// Whether the matte is turned inside out.
    pub const MATTE_INVERT: &str = "matte_invert";
    /// How far the matte's edge is softened.
    pub const MATTE_SOFTEN: &str = "matte_soften";
    /// Whether the matte counts.
    pub const MATTE_COUNTS: &str = "matte_counts";
    /// All of them, in their order.
    pub const ALL: [&str; 4] = [AMOUNT, MATTE_INVERT, MATTE_SOFTEN, MATTE_COUNTS];
}

static COMMON: LazyLock<Vec<ControlSpec>> = LazyLock::new(|| {
    vec![
        ControlSpec::number("amount", 1.0, (0.0, 1.0))
            .within(0.0, 1.0)
            .help("How much of this stage is seen; 0 hands on what came in.")
            .with_id(common::AMOUNT),
        ControlSpec::switch("invert matte", false)
            .help("The stage works where the matte is not.")
            .with_id(common::MATTE_INVERT),
        ControlSpec::number("soften matte", 0.0, (0.0, 60.0))
            .within(0.0, 2000.0)
            .unit(Unit::Px)
            .help("Standard deviation of the blur on the matte, before it is used.")
            .with_id(common::MATTE_SOFTEN),
        ControlSpec::switch("matte counts", true)
            .help("Off, the stage works as if the matte were not there.")
            .with_id(common::MATTE_COUNTS),
    ]
});

/// The controls that every row with an amount has.
pub fn common_controls() -> &'static [ControlSpec] {
    &COMMON
}

/// What amount and matte do on a row.
pub fn amount_rule(entry: &StageEntry) -> AmountRule {
    match &entry.tool {
        Some(tool) if tool.main_input().is_some() => AmountRule::Mixes,
        Some(_) => AmountRule::Opacity,
        None => stages::find(&entry.kind).map_or(AmountRule::None, |stage| stage.spec().amount),
    }
}

/// The controls of a row in order: those that every stage has, then its own.
pub fn controls(entry: &StageEntry) -> Vec<&'static ControlSpec> {
    let common = if amount_rule(entry) == AmountRule::None { &[][..] } else { &COMMON };
    let own = stages::find(&entry.kind).map_or(&[][..], |stage| &stage.spec().controls);
    common.iter().chain(own).collect()
}

/// One control of a row by its id.
pub fn control(entry: &StageEntry, id: &str) -> Option<&'static ControlSpec> {
    let of_list = || mattes::control(id).filter(|_| amount_rule(entry) != AmountRule::None);
    controls(entry).into_iter().find(|spec| spec.id == id).or_else(of_list)
}

/// The controls of a row, and those of the mattes after the first that it takes.
pub fn all_controls(entry: &StageEntry) -> Vec<&'static ControlSpec> {
    let of_mattes = mattes::taken(entry).flat_map(|number| mattes::controls(number).all());
    controls(entry).into_iter().chain(of_mattes).collect()
}

/// The slots of a row: the main input first where there is one, the matte last.
pub fn slots(entry: &StageEntry) -> Vec<Slot> {
    let mut made = Vec::new();
    if let Some(tool) = &entry.tool {
        for (number, input) in tool.inputs.iter().enumerate() {
            let id = ToolUse::slot_id(number);
            let accepts = input.kind.into();
            made.push(Slot { id, name: input.name.clone(), accepts, belongs: Belongs::ToStage });
        }
    } else if let Some(stage) = stages::find(&entry.kind) {
        let spec = stage.spec();
        if let Some(accepts) = spec.main {
            made.push(Slot { id: MAIN, name: "main".into(), accepts, belongs: Belongs::ToStage });
        }
        made.extend(spec.slots.iter().map(|slot| Slot {
            id: slot.id,
            name: slot.name.into(),
            accepts: slot.accepts,
            belongs: slot.belongs,
        }));
    }
    if amount_rule(entry) != AmountRule::None {
        let names = std::iter::once("matte".to_owned()).chain((2..).map(|number| format!("matte {number}")));
        made.extend(std::iter::once(MATTE).chain(mattes::MORE).zip(names).map(|(id, name)| Slot {
            id,
            name,
            accepts: Accepts::Field,
            belongs: Belongs::ToList(lists::MATTES),
        }));
    }
    // Of a list those that are taken are there, and the next that could be.
    let taken = |slot: &str| entry.links.contains_key(slot);
    let next: Vec<&str> = lists::lists(entry).iter().filter_map(|list| list.free(entry)).collect();
    made.retain(|slot| match slot.belongs {
        Belongs::ToStage => true,
        Belongs::ToList(_) => taken(slot.id) || next.contains(&slot.id),
        Belongs::ToEntry(of) => taken(of),
    });
    made
}

/// The kind of signal that a stage of this setup gives.
///
/// A stage whose kind is that of a main input which is empty gives a picture.
pub fn kind_of(setup: &Setup, id: StageId) -> SignalKind {
    // What a row gives follows from choices alone, which nothing feeds; so it stays while no row changes.
    let mut passed = Vec::new();
    let kind = kind_along(setup, id, &mut passed);
    passed.into_iter().for_each(|id| setup.stages.note_kind(id, kind));
    kind
}

/// What the first row gives that does not hand on the kind of its main input; and the rows that do.
fn kind_along(setup: &Setup, from: StageId, passed: &mut Vec<StageId>) -> SignalKind {
    // A row stands below what it takes, so following main inputs ends; the bound guards broken files.
    let mut id = from;
    for _ in 0..=setup.stages.len() {
        if let Some(kind) = setup.stages.kind(id) {
            return kind;
        }
        passed.push(id);
        let Some(entry) = setup.stage(id) else { break };
        if let Some(tool) = &entry.tool {
            return tool.gives;
        }
        let Some(stage) = stages::find(&entry.kind) else { break };
        match stage.spec().gives {
            Gives::Always(kind) => return kind,
            Gives::ByControls(f) => {
                let moment = setup.moment(f64::from(setup.picture.frames.first));
                return f(&own_values(setup, entry, moment));
            }
            Gives::LikeMain => {
                let Some(link) = entry.links.get(MAIN) else { break };
                match kind_of_link(setup, *link, entry.inside) {
                    Followed::Kind(kind) => return kind,
                    Followed::Stage(next) => id = next,
                }
            }
        }
    }
    SignalKind::Picture
}

enum Followed {
    Kind(SignalKind),
    Stage(StageId),
}

fn kind_of_link(setup: &Setup, link: Link, inside: Option<StageId>) -> Followed {
    use crate::setup::Source;
    if link.take.is_some() {
        return Followed::Kind(SignalKind::Field);
    }
    match link.from {
        Source::Stage(id) => Followed::Stage(id),
        Source::Input(number) => {
            let tool = inside.and_then(|row| setup.stage(row)).and_then(|row| row.tool.as_ref());
            let input = tool.and_then(|tool| tool.inputs.get(number));
            Followed::Kind(input.map_or(SignalKind::Picture, |input| input.kind))
        }
    }
}

/// The kind of signal that a link brings.
pub fn linked_kind(setup: &Setup, link: Link, inside: Option<StageId>) -> SignalKind {
    match kind_of_link(setup, link, inside) {
        Followed::Kind(kind) => kind,
        Followed::Stage(id) => kind_of(setup, id),
    }
}

/// The values of all controls of a row at a moment, in the order of [`controls`].
pub fn values(setup: &Setup, entry: &StageEntry, moment: Moment) -> Vec<Value> {
    controls(entry).into_iter().map(|spec| value(setup, entry, spec, moment)).collect()
}

/// The value of one control of a row at a moment.
pub fn value(setup: &Setup, entry: &StageEntry, spec: &ControlSpec, moment: Moment) -> Value {
    match setup.setting(entry, spec.id) {
        Some(setting) => value_of(spec, setting, setup, moment),
        None => default_value(&spec.kind, setup.picture),
    }
}

/// One number of a control of a row at a moment; `None` where it has no such number.
pub fn number(setup: &Setup, entry: &StageEntry, id: &str, axis: usize, moment: Moment) -> Option<f64> {
    let spec = control(entry, id)?;
    // One axis alone, since another may follow it.
    if let Some(Setting::Axes { axes }) = setup.setting(entry, spec.id)
        && axes.len() > 1
        && axes.len() == spec.kind.axis_names().len()
    {
        return Some(axis_value(spec, axes.get(axis)?, setup, moment));
    }
    if let Some(Setting::Shapes { shapes }) = setup.setting(entry, spec.id) {
        return stand(shapes, moment.now, &setup.tracks)?.get(axis).copied();
    }
    match value(setup, entry, spec, moment) {
        Value::Number(number) => (axis == 0).then_some(number),
        Value::Pair(pair) => pair.get(axis).copied(),
        Value::Colour(colour) => colour.get(axis).copied(),
        Value::Shapes(_)
        | Value::Switch(_)
        | Value::Choice(_)
        | Value::Media(_)
        | Value::Names(_)
        | Value::Text(_)
        | Value::Formula(_)
        | Value::Stops(_)
        | Value::Curve(_) => None,
    }
}

/// One number of a control over so many frames from one on; empty where it has no such number.
pub fn curve(setup: &Setup, of: &ControlAxis, from: f64, count: usize) -> Vec<f64> {
    let moments = (0..count).map(|step| setup.moment(from + step as f64));
    moments.filter_map(|moment| setup.number(of, moment)).collect()
}

/// The values of the stage's own controls alone.
fn own_values(setup: &Setup, entry: &StageEntry, moment: Moment) -> Vec<Value> {
    let skip = if amount_rule(entry) == AmountRule::None { 0 } else { COMMON.len() };
    values(setup, entry, moment).split_off(skip)
}

/// How many values of [`values`] stand before the stage's own.
pub fn common_count(entry: &StageEntry) -> usize {
    if amount_rule(entry) == AmountRule::None { 0 } else { COMMON.len() }
}

/// Where a control starts, on a picture of this size.
pub fn default_value(kind: &ControlKind, picture: PictureFormat) -> Value {
    let (width, height) = (f64::from(picture.width), f64::from(picture.height));
    match kind {
        ControlKind::Number(spec) => Value::Number(spec.default),
        ControlKind::Switch { default } => Value::Switch(*default),
        ControlKind::Choice { default, .. } => Value::Choice(*default),
        ControlKind::Colour { default, .. } => Value::Colour(*default),
        ControlKind::Point { default_share: [x, y] } => Value::Pair([x * width, y * height]),
        ControlKind::Size { default_share: [x, y] } => Value::Pair([x * height, y * height]),
        ControlKind::Media { .. } => Value::Media(None),
        ControlKind::Names => Value::Names(Vec::new()),
        ControlKind::Text { default } => Value::Text((*default).into()),
        ControlKind::Formula { default } => Value::Formula(written(default)),
        ControlKind::Curve => Value::Curve(vec![[0.0; 2], [1.0; 2]]),
        ControlKind::Shapes => Value::Shapes(Vec::new()),
        ControlKind::Stops => Value::Stops(
            [0.0, 1.0].map(|at| Stop { at, colour: [at; 3], alpha: 1.0, smooth: false }).to_vec(),
        ),
    }
}

/// The setting that stands for a control's default.
pub fn default_setting(kind: &ControlKind, picture: PictureFormat) -> Setting {
    match default_value(kind, picture) {
        Value::Number(number) => Setting::number(number),
        Value::Pair(pair) => Setting::numbers(&pair),
        Value::Colour(colour) => Setting::numbers(&colour),
        Value::Switch(on) => Setting::Switch(on),
        Value::Choice(index) => {
            let id = match kind {
                ControlKind::Choice { options, .. } => options.get(index).map_or("", |option| option.id),
                _ => "",
            };
            Setting::Choice(id.into())
        }
        Value::Text(text) => Setting::Choice(text),
        Value::Formula(formula) => Setting::Choice(formula.text().to_owned()),
        Value::Stops(stops) => Setting::Stops { stops },
        Value::Curve(curve) => Setting::Curve { curve },
        Value::Shapes(_) => Setting::Shapes { shapes: Vec::new() },
        Value::Media(_) | Value::Names(_) => Setting::Names(Vec::new()),
    }
}

/// A formula that was understood when it was set; nothing everywhere where it is none.
fn written(text: &str) -> PixelFormula {
    PixelFormula::parse(text).unwrap_or_else(|_| PixelFormula::nothing())
}

/// One number of a point, size or colour at a moment.
fn axis_value(spec: &ControlSpec, feed: &Feed, setup: &Setup, moment: Moment) -> f64 {
    let number = feed.at(moment, setup);
    if matches!(spec.kind, ControlKind::Size { .. }) { number.max(0.0) } else { number }
}

/// A setting's value at a moment. One that does not fit the control gives the control's default.
fn value_of(spec: &ControlSpec, setting: &Setting, setup: &Setup, moment: Moment) -> Value {
    let axis = |feed: &Feed| axis_value(spec, feed, setup, moment);
    match (&spec.kind, setting) {
        (ControlKind::Number(bounds), Setting::Feed(feed)) => {
            let value = feed.at(moment, setup).clamp(bounds.least, bounds.most);
            Value::Number(if bounds.whole { value.round() } else { value })
        }
        (ControlKind::Point { .. } | ControlKind::Size { .. }, Setting::Axes { axes }) if axes.len() == 2 => {
            Value::Pair([axis(&axes[0]), axis(&axes[1])])
        }
        (ControlKind::Colour { .. }, Setting::Axes { axes }) if axes.len() == 3 => {
            Value::Colour([axis(&axes[0]), axis(&axes[1]), axis(&axes[2])])
        }
        (ControlKind::Switch { .. }, Setting::Switch(on)) => Value::Switch(*on),
        (ControlKind::Choice { default, options }, Setting::Choice(id)) => {
            Value::Choice(options.iter().position(|option| option.id == id).unwrap_or(*default))
        }
        (ControlKind::Media { .. }, Setting::Media { media }) => Value::Media(Some(*media)),
        (ControlKind::Names, Setting::Names(names)) => Value::Names(names.clone()),
        (ControlKind::Text { .. }, Setting::Choice(text)) => Value::Text(text.clone()),
        (ControlKind::Stops, Setting::Stops { stops }) => Value::Stops(stops.clone()),
        (ControlKind::Curve, Setting::Curve { curve }) => Value::Curve(curve.clone()),
        (ControlKind::Shapes, Setting::Shapes { shapes }) => {
            Value::Shapes(laid(shapes, moment.now, &setup.tracks))
        }
        (ControlKind::Formula { .. }, Setting::Choice(text)) => Value::Formula(written(text)),
        (ControlKind::Formula { .. }, Setting::Feed(Feed::Formula(feed))) => {
            let formula = written(feed.formula.text());
            Value::Formula(formula.with_numbers(|word| feed.word(word, moment, setup)))
        }
        (kind, _) => default_value(kind, setup.picture),
    }
}

fn curve_fits(points: &[[f64; 2]]) -> Result<(), String> {
    let within = |value: &f64| (-100.0..=100.0).contains(value);
    if points.is_empty() || points.len() > MOST_STOPS {
        return Err(format!("takes 1 to {MOST_STOPS} points"));
    }
    if points.iter().flatten().all(within) { Ok(()) } else { Err("takes points from -100 to 100".into()) }
}

/// Most stops that a gradient, or points that a tone curve, takes.
const MOST_STOPS: usize = 64;

fn stops_fit(stops: &[Stop]) -> Result<(), String> {
    if stops.is_empty() || stops.len() > MOST_STOPS {
        return Err(format!("takes 1 to {MOST_STOPS} stops"));
    }
    let share = |value: f64| (0.0..=1.0).contains(&value);
    match stops.iter().find(|stop| {
        !share(stop.at) || !share(stop.alpha) || !stop.colour.iter().all(|v| v.abs() <= 65_504.0)
    }) {
        Some(stop) => Err(format!(
            "has a stop at {} whose place or alpha is not 0 to 1, or whose colour is too large",
            stop.at
        )),
        None => Ok(()),
    }
}

fn pixel_fits(text: &str, names: &[String]) -> Result<(), String> {
    let formula = PixelFormula::parse(text).map_err(|error| error.to_string())?;
    match formula.words().iter().find(|word| !names.contains(word)) {
        Some(word) => Err(format!("knows no `{word}`")),
        None => Ok(()),
    }
}

/// Whether a setting fits a control: its form, its bounds, its choices. `Err` says what is wanted.
pub fn fits(spec: &ControlSpec, setting: &Setting) -> Result<(), String> {
    let axes = |count: usize| match setting {
        Setting::Axes { axes } if axes.len() == count => Ok(()),
        _ => Err(format!("wants {count} numbers")),
    };
    if !matches!(spec.kind, ControlKind::Formula { .. }) {
        setting.feeds().iter().try_for_each(Feed::check).map_err(str::to_owned)?;
    }
    match &spec.kind {
        ControlKind::Number(bounds) => match setting {
            Setting::Feed(feed) => {
                let beyond = |value: &f64| !(bounds.least..=bounds.most).contains(value);
                let out = feed.numbers().iter().any(beyond);
                if out { Err(format!("takes {} to {}", bounds.least, bounds.most)) } else { Ok(()) }
            }
            _ => Err("wants a number".into()),
        },
        ControlKind::Point { .. } | ControlKind::Size { .. } => axes(2),
        ControlKind::Colour { .. } => axes(3),
        ControlKind::Switch { .. } => match setting {
            Setting::Switch(_) => Ok(()),
            _ => Err("is on or off".into()),
        },
        ControlKind::Choice { options, .. } => match setting {
            Setting::Choice(id) if options.iter().any(|option| option.id == id) => Ok(()),
            _ => {
                let ids: Vec<&str> = options.iter().map(|option| option.id).collect();
                Err(format!("is one of {}", ids.join(", ")))
            }
        },
        ControlKind::Media { .. } => match setting {
            Setting::Media { .. } => Ok(()),
            _ => Err("wants a medium".into()),
        },
        ControlKind::Formula { .. } => match setting {
            Setting::Choice(text) => pixel_fits(text, &[]),
            Setting::Feed(Feed::Formula(feed)) => {
                feed.names.values().try_for_each(Feed::check).map_err(str::to_owned)?;
                pixel_fits(feed.formula.text(), &feed.names.keys().cloned().collect::<Vec<_>>())
            }
            _ => Err("wants a formula".into()),
        },
        ControlKind::Stops => match setting {
            Setting::Stops { stops } => stops_fit(stops),
            _ => Err("wants the stops of a gradient".into()),
        },
        ControlKind::Shapes => match setting {
            Setting::Shapes { shapes } if shapes.len() <= MOST_SHAPES => {
                shapes.iter().try_for_each(|shape| shape.check().map_err(str::to_owned))
            }
            Setting::Shapes { .. } => Err(format!("takes up to {MOST_SHAPES} outlines")),
            _ => Err("wants outlines".into()),
        },
        ControlKind::Curve => match setting {
            Setting::Curve { curve } => curve_fits(curve),
            _ => Err("wants the points of a tone curve".into()),
        },
        ControlKind::Text { .. } => match setting {
            Setting::Choice(text) if text.len() <= LONGEST_TEXT => Ok(()),
            Setting::Choice(_) => Err(format!("takes up to {LONGEST_TEXT} letters")),
            _ => Err("wants a text".into()),
        },
        ControlKind::Names => match setting {
            Setting::Names(_) => Ok(()),
            _ => Err("wants a list of names".into()),
        },
    }
}
