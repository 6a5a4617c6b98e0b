//! Several keys of a curve changed together.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::keys::{Ease, Key, Keys, Slopes};

/// Where keys go: first in time, then in value.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct KeyMove {
    /// Frames are stretched about this one.
    #[serde(default)]
    pub about: f64,
    /// By so much, more than 0.
    #[serde(default = "one")]
    pub stretch: f64,
    /// Then moved by so many frames.
    #[serde(default)]
    pub later: f64,
    /// Values are scaled about this one.
    #[serde(default)]
    pub level: f64,
    /// By so much.
    #[serde(default = "one")]
    pub scale: f64,
    /// Then raised by so much.
    #[serde(default)]
    pub higher: f64,
    /// Whether keys land on whole frames.
    #[serde(default)]
    pub snap: bool,
}

const fn one() -> f64 {
    1.0
}

impl Default for KeyMove {
    /// Nothing moves.
    fn default() -> Self {
        Self { about: 0.0, stretch: 1.0, later: 0.0, level: 0.0, scale: 1.0, higher: 0.0, snap: false }
    }
}

impl KeyMove {
    /// Where a frame goes, before it snaps.
    pub(crate) fn frame(self, frame: f64) -> f64 {
        (frame - self.about).mul_add(self.stretch, self.about) + self.later
    }

    fn of(self, key: &Key) -> Key {
        let frame = self.frame(key.frame);
        Key {
            frame: if self.snap { frame.round() } else { frame },
            value: (key.value - self.level).mul_add(self.scale, self.level) + self.higher,
            ease: key.ease,
            slopes: key.slopes.map(|slopes| slopes.scaled(self.scale / self.stretch)),
        }
    }
}

/// How a curve passes a key and goes on from it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum KeyShape {
    /// Through the key, as its neighbours have it.
    Smooth,
    /// Through the key without rising or falling there.
    Flat,
    /// Through the key by these slopes.
    Slopes(Slopes),
    /// On from the key this way, whatever its slopes.
    Ease(Ease),
}

/// Why keys cannot be changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum RetimeError {
    /// Two would be at one frame.
    #[error("two of the keys would stand at one frame")]
    Crowded,
    /// The numbers of a move cannot be used.
    #[error("keys are stretched by more than 0, and moved and scaled by numbers")]
    NoMove,
    /// A pace was wanted of a curve that ends where it starts.
    #[error("it ends at the value it starts with, so it has no pace to copy to another number of keys")]
    NoPace,
}

impl Keys {
    /// Some keys moved. One that stays where another lands goes.
    pub fn moved(&self, frames: &[f64], by: KeyMove) -> Result<Self, RetimeError> {
        let numbers = [by.about, by.stretch, by.later, by.level, by.scale, by.higher];
        if by.stretch <= 0.0 || numbers.iter().any(|number| !number.is_finite()) {
            return Err(RetimeError::NoMove);
        }
        // What is seen of a value has the offset in it.
        let by = KeyMove { level: by.level - self.offset(), ..by };
        let (picked, others): (Vec<&Key>, Vec<&Key>) =
            self.iter().partition(|key| frames.contains(&key.frame));
        let moved: Vec<Key> = picked.into_iter().map(|key| by.of(key)).collect();
        if moved.windows(2).any(|pair| pair[0].frame >= pair[1].frame) {
            return Err(RetimeError::Crowded);
        }
        let stay = others.into_iter().filter(|key| moved.iter().all(|one| one.frame != key.frame)).copied();
        let mut keys: Vec<Key> = stay.chain(moved.iter().copied()).collect();
        keys.sort_by(|a, b| a.frame.total_cmp(&b.frame));
        Ok(Self::of(keys, self.offset()))
    }

    /// Some keys passed in another way.
    pub fn shaped(&self, frames: &[f64], shape: KeyShape) -> Self {
        let mut keys: Vec<Key> = self.iter().copied().collect();
        for at in 0..keys.len() {
            if !frames.contains(&keys[at].frame) {
                continue;
            }
            let slopes = match shape {
                KeyShape::Ease(ease) => {
                    keys[at].ease = ease;
                    continue;
                }
                KeyShape::Smooth => None,
                KeyShape::Flat => Some(Slopes::FLAT),
                KeyShape::Slopes(slopes) => Some(slopes),
            };
            keys[at].slopes = slopes;
            // A tangent counts on both sides of its key.
            for side in [Some(at), at.checked_sub(1)].into_iter().flatten() {
                keys[side].ease = Ease::Through;
            }
        }
        Self::of(keys, self.offset())
    }

    /// The same keys without some; `None` when none is left.
    pub fn without(&self, frames: &[f64]) -> Option<Self> {
        let left: Vec<Key> = self.iter().filter(|key| !frames.contains(&key.frame)).copied().collect();
        (!left.is_empty()).then(|| Self::of(left, self.offset()))
    }

    /// The values of these keys at the times of others. As many keys as the others keep their values one by
    /// one; otherwise they run from the first value to the last at the others' pace.
    pub fn paced_like(&self, other: &Self) -> Result<Self, RetimeError> {
        let (own, theirs): (Vec<&Key>, Vec<&Key>) = (self.iter().collect(), other.iter().collect());
        let ends =
            |keys: &[&Key]| keys.first().zip(keys.last()).map_or((0.0, 0.0), |(a, b)| (a.value, b.value));
        let ((start, end), (from, to)) = (ends(&own), ends(&theirs));
        let factor = if to == from { 0.0 } else { (end - start) / (to - from) };
        let same = own.len() == theirs.len();
        if !same && to == from {
            return Err(RetimeError::NoPace);
        }
        let paced = |(at, theirs): (usize, &&Key)| Key {
            frame: theirs.frame,
            value: if same { own[at].value } else { (theirs.value - from).mul_add(factor, start) },
            ease: theirs.ease,
            slopes: theirs.slopes.map(|slopes| slopes.scaled(factor)),
        };
        Ok(Self::of(theirs.iter().enumerate().map(paced).collect(), self.offset()))
    }
}
