//! What a stage declares about itself. Bench, find list, schema, docs and validation all read this.

use serde::Serialize;

use crate::controls::Setting;
use crate::controls::{AnyControl, Value};
use crate::signal::SignalKind;

/// Where a stage stands in the find list.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Family {
    /// Makes a signal from nothing or from files.
    Source,
    /// Looks at other moments.
    Time,
    /// Makes or changes fields and mattes.
    Field,
    /// Makes or changes maps.
    Map,
    /// Moves a signal.
    Warp,
    /// Blurs and light.
    Light,
    /// Changes colour.
    Colour,
    /// Brings signals together.
    Joining,
}

/// Which kinds a slot takes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Accepts {
    /// Pictures.
    Picture,
    /// Fields, and pictures by one of their floats.
    Field,
    /// Maps.
    Map,
    /// Any kind.
    Any,
    /// Pictures and fields as they are.
    PictureOrField,
}

impl Accepts {
    /// Whether a signal of this kind can be plugged.
    pub const fn takes(self, kind: SignalKind) -> bool {
        match self {
            Self::Any => true,
            Self::Picture => matches!(kind, SignalKind::Picture),
            Self::Field | Self::PictureOrField => matches!(kind, SignalKind::Picture | SignalKind::Field),
            Self::Map => matches!(kind, SignalKind::Map),
        }
    }

    /// Whether plugging this kind means choosing one float of a picture.
    pub const fn converts(self, kind: SignalKind) -> bool {
        matches!((self, kind), (Self::Field, SignalKind::Picture))
    }

    /// As it is called in messages.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Picture => "a picture",
            Self::Field => "a field",
            Self::Map => "a map",
            Self::Any => "any signal",
            Self::PictureOrField => "a picture or a field",
        }
    }
}

impl From<SignalKind> for Accepts {
    fn from(kind: SignalKind) -> Self {
        match kind {
            SignalKind::Picture => Self::Picture,
            SignalKind::Field => Self::Field,
            SignalKind::Map => Self::Map,
        }
    }
}

/// What a slot belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Belongs {
    /// To the stage.
    ToStage,
    /// To an ordered list with this name; it is there once all before it are taken.
    ToList(&'static str),
    /// To the entry of a list with this slot; it is there while that is taken.
    ToEntry(&'static str),
}

/// A side input.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct SlotSpec {
    /// Stable, in files.
    pub id: &'static str,
    /// As shown.
    pub name: &'static str,
    /// Which kinds it takes.
    pub accepts: Accepts,
    /// What it belongs to.
    pub belongs: Belongs,
}

impl SlotSpec {
    /// A slot of the stage.
    pub const fn new(id: &'static str, name: &'static str, accepts: Accepts) -> Self {
        Self { id, name, accepts, belongs: Belongs::ToStage }
    }

    /// The same as an entry of a list or as a slot of one.
    pub const fn belongs(self, belongs: Belongs) -> Self {
        Self { belongs, ..self }
    }
}

/// What kind of signal a stage gives.
#[derive(Clone, Copy, Debug)]
pub enum Gives {
    /// Always this.
    Always(SignalKind),
    /// The kind of its main input.
    LikeMain,
    /// What its controls say.
    ByControls(fn(&[Value]) -> SignalKind),
}

/// What amount and matte do.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum AmountRule {
    /// They mix from the bypass to the result.
    Mixes,
    /// They scale how far the picture moves, or how strong a layer is; the stage does it itself.
    OwnUse,
    /// Amount goes part of the way and is the stage's own; the matte mixes from the bypass to the result.
    OwnAmount,
    /// They weaken what is given: of a source, or of what is laid on nothing.
    Opacity,
    /// There are none.
    None,
}

/// What becomes of the passes that come with the main input.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Passes {
    /// It is where they come from.
    Brings,
    /// They are moved as the picture is.
    Moves,
    /// Those of its pictures become one, as the stage does it.
    Joins,
    /// They are handed on as they are.
    Keeps,
    /// They end here.
    Drops,
}

/// A stage's declaration.
#[derive(Clone, Debug)]
pub struct StageSpec {
    /// Stable, in files.
    pub id: &'static str,
    /// As shown.
    pub name: &'static str,
    /// Where it is listed.
    pub family: Family,
    /// One sentence.
    pub help: &'static str,
    /// What its main input takes; none for a source.
    pub main: Option<Accepts>,
    /// Its side inputs, besides the matte.
    pub slots: Vec<SlotSpec>,
    /// What it gives.
    pub gives: Gives,
    /// What amount and matte do.
    pub amount: AmountRule,
    /// What becomes of passes.
    pub passes: Passes,
    /// Its own controls, besides those that every stage has.
    pub controls: Vec<AnyControl>,
    /// How far a proxy may differ from the full picture brought down to its size: the mean absolute
    /// difference over all floats, on signals of detail no finer than four pixels; as a share of the largest
    /// value where that is above 1. At half the size; at a quarter up to twice as far.
    pub proxy_tolerance: f64,
}

/// A named setting of a stage's controls, to start from.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Preset {
    /// As shown.
    pub name: &'static str,
    /// Controls by id with what they are set to; all others go back to their defaults.
    pub settings: Vec<(&'static str, Setting)>,
}

impl Preset {
    /// Of plain numbers.
    pub fn of(name: &'static str, numbers: &[(&'static str, f64)]) -> Self {
        let settings = numbers.iter().map(|(id, value)| (*id, Setting::number(*value))).collect();
        Self { name, settings }
    }

    /// The same with a choice.
    pub fn choosing(mut self, id: &'static str, option: &str) -> Self {
        self.settings.push((id, Setting::Choice(option.into())));
        self
    }

    /// The same with several numbers of one control.
    pub fn axes(mut self, id: &'static str, values: &[f64]) -> Self {
        self.settings.push((id, Setting::numbers(values)));
        self
    }
}

/// The slot of the main input.
pub const MAIN: &str = "main";
/// The slot of the matte.
pub const MATTE: &str = "matte";
