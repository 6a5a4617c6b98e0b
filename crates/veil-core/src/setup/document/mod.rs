//! The setup itself: its stages in working order, its links, its media.

pub(in crate::setup) mod all_rows;
pub(in crate::setup) mod check;
pub(in crate::setup) mod difference;
pub(in crate::setup) mod following;
pub(in crate::setup) mod own;
pub(in crate::setup) mod schema;
pub(in crate::setup) mod text;
pub(in crate::setup) mod tool_use;

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::bakes::Bake;
use crate::controls::Setting;
use crate::feed::{ControlAxis, Moment};
use crate::ids::{MediaId, StageId, StageKind};
use crate::media::Media;
use crate::picture::PictureFormat;
use crate::setup::document::all_rows::Rows;
use crate::setup::document::own::OwnControl;
use crate::setup::document::tool_use::ToolUse;
use crate::signal::Take;
use crate::tracks::Track;

/// The format of the files this program writes.
pub const FORMAT: u32 = 1;

/// Where a slot takes its signal from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Source {
    /// The result of a stage.
    Stage(StageId),
    /// What the tool this row is inside of takes at its input of this number.
    Input(usize),
}

/// What a slot takes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Link {
    /// From where.
    pub from: Source,
    /// Which float of a picture, where a field is wanted of one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub take: Option<Take>,
}

impl Link {
    /// From a stage, as it is.
    pub const fn stage(id: StageId) -> Self {
        Self { from: Source::Stage(id), take: None }
    }
}

/// One stage of a setup.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StageEntry {
    /// Stable.
    pub id: StageId,
    /// Which kind.
    pub kind: StageKind,
    /// Unique among the names of a setup.
    pub name: String,
    /// Whether it works or hands on its bypass.
    #[serde(default = "on", skip_serializing_if = "Clone::clone")]
    pub on: bool,
    /// The controls that differ from their defaults, by id.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub controls: BTreeMap<String, Setting>,
    /// What its slots take, by slot id.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub links: BTreeMap<String, Link>,
    /// The tool's row that it is inside of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inside: Option<StageId>,
    /// On a tool's row: which tool.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tool: Option<ToolUse>,
    /// Its result is kept in files.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bake: Option<Bake>,
    /// The row of the same kind that it follows in every control it does not set itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub copy_of: Option<StageId>,
    /// What a person wrote beside it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// The colour at its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tab: Option<Tab>,
    /// The name of the group that it is in; rows of one name fold together.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub group: String,
}

/// A colour that a person marks rows with. Lines keep the colours of their kinds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Tab {
    /// A warm red-brown.
    Clay,
    /// A yellow-green.
    Moss,
    /// A grey blue.
    Slate,
    /// A red violet.
    Plum,
    /// A pale ochre.
    Sand,
    /// A pale blue.
    Ice,
}

const fn on() -> bool {
    true
}

impl StageEntry {
    /// A stage as it comes, without links.
    pub fn new(id: StageId, kind: &str, name: impl Into<String>) -> Self {
        Self {
            id,
            kind: StageKind(kind.into()),
            name: name.into(),
            on: true,
            controls: BTreeMap::new(),
            links: BTreeMap::new(),
            inside: None,
            tool: None,
            bake: None,
            copy_of: None,
            note: String::new(),
            tab: None,
            group: String::new(),
        }
    }

    /// Renames the rows whose controls its own follow.
    pub(crate) fn rename_followed(&mut self, new: impl Fn(StageId) -> StageId) {
        self.follow_instead(|of| ControlAxis { stage: new(of.stage), ..of.clone() });
    }

    /// Follows other numbers instead.
    pub(crate) fn follow_instead(&mut self, new: impl Fn(&ControlAxis) -> ControlAxis) {
        let own = self.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
        for feed in self.controls.values_mut().chain(own).flat_map(Setting::feeds_mut) {
            feed.follow_instead(&new);
        }
    }

    /// The same, taking a stage in a slot.
    pub fn taking(mut self, slot: &str, from: StageId) -> Self {
        self.links.insert(slot.into(), Link::stage(from));
        self
    }

    /// The same with a control set.
    pub fn with(mut self, control: &str, setting: Setting) -> Self {
        self.controls.insert(control.into(), setting);
        self
    }
}

/// The document of one shot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Setup {
    /// Format of the file.
    pub format: u32,
    /// As shown.
    pub name: String,
    /// Size, rate and range.
    pub picture: PictureFormat,
    /// What it reads.
    #[serde(default)]
    pub media: Vec<Media>,
    /// In working order: whatever a stage needs stands above it. The last is the final row.
    pub stages: Rows,
    /// The controls that a person added to it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub own: Vec<OwnControl>,
    /// What is followed through the shot.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tracks: Vec<Track>,
}

impl Setup {
    /// A setup with nothing but its final row.
    pub fn empty(name: impl Into<String>, picture: PictureFormat) -> Self {
        let last = StageEntry::new(StageId(1), StageKind::FINAL, "Final");
        Self {
            format: FORMAT,
            name: name.into(),
            picture,
            media: Vec::new(),
            stages: vec![last].into(),
            own: Vec::new(),
            tracks: Vec::new(),
        }
    }

    /// A stage.
    pub fn stage(&self, id: StageId) -> Option<&StageEntry> {
        self.stages.with_id(id)
    }

    /// What a control of a row is set to: by the row, or by the row that it is a copy of. None where neither says.
    pub fn setting<'a>(&'a self, entry: &'a StageEntry, control: &str) -> Option<&'a Setting> {
        // A copy of a copy is followed; the bound guards broken files.
        let mut at = entry;
        for _ in 0..=self.stages.len() {
            if let Some(setting) = at.controls.get(control) {
                return Some(setting);
            }
            at = self.stage(at.copy_of?)?;
        }
        None
    }

    /// Which row a stage is, from the top.
    pub fn row(&self, id: StageId) -> Option<usize> {
        self.stages.place(id)
    }

    /// A medium.
    pub fn medium(&self, id: MediaId) -> Option<&Media> {
        self.media.iter().find(|media| media.id == id)
    }

    /// The last row, which a render takes by default.
    pub fn final_id(&self) -> Option<StageId> {
        self.stages.last().map(|stage| stage.id)
    }

    /// An id that no stage has.
    pub fn free_id(&self) -> StageId {
        StageId(self.stages.iter().map(|stage| stage.id.0).max().unwrap_or(0) + 1)
    }

    /// An id that no medium has.
    pub fn free_media_id(&self) -> MediaId {
        MediaId(self.media.iter().map(|media| media.id.0).max().unwrap_or(0) + 1)
    }

    /// `wanted`, or with a number after it where a row has that name.
    pub fn free_name(&self, wanted: &str) -> String {
        let taken = |name: &str| self.stages.iter().any(|stage| stage.name == name);
        if !taken(wanted) {
            return wanted.to_owned();
        }
        let base = wanted.trim_end_matches(|c: char| c.is_ascii_digit()).trim_end();
        (2..).map(|number| format!("{base} {number}")).find(|name| !taken(name)).unwrap_or_default()
    }

    /// The slots that take a stage: which row, which slot.
    pub fn takers(&self, id: StageId) -> Vec<(StageId, &str)> {
        self.stages
            .taking(id)
            .flat_map(|row| row.links.iter().map(move |(slot, link)| (row, slot, link)))
            .filter(|(_, _, link)| link.from == Source::Stage(id))
            .map(|(row, slot, _)| (row.id, slot.as_str()))
            .collect()
    }

    /// The same with no row baked, so that all is worked out anew.
    pub fn without_bakes(mut self) -> Self {
        self.stages.iter_mut().for_each(|row| row.bake = None);
        self
    }

    /// The moment of a frame in this shot.
    pub fn moment(&self, frame: f64) -> Moment {
        let since = frame - f64::from(self.picture.frames.first);
        Moment { now: frame, since, secs: since / self.picture.fps }
    }

    /// What a link gives its signal from, once inputs of tools are followed outwards.
    ///
    /// `inside` is the tool's row that the taking stage is inside of. `None` where an input is empty and nothing stands in
    /// for it.
    pub fn outer_source(
        &self,
        mut link: Link,
        mut inside: Option<StageId>,
    ) -> Option<(StageId, Option<Take>)> {
        let mut take = link.take;
        loop {
            match link.from {
                Source::Stage(id) => return Some((id, take)),
                Source::Input(number) => {
                    let tool_row = self.stage(inside?)?;
                    match tool_row.links.get(ToolUse::slot_id(number)) {
                        Some(outer) => {
                            link = *outer;
                            take = take.or(link.take);
                            inside = tool_row.inside;
                        }
                        None => {
                            let (other, of_it) = tool_row.tool.as_ref()?.instead_of(number)?;
                            link.from = Source::Input(other);
                            take = take.or(of_it);
                        }
                    }
                }
            }
        }
    }
}
