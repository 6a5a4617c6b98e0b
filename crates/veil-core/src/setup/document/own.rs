//! Controls that a person adds to a setup or to a tool.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::controls::Setting;
use crate::picture::PictureFormat;

/// A control of one's own. It is keyed, fed and followed as a stage's is; formulas name it by its word.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnControl {
    /// Stable, in files.
    pub id: String,
    /// As shown.
    pub name: String,
    /// What formulas call it; stays when it gets another name.
    pub word: String,
    /// What it holds.
    pub kind: OwnKind,
    /// Where its numbers come from.
    pub setting: Setting,
}

/// What a control of one's own holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum OwnKind {
    /// One number.
    Number,
    /// A place on the picture.
    Point,
    /// Red, green and blue.
    Colour,
    /// 0 or 1.
    Switch,
}

impl OwnKind {
    /// What its numbers are called.
    pub const fn axes(self) -> &'static [&'static str] {
        match self {
            Self::Number | Self::Switch => &[""],
            Self::Point => &["x", "y"],
            Self::Colour => &["red", "green", "blue"],
        }
    }

    pub(in crate::setup) fn start(self, picture: PictureFormat) -> Setting {
        let middle = [f64::from(picture.width) / 2.0, f64::from(picture.height) / 2.0];
        match self {
            Self::Number => Setting::number(1.0),
            Self::Switch => Setting::number(0.0),
            Self::Point => Setting::numbers(&middle),
            Self::Colour => Setting::numbers(&[1.0; 3]),
        }
    }
}
