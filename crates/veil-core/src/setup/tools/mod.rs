//! Saved pieces of a setup.

pub(in crate::setup) mod making;
pub(in crate::setup) mod pace;
pub(in crate::setup) mod taking;

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::controls::ControlKind;
use crate::feed::{ControlAxis, Feed, FollowFeed};
use crate::setup::{Link, Setup, Source, StageEntry, StageId, StageKind, ToolUse};
use crate::shape;
use crate::spec::MAIN;

/// The format of the tool files this program writes.
pub const TOOL_FORMAT: u32 = 1;

/// A tool as the rack and its file hold it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tool {
    /// Format of the file.
    pub format: u32,
    /// How it is used: name, number, inputs, result and faceplate.
    pub about: ToolUse,
    /// Height of the picture it was made on, in pixels.
    pub made_at_height: u32,
    /// The rows, in working order.
    pub stages: Vec<StageEntry>,
}

/// Why rows make no tool, or a tool cannot be used.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum ToolError {
    /// Nothing to make it of.
    #[error("choose the rows that the tool is made of")]
    NoRows,
    /// A row that cannot be part of one.
    #[error("`{0}` cannot be inside a tool")]
    Row(String),
    /// More than one row is used from outside.
    #[error("a tool gives one signal, but `{0}` and `{1}` are both used outside the chosen rows")]
    TwoResults(String, String),
    /// Rows outside stand between the chosen ones.
    #[error("`{0}` needs a chosen row and is needed by one; choose it too")]
    Between(String),
    /// Too much is taken from outside.
    #[error("a tool has at most {most} inputs, these rows need {needed}", most = ToolUse::MOST_INPUTS)]
    Inputs {
        /// How many are needed.
        needed: usize,
    },
    /// A faceplate entry that names no control.
    #[error("the faceplate names `{0}`, which no chosen row has")]
    Faceplate(String),
    /// From a newer program.
    #[error("this tool has format {0}; this program reads up to {TOOL_FORMAT}")]
    Format(u32),
    /// A file whose rows do not hold together.
    #[error("the tool `{name}` is broken: {why}")]
    Broken {
        /// Its name.
        name: String,
        /// What is wrong.
        why: String,
    },
}

/// What chosen rows would become.
pub(in crate::setup) struct Outline {
    pub(in crate::setup) rows: Vec<StageId>,
    pub(in crate::setup) result: StageId,
    /// What is taken from outside, the main input first.
    pub(in crate::setup) taken: Vec<Link>,
}

impl Outline {
    /// Finds result and inputs of the chosen rows, with all that is inside them.
    pub(in crate::setup) fn of(setup: &Setup, chosen: &[StageId]) -> Result<Self, ToolError> {
        let mut set: BTreeSet<StageId> = chosen.iter().copied().collect();
        for stage in &setup.stages {
            if stage.inside.is_some_and(|row| set.contains(&row)) {
                set.insert(stage.id);
            }
        }
        let rows: Vec<&StageEntry> = setup.stages.iter().filter(|stage| set.contains(&stage.id)).collect();
        let (Some(last), Some(first)) = (rows.last(), rows.first()) else { return Err(ToolError::NoRows) };
        if let Some(row) = rows.iter().find(|row| {
            row.kind.is_final()
                || (row.inside != first.inside && !set.contains(&row.inside.unwrap_or(row.id)))
        }) {
            return Err(ToolError::Row(row.name.clone()));
        }
        let outer = |id: &StageId| setup.takers(*id).iter().any(|(taker, _)| !set.contains(taker));
        let mut results = rows.iter().filter(|row| outer(&row.id));
        let result = results.next().unwrap_or(last);
        if let Some(second) = results.next() {
            return Err(ToolError::TwoResults(result.name.clone(), second.name.clone()));
        }
        let mut taken: Vec<Link> = Vec::new();
        let mut note = |link: Link| {
            let link = Link { take: None, ..link };
            let inner = matches!(link.from, Source::Stage(id) if set.contains(&id));
            if !inner && !taken.contains(&link) {
                taken.push(link);
            }
        };
        Self::main_links(setup, &set, result.id).into_iter().for_each(&mut note);
        rows.iter()
            .filter(|row| row.inside.is_none_or(|tool| !set.contains(&tool)))
            .flat_map(|row| row.links.values())
            .for_each(|link| note(*link));
        if taken.len() > ToolUse::MOST_INPUTS {
            return Err(ToolError::Inputs { needed: taken.len() });
        }
        Ok(Self { rows: rows.iter().map(|row| row.id).collect(), result: result.id, taken })
    }

    /// The outer source that main links lead to from a row, if they leave the set.
    fn main_links(setup: &Setup, set: &BTreeSet<StageId>, from: StageId) -> Option<Link> {
        let mut id = from;
        loop {
            let link = *setup.stage(id)?.links.get(MAIN)?;
            match link.from {
                Source::Stage(next) if set.contains(&next) => id = next,
                _ => return Some(link),
            }
        }
    }
}

impl Tool {
    /// Checks that it can be used.
    pub fn check(&self) -> Result<(), ToolError> {
        if self.format == 0 || self.format > TOOL_FORMAT {
            return Err(ToolError::Format(self.format));
        }
        let broken = |why: String| ToolError::Broken { name: self.about.name.clone(), why };
        if self.about.name.trim().is_empty() {
            return Err(broken("it has no name".into()));
        }
        if self.about.inputs.len() > ToolUse::MOST_INPUTS {
            return Err(ToolError::Inputs { needed: self.about.inputs.len() });
        }
        if let Some(why) = self.about.faulty_stand_in() {
            return Err(broken(why));
        }
        if !self.stages.iter().any(|stage| stage.id == self.about.result) {
            return Err(broken("its result is none of its rows".into()));
        }
        for entry in &self.about.faceplate {
            let stage = self.stages.iter().find(|stage| stage.id == entry.stage);
            let own = entry.stage == StageId::WHOLE
                && self.about.controls.iter().any(|own| own.id == entry.control);
            let known = own
                || stage.is_some_and(|stage| {
                    stage.kind.is_tool()
                        || crate::stages::find(&stage.kind).is_some_and(|kind| {
                            kind.spec().controls.iter().any(|control| control.id == entry.control)
                        })
                        || shape::common::ALL.contains(&entry.control.as_str())
                });
            if !known {
                return Err(ToolError::Faceplate(entry.label.clone()));
            }
        }
        Ok(())
    }

    /// The tool's row and the rows inside, with ids and names that are free in `setup`.
    ///
    /// `lengths` scales every length and place, for a picture of another size.
    pub(in crate::setup) fn rows_for(&self, setup: &Setup, lengths: f64) -> Vec<StageEntry> {
        let mut next = setup.free_id().0;
        let mut ids = BTreeMap::new();
        for stage in &self.stages {
            ids.insert(stage.id, StageId(next));
            next += 1;
        }
        let row_id = StageId(next);
        ids.insert(StageId::WHOLE, row_id);
        let new_id = |id: StageId| ids.get(&id).copied().unwrap_or(id);
        let mut named = setup.clone();
        let mut free_name = |wanted: &str| {
            let name = named.free_name(wanted);
            let id = named.free_id();
            named.stages.push(StageEntry::new(id, StageKind::TOOL, name.clone()));
            name
        };
        let mut row = StageEntry::new(row_id, StageKind::TOOL, free_name(&self.about.name));
        let mut about = self.about.clone();
        about.rename_rows(new_id);
        row.tool = Some(about);
        let mut rows = Vec::new();
        for stage in &self.stages {
            let mut inner = stage.clone();
            inner.id = new_id(stage.id);
            inner.name = free_name(&stage.name);
            inner.inside = Some(stage.inside.map_or(row_id, new_id));
            inner.copy_of = stage.copy_of.map(new_id);
            for link in inner.links.values_mut() {
                if let Source::Stage(id) = &mut link.from {
                    *id = new_id(*id);
                }
            }
            if let Some(tool) = &mut inner.tool {
                tool.rename_rows(new_id);
            }
            if lengths != 1.0 {
                let is_length = |of: &ControlAxis| {
                    let row = self.stages.iter().find(|row| row.id == of.stage);
                    row.and_then(|row| shape::control(row, &of.control))
                        .is_some_and(|spec| spec.kind.is_length())
                };
                scale_lengths(&mut inner, lengths, is_length);
            }
            rows.push(inner);
        }
        row.rename_followed(new_id);
        rows.iter_mut().for_each(|row| row.rename_followed(new_id));
        for entry in &self.about.faceplate {
            let inner = rows.iter_mut().find(|inner| inner.id == new_id(entry.stage));
            if let (Some(inner), Some(default)) = (inner, &entry.default) {
                inner.controls.entry(entry.control.clone()).or_insert_with(|| default.clone());
            }
        }
        rows.push(row);
        rows
    }
}

/// Multiplies the lengths and places of a stage's controls. What follows a length that is scaled too keeps its scale. A
/// plain length stays within what its control takes: no cell of a mosaic is smaller than a pixel.
fn scale_lengths(entry: &mut StageEntry, factor: f64, is_length: impl Fn(&ControlAxis) -> bool) {
    let specs = shape::all_controls(entry);
    for (id, setting) in &mut entry.controls {
        setting.scale_drawn(factor);
        let Some(spec) = specs.iter().find(|spec| spec.id == id && spec.kind.is_length()) else { continue };
        for axis in 0..setting.feeds().len() {
            let scaled = match &setting.feeds()[axis] {
                Feed::Follow(feed) if is_length(&feed.follow) => {
                    Feed::Follow(FollowFeed { offset: feed.offset.scaled(factor), ..feed.clone() })
                }
                // A formula works on the lengths that it was written for.
                Feed::Formula(feed) => {
                    let mut feed = feed.clone();
                    for named in feed.names.values_mut() {
                        if named.follows().into_iter().any(&is_length) {
                            *named = named.scaled(1.0 / factor);
                        }
                    }
                    Feed::Formula(feed).scaled(factor)
                }
                feed => feed.scaled(factor),
            };
            let scaled = match &spec.kind {
                ControlKind::Number(bounds) => bounds.bounded(scaled),
                _ => scaled,
            };
            *setting = setting.with_feed(axis, scaled);
        }
    }
}
