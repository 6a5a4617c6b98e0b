//! A number of a track.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::offset::Offset;
use crate::tracks::{Along, Track, TrackAxis, TrackId};

/// A track's number: as it is, how much it has changed since a frame, or where a place has been carried since then.
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
    /// A place as it is at that frame; x or y is then that of the place, carried along.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub carries: Option<[f64; 2]>,
    /// What of the track such a place goes with.
    #[serde(default, skip_serializing_if = "Along::is_whole")]
    pub along: Along,
    /// By what that is multiplied.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub times: f64,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "Offset::is_nothing")]
    pub offset: Offset,
}

const fn one() -> f64 {
    1.0
}

fn is_one(times: &f64) -> bool {
    *times == 1.0
}

impl TrackFeed {
    /// A track's number as it is.
    pub fn new(track: TrackId, axis: TrackAxis) -> Self {
        let offset = Offset::default();
        Self { track, axis, since: None, carries: None, along: Along::Whole, times: 1.0, offset }
    }

    /// The value at a frame without the offset; 0 where the track was found nowhere.
    pub(super) fn of(&self, track: &Track, frame: f64) -> f64 {
        let number = |frame| track.number(self.axis, frame);
        let value = match (self.since, self.carries) {
            (Some(since), Some(place)) => {
                let carried = track.carry(self.along, since, frame).and_then(|by| by.at(place));
                let [x, y] = carried.unwrap_or(place);
                Some(if self.axis == TrackAxis::Y { y } else { x })
            }
            (Some(since), None) => number(frame).zip(number(since)).map(|(now, then)| match self.axis {
                TrackAxis::Scale => now / then,
                TrackAxis::X | TrackAxis::Y | TrackAxis::Turn => now - then,
            }),
            (None, _) => number(frame),
        };
        value.unwrap_or(0.0) * self.times
    }

    pub(super) fn is_finite(&self) -> bool {
        let places = self.carries.iter().flatten().chain(&self.since);
        self.times.is_finite() && self.offset.is_finite() && places.copied().all(f64::is_finite)
    }
}
