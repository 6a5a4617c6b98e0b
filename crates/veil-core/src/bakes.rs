//! Results that are kept in files, and how the engine asks for them.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::{Cancel, Window};

use crate::engine::ContentHash;
use crate::key::{Key, Keyed};
use crate::picture::Frames;
use crate::plates::{PlateError, Role};
use crate::signal::{Signal, SignalKind};

/// A row's bake: its result is written to files, and used until something above it changes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Bake {
    /// The frames that were written.
    pub frames: Frames,
}

/// Whether bakes stand in for what they were made of.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, Hash)]
#[serde(rename_all = "lowercase")]
pub enum UseOfBakes {
    /// Where they are there.
    #[default]
    Used,
    /// All is worked out anew.
    Ignored,
}

/// One of the things that a bake holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Baked {
    /// The row's own result, of a kind.
    Result(SignalKind),
    /// A pass that travels with it.
    Pass(Role),
}

/// Keeps results by content hash: pictures as half, fields, maps and data passes as 32-bit float.
pub trait Bakes: Send + Sync {
    /// Whether a result is kept.
    fn has(&self, hash: ContentHash) -> bool;
    /// Reads one of the things of a kept result, at full scale.
    fn read(&self, hash: ContentHash, what: Baked, cancel: &Cancel) -> Result<Signal, PlateError>;
    /// Keeps a result with the passes that travel with it.
    fn keep(&self, hash: ContentHash, result: &Signal, passes: &[(Role, Signal)]) -> Result<(), PlateError>;
}

/// How much of a bake still fits its setup.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct BakeState {
    /// Frames that were to be written.
    pub frames: usize,
    /// Frames whose result is kept as it would be now.
    pub fresh: usize,
}

/// What of a result is kept: later rows may look a little beyond the frame, but hardly farther.
pub(crate) fn kept_window(display: Window, data: Window) -> Window {
    let (x, y) = (display.width() as i32 / 4, display.height() as i32 / 4);
    data.intersect(display.grow(x, y))
}

impl Keyed for Baked {
    fn key(&self, key: &mut Key) {
        match self {
            Self::Result(kind) => key.add(&(0u8, *kind)),
            Self::Pass(role) => key.add(&(1u8, *role)),
        }
    }
}
