//! The slots and controls a row has, whether it is a stage or a tool.

use std::sync::LazyLock;

use crate::controls::{AnyControl, ControlSpec, Setting, Unit, Value};
use crate::feed::{ControlAxis, Moment, Others};
use crate::lists;
use crate::mattes;
use crate::setup::{Link, Setup, StageEntry, StageId, ToolUse};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Belongs, Gives, MAIN, MATTE};
use crate::stages;

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

static COMMON: LazyLock<Vec<AnyControl>> = LazyLock::new(|| {
    vec![
        ControlSpec::number("amount", 1.0, (0.0, 1.0))
            .within(0.0, 1.0)
            .help("How much of this stage is seen; 0 hands on what came in.")
            .with_id(common::AMOUNT)
            .any(),
        ControlSpec::switch("invert matte", false)
            .help("The stage works where the matte is not.")
            .with_id(common::MATTE_INVERT)
            .any(),
        ControlSpec::number("soften matte", 0.0, (0.0, 60.0))
            .within(0.0, 2000.0)
            .unit(Unit::Px)
            .help("Standard deviation of the blur on the matte, before it is used.")
            .with_id(common::MATTE_SOFTEN)
            .any(),
        ControlSpec::switch("matte counts", true)
            .help("Off, the stage works as if the matte were not there.")
            .with_id(common::MATTE_COUNTS)
            .any(),
    ]
});

/// The controls that every row with an amount has.
pub fn common_controls() -> &'static [AnyControl] {
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
pub fn controls(entry: &StageEntry) -> Vec<&'static AnyControl> {
    let common = if amount_rule(entry) == AmountRule::None { &[][..] } else { &COMMON };
    let own = stages::find(&entry.kind).map_or(&[][..], |stage| &stage.spec().controls);
    common.iter().chain(own).collect()
}

/// One control of a row by its id.
pub fn control(entry: &StageEntry, id: &str) -> Option<&'static AnyControl> {
    let of_list = || mattes::control(id).filter(|_| amount_rule(entry) != AmountRule::None);
    controls(entry).into_iter().find(|spec| spec.id == id).or_else(of_list)
}

/// The controls of a row, and those of the mattes after the first that it takes.
pub fn all_controls(entry: &StageEntry) -> Vec<&'static AnyControl> {
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

/// The value of one control of a row at a moment. A setting that does not fit, in a broken file, is the default.
pub fn value(setup: &Setup, entry: &StageEntry, spec: &AnyControl, moment: Moment) -> Value {
    let setting = setup.setting(entry, spec.id);
    let value = setting.and_then(|setting| spec.kind.at(setting, moment, setup));
    value.unwrap_or_else(|| spec.kind.start(setup.picture))
}

/// What a control of a row is set to, or the setting that stands for where it starts.
pub fn setting(setup: &Setup, entry: &StageEntry, spec: &AnyControl) -> Setting {
    let set = setup.setting(entry, spec.id).cloned();
    set.unwrap_or_else(|| spec.kind.start_setting(setup.picture))
}

/// One number of a control of a row at a moment; `None` where it has no such number.
pub fn number(setup: &Setup, entry: &StageEntry, id: &str, axis: usize, moment: Moment) -> Option<f64> {
    let spec = control(entry, id)?;
    spec.kind.number(&setting(setup, entry, spec), axis, moment, setup)
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
