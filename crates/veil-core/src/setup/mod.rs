//! The document of one shot.

pub mod commands;
pub mod document;
pub mod tools;

pub use commands::Command;
pub use commands::change::{Change, ChangeError, Part};
pub use commands::curves::PickedKeys;
pub use commands::edit::Edit;
pub use commands::refused::CommandError;
pub use commands::rows::{CopiedRows, FollowedFeed, TakenRow};
pub use commands::wording::{Earlier, HandOnKeys, NewRow, Stand};
pub use document::all_rows::Rows;
pub use document::check::SetupError;
pub use document::difference::RowDifference;
pub use document::own::{OwnControl, OwnKind};
pub use document::schema::{setup_schema, tool_schema};
pub use document::tool_use::{FaceplateEntry, Otherwise, ToolInput, ToolUse};
pub use document::{FORMAT, Link, Setup, Source, StageEntry, Tab};
pub use tools::pace::Pace;
pub use tools::{TOOL_FORMAT, Tool, ToolError};

pub use crate::colour::{ColourSpace, Working};
pub use crate::controls::Setting;
pub use crate::ids::{MediaId, StageId, StageKind};
pub use crate::media::Media;
pub use crate::picture::{FrameNumber, Frames, NoFrame, PictureFormat};
