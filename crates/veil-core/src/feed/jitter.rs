//! A value that wanders or jumps.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::moment::Span;
use super::offset::Offset;
use super::random::share;

/// How a value goes from one chance to the next.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum JitterForm {
    /// It wanders smoothly.
    Smooth,
    /// It stays, then jumps.
    Jumps,
}

/// Chance of the frames since the shot's start.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct JitterFeed {
    /// The way from one to the next.
    pub jitter: JitterForm,
    /// Frames from one to the next, more than 0; 1 gives every frame a value of its own.
    pub every: f64,
    /// Between which values.
    pub span: Span,
    /// Which chance.
    #[serde(default)]
    pub seed: u32,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "Offset::is_nothing")]
    pub offset: Offset,
}

impl JitterFeed {
    /// The value so many frames after the shot's start, without the offset.
    pub fn at(&self, since: f64) -> f64 {
        // Farther along there is no fraction between two draws.
        let most = 2.0_f64.powi(53);
        let place = (since / self.every).clamp(-most, most);
        let (whole, t) = (place.floor(), place - place.floor());
        let here = share(self.seed, whole as i64);
        self.span.at(match self.jitter {
            JitterForm::Jumps => here,
            JitterForm::Smooth => {
                let next = share(self.seed, whole as i64 + 1);
                here + (next - here) * t * t * (3.0 - 2.0 * t)
            }
        })
    }
}
