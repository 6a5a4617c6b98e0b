//! What is asked of an engine, and what it answers.

use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use veil_pixels::Window;

use super::clock::Spent;
use crate::bakes::UseOfBakes;
use crate::ids::StageId;
use crate::signal::{Scale, Signal};

/// What is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Request {
    /// Whose result.
    pub stage: StageId,
    /// At which frame.
    pub frame: f64,
    /// At which proxy scale.
    pub scale: Scale,
    /// Which pixels, in pixels of that scale; none for the display window.
    pub window: Option<Window>,
    /// What a stage in error does.
    pub on_fault: OnFault,
    /// Whether bakes stand in for what they were made of.
    pub bakes: UseOfBakes,
    /// What becomes of what it makes.
    pub holding: Holding,
}

impl Request {
    /// All that a frame shows of a row, at full scale, from bakes where they fit; a stage in error fails it.
    pub fn whole(stage: StageId, frame: f64) -> Self {
        let (on_fault, bakes) = (OnFault::Fail, UseOfBakes::default());
        Self { stage, frame, scale: Scale::FULL, window: None, on_fault, bakes, holding: Holding::Kept }
    }
}

/// How long what a request makes is held.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Holding {
    /// While there is room.
    Kept,
    /// Until later trials have made enough else, unless a request that is not of this trial takes it before.
    Trial(Trial),
}

/// A state of a setup that is only passed through, as while something is dragged.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Trial(u64);

impl Trial {
    /// Told from others by what it tries, within one run of the program.
    pub fn of(tried: &str) -> Self {
        let mut hasher = DefaultHasher::new();
        tried.hash(&mut hasher);
        Self(hasher.finish())
    }
}

/// What becomes of a stage that cannot work.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OnFault {
    /// It hands on its bypass, and the fault is told beside the result.
    Bypass,
    /// The request fails.
    Fail,
}

/// A stage's fault at a frame.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub struct Fault {
    /// Which stage.
    pub stage: StageId,
    /// One sentence.
    pub message: String,
}

/// A result with what went wrong on the way.
#[derive(Clone, Debug)]
pub struct Answer {
    /// The pixels, for at least the asked window within the data window.
    pub signal: Arc<Signal>,
    /// The asked window.
    pub window: Window,
    /// Faults of the stages on the way.
    pub faults: Vec<Fault>,
    /// What each row cost that was not held.
    pub spent: Vec<Spent>,
}
