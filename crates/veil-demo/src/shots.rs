//! The shots that can be drawn, and what is known of each.

use glam::Vec3;
use veil_core::setup::Frames;

use crate::ShotPlan;
use crate::camera::Camera;
use crate::parts::{Plane, Surface};
use crate::scene::Scene;
use crate::scenes::{
    bell, buoy, causeway, glass_float, kelp, kiln_yard, lantern_barge, look_out, masts, off_the_yard, sail,
    signal_glass,
};

/// The shots that can be drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shot {
    /// Kiln mouth and chimney, slow push in.
    KilnYard,
    /// A barge crosses, its lantern swings.
    LanternBarge,
    /// Two copper masts, a rope before them.
    Masts,
    /// The caretaker before a green sheet.
    LookOut,
    /// The caretaker walks along the causeway.
    Causeway,
    /// The same turn of the camera without him, for its clean plate.
    CausewayClean,
    /// A bronze bell is struck.
    Bell,
    /// A hanging glass float turns.
    Float,
    /// A cracked signal glass, lit from behind.
    SignalGlass,
    /// The kiln yard from the water.
    Porthole,
    /// Kelp in clear water, a still.
    Kelp,
    /// A slack sail on its mast.
    Sail,
    /// A brass buoy turns in the harbour.
    Buoy,
}

/// The first frame of every shot.
const FIRST: i32 = 1001;

impl Shot {
    /// In show order.
    pub const ALL: [Self; 13] = [
        Self::KilnYard,
        Self::LanternBarge,
        Self::Masts,
        Self::LookOut,
        Self::Causeway,
        Self::CausewayClean,
        Self::Bell,
        Self::Float,
        Self::Kelp,
        Self::SignalGlass,
        Self::Porthole,
        Self::Sail,
        Self::Buoy,
    ];

    /// What is known of it beforehand.
    pub fn plan(self) -> ShotPlan {
        let plan = |code, title, [width, height]: [u32; 2], count: i32| {
            let frames = Frames { first: FIRST, last: FIRST + count - 1 };
            ShotPlan { code, title, width, height, frames }
        };
        match self {
            Self::KilnYard => plan("SG010", "kiln yard", [1280, 720], 120),
            Self::LanternBarge => plan("SG020", "lantern barge", [960, 540], 72),
            Self::Masts => plan("SG030", "masts", [1920, 1080], 48),
            Self::LookOut => plan("SG035", "look-out", [960, 540], 48),
            Self::Causeway => plan("SG040", "causeway", [960, 540], 120),
            Self::CausewayClean => plan("SG040C", "causeway, clean", [960, 540], 120),
            Self::Bell => plan("SG050", "bell", [960, 540], 48),
            Self::Float => plan("SG060", "float", [960, 540], 72),
            Self::SignalGlass => plan("SG090", "signal glass", [960, 540], 48),
            Self::Porthole => plan("SG100", "porthole", [960, 540], 48),
            Self::Kelp => plan("SG070", "kelp still", [960, 540], 1),
            Self::Sail => plan("SG120", "sail", [960, 540], 72),
            Self::Buoy => plan("SG130", "buoy", [960, 540], 72),
        }
    }

    /// Whether it is only what another shot is made with, such as its clean plate.
    pub const fn is_beside(self) -> bool {
        matches!(self, Self::CausewayClean)
    }

    /// Two takes of one place have other grain.
    pub(crate) const fn take(self) -> i32 {
        self.is_beside() as i32
    }

    /// The camera at a moment, in frames since the first.
    pub(crate) fn camera(self, moment: f32) -> Camera {
        match self {
            Self::KilnYard => kiln_yard::camera(moment),
            Self::LanternBarge => lantern_barge::camera(moment),
            Self::Masts => masts::camera(moment),
            Self::LookOut => look_out::camera(moment),
            Self::Causeway | Self::CausewayClean => causeway::camera(moment),
            Self::Bell => bell::camera(moment),
            Self::Float => glass_float::camera(moment),
            Self::SignalGlass => signal_glass::camera(moment),
            Self::Porthole => off_the_yard::camera(moment),
            Self::Kelp => kelp::camera(),
            Self::Sail => sail::camera(moment),
            Self::Buoy => buoy::camera(moment),
        }
    }

    /// Everything at a moment, in frames since the first.
    pub(crate) fn scene(self, moment: f32) -> Scene {
        match self {
            Self::KilnYard => kiln_yard::scene(moment),
            Self::LanternBarge => lantern_barge::scene(moment),
            Self::Masts => masts::scene(moment),
            Self::LookOut => look_out::scene(moment),
            Self::Causeway => causeway::scene(moment),
            Self::CausewayClean => causeway::scene_without_him(moment),
            Self::Bell => bell::scene(moment),
            Self::Float => glass_float::scene(moment),
            Self::SignalGlass => signal_glass::scene(moment),
            Self::Porthole => off_the_yard::scene(moment),
            Self::Kelp => kelp::scene(moment),
            Self::Sail => sail::scene(moment),
            Self::Buoy => buoy::scene(moment),
        }
    }

    /// Places in the world that are named, at a moment.
    pub(crate) fn places(self, moment: f32) -> Vec<(&'static str, Vec3)> {
        match self {
            Self::KilnYard => kiln_yard::places(),
            Self::LanternBarge => lantern_barge::places(moment),
            Self::Masts => masts::places(),
            Self::LookOut => look_out::places(moment),
            Self::Causeway | Self::CausewayClean => causeway::places(moment),
            Self::Bell => bell::places(moment),
            Self::Float => glass_float::places(moment),
            Self::SignalGlass => signal_glass::places(),
            Self::Porthole => off_the_yard::places(),
            Self::Kelp => kelp::places(),
            Self::Sail => sail::places(),
            Self::Buoy => buoy::places(moment),
        }
    }

    /// Marks that can be followed: small knobs, each with the place of its middle at a moment.
    pub(crate) fn marks(self, moment: f32) -> Vec<(String, Vec3)> {
        let marks = match self {
            Self::KilnYard => kiln_yard::marks(),
            Self::LanternBarge => lantern_barge::marks(moment),
            Self::Masts => masts::marks(),
            Self::Causeway | Self::CausewayClean => causeway::marks(),
            Self::Float => glass_float::marks(),
            _ => Vec::new(),
        };
        marks.into_iter().enumerate().map(|(at, place)| (format!("knob {}", at + 1), place)).collect()
    }

    /// Planes that can be followed, by name, at a moment.
    pub(crate) fn planes(self, moment: f32) -> Vec<(&'static str, Plane)> {
        match self {
            Self::KilnYard => kiln_yard::planes(),
            Self::LanternBarge => lantern_barge::planes(moment),
            Self::Masts => masts::planes(),
            Self::Float => glass_float::planes(),
            Self::Sail => sail::planes(),
            Self::LookOut
            | Self::Causeway
            | Self::CausewayClean
            | Self::Bell
            | Self::SignalGlass
            | Self::Porthole
            | Self::Kelp
            | Self::Buoy => Vec::new(),
        }
    }

    /// Surfaces that bend as they are seen and can be followed, by name, at a moment.
    pub(crate) fn surfaces(self, moment: f32) -> Vec<(&'static str, Surface)> {
        match self {
            Self::Buoy => buoy::surfaces(moment),
            _ => Vec::new(),
        }
    }
}
