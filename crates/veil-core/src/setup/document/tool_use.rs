//! A tool as a row uses it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::controls::Setting;
use crate::ids::StageId;
use crate::setup::document::own::OwnControl;
use crate::signal::{SignalKind, Take};
use crate::spec::MAIN;

/// What a tool takes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ToolInput {
    /// As shown.
    pub name: String,
    /// Which kind.
    pub kind: SignalKind,
    /// What it takes while nothing is plugged in.
    #[serde(default, skip_serializing_if = "Otherwise::is_nothing")]
    pub otherwise: Otherwise,
}

/// What an input takes that nothing is plugged into.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Otherwise {
    /// Nothing.
    #[default]
    Nothing,
    /// What an input before it takes; of a picture its luma where a field is wanted.
    Input(usize),
}

impl Otherwise {
    const fn is_nothing(&self) -> bool {
        matches!(self, Self::Nothing)
    }
}

/// A control of a row inside that the tool shows.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FaceplateEntry {
    /// As shown.
    pub label: String,
    /// The row inside.
    pub stage: StageId,
    /// Its control.
    pub control: String,
    /// The slider's run, where it differs from the control's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub range: Option<(f64, f64)>,
    /// Where it starts, where that differs from the control's own default.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub default: Option<Setting>,
}

/// A tool as a setup carries it, on the tool's row.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ToolUse {
    /// As the rack calls it.
    pub name: String,
    /// Which of the rack's numbers.
    pub number: u32,
    /// What it takes; the first is the main input where its kind is the tool's own.
    pub inputs: Vec<ToolInput>,
    /// What it gives.
    pub gives: SignalKind,
    /// The row inside that gives it.
    pub result: StageId,
    /// The controls it shows.
    pub faceplate: Vec<FaceplateEntry>,
    /// Whether rows inside were changed since that number was taken.
    #[serde(default, skip_serializing_if = "is_not")]
    pub own: bool,
    /// The controls that a person added to it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub controls: Vec<OwnControl>,
}

const fn is_not(flag: &bool) -> bool {
    !*flag
}

/// Slots of a tool's inputs, in order.
const SLOTS: [&str; 8] = [MAIN, "input2", "input3", "input4", "input5", "input6", "input7", "input8"];

impl ToolUse {
    /// How many inputs a tool may have.
    pub const MOST_INPUTS: usize = SLOTS.len();

    /// Renames the rows that it names.
    pub(in crate::setup) fn rename_rows(&mut self, new: impl Fn(StageId) -> StageId) {
        self.result = new(self.result);
        self.faceplate.iter_mut().for_each(|entry| entry.stage = new(entry.stage));
    }

    /// The slot of an input. Numbers beyond [`Self::MOST_INPUTS`] have the last.
    pub fn slot_id(number: usize) -> &'static str {
        SLOTS[number.min(SLOTS.len() - 1)]
    }

    /// The input that stands in for an empty one, and which float of it is taken.
    pub(in crate::setup) fn instead_of(&self, number: usize) -> Option<(usize, Option<Take>)> {
        let input = self.inputs.get(number)?;
        let Otherwise::Input(other) = input.otherwise else { return None };
        let kind = self.inputs.get(other)?.kind;
        let of_picture = kind == SignalKind::Picture && input.kind == SignalKind::Field;
        (other < number).then_some((other, of_picture.then_some(Take::Luma)))
    }

    /// Why an input cannot stand in as it should; none where all can.
    pub(in crate::setup) fn faulty_stand_in(&self) -> Option<String> {
        let faulty = |(number, input): (usize, &ToolInput)| {
            let Otherwise::Input(other) = input.otherwise else { return None };
            let kind = self.inputs.get(other).map(|other| other.kind).filter(|_| other < number);
            let fits = kind.is_some_and(|kind| {
                kind == input.kind || (kind == SignalKind::Picture && input.kind == SignalKind::Field)
            });
            (!fits).then(|| format!("no input before `{}` can stand in for it", input.name))
        };
        self.inputs.iter().enumerate().find_map(faulty)
    }

    /// The input that amount mixes with, where there is one.
    pub fn main_input(&self) -> Option<usize> {
        (self.inputs.first()?.kind == self.gives).then_some(0)
    }
}
