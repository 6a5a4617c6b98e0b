//! What a person does to a setup.

pub(in crate::setup) mod applied;
pub(in crate::setup) mod change;
pub(in crate::setup) mod curves;
pub(in crate::setup) mod edit;
pub(in crate::setup) mod entries;
pub(in crate::setup) mod entry;
pub(in crate::setup) mod grade_match;
pub(in crate::setup) mod label;
pub(in crate::setup) mod matte_row;
pub(in crate::setup) mod order;
pub(in crate::setup) mod own_deeds;
pub(in crate::setup) mod refused;
pub(in crate::setup) mod rows;
pub(in crate::setup) mod strand;
pub(in crate::setup) mod track;
pub(in crate::setup) mod values;
pub(in crate::setup) mod wording;

use serde::{Deserialize, Serialize};

use crate::controls::ShapePoint;
use crate::feed::{ControlAxis, KeyMove, KeyShape};
use crate::setup::commands::curves::PickedKeys;
use crate::setup::commands::rows::CopiedRows;
use crate::setup::commands::wording::{Earlier, HandOnKeys, NewRow, Stand};
use crate::setup::document::own::OwnKind;
use crate::setup::{
    FaceplateEntry, Frames, Media, Otherwise, PictureFormat, Setting, Setup, Source, StageId, Tab, Tool,
};
use crate::signal::Take;
use crate::tracks::{Track, TrackId};

/// One thing a person does.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case", deny_unknown_fields)]
pub enum Command {
    /// A new stage.
    Add {
        /// Which kind.
        kind: String,
        /// Where.
        #[serde(flatten)]
        place: NewRow,
    },
    /// A stage goes; what took it takes its main input instead.
    Remove {
        /// Which.
        stage: StageId,
    },
    /// Rows are copied beside themselves, below the last of them.
    Duplicate {
        /// Which.
        rows: Vec<StageId>,
        /// Whether the copies follow the first in every control that is not changed on the copy itself.
        #[serde(default)]
        linked: bool,
    },
    /// A copy stops following; it keeps the values it has.
    StandAlone {
        /// Which.
        stage: StageId,
    },
    /// Rows that were copied as text are put in.
    Paste {
        /// What was copied.
        copied: Box<CopiedRows>,
        /// Where.
        #[serde(flatten)]
        place: NewRow,
    },
    /// One taker gets a copy of its own of what it takes.
    SplitOff {
        /// The taker.
        stage: StageId,
        /// Its slot.
        slot: String,
    },
    /// A row becomes another kind, keeping what fits.
    ReplaceKind {
        /// Which.
        stage: StageId,
        /// What it becomes.
        kind: String,
    },
    /// Some words beside a row; none take them away.
    Note {
        /// Which.
        stage: StageId,
        /// The words.
        text: String,
    },
    /// Rows get a colour at their names, or none.
    Mark {
        /// Which.
        rows: Vec<StageId>,
        /// The colour.
        tab: Option<Tab>,
    },
    /// Rows come together as a group; no name takes them out of theirs.
    Group {
        /// Which.
        rows: Vec<StageId>,
        /// The group's name.
        name: String,
    },
    /// Work goes on from what the setup once was.
    GoOnFrom {
        /// All of it.
        setup: Box<Setup>,
        /// What that was.
        once: Earlier,
    },
    /// Several commands as one step; all of them, or none.
    Together {
        /// In order.
        commands: Vec<Command>,
    },
    /// A row moves up or down as far as what it needs, and what needs it, lets it.
    Move {
        /// Which.
        stage: StageId,
        /// To which row.
        to: usize,
    },
    /// On or off.
    Switch {
        /// Which.
        stage: StageId,
        /// Whether it works.
        on: bool,
    },
    /// A row's result is kept in files over a range; none gives its bake up.
    Bake {
        /// Which.
        stage: StageId,
        /// The frames that were written.
        frames: Option<Frames>,
    },
    /// Another name.
    Rename {
        /// Which.
        stage: StageId,
        /// Its new name.
        name: String,
    },
    /// Two entries of a list of slots change places, with all that is theirs.
    SwapEntries {
        /// Whose list.
        stage: StageId,
        /// The slot of one.
        slot: String,
        /// The slot of the other.
        with: String,
    },
    /// The list of mattes that a row takes becomes a row of its own.
    MattesToRow {
        /// Which row's.
        stage: StageId,
    },
    /// A slot takes a stage, or nothing.
    Link {
        /// The taker.
        stage: StageId,
        /// Its slot.
        slot: String,
        /// From where.
        from: Option<Source>,
        /// Which float of a picture; chosen by the slot's rule where it is not said.
        #[serde(default)]
        take: Option<Take>,
    },
    /// A control is set as a whole; none brings its default back.
    Set {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// To what.
        setting: Option<Setting>,
    },
    /// A control is added to the setup, or to a tool's row.
    AddOwn {
        /// The tool's row; [`StageId::WHOLE`] for the setup.
        stage: StageId,
        /// As shown.
        name: String,
        /// What it holds.
        kind: OwnKind,
    },
    /// A control that was added goes; what follows it keeps what it had.
    RemoveOwn {
        /// See above.
        stage: StageId,
        /// The control's id.
        control: String,
    },
    /// A control that was added gets another name.
    RenameOwn {
        /// See above.
        stage: StageId,
        /// The control's id.
        control: String,
        /// Its new name.
        name: String,
    },
    /// A number is changed by hand at a frame: a plain value is set, keys get a key or move as a whole, any
    /// other feed is offset.
    Put {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// A value by axis; none leaves the axis alone.
        values: Vec<Option<f64>>,
        /// The frame it is changed at.
        frame: f64,
        /// What becomes of keys.
        #[serde(default)]
        keys: HandOnKeys,
    },
    /// Something is done to a control that only its type knows: a row is added to a lattice.
    Alter {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// What, in the words of its type.
        deed: serde_json::Value,
    },
    /// The points of something drawn are changed by hand at a frame: a key is set there, or it moves with all its keys.
    PutShape {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// Which of what the control has drawn, from 0.
        shape: usize,
        /// All its points.
        points: Vec<ShapePoint>,
        /// Where they are, if they go with a track.
        #[serde(default)]
        stand: Stand,
        /// The frame they are changed at.
        frame: f64,
        /// What becomes of keys.
        #[serde(default)]
        keys: HandOnKeys,
    },
    /// A key is set on every axis of a control, or on one, with the value it has there.
    Key {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// The frame.
        frame: f64,
        /// Which of its numbers; all of them where none is named.
        #[serde(default)]
        axis: Option<usize>,
    },
    /// A key goes; with its last key a control keeps the value it had.
    Unkey {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// The key's frame.
        frame: f64,
        /// Which of its numbers; all of them where none is named.
        #[serde(default)]
        axis: Option<usize>,
    },
    /// Keys of some curves move in time and value.
    MoveKeys {
        /// Which.
        picked: Vec<PickedKeys>,
        /// Where to.
        by: KeyMove,
    },
    /// What is keyed inside a tool starts at another frame or lasts longer or shorter; what is left out stays.
    Pace {
        /// The tool's row.
        stage: StageId,
        /// Frame of its first key.
        #[serde(default)]
        starts: Option<f64>,
        /// Frames from its first key to its last, more than 0.
        #[serde(default)]
        lasts: Option<f64>,
    },
    /// A grade brings dark, middle and bright of an element to those of a plate.
    MatchGrade {
        /// The grade.
        stage: StageId,
        /// Red, green and blue of each, as they come into the grade.
        element: [[f32; 3]; 3],
        /// What they are to become.
        plate: [[f32; 3]; 3],
    },
    /// Keys of some curves are passed in another way.
    ShapeKeys {
        /// Which.
        picked: Vec<PickedKeys>,
        /// How.
        shape: KeyShape,
    },
    /// Keys of some curves go.
    RemoveKeys {
        /// Which.
        picked: Vec<PickedKeys>,
    },
    /// Some curves get the times of another's keys.
    CopyTiming {
        /// Whose pace.
        from: ControlAxis,
        /// Which curves take it.
        to: Vec<ControlAxis>,
    },
    /// A track is put in, or in place of the one with its number.
    PutTrack {
        /// With number 0 for a new one.
        track: Box<Track>,
    },
    /// A track's surface gets other rows and columns, and lies where it lay at every frame.
    CutSurface {
        /// Of which track.
        track: TrackId,
        /// Rows of cells.
        rows: usize,
        /// Columns of cells.
        columns: usize,
    },
    /// A track goes; what it drove keeps its values, as keys.
    RemoveTrack {
        /// Which.
        track: TrackId,
    },
    /// A drawn outline goes with no track any more and stays where it is at every frame.
    FreeShape {
        /// Which stage.
        stage: StageId,
        /// Which control.
        control: String,
        /// Which outline, from 0.
        shape: usize,
    },
    /// A medium is there to be used.
    UseMedia {
        /// Its id is chosen when it is used.
        media: Media,
    },
    /// What is known of a medium changes.
    ChangeMedia {
        /// With the id of the one that changes.
        media: Media,
    },
    /// Name, size, rate and range.
    About {
        /// As shown.
        name: String,
        /// Size, rate and range.
        picture: PictureFormat,
    },
    /// Chosen rows become a tool's row.
    MakeTool {
        /// The rows.
        rows: Vec<StageId>,
        /// The tool's name.
        name: String,
        /// Names for its inputs, in their order; where one is missing, the name of what is taken there.
        #[serde(default)]
        inputs: Vec<String>,
        /// What each of them takes while nothing is plugged in; nothing where it is not said.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        otherwise: Vec<Otherwise>,
        /// The controls it shows.
        faceplate: Vec<FaceplateEntry>,
    },
    /// A tool is put in after a row, on the strand that row is in.
    PlaceTool {
        /// The tool.
        tool: Box<Tool>,
        /// Where.
        #[serde(flatten)]
        place: NewRow,
        /// Whether lengths are scaled from the height it was made at to this picture's.
        #[serde(default)]
        scale_lengths: bool,
    },
    /// A tool's row takes another number of its tool.
    TakeTool {
        /// The tool's row.
        stage: StageId,
        /// The tool.
        tool: Box<Tool>,
        /// As for placing it.
        #[serde(default)]
        scale_lengths: bool,
    },
    /// What is inside a tool's row is what the rack has under a number.
    KeptAs {
        /// The tool's row.
        stage: StageId,
        /// The number.
        number: u32,
    },
}
