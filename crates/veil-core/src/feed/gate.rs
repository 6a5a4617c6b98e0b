//! A value that comes in irregular bursts.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::random::share;
use super::{Offset, Span, is_zero};

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

impl GateFeed {
    /// The value so many frames after the shot's start, without the offset.
    pub(super) fn at(&self, since: f64) -> f64 {
        let (mut from, mut open) = (0.0f64, 0.0f64);
        let mut place = 0i64;
        // Each round lasts two frames at least, so this ends.
        while from <= since {
            let opens = from + self.pause.at(share(self.seed, 3 * place));
            let closes = opens + self.burst.at(share(self.seed, 3 * place + 1));
            if share(self.seed, 3 * place + 2) < self.chance {
                open = open.max(self.within(since, opens, closes));
            }
            from = closes;
            place += 1;
        }
        self.span.at(open)
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

#[cfg(test)]
mod tests {
    use super::*;

    fn gate() -> GateFeed {
        GateFeed {
            burst: Lengths { shortest: 2.0, longest: 5.0 },
            pause: Lengths { shortest: 4.0, longest: 9.0 },
            chance: 1.0,
            attack: 0.0,
            release: 0.0,
            span: Span { low: 0.0, high: 1.0 },
            seed: 12,
            offset: 0.0.into(),
        }
    }

    /// The lengths of the runs of equal values, without the last one.
    fn runs(gate: &GateFeed) -> Vec<(f64, f64)> {
        const STEP: f64 = 1.0 / 64.0;
        let mut runs: Vec<(f64, f64)> = Vec::new();
        for step in 0..64 * 600 {
            let value = gate.at(f64::from(step) * STEP);
            match runs.last_mut() {
                Some((last, length)) if *last == value => *length += STEP,
                _ => runs.push((value, STEP)),
            }
        }
        runs.pop();
        runs
    }

    #[test]
    fn bursts_and_pauses_last_as_long_as_they_may_and_differ() {
        let runs = runs(&gate());
        assert!(runs.len() > 40);
        for (value, length) in &runs {
            let (least, most) = if *value == 1.0 { (2.0, 5.0) } else { (4.0, 9.0) };
            assert!((least - 0.02..=most + 0.02).contains(length), "{value}: {length}");
        }
        let bursts: Vec<f64> = runs.iter().filter(|run| run.0 == 1.0).map(|run| run.1).collect();
        assert!(bursts.iter().any(|one| (one - bursts[0]).abs() > 1.0), "irregular");
    }

    #[test]
    fn chance_leaves_bursts_out_and_a_slow_edge_neither_leaps_nor_overshoots() {
        let count = |gate: &GateFeed| runs(gate).iter().filter(|run| run.0 == 1.0).count();
        let seldom = GateFeed { chance: 0.3, ..gate() };
        assert!(count(&seldom) > 3 && count(&seldom) < count(&gate()) * 6 / 10);
        assert_eq!(count(&GateFeed { chance: 0.0, ..gate() }), 0);
        let soft = GateFeed { attack: 2.0, release: 4.0, ..gate() };
        let values: Vec<f64> = (0..6000).map(|step| soft.at(f64::from(step) * 0.1)).collect();
        assert!(values.iter().all(|value| (0.0..=1.0).contains(value)));
        assert!(values.windows(2).all(|pair| pair[1] - pair[0] <= 0.051 && pair[0] - pair[1] <= 0.026));
    }
}
