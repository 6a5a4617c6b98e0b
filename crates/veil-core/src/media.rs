//! Files that a setup uses.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::colour::ColourSpace;
use crate::ids::MediaId;
use crate::picture::Frames;

/// A sequence or still that the setup uses.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Media {
    /// Stable.
    pub id: MediaId,
    /// As shown.
    pub name: String,
    /// Relative to the show's folder, or to the setup's file: `plates/yard.####.exr`.
    pub path: String,
    /// Its frames; none for a still.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frames: Option<Frames>,
    /// What its colours mean.
    pub colour: ColourSpace,
    /// BLAKE3 of its first file, in hexadecimal, to notice that another file has taken its place.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub content: Option<String>,
}

impl Media {
    /// The file's frame that a frame of the shot shows, held outside the file's range.
    pub fn held_frame(&self, frame: f64, shift: i32) -> i32 {
        let wanted = (frame.floor() as i32).saturating_sub(shift);
        // Not `clamp`, which does not bear a range that is kept the wrong way round.
        self.frames.map_or(wanted, |frames| wanted.min(frames.last).max(frames.first))
    }
}
