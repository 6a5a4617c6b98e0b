//! The shots that can be drawn, and what is known of each.

use glam::Vec3;
use veil_core::setup::Frames;

use crate::ShotPlan;
use crate::camera::Camera;
use crate::scene::Scene;
use crate::scenes::{glass_float, kiln_yard, lantern_barge, look_out};

/// The shots that can be drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shot {
    /// Kiln mouth and chimney, slow push in.
    KilnYard,
    /// A barge crosses, its lantern swings.
    LanternBarge,
    /// The caretaker before a green sheet.
    LookOut,
    /// A hanging glass float turns.
    Float,
}

/// The first frame of every shot.
const FIRST: i32 = 1001;

/// Four places in the world that lie in one plane, in order round it.
pub(crate) type Plane = [Vec3; 4];

impl Shot {
    /// In show order.
    pub const ALL: [Self; 4] = [Self::KilnYard, Self::LanternBarge, Self::LookOut, Self::Float];

    /// What is known of it beforehand.
    pub fn plan(self) -> ShotPlan {
        let plan = |code, title, [width, height]: [u32; 2], count: i32| {
            let frames = Frames { first: FIRST, last: FIRST + count - 1 };
            ShotPlan { code, title, width, height, frames }
        };
        match self {
            Self::KilnYard => plan("SG010", "kiln yard", [1280, 720], 120),
            Self::LanternBarge => plan("SG020", "lantern barge", [960, 540], 72),
            Self::LookOut => plan("SG035", "look-out", [960, 540], 48),
            Self::Float => plan("SG060", "float", [960, 540], 72),
        }
    }

    /// The camera at a moment, in frames since the first.
    pub(crate) fn camera(self, moment: f32) -> Camera {
        match self {
            Self::KilnYard => kiln_yard::camera(moment),
            Self::LanternBarge => lantern_barge::camera(moment),
            Self::LookOut => look_out::camera(moment),
            Self::Float => glass_float::camera(moment),
        }
    }

    /// Everything at a moment, in frames since the first.
    pub(crate) fn scene(self, moment: f32) -> Scene {
        match self {
            Self::KilnYard => kiln_yard::scene(moment),
            Self::LanternBarge => lantern_barge::scene(moment),
            Self::LookOut => look_out::scene(moment),
            Self::Float => glass_float::scene(moment),
        }
    }

    /// Places in the world that are named, at a moment.
    pub(crate) fn places(self, moment: f32) -> Vec<(&'static str, Vec3)> {
        match self {
            Self::KilnYard => kiln_yard::places(),
            Self::LanternBarge => lantern_barge::places(moment),
            Self::LookOut => look_out::places(moment),
            Self::Float => glass_float::places(moment),
        }
    }

    /// Marks that can be followed: small knobs, each with the place of its middle at a moment.
    pub(crate) fn marks(self, moment: f32) -> Vec<(String, Vec3)> {
        let marks = match self {
            Self::KilnYard => kiln_yard::marks(),
            Self::LanternBarge => lantern_barge::marks(moment),
            Self::LookOut => Vec::new(),
            Self::Float => glass_float::marks(),
        };
        marks.into_iter().enumerate().map(|(at, place)| (format!("knob {}", at + 1), place)).collect()
    }

    /// Planes that can be followed, by name, at a moment.
    pub(crate) fn planes(self, moment: f32) -> Vec<(&'static str, Plane)> {
        match self {
            Self::KilnYard => kiln_yard::planes(),
            Self::LanternBarge => lantern_barge::planes(moment),
            Self::LookOut => Vec::new(),
            Self::Float => glass_float::planes(),
        }
    }
}
