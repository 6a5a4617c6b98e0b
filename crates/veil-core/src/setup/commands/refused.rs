//! Why a command was refused.

use crate::feed::RetimeError;
use crate::tracks::TrackId;

use crate::setup::{ChangeError, SetupError, StageId, ToolError};

/// Why a command was refused. The setup is as it was.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum CommandError {
    /// It names a stage that is not there.
    #[error("there is no stage {}; it may have been removed in another window", .0.0)]
    NoStage(StageId),
    /// It names an unknown kind.
    #[error("there is no kind of stage called `{0}`")]
    NoKind(String),
    /// It names a control that the stage does not have.
    #[error("`{stage}` has no control `{control}`")]
    NoControl {
        /// The stage.
        stage: String,
        /// The control.
        control: String,
    },
    /// A control that takes no keys.
    #[error("`{0}` cannot be keyed")]
    NotKeyed(String),
    /// A control was to be moved in time that has no keys.
    #[error("{control} of `{stage}` has no keys")]
    NoKeys {
        /// The stage.
        stage: String,
        /// The control.
        control: String,
    },
    /// Keys cannot be changed like this.
    #[error("{control} of `{stage}`: {why}")]
    Retime {
        /// The stage.
        stage: String,
        /// The control.
        control: String,
        /// Why not.
        why: RetimeError,
    },
    /// A tool was to start or last otherwise in which nothing is keyed.
    #[error("nothing inside `{0}` is keyed")]
    NothingKeyed(String),
    /// A tool cannot start or last like this.
    #[error("`{tool}` cannot start or last like this: {why}")]
    Pace {
        /// The tool's row.
        tool: String,
        /// Why not.
        why: RetimeError,
    },
    /// Picks of a match have no way from dark to bright.
    #[error("`{0}` cannot match these: in each colour, dark must be darker than bright, on both sides")]
    NoMatch(String),
    /// The final row was to be removed, moved or copied.
    #[error("the final row stays where it is")]
    Final,
    /// No row was chosen.
    #[error("choose at least one row")]
    NoRows,
    /// A slot was to be split off that takes nothing.
    #[error("`{slot}` of `{stage}` takes nothing")]
    NothingTaken {
        /// The stage.
        stage: String,
        /// Its slot.
        slot: String,
    },
    /// A track does not hold together.
    #[error("the track `{name}` {why}")]
    Track {
        /// Its name.
        name: String,
        /// What is wrong.
        why: &'static str,
    },
    /// There is no such track.
    #[error("there is no track {}", .0.0)]
    NoTrack(TrackId),
    /// A tool's row was to become a stage.
    #[error("`{0}` is a tool; put the other stage in beside it")]
    ToolKind(String),
    /// Something was to be called nothing.
    #[error("give it a name")]
    NoName,
    /// A formula has a word that stands for nothing.
    #[error("the formula knows no `{0}`; it is the name of no control of your own")]
    NoWord(String),
    /// A text is no formula.
    #[error("{0}")]
    Formula(String),
    /// A row was to take another number of its tool that is no tool's.
    #[error("`{0}` is no tool")]
    NoTool(String),
    /// A row inside a tool was to be used from outside.
    #[error("`{0}` is inside a tool and can only be used there")]
    InsideTool(String),
    /// What would come of it does not hold together.
    #[error(transparent)]
    Setup(#[from] SetupError),
    /// It is no tool.
    #[error(transparent)]
    Tool(#[from] ToolError),
    /// It does not fit the setup.
    #[error(transparent)]
    Change(#[from] ChangeError),
}
