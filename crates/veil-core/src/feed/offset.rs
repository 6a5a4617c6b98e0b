//! What is added to a feed's value.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::keys::Keys;

/// A number, or values at some frames with the way between them.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum Offset {
    /// The same at every frame.
    Fixed(f64),
    /// Keyed.
    Keys(Keys),
}

impl Default for Offset {
    fn default() -> Self {
        Self::Fixed(0.0)
    }
}

impl From<f64> for Offset {
    fn from(value: f64) -> Self {
        Self::Fixed(value)
    }
}

impl Offset {
    /// At a frame.
    pub fn at(&self, frame: f64) -> f64 {
        match self {
            Self::Fixed(value) => *value,
            Self::Keys(keys) => keys.at(frame),
        }
    }

    /// Whether nothing is added at any frame.
    pub fn is_nothing(&self) -> bool {
        *self == Self::Fixed(0.0)
    }

    /// So much more at every frame.
    #[must_use]
    pub fn shifted(&self, by: f64) -> Self {
        match self {
            Self::Fixed(value) => Self::Fixed(value + by),
            Self::Keys(keys) => Self::Keys(keys.shifted(by)),
        }
    }

    /// So many times as much.
    #[must_use]
    pub fn scaled(&self, factor: f64) -> Self {
        match self {
            Self::Fixed(value) => Self::Fixed(value * factor),
            Self::Keys(keys) => Self::Keys(keys.scaled(factor)),
        }
    }

    /// Both together. Of two keyed ones there is a key wherever either has one.
    #[must_use]
    pub fn plus(&self, other: &Self) -> Self {
        match (self, other) {
            (Self::Fixed(value), other) | (other, Self::Fixed(value)) => other.shifted(*value),
            (Self::Keys(a), Self::Keys(b)) => Self::Keys(a.plus(b)),
        }
    }

    /// So much more at a frame, as a key there where it has keys.
    #[must_use]
    pub(super) fn moved_at(&self, frame: f64, by: f64) -> Self {
        match self {
            Self::Fixed(value) => Self::Fixed(value + by),
            Self::Keys(keys) => Self::Keys(keys.with_value(frame, keys.at(frame) + by)),
        }
    }

    /// Whether every number in it is one.
    pub(super) fn is_finite(&self) -> bool {
        match self {
            Self::Fixed(value) => value.is_finite(),
            Self::Keys(_) => true,
        }
    }
}
