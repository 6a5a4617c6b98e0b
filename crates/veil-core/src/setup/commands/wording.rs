//! What commands are said with: where a row goes, what a setup once was, what becomes of keys.

use serde::{Deserialize, Serialize};

use crate::setup::StageId;

/// Where a new row goes and what it takes.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct NewRow {
    /// The row it goes in after, on the strand that row is in; none for the top.
    #[serde(default)]
    pub after: Option<StageId>,
    /// The slot that is to take it: of which row, which slot.
    #[serde(default)]
    pub into: Option<(StageId, String)>,
    /// The row on whose strand it goes, where it has a side slot that is meant for what `after` gives.
    #[serde(default)]
    pub on: Option<StageId>,
}

/// What a setup once was.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Earlier {
    /// A version, by its number.
    Version(i32),
    /// The setup of a kept still, by its number.
    Still(i32),
}

/// What a value changed by hand does to a control with keys.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum HandOnKeys {
    /// It sets a key at the frame.
    #[default]
    Key,
    /// It moves the whole curve.
    MovesAll,
}

/// Where points are that go with a track.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Stand {
    /// As they are drawn, at the frame that they go with the track from.
    #[default]
    Drawn,
    /// As they are seen, where the track has carried them.
    Seen,
}
