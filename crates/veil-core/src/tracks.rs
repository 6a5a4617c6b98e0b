//! What is followed through the shot, and where it was found.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::colour::srgb_from_linear;
use veil_pixels::track::{Known, Motion, PointSettings, PointTracker};
use veil_pixels::{Cancel, Cancelled, Field};

use crate::colour::Working;
use crate::setup::StageId;
use crate::signal::{Pixels, Take};

/// A track of a setup.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct TrackId(pub u32);

/// How what is followed may change.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum TrackMotion {
    /// It moves.
    #[default]
    Shift,
    /// It moves, turns and is scaled.
    Similarity,
    /// It is sheared as well.
    Affine,
}

impl From<TrackMotion> for Motion {
    fn from(motion: TrackMotion) -> Self {
        match motion {
            TrackMotion::Shift => Self::Shift,
            TrackMotion::Similarity => Self::Similarity,
            TrackMotion::Affine => Self::Affine,
        }
    }
}

/// Where it was found at a frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrackSample {
    /// Its place, in full-resolution pixels.
    pub at: [f64; 2],
    /// How much larger than at first.
    #[serde(default = "one")]
    pub scale: f64,
    /// Degrees turned since then, counter-clockwise as seen.
    #[serde(default)]
    pub turn: f64,
    /// How alike it was, at most 1.
    #[serde(default = "one")]
    pub likeness: f64,
}

const fn one() -> f64 {
    1.0
}

/// A point that is followed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Track {
    /// Its number.
    pub id: TrackId,
    /// As shown.
    pub name: String,
    /// The row whose picture it is followed in.
    pub stage: StageId,
    /// The frame it begins at.
    pub begins: i32,
    /// Where it is there.
    pub at: [f64; 2],
    /// Half the pattern's width and height, in full-resolution pixels.
    pub pattern: [f64; 2],
    /// How far it may move from a frame to the next, sideways and up and down.
    pub search: [f64; 2],
    /// How it may change.
    #[serde(default)]
    pub motion: TrackMotion,
    /// How alike it must be to be taken for the same, 0–1.
    pub least_likeness: f64,
    /// Standard deviation of the smoothing over time, in frames.
    #[serde(default, skip_serializing_if = "crate::feed::is_zero")]
    pub smooth: f64,
    /// Where it was found, by frame; a frame where it was lost has none.
    #[serde(default)]
    pub samples: BTreeMap<i32, TrackSample>,
}

/// One number of a track.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum TrackAxis {
    /// Right, in pixels.
    X,
    /// Down, in pixels.
    Y,
    /// How much larger.
    Scale,
    /// Degrees, counter-clockwise as seen.
    Turn,
}

/// Smoothing reaches so many standard deviations.
const REACH: f64 = 3.0;

impl Track {
    /// Where it is at a frame: between two frames, and over those where it was lost, evenly from one to the next; before
    /// the first and after the last it stays. None while it has not been found anywhere.
    pub fn sample(&self, frame: f64) -> Option<TrackSample> {
        let before = self.samples.range(..=frame.floor() as i32).next_back();
        let after = self.samples.range(frame.floor() as i32 + 1..).next();
        let mix = |a: f64, b: f64, share: f64| a + (b - a) * share;
        match (before, after) {
            (None, None) => None,
            (Some((_, only)), None) | (None, Some((_, only))) => Some(*only),
            (Some((from, a)), Some((to, b))) => {
                let share = (frame - f64::from(*from)) / f64::from(to - from);
                Some(TrackSample {
                    at: [0, 1].map(|axis| mix(a.at[axis], b.at[axis], share)),
                    scale: mix(a.scale, b.scale, share),
                    turn: mix(a.turn, b.turn, share),
                    likeness: a.likeness.min(b.likeness),
                })
            }
        }
    }

    /// A number of it at a frame, smoothed.
    pub fn number(&self, axis: TrackAxis, frame: f64) -> Option<f64> {
        let of = |sample: TrackSample| match axis {
            TrackAxis::X => sample.at[0],
            TrackAxis::Y => sample.at[1],
            TrackAxis::Scale => sample.scale,
            TrackAxis::Turn => sample.turn,
        };
        let here = self.sample(frame).map(of)?;
        if self.smooth <= 0.0 {
            return Some(here);
        }
        // As many frames on both sides as there are, so that an even move stays as it is up to its ends.
        let (first, last) = (self.samples.keys().next()?, self.samples.keys().next_back()?);
        let room = (frame - f64::from(*first)).min(f64::from(*last) - frame).max(0.0);
        let reach = (self.smooth * REACH).min(room).floor() as i32;
        let (mut sum, mut weights) = (0.0, 0.0);
        for step in -reach..=reach {
            let weight = (-0.5 * (f64::from(step) / self.smooth).powi(2)).exp();
            sum += weight * self.sample(frame + f64::from(step)).map(of)?;
            weights += weight;
        }
        Some(sum / weights)
    }

    /// Whether its numbers can be used; the error says what they must be.
    pub fn check(&self) -> Result<(), &'static str> {
        let length = |value: f64| (1.0..=500.0).contains(&value);
        let near = |value: f64| value.abs() <= 1.0e6;
        if !self.pattern.iter().chain(&self.search).copied().all(length) {
            return Err("wants a pattern and a search box of 1 to 500 pixels to each side");
        }
        if !(0.0..=1.0).contains(&self.least_likeness) || !(0.0..=100.0).contains(&self.smooth) {
            return Err("wants a likeness of 0 to 1 and a smoothing of up to 100 frames");
        }
        let numbers = |sample: &TrackSample| {
            [sample.at[0], sample.at[1], sample.scale, sample.turn].into_iter().all(near)
        };
        if self.at.into_iter().all(near) && self.samples.values().all(numbers) {
            Ok(())
        } else {
            Err("reaches too far")
        }
    }
}

/// What is followed of a picture: its luma as a display has it, so that what happens in the shade counts as much as what
/// happens in the light. A field is taken as it is.
pub fn image(pixels: &Pixels, working: Working, cancel: &Cancel) -> Result<Field, Cancelled> {
    match pixels {
        Pixels::Field(field) => Ok(field.clone()),
        Pixels::Map(map) => map.map(cancel, |[x, y]: [f32; 2]| x.hypot(y)),
        Pixels::Picture(picture) => Take::Luma
            .apply(picture, working, cancel)?
            .map(cancel, |luma: f32| srgb_from_linear(luma.max(0.0))),
    }
}

/// A track on its way through the frames.
pub struct Following {
    tracker: PointTracker,
}

impl Following {
    /// Begins in the image of the track's first frame; none where there is nothing to follow.
    pub fn begin(track: &Track, image: &Field) -> Result<Option<Self>, Cancelled> {
        let settings = PointSettings {
            pattern: track.pattern,
            search: track.search,
            motion: track.motion.into(),
            least_likeness: track.least_likeness,
        };
        Ok(PointTracker::new(image, track.at, settings)?.map(|tracker| Self { tracker }))
    }

    /// Where it is in the next frame; none where it is lost.
    pub fn step(&mut self, image: &Field) -> Result<Option<TrackSample>, Cancelled> {
        let found = self.tracker.step(image)?;
        Ok((found.known != Known::Lost).then_some(TrackSample {
            at: found.at,
            scale: found.scale,
            turn: found.turn.to_degrees(),
            likeness: found.likeness,
        }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn track(places: &[(i32, f64)], smooth: f64) -> Track {
        let sample = |x: f64| TrackSample { at: [x, 10.0], scale: 1.0, turn: 0.0, likeness: 0.9 };
        Track {
            id: TrackId(1),
            name: "lantern".into(),
            stage: StageId(2),
            begins: 1001,
            at: [0.0, 10.0],
            pattern: [15.0; 2],
            search: [15.0; 2],
            motion: TrackMotion::Shift,
            least_likeness: 0.7,
            smooth,
            samples: places.iter().map(|(frame, x)| (*frame, sample(*x))).collect(),
        }
    }

    #[test]
    fn gaps_are_gone_over_evenly_and_ends_stay() {
        let found = track(&[(1001, 0.0), (1002, 2.0), (1006, 10.0)], 0.0);
        let x = |frame: f64| found.number(TrackAxis::X, frame).unwrap();
        assert_eq!([990.0, 1001.5, 1004.0, 1020.0].map(x), [0.0, 1.0, 6.0, 10.0]);
        assert!(track(&[], 0.0).sample(1001.0).is_none());
    }

    #[test]
    fn smoothing_takes_what_trembles_off_and_leaves_an_even_move() {
        let even: Vec<(i32, f64)> = (0..30).map(|at| (1001 + at, f64::from(at) * 3.0)).collect();
        let trembling: Vec<(i32, f64)> =
            even.iter().map(|(frame, x)| (*frame, x + if frame % 2 == 0 { 0.5 } else { -0.5 })).collect();
        let (even, trembling) = (track(&even, 2.0), track(&trembling, 2.0));
        for frame in 1001..=1030 {
            let truth = f64::from(frame - 1001) * 3.0;
            assert!((even.number(TrackAxis::X, f64::from(frame)).unwrap() - truth).abs() < 1e-9);
        }
        assert!((trembling.number(TrackAxis::X, 1015.0).unwrap() - 42.0).abs() < 0.05);
    }
}
