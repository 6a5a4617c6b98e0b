//! The document of one shot.

mod change;
mod check;
mod command;
mod document;
mod setting;
mod tool;

pub use change::{Change, ChangeError};
pub use check::SetupError;
pub use command::{Command, CommandError, Edit, NewRow};
pub use document::{
    ColourSpace, FORMAT, Frames, Link, Media, MediaId, PictureFormat, Setup, Source, StageEntry, StageId,
    StageKind,
};
pub use setting::Setting;
pub use tool::{FaceplateEntry, TOOL_FORMAT, Tool, ToolError, ToolInput, ToolUse};
