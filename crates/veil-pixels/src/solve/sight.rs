//! What a camera is solved from, and what is found.

use crate::Cancelled;

/// Places that two frames must have in common.
pub(super) const FEWEST: usize = 8;
pub(super) const FEWEST_TURNED: usize = 4;

/// Where a place was seen in a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sight {
    /// Which place, counted from 0.
    pub point: usize,
    /// In which frame, counted from 0.
    pub frame: usize,
    /// Where there.
    pub at: [f64; 2],
}

/// What is known of the focal length.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Focal {
    /// This many pixels.
    Known(f64),
    /// Nothing; the picture is so many pixels wide.
    Of(f64),
}

/// How the camera goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Going {
    /// It turns where it stands: places are ways only, of length 1.
    Turns,
    /// It moves.
    Moves,
}

impl Going {
    /// How many places two frames must have in common at least.
    pub const fn fewest(self) -> usize {
        match self {
            Self::Turns => FEWEST_TURNED,
            Self::Moves => FEWEST,
        }
    }
}

/// A camera in one frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pose {
    /// Its right, its down and its forward way in the world.
    pub axes: [[f64; 3]; 3],
    /// Where it stands.
    pub place: [f64; 3],
}

/// What was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Solved {
    /// Focal length in pixels.
    pub focal: f64,
    /// By frame; none where too little was seen.
    pub poses: Vec<Option<Pose>>,
    /// By place; none of what was seen too little.
    pub points: Vec<Option<[f64; 3]>>,
    /// By sight, how far from it the place is expected, in pixels; none of what is not known.
    pub misses: Vec<Option<f64>>,
    /// By sight, whether it counts.
    pub counts: Vec<bool>,
}

/// Why there is no camera.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unsolved {
    /// It was called off.
    Cancelled,
    /// No two frames see enough places in common.
    TooFew,
    /// Nothing is nearer than something else: where it stands can't be told.
    NoDepth,
}

impl From<Cancelled> for Unsolved {
    fn from(_: Cancelled) -> Self {
        Self::Cancelled
    }
}
