//! A value that comes in irregular bursts.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::moment::{Span, is_zero};
use super::offset::Offset;
use super::random::share;

/// How long a part of a gate lasts, in frames, both at least 1 and the first not the longer.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Lengths {
    /// At least so long.
    pub shortest: f64,
    /// At most so long.
    pub longest: f64,
}

impl Lengths {
    fn at(self, share: f64) -> f64 {
        self.shortest + (self.longest - self.shortest) * share
    }

    /// Whether they can be used.
    pub(super) fn hold(self) -> bool {
        self.shortest >= 1.0 && self.longest >= self.shortest && self.longest <= 1.0e6
    }
}

/// Bursts of the high value, with pauses of the low one, from the shot's start on. It starts with a pause.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct GateFeed {
    /// How long it is open.
    pub burst: Lengths,
    /// How long it is closed.
    pub pause: Lengths,
    /// How likely it opens when it might, 0–1.
    pub chance: f64,
    /// Frames from closed to open, within the burst.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub attack: f64,
    /// Frames from open to closed, after the burst.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub release: f64,
    /// Closed and open.
    pub span: Span,
    /// Which chance.
    #[serde(default)]
    pub seed: u32,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "Offset::is_nothing")]
    pub offset: Offset,
}

/// How many bursts, with the pauses before them, are not like others.
const ROUNDS: i64 = 10_000;

impl GateFeed {
    /// The value so many frames after the shot's start, without the offset. After ten thousand bursts they come again as
    /// from the start.
    pub fn at(&self, since: f64) -> f64 {
        match self.open(since) {
            Ok(open) => self.span.at(open),
            Err(all) => self.span.at(self.open(since.rem_euclid(all)).unwrap_or(0.0)),
        }
    }

    /// How far it is open; the length of all rounds where they end before.
    fn open(&self, since: f64) -> Result<f64, f64> {
        let (mut from, mut open) = (0.0f64, 0.0f64);
        for place in 0..ROUNDS {
            if from > since {
                return Ok(open);
            }
            let opens = from + self.pause.at(share(self.seed, 3 * place));
            let closes = opens + self.burst.at(share(self.seed, 3 * place + 1));
            if share(self.seed, 3 * place + 2) < self.chance {
                open = open.max(self.within(since, opens, closes));
            }
            from = closes;
        }
        if from > since { Ok(open) } else { Err(from) }
    }

    /// How far a burst is open.
    fn within(&self, since: f64, opens: f64, closes: f64) -> f64 {
        let rise =
            |frames: f64, length: f64| if length > 0.0 { (frames / length).clamp(0.0, 1.0) } else { 1.0 };
        if since < opens {
            0.0
        } else if since < closes {
            rise(since - opens, self.attack)
        } else {
            let reached = rise(closes - opens, self.attack);
            if self.release > 0.0 { (reached - (since - closes) / self.release).max(0.0) } else { 0.0 }
        }
    }
}
