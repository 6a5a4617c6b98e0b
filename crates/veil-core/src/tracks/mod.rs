//! What is followed through the shot, and where it was found.

mod anchored;
mod by_frame;
mod carrying;
mod following;
mod surface;

pub use anchored::{Sights, follow_surface, length};
pub use carrying::Carrying;
pub use following::{Following, Seen, image};
pub use surface::{SurfaceSample, TrackSurface};

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::track::Motion;
use veil_pixels::warp::perspective::Homography;

use crate::ids::StageId;

/// For numbers that are left out of files where they are 0.
fn is_zero(number: &f64) -> bool {
    *number == 0.0
}

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
    /// It is seen as a plane in space is; of a region only.
    Perspective,
}

impl From<TrackMotion> for Motion {
    fn from(motion: TrackMotion) -> Self {
        match motion {
            TrackMotion::Shift => Self::Shift,
            TrackMotion::Similarity => Self::Similarity,
            TrackMotion::Affine => Self::Affine,
            TrackMotion::Perspective => Self::Perspective,
        }
    }
}

/// Where it was found at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrackSample {
    /// Its place, in full-resolution pixels.
    pub at: [f64; 2],
    /// How much larger than at first.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    pub scale: f64,
    /// Degrees turned since then, counter-clockwise as seen.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub turn: f64,
    /// How alike it was, at most 1.
    #[serde(default = "one")]
    pub likeness: f64,
    /// Where the corners of a region are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub corners: Option<Corners>,
    /// Where a surface lies.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub surface: Option<SurfaceSample>,
}

/// The corners of a region, in order round it, in full-resolution pixels.
pub type Corners = [[f64; 2]; 4];

/// What of a track something goes with.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Along {
    /// Its place.
    Place,
    /// Its place and size.
    Size,
    /// Its place, size and turn.
    Turn,
    /// All of it: of a region as it is seen, of a surface as it bends, of a point its place, size and turn.
    #[default]
    Whole,
}

impl Along {
    pub(crate) fn is_whole(&self) -> bool {
        *self == Self::Whole
    }
}

const fn one() -> f64 {
    1.0
}

fn is_one(value: &f64) -> bool {
    *value == 1.0
}

/// A point, a region or a surface that is followed.
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
    /// Where it is there; of a region or a surface its middle.
    pub at: [f64; 2],
    /// The corners there of a region that is followed as one piece; none for a point.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub region: Option<Corners>,
    /// The lattice that is laid there over a surface; none for others.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub surface: Option<TrackSurface>,
    /// The row whose matte covers what is left out of a region or a surface.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub without: Option<StageId>,
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
    #[serde(default, skip_serializing_if = "is_zero")]
    pub smooth: f64,
    /// Where it was found, by frame; a frame where it was lost has none.
    #[serde(default, deserialize_with = "by_frame::deserialize")]
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

/// A number or more that can be gone between.
fn mixed<const N: usize>(a: [f64; N], b: [f64; N], share: f64) -> [f64; N] {
    std::array::from_fn(|axis| a[axis] + (b[axis] - a[axis]) * share)
}

impl TrackSample {
    /// Between this and another one; the likeness is the lesser.
    fn towards(&self, other: &Self, share: f64) -> Self {
        let [scale, turn] = mixed([self.scale, self.turn], [other.scale, other.turn], share);
        let corners = self.corners.zip(other.corners);
        let surfaces = self.surface.as_ref().zip(other.surface.as_ref());
        Self {
            at: mixed(self.at, other.at, share),
            scale,
            turn,
            likeness: self.likeness.min(other.likeness),
            corners: corners.map(|(a, b)| std::array::from_fn(|corner| mixed(a[corner], b[corner], share))),
            surface: surfaces.map(|(a, b)| a.towards(b, share)),
        }
    }

    /// Without the digits that say nothing.
    fn rounded(self) -> Self {
        let to = |value: f64, digits: f64| (value * digits).round() / digits;
        let place = |at: [f64; 2]| at.map(|value| to(value, 1e4));
        Self {
            at: place(self.at),
            scale: to(self.scale, 1e6),
            turn: to(self.turn, 1e5),
            likeness: to(self.likeness, 1e3),
            corners: self.corners.map(|corners| corners.map(place)),
            surface: self.surface.map(SurfaceSample::rounded),
        }
    }

    /// Every number that says where it is.
    fn numbers(&self) -> impl Iterator<Item = f64> {
        let corners = self.corners.iter().flatten();
        let surface = self.surface.iter().flat_map(|surface| &surface.corners);
        [self.at[0], self.at[1], self.scale, self.turn]
            .into_iter()
            .chain(corners.chain(surface).flatten().copied())
    }
}

impl Track {
    /// A point at the corner of the picture, not followed yet, with the settings that one begins with.
    pub fn new(id: TrackId, name: impl Into<String>, stage: StageId, begins: i32) -> Self {
        Self {
            id,
            name: name.into(),
            stage,
            begins,
            at: [0.0; 2],
            region: None,
            surface: None,
            without: None,
            pattern: [15.0; 2],
            search: [15.0; 2],
            motion: TrackMotion::Shift,
            least_likeness: 0.7,
            smooth: 0.0,
            samples: BTreeMap::new(),
        }
    }

    /// Where it is at a frame: between two frames, and over those where it was lost, evenly from one to the next; before
    /// the first and after the last it stays. None while it has not been found anywhere.
    pub fn sample(&self, frame: f64) -> Option<TrackSample> {
        let before = self.samples.range(..=frame.floor() as i32).next_back();
        let after = self.samples.range(frame.floor() as i32 + 1..).next();
        match (before, after) {
            (None, None) => None,
            (Some((_, only)), None) | (None, Some((_, only))) => Some(only.clone()),
            (Some((from, a)), Some((to, b))) => {
                Some(a.towards(b, (frame - f64::from(*from)) / f64::from(to - from)))
            }
        }
    }

    /// The same, smoothed.
    pub fn smoothed(&self, frame: f64) -> Option<TrackSample> {
        let here = self.sample(frame)?;
        if self.smooth <= 0.0 {
            return Some(here);
        }
        // As many frames on both sides as there are, so that an even move stays as it is up to its ends.
        let (first, last) = (self.samples.keys().next()?, self.samples.keys().next_back()?);
        let room = (frame - f64::from(*first)).min(f64::from(*last) - frame).max(0.0);
        let reach = (self.smooth * REACH).min(room).floor() as i32;
        let (mut mean, mut weights) = (here, 1.0);
        for step in (-reach..=reach).filter(|step| *step != 0) {
            let weight = (-0.5 * (f64::from(step) / self.smooth).powi(2)).exp();
            weights += weight;
            mean = mean.towards(&self.sample(frame + f64::from(step))?, weight / weights);
        }
        Some(mean)
    }

    /// A number of it at a frame, smoothed.
    pub fn number(&self, axis: TrackAxis, frame: f64) -> Option<f64> {
        let sample = self.smoothed(frame)?;
        Some(match axis {
            TrackAxis::X => sample.at[0],
            TrackAxis::Y => sample.at[1],
            TrackAxis::Scale => sample.scale,
            TrackAxis::Turn => sample.turn,
        })
    }

    /// What carries the places of one frame to those of another; none where it was found nowhere, or where the region has
    /// fallen together.
    pub fn carry(&self, along: Along, from: f64, to: f64) -> Option<Carrying> {
        let (then, now) = (self.smoothed(from)?, self.smoothed(to)?);
        if let (Along::Whole, Some(lattice), Some(before), Some(after)) =
            (along, &self.surface, &then.surface, &now.surface)
        {
            return lattice.carrying(before, after);
        }
        if let (Along::Whole, Some(before), Some(after)) = (along, then.corners, now.corners) {
            return Homography::between(before, after).map(Carrying::Plane);
        }
        let scale = if along == Along::Place { 1.0 } else { now.scale / then.scale };
        let turn = match along {
            Along::Place | Along::Size => 0.0,
            Along::Turn | Along::Whole => now.turn - then.turn,
        };
        let made = Homography::shift(-then.at[0], -then.at[1])
            .then(Homography::scale(scale, scale))
            .then(Homography::turn(turn.to_radians()));
        Some(Carrying::Plane(made.then(Homography::shift(now.at[0], now.at[1]))))
    }

    /// The same with what was found from where it begins, frame by frame away from there; none where it was lost. What
    /// was known of those frames goes, and what was known beyond them where `keeps` does not hold.
    ///
    /// Sizes and turns go on from what they were where it begins. Of a surface the frame where it was laid begins nothing: what was
    /// found may lead away from any frame, and those where it was laid by hand stay.
    #[must_use]
    pub fn with_found(mut self, found: &[(i32, Option<TrackSample>)], keeps: impl Fn(i32) -> bool) -> Self {
        if let Some(lattice) = self.surface.take() {
            return self.with_surface_found(lattice, found, keeps);
        }
        let known = self.samples.get(&self.begins);
        let (scale, turn) = known.map_or((1.0, 0.0), |known| (known.scale, known.turn));
        let begin =
            TrackSample { at: self.at, scale, turn, likeness: 1.0, corners: self.region, surface: None };
        self.samples.retain(|frame, _| keeps(*frame));
        self.samples.insert(self.begins, begin);
        let mut last = turn;
        for (frame, sample) in found {
            self.samples.remove(frame);
            if let Some(sample) = sample {
                last = nearest_turn(sample.turn + turn, last);
                let sample = TrackSample { scale: sample.scale * scale, turn: last, ..sample.clone() };
                self.samples.insert(*frame, sample.rounded());
            }
        }
        self
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
        if self.motion == TrackMotion::Perspective && self.region.is_none() {
            return Err("is of a point, which cannot be seen as a plane in space is");
        }
        let region = self.region.into_iter().flatten().flatten();
        let samples = self.samples.values().flat_map(TrackSample::numbers);
        if !self.at.into_iter().chain(region).chain(samples).all(near) {
            return Err("reaches too far");
        }
        if !self.samples.values().all(|sample| sample.scale > 0.0) {
            return Err("has a frame where it has no size");
        }
        if let Some(lattice) = &self.surface {
            lattice.check(self)?;
        }
        match self.region {
            Some(corners) if !is_convex(corners) => Err("wants a region whose four corners turn one way"),
            _ => Ok(()),
        }
    }
}

/// A turn told as the one that is nearest to another: the same turn can be told in many ways, and from one frame to the next it
/// goes the shorter way.
fn nearest_turn(turn: f64, to: f64) -> f64 {
    turn - 360.0 * ((turn - to) / 360.0).round()
}

/// Whether four corners, in order, turn the same way at each of them.
fn is_convex(corners: Corners) -> bool {
    let turn = |at: usize| {
        let [a, b, c] = [0, 1, 2].map(|step| corners[(at + step) % 4]);
        (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0])
    };
    let turns: [f64; 4] = std::array::from_fn(turn);
    turns.iter().all(|turn| *turn > 0.0) || turns.iter().all(|turn| *turn < 0.0)
}

/// The middle of a region.
pub fn middle_of(corners: Corners) -> [f64; 2] {
    [0, 1].map(|axis| corners.iter().map(|corner| corner[axis]).sum::<f64>() / 4.0)
}
