//! Stages that make maps or change them.

mod add_maps;
mod neutral;
mod normal_map;
mod pair_map;
mod push_map;
mod steepness_map;
mod strength;
mod turn_map;
pub(super) mod uv_map_in;
mod uv_map_out;

use crate::choice;
use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(steepness_map::SteepnessMap::new()),
        Box::new(normal_map::NormalMap::new()),
        Box::new(push_map::PushMap::new()),
        Box::new(pair_map::PairMap::new()),
        Box::new(uv_map_in::UvMapIn::new()),
        Box::new(uv_map_out::UvMapOut::new()),
        Box::new(strength::Strength::new()),
        Box::new(turn_map::TurnMap::new()),
        Box::new(neutral::Neutral::new()),
        Box::new(add_maps::AddMaps::new()),
    ]
}

/// Which value moves nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Still {
    Zero,
    Half,
    Number,
}

choice! {
    Still {
        Zero = "zero", "zero";
        Half = "half", "a half";
        Number = "number", "a number";
    }
}

impl Still {
    /// It, where `number` is the one to choose.
    pub(super) const fn value(self, number: f64) -> f64 {
        match self {
            Self::Zero => 0.0,
            Self::Half => 0.5,
            Self::Number => number,
        }
    }
}
