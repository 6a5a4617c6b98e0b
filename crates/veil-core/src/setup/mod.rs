//! The document of one shot.

mod all_rows;
mod applied;
mod change;
mod check;
mod command;
mod curves;
mod difference;
mod document;
mod edit;
mod entries;
mod following;
mod grade_match;
mod label;
mod matte_row;
mod own;
mod own_deeds;
mod pace;
mod refused;
mod rows;
mod schema;

mod strand;
mod text;
mod tool;
mod tool_making;
mod tool_taking;
mod tool_use;
mod track;
mod values;

pub use crate::controls::Setting;
pub use all_rows::Rows;
pub use change::{Change, ChangeError, Part};
pub use check::SetupError;
pub use command::{Command, Earlier, HandOnKeys, NewRow};
pub use curves::PickedKeys;
pub use difference::RowDifference;
pub use document::{FORMAT, Link, Setup, Source, StageEntry, Tab};
pub use edit::Edit;
pub use own::{OwnControl, OwnKind};
pub use pace::Pace;
pub use refused::CommandError;
pub use rows::{CopiedRows, FollowedFeed, TakenRow};
pub use schema::{setup_schema, tool_schema};
pub use tool::{TOOL_FORMAT, Tool, ToolError};
pub use tool_use::{FaceplateEntry, Otherwise, ToolInput, ToolUse};

pub use crate::colour::{ColourSpace, Working};
pub use crate::ids::{MediaId, StageId, StageKind};
pub use crate::media::Media;
pub use crate::picture::{FrameNumber, Frames, NoFrame, PictureFormat};
