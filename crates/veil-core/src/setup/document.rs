//! The setup itself: its stages in working order, its links, its media.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{OwnControl, Rows, Setting, ToolUse};
use crate::bakes::Bake;
use crate::colour::{ColourSpace, Working};
use crate::deep::deep;
use crate::feed::{ControlAxis, Feed, Keys, Moment, Others};
use crate::key::{Key, Keyed};
use crate::shape;
use crate::signal::Take;
use crate::tracks::{Track, TrackId};

/// The format of the files this program writes.
pub const FORMAT: u32 = 1;

/// A stage's name in links; never used again for another stage while the setup holds it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct StageId(pub u32);

/// A medium's name in plate controls.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct MediaId(pub u32);

/// The id of a kind of stage, as the registry lists it; [`StageKind::TOOL`] for a tool's row.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct StageKind(pub String);

impl StageKind {
    /// A row that stands for the rows inside it.
    pub const TOOL: &'static str = "tool";
    /// The last row.
    pub const FINAL: &'static str = "final";

    /// Whether it is a tool's row.
    pub fn is_tool(&self) -> bool {
        self.0 == Self::TOOL
    }

    /// Whether it is the last row.
    pub fn is_final(&self) -> bool {
        self.0 == Self::FINAL
    }
}

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

/// Most frames of a shot.
const MOST_FRAMES: usize = 1_000_000;

/// A frame that somebody asks for; may lie between frames. Within eight digits of 0, as the names of files have them.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(try_from = "f64")]
pub struct FrameNumber(f64);

impl FrameNumber {
    const FURTHEST: f64 = 99_999_999.0;

    /// As a number.
    pub const fn get(self) -> f64 {
        self.0
    }
}

/// Why a number is no frame.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[error("{0} is no frame; frames go from -99999999 to 99999999")]
pub struct NoFrame(f64);

impl TryFrom<f64> for FrameNumber {
    type Error = NoFrame;
    fn try_from(frame: f64) -> Result<Self, NoFrame> {
        if frame.abs() <= Self::FURTHEST { Ok(Self(frame)) } else { Err(NoFrame(frame)) }
    }
}

/// A run of frames, both ends in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Frames {
    /// First frame.
    pub first: i32,
    /// Last frame, not before the first.
    pub last: i32,
}

impl Frames {
    /// How many.
    pub fn count(self) -> usize {
        (i64::from(self.last) - i64::from(self.first) + 1).max(0) as usize
    }

    /// Whether a shot can have them: in order, at most a million, with numbers that a [`FrameNumber`] can have.
    pub fn is_usable(self) -> bool {
        let known = |frame: i32| FrameNumber::try_from(f64::from(frame)).is_ok();
        self.first <= self.last && self.count() <= MOST_FRAMES && known(self.first) && known(self.last)
    }

    /// Whether a frame is one of them.
    pub const fn holds(self, frame: i32) -> bool {
        frame >= self.first && frame <= self.last
    }
}

impl std::str::FromStr for Frames {
    type Err = String;

    /// `1001-1048`, or one frame.
    fn from_str(text: &str) -> Result<Self, String> {
        let parse = |part: &str| part.trim().parse::<i32>();
        let split = text.char_indices().skip(1).find(|(_, letter)| *letter == '-').map(|(index, _)| index);
        let ends = match split {
            Some(index) => (parse(&text[..index]), parse(&text[index + 1..])),
            None => (parse(text), parse(text)),
        };
        match ends {
            (Ok(first), Ok(last)) if (Self { first, last }).is_usable() => Ok(Self { first, last }),
            _ => Err(format!("`{text}` is no frame range; write 1001-1048 or 1001")),
        }
    }
}

impl PictureFormat {
    /// Square pixels of a usual working space, 24 a second.
    pub fn plain(width: u32, height: u32, frames: Frames) -> Self {
        Self { width, height, fps: 24.0, aspect: 1.0, frames, working: Working::default() }
    }
}

fn square() -> f64 {
    1.0
}

fn is_square(aspect: &f64) -> bool {
    *aspect == 1.0
}

/// Size, rate and range of a shot.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PictureFormat {
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
    /// Frames a second.
    pub fps: f64,
    /// How wide a pixel is for its height; 1 is square.
    #[serde(default = "square", skip_serializing_if = "is_square")]
    pub aspect: f64,
    /// The shot's frames.
    pub frames: Frames,
    /// The colours that pictures are worked on in; every shot of a show has the same.
    #[serde(default, skip_serializing_if = "Working::is_usual")]
    pub working: Working,
}

/// What of it pixels are made by; rate and range count where a stage uses them.
impl Keyed for PictureFormat {
    fn key(&self, key: &mut Key) {
        let Self { width, height, fps: _, aspect, frames: _, working } = self;
        key.add(width);
        key.add(height);
        key.add(aspect);
        key.add(working);
    }
}

/// A sequence or still that the setup uses.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Media {
    /// Stable.
    pub id: MediaId,
    /// As shown.
    pub name: String,
    /// Relative to the show's folder, or to the setup's file: `plates/yard.####.exr`.
    pub path: String,
    /// Its frames; none for a still.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frames: Option<Frames>,
    /// What its colours mean.
    pub colour: ColourSpace,
    /// BLAKE3 of its first file, in hexadecimal, to notice that another file has taken its place.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub content: Option<String>,
}

impl Media {
    /// The file's frame that a frame of the shot shows, held outside the file's range.
    pub fn held_frame(&self, frame: f64, shift: i32) -> i32 {
        let wanted = (frame.floor() as i32).saturating_sub(shift);
        // Not `clamp`, which does not bear a range that is kept the wrong way round.
        self.frames.map_or(wanted, |frames| wanted.min(frames.last).max(frames.first))
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

    /// What a number would come from if it did not follow this: the same values, for as long as nobody changes them.
    pub(crate) fn in_place_of(&self, of: &ControlAxis) -> Option<Feed> {
        if let Some(own) = self.own(of) {
            return own.setting.feeds().get(of.axis).cloned();
        }
        let row = self.stage(of.stage)?;
        let spec = shape::control(row, &of.control)?;
        let setting = shape::setting(self, row, spec);
        match setting.feeds().get(of.axis) {
            Some(feed) => Some(feed.clone()),
            None => self.stands(of, &setting),
        }
    }

    /// A number of where something drawn stands, as keys at every frame where it or its track has one.
    fn stands(&self, of: &ControlAxis, setting: &Setting) -> Option<Feed> {
        let drawn = setting.drawn();
        let tracks = drawn.iter().filter_map(|points| self.track(points.carried.as_ref()?.track));
        let found = tracks.flat_map(|track| track.samples.keys().map(|frame| f64::from(*frame)));
        let own = drawn.iter().flat_map(|points| points.keys.iter().map(|key| key.frame));
        let mut frames = own.chain(found);
        let first = frames.next()?;
        let value = |frame: f64| self.number(of, self.moment(frame));
        let keys = frames.try_fold(Keys::one(first, value(first)?), |keys, frame| {
            Some(keys.with_value(frame, value(frame)?))
        })?;
        Some(Feed::Keys(keys))
    }

    /// Ends the following of what is `gone`: the followers get what they followed.
    pub(crate) fn end_following_of(&self, feed: &mut Feed, gone: &impl Fn(&ControlAxis) -> bool) {
        // What is followed may itself follow what goes; a loop would have been refused.
        for _ in 0..=self.stages.len() {
            if !feed.follows().into_iter().any(gone) {
                break;
            }
            feed.replace_followers(&|follows| {
                gone(&follows.follow).then(|| {
                    let instead = self.in_place_of(&follows.follow).unwrap_or(Feed::Fixed(0.0));
                    instead.scaled(follows.scale).plus(&follows.offset)
                })
            });
        }
    }

    /// The same for every control of a row, and for rows that go.
    pub(crate) fn end_following(&self, row: &mut StageEntry, gone: impl Fn(StageId) -> bool) {
        let gone = |of: &ControlAxis| gone(of.stage);
        let own = row.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
        for feed in row.controls.values_mut().chain(own).flat_map(Setting::feeds_mut) {
            self.end_following_of(feed, &gone);
        }
    }

    /// All that a row's controls are set to, by the row or by what it is a copy of.
    pub fn settings(&self, entry: &StageEntry) -> BTreeMap<String, Setting> {
        let known = shape::all_controls(entry).into_iter();
        known.filter_map(|spec| Some((spec.id.to_owned(), self.setting(entry, spec.id)?.clone()))).collect()
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

impl Others for Setup {
    fn number(&self, of: &ControlAxis, moment: Moment) -> Option<f64> {
        deep(|| match self.own(of) {
            Some(own) => own.setting.feeds().get(of.axis).map(|feed| feed.at(moment, self)),
            None => shape::number(self, self.stage(of.stage)?, &of.control, of.axis, moment),
        })
    }

    fn track(&self, id: TrackId) -> Option<&Track> {
        self.tracks.iter().find(|track| track.id == id)
    }
}
