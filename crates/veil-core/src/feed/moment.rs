//! When a feed is asked, and what several feeds are made of.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

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

/// Two values, the first of which may be the higher one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Span {
    /// At nothing.
    pub low: f64,
    /// At all.
    pub high: f64,
}

impl Span {
    /// The value at a share of the way.
    pub(crate) fn at(self, share: f64) -> f64 {
        self.low + (self.high - self.low) * share
    }

    pub(super) fn scaled(self, factor: f64) -> Self {
        Self { low: self.low * factor, high: self.high * factor }
    }
}

pub(crate) fn is_zero(number: &f64) -> bool {
    *number == 0.0
}
