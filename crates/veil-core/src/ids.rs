//! What things of a setup are named by.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

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

impl StageId {
    /// The setup itself, where a control of one's own is named; in a tool's file, the tool. No stage has it.
    pub const WHOLE: Self = Self(0);
}
