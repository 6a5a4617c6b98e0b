//! A value that another control has.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::moment::Moment;
use super::offset::Offset;
use crate::ids::StageId;
use crate::tracks::{Track, TrackId};

/// One number of a control.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ControlAxis {
    /// Of which stage.
    pub stage: StageId,
    /// The control's id.
    pub control: String,
    /// Which of its numbers.
    #[serde(default, skip_serializing_if = "is_first")]
    pub axis: usize,
}

const fn is_first(axis: &usize) -> bool {
    *axis == 0
}

/// Another control's value, scaled and shifted.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FollowFeed {
    /// What it follows.
    pub follow: ControlAxis,
    /// By what that is multiplied.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub scale: f64,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "Offset::is_nothing")]
    pub offset: Offset,
}

const fn one() -> f64 {
    1.0
}

fn is_one(number: &f64) -> bool {
    *number == 1.0
}

/// Knows the values of other controls.
pub trait Others {
    /// One number of a control at a moment; none where there is no such number.
    fn number(&self, of: &ControlAxis, moment: Moment) -> Option<f64>;

    /// A track; none where there is no such track.
    fn track(&self, id: TrackId) -> Option<&Track>;
}
