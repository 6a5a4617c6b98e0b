//! A number of a track.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::is_zero;
use crate::tracks::{TrackAxis, TrackId};

/// A track's number: as it is, or how much it has changed since a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrackFeed {
    /// Which track.
    pub track: TrackId,
    /// Which of its numbers.
    pub axis: TrackAxis,
    /// Only what it has changed since this frame counts: moved and turned by, grown by a factor.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub since: Option<f64>,
    /// By what that is multiplied.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub times: f64,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub offset: f64,
}

const fn one() -> f64 {
    1.0
}

fn is_one(times: &f64) -> bool {
    *times == 1.0
}

impl TrackFeed {
    /// The value, from the track's number at this frame and at the one it counts from.
    pub(super) fn of(&self, now: f64, then: Option<f64>) -> f64 {
        let changed = match (self.axis, then) {
            (_, None) => now,
            (TrackAxis::Scale, Some(then)) => now / then,
            (_, Some(then)) => now - then,
        };
        changed * self.times + self.offset
    }
}
