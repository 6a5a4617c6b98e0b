//! A value that comes again and again.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::noise::gradient_noise;

use super::moment::{Span, is_zero};
use super::offset::Offset;
use super::random::share;

/// The form of one period.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum WaveForm {
    /// From the middle up, down and back.
    Sine,
    /// Straight up from the low end and straight down again.
    Triangle,
    /// Straight up, then back at once.
    Saw,
    /// The high end for the first half, the low end for the second.
    Square,
    /// Another value each period, by chance.
    Steps,
    /// Up from the low end to the high one unevenly: it slows, stops and slips back. The next period goes on from
    /// where it got to.
    Climb,
}

/// A wave of the frames since the shot's start.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WaveFeed {
    /// The form.
    pub wave: WaveForm,
    /// Frames a period, more than 0.
    pub period: f64,
    /// Where in its period it starts, as a share of it.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub phase: f64,
    /// Between which values.
    pub span: Span,
    /// Which chance, of steps and climbs.
    #[serde(default)]
    pub seed: u32,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "Offset::is_nothing")]
    pub offset: Offset,
}

/// How often in a period a climb may slow down, and how far off an even climb it gets.
const STRUGGLES: f64 = 3.0;
const STRUGGLE: f64 = 0.6;

impl WaveFeed {
    /// The value so many frames after the shot's start, without the offset.
    pub fn at(&self, since: f64) -> f64 {
        let place = since / self.period + self.phase;
        let (whole, turn) = (place.floor(), place - place.floor());
        self.span.at(match self.wave {
            WaveForm::Sine => 0.5 + 0.5 * (std::f64::consts::TAU * turn).sin(),
            WaveForm::Triangle => 1.0 - (2.0 * turn - 1.0).abs(),
            WaveForm::Saw => turn,
            WaveForm::Square => f64::from(u8::from(turn < 0.5)),
            WaveForm::Steps => share(self.seed, whole as i64),
            // Gradient noise is 0 at whole places, so that each period ends where the next begins.
            WaveForm::Climb => {
                place + STRUGGLE * f64::from(gradient_noise(self.seed, [place * STRUGGLES, 0.0, 0.0]))
            }
        })
    }
}
