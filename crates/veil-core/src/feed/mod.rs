//! Where a number comes from at each frame.

mod ease;
pub mod formula;
mod keys;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

pub use formula::{Formula, FormulaError};
pub use keys::{Ease, Key, Keys};

/// The source of one number.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum Feed {
    /// The same at every frame.
    Fixed(f64),
    /// Values at some frames, with the way between them.
    Keys(Keys),
    /// A formula of the frame.
    Formula(FormulaFeed),
}

/// A formula, and what is added to it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FormulaFeed {
    /// What is worked out.
    pub formula: Formula,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub offset: f64,
}

pub(crate) fn is_zero(number: &f64) -> bool {
    *number == 0.0
}

/// When a feed is asked.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Moment {
    /// Frame number; may lie between frames.
    pub now: f64,
    /// Frames since the shot's start.
    pub since: f64,
    /// Seconds since the shot's start.
    pub secs: f64,
}

impl Feed {
    /// The value at a moment. A formula that gives no number there gives 0.
    pub fn at(&self, moment: Moment) -> f64 {
        match self {
            Self::Fixed(value) => *value,
            Self::Keys(keys) => keys.at(moment.now),
            Self::Formula(feed) => {
                let value = feed.formula.at(moment) + feed.offset;
                if value.is_finite() { value } else { 0.0 }
            }
        }
    }

    /// The word shown before the value; none for a plain one.
    pub const fn word(&self) -> Option<&'static str> {
        match self {
            Self::Fixed(_) => None,
            Self::Keys(_) => Some("keys"),
            Self::Formula(_) => Some("formula"),
        }
    }

    /// The same feed, moved so that it gives `value` at the moment: a plain value is set, keys get a key
    /// there, a formula's offset changes.
    pub fn set_at(&self, moment: Moment, value: f64) -> Self {
        match self {
            Self::Fixed(_) => Self::Fixed(value),
            Self::Keys(keys) => Self::Keys(keys.with_value(moment.now, value)),
            Self::Formula(feed) => {
                let offset = feed.offset + value - self.at(moment);
                Self::Formula(FormulaFeed { formula: feed.formula.clone(), offset })
            }
        }
    }

    /// Every plain number in it: the value, or each key's.
    pub fn numbers(&self) -> Vec<f64> {
        match self {
            Self::Fixed(value) => vec![*value],
            Self::Keys(keys) => keys.iter().map(|key| key.value + keys.offset()).collect(),
            Self::Formula(feed) => vec![feed.offset],
        }
    }
}
