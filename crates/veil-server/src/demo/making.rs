//! How a setup of the demo is made: as a person would, by edits, with the tools that ship.

use veil_core::feed::{Feed, TrackFeed};
use veil_core::setup::{
    Command, CommandError, Edit, MediaId, NewRow, Setting, Setup, Source, StageEntry, StageId, Tool,
    ToolError, ToolUse,
};
use veil_core::spec::MAIN;
use veil_core::tracks::{TrackAxis, TrackId};

use crate::error::ServeError;
use crate::shipped::shipped;

/// A setup, and what is done to it then.
pub(super) struct Made {
    pub(super) setup: Setup,
    pub(super) steps: Vec<Step>,
}

/// What is done after a version was kept.
pub(super) struct Step {
    pub(super) version: &'static str,
    pub(super) commands: Vec<Command>,
}

/// A setup while it is made.
pub(super) struct Making {
    tools: Vec<Tool>,
    now: Setup,
    /// As it was when the first version was kept.
    first: Option<Setup>,
    steps: Vec<Step>,
}

impl Making {
    /// An empty setup with some rows.
    pub(super) fn of(
        mut empty: Setup,
        rows: impl IntoIterator<Item = StageEntry>,
    ) -> Result<Self, ServeError> {
        empty.stages.splice(0..0, rows);
        let tools = shipped()?.into_iter().map(|(tool, _)| tool).collect();
        Ok(Self { tools, now: empty, first: None, steps: Vec::new() })
    }

    fn apply(&mut self, command: Command) -> Result<Option<StageId>, CommandError> {
        let (now, edit) = Edit::of(&command, &self.now)?;
        self.now = now;
        if let Some(step) = self.steps.last_mut() {
            step.commands.push(command);
        }
        Ok(edit.row)
    }

    fn link(&mut self, stage: StageId, slot: &str, from: StageId) -> Result<(), CommandError> {
        self.apply(Command::Link { stage, slot: slot.into(), from: Some(Source::Stage(from)), take: None })
            .map(drop)
    }

    /// Puts in a tool that ships, its lengths scaled to the picture, with what its inputs take.
    pub(super) fn tool(&mut self, name: &str, inputs: &[StageId]) -> Result<StageId, ServeError> {
        let known = self.tools.iter().find(|tool| tool.about.name == name);
        let missing = || ServeError::Shipped { file: name.into(), why: "it does not come along".into() };
        let tool = Box::new(known.ok_or_else(missing)?.clone());
        // At the end: what else takes an input goes on to take that, not what the tool makes of it.
        let outside = self.now.stages.iter().rev().filter(|row| row.inside.is_none());
        let after = outside.map(|row| row.id).find(|id| Some(*id) != self.now.final_id());
        let place = NewRow { after: after.filter(|_| !inputs.is_empty()), ..NewRow::default() };
        let row = self.apply(Command::PlaceTool { tool, place, scale_lengths: true })?;
        let row = row.ok_or(CommandError::Tool(ToolError::NoRows))?;
        for (number, input) in inputs.iter().enumerate() {
            self.plugs(row, number, *input)?;
        }
        Ok(row)
    }

    /// Plugs something else into one of a tool's inputs.
    pub(super) fn plugs(&mut self, row: StageId, input: usize, from: StageId) -> Result<(), ServeError> {
        Ok(self.link(row, ToolUse::slot_id(input), from)?)
    }

    /// Sets what a tool shows on its faceplate.
    pub(super) fn set(&mut self, row: StageId, label: &str, setting: Setting) -> Result<(), ServeError> {
        let faceplate =
            self.now.stage(row).and_then(|row| row.tool.as_ref()).map(|tool| tool.faceplate.as_slice());
        let shown = faceplate.and_then(|entries| entries.iter().find(|entry| entry.label == label));
        let shown = shown.ok_or_else(|| CommandError::Tool(ToolError::Faceplate(label.into())))?;
        let (stage, control) = (shown.stage, shown.control.clone());
        self.apply(Command::Set { stage, control, setting: Some(setting) })?;
        Ok(())
    }

    /// Final gives what a row gives.
    pub(super) fn shows(&mut self, row: StageId) -> Result<(), ServeError> {
        let last = self.now.final_id().ok_or(CommandError::Final)?;
        Ok(self.link(last, MAIN, row)?)
    }

    /// A version is kept of all that was done until now.
    pub(super) fn keeps(&mut self, version: &'static str) {
        self.first.get_or_insert_with(|| self.now.clone());
        self.steps.push(Step { version, commands: Vec::new() });
    }

    pub(super) fn done(self) -> Made {
        Made { setup: self.first.unwrap_or(self.now), steps: self.steps }
    }
}

pub(super) fn number(value: f64) -> Setting {
    Setting::number(value)
}

pub(super) fn choice(id: &str) -> Setting {
    Setting::Choice(id.into())
}

pub(super) fn pair(x: f64, y: f64) -> Setting {
    Setting::numbers(&[x, y])
}

pub(super) fn colour(values: [f64; 3]) -> Setting {
    Setting::numbers(&values)
}

/// The place of a track.
pub(super) fn with(track: u32) -> Setting {
    let axis = |axis| Feed::Track(TrackFeed::new(TrackId(track), axis));
    Setting::Axes { axes: vec![axis(TrackAxis::X), axis(TrackAxis::Y)] }
}

/// How far a track has gone since a frame, and so much more.
pub(super) fn gone_with(track: u32, axis: TrackAxis, since: f64, more: f64) -> Setting {
    let feed = TrackFeed::new(TrackId(track), axis);
    Setting::Feed(Feed::Track(TrackFeed { since: Some(since), offset: more.into(), ..feed }))
}

pub(super) fn plate(id: StageId, name: &str, media: MediaId) -> StageEntry {
    StageEntry::new(id, "plate", name).with("media", Setting::Media { media })
}
