//! The colour spaces that files, stages and shows name.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::colour::LUMA_709;
use veil_pixels::colour::space::{AP0, AP1, BT709, BT2020, Curve, Primaries, Space};

use crate::choice::{Choice, ChoiceOption};
use crate::key::keyed_by_number;

/// What the numbers in a file stand for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ColourSpace {
    /// Scene-linear BT.709.
    Linear,
    /// The sRGB encoding.
    Srgb,
    /// A BT.709 camera's encoding.
    Bt709,
    /// For a BT.1886 screen: BT.709 colours to the power of 2.4.
    Bt1886,
    /// BT.709 colours to the power of 2.2.
    Gamma22,
    /// Scene-linear BT.2020.
    Linear2020,
    /// Scene-linear AP1.
    AcesCg,
    /// Scene-linear AP0.
    Aces2065,
    /// AP1, logarithmic.
    AcesCct,
}

/// Each with its id in files and its name.
const NAMED: [(ColourSpace, &str, &str); 9] = [
    (ColourSpace::Linear, "linear", "linear BT.709"),
    (ColourSpace::Srgb, "srgb", "sRGB"),
    (ColourSpace::Bt709, "bt709", "BT.709"),
    (ColourSpace::Bt1886, "bt1886", "BT.1886"),
    (ColourSpace::Gamma22, "gamma22", "gamma 2.2"),
    (ColourSpace::Linear2020, "linear2020", "linear BT.2020"),
    (ColourSpace::AcesCg, "acescg", "ACEScg"),
    (ColourSpace::Aces2065, "aces2065", "ACES2065-1"),
    (ColourSpace::AcesCct, "acescct", "ACEScct"),
];

impl ColourSpace {
    /// All, in the order they are offered.
    pub fn all() -> impl Iterator<Item = Self> {
        NAMED.iter().map(|(space, ..)| *space)
    }

    /// As it is shown.
    pub fn name(self) -> &'static str {
        NAMED.iter().find(|(space, ..)| *space == self).map_or("", |(_, _, name)| name)
    }

    /// As it stands in files.
    pub fn id(self) -> &'static str {
        NAMED.iter().find(|(space, ..)| *space == self).map_or("", |(_, id, _)| id)
    }

    /// Its curve and primaries.
    pub const fn space(self) -> Space {
        let (curve, primaries) = match self {
            Self::Linear => (Curve::Linear, BT709),
            Self::Srgb => (Curve::Srgb, BT709),
            Self::Bt709 => (Curve::Bt709, BT709),
            Self::Bt1886 => (Curve::Bt1886, BT709),
            Self::Gamma22 => (Curve::Gamma22, BT709),
            Self::Linear2020 => (Curve::Linear, BT2020),
            Self::AcesCg => (Curve::Linear, AP1),
            Self::Aces2065 => (Curve::Linear, AP0),
            Self::AcesCct => (Curve::AcesCct, AP1),
        };
        Space { curve, primaries }
    }
}

/// The scene-linear colours that a show works in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Working {
    /// Linear BT.709.
    #[default]
    Bt709,
    /// ACEScg.
    AcesCg,
}

impl Working {
    /// Which colours the channels are.
    pub const fn primaries(self) -> Primaries {
        match self {
            Self::Bt709 => BT709,
            Self::AcesCg => AP1,
        }
    }

    /// Weights of its channels in luma.
    pub fn luma(self) -> [f32; 3] {
        match self {
            Self::Bt709 => LUMA_709,
            Self::AcesCg => AP1.luma(),
        }
    }

    /// As a space; it is always linear.
    pub const fn space(self) -> Space {
        Space::linear(self.primaries())
    }

    /// Whether it is the one that is meant when nothing is said.
    pub fn is_usual(&self) -> bool {
        *self == Self::default()
    }
}

/// A space chosen on a stage, or the one that goes without saying.
macro_rules! or_else {
    ($(#[$meta:meta])* $type:ident, $id:literal, $name:literal) => {
        $(#[$meta])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub struct $type(pub Option<ColourSpace>);

        impl Choice for $type {
            const ALL: &'static [Self] = &{
                let mut all = [Self(None); NAMED.len() + 1];
                let mut at = 0;
                while at < NAMED.len() {
                    all[at + 1] = Self(Some(NAMED[at].0));
                    at += 1;
                }
                all
            };
            const OPTIONS: &'static [ChoiceOption] = &{
                let mut all = [ChoiceOption { id: $id, name: $name }; NAMED.len() + 1];
                let mut at = 0;
                while at < NAMED.len() {
                    all[at + 1] = ChoiceOption { id: NAMED[at].1, name: NAMED[at].2 };
                    at += 1;
                }
                all
            };
        }
    };
}
or_else!(
    /// Of a plate: as the plates page lists it, unless a space is chosen.
    ListedOr, "listed", "as listed"
);
or_else!(
    /// Of a stage: the show's working space, unless another is chosen.
    WorkingOr, "working", "working space"
);

impl WorkingOr {
    /// Which space is meant.
    pub fn space(self, working: Working) -> Space {
        self.0.map_or_else(|| working.space(), ColourSpace::space)
    }
}

keyed_by_number!(ColourSpace, Working);
