//! A value that wanders or jumps.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::random::share;
use super::{Offset, Span};

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
    pub(super) fn at(&self, since: f64) -> f64 {
        let place = since / self.every;
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_wandering_value_keeps_to_its_span_and_never_leaps_while_a_jumping_one_does() {
        let span = Span { low: -2.0, high: 6.0 };
        let smooth = JitterFeed { jitter: JitterForm::Smooth, every: 5.0, span, seed: 9, offset: 0.0.into() };
        let jumps = JitterFeed { jitter: JitterForm::Jumps, every: 1.0, ..smooth.clone() };
        let run =
            |feed: &JitterFeed| (0..2000).map(|step| feed.at(f64::from(step) * 0.25)).collect::<Vec<_>>();
        let leap = |run: &[f64]| run.windows(2).map(|pair| (pair[1] - pair[0]).abs()).fold(0.0, f64::max);
        for run in [run(&smooth), run(&jumps)] {
            assert!(run.iter().all(|value| (-2.0..=6.0).contains(value)));
        }
        // Smoothstep rises by at most 1.5 of its way in its time: 8 · 1.5 · 0.25 / 5.
        assert!(leap(&run(&smooth)) <= 0.6 + 1e-9);
        assert!(leap(&run(&jumps)) > 4.0);
        let each: Vec<f64> = (0..100).map(|frame| jumps.at(f64::from(frame))).collect();
        assert!(each.windows(2).all(|pair| pair[0] != pair[1]), "a new value every frame");
    }
}
