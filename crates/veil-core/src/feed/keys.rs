//! Animation keys.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::ease::cubic_bezier;
use super::moment::is_zero;

/// The way from a key to the next.
#[derive(Clone, Copy, Debug, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Ease {
    /// The value stays until the next key.
    Step,
    /// A straight line.
    Straight,
    /// Slow out of this key and slow into the next.
    #[default]
    Smooth,
    /// A Bézier with handles `[x1, y1, x2, y2]`, x as a share of the time and y of the change; x within 0–1.
    Curve([f64; 4]),
    /// Through both keys by the slopes that they have.
    Through,
}

/// How fast a curve passes a key, in values a frame. Where the two differ the tangent is broken.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Slopes {
    /// Coming from the key before.
    pub arrive: f64,
    /// Leaving for the next key.
    pub leave: f64,
}

impl Slopes {
    /// A flat tangent.
    pub const FLAT: Self = Self { arrive: 0.0, leave: 0.0 };

    pub(super) fn scaled(self, factor: f64) -> Self {
        Self { arrive: self.arrive * factor, leave: self.leave * factor }
    }
}

impl Ease {
    const SMOOTH: [f64; 4] = [0.42, 0.0, 0.58, 1.0];

    /// How much of the change is done at a share of the time; none where slopes decide.
    fn share(self, t: f64) -> Option<f64> {
        match self {
            Self::Step => Some(0.0),
            Self::Straight => Some(t),
            Self::Smooth => Some(cubic_bezier(Self::SMOOTH, t)),
            Self::Curve(handles) => Some(cubic_bezier(handles, t)),
            Self::Through => None,
        }
    }
}

/// A value at a frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Key {
    /// Frame number.
    pub frame: f64,
    /// The value there.
    pub value: f64,
    /// The way to the next key.
    #[serde(default)]
    pub ease: Ease,
    /// Its own slopes, for a way that goes through it; found from its neighbours where there are none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub slopes: Option<Slopes>,
}

impl Key {
    /// A key as it comes.
    pub fn new(frame: f64, value: f64) -> Self {
        Self { frame, value, ease: Ease::default(), slopes: None }
    }
}

/// Keys in the order of their frames, no two at one frame, at least one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(try_from = "WrittenKeys", into = "WrittenKeys")]
pub struct Keys {
    keys: Vec<Key>,
    offset: f64,
}

#[derive(Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct WrittenKeys {
    keys: Vec<Key>,
    #[serde(default, skip_serializing_if = "is_zero")]
    offset: f64,
}

impl TryFrom<WrittenKeys> for Keys {
    type Error = &'static str;

    fn try_from(written: WrittenKeys) -> Result<Self, Self::Error> {
        let mut keys = written.keys;
        if keys.is_empty() {
            return Err("keys need at least one key");
        }
        let finite = |key: &Key| {
            let slopes = key.slopes.unwrap_or(Slopes::FLAT);
            [key.frame, key.value, slopes.arrive, slopes.leave].iter().all(|number| number.is_finite())
        };
        if !keys.iter().all(finite) || !written.offset.is_finite() {
            return Err("a key's frame, value and slopes must be numbers");
        }
        let in_time = |key: &Key| match key.ease {
            Ease::Curve([x1, _, x2, _]) => (0.0..=1.0).contains(&x1) && (0.0..=1.0).contains(&x2),
            _ => true,
        };
        if !keys.iter().all(in_time) {
            return Err("the handles of an eased key must lie between it and the next");
        }
        keys.sort_by(|a, b| a.frame.total_cmp(&b.frame));
        if keys.windows(2).any(|pair| pair[0].frame == pair[1].frame) {
            return Err("two keys stand at one frame");
        }
        Ok(Self { keys, offset: written.offset })
    }
}

impl From<Keys> for WrittenKeys {
    fn from(keys: Keys) -> Self {
        Self { keys: keys.keys, offset: keys.offset }
    }
}

impl Keys {
    /// A single key.
    pub fn one(frame: f64, value: f64) -> Self {
        Self { keys: vec![Key::new(frame, value)], offset: 0.0 }
    }

    /// All keys, in order.
    pub fn iter(&self) -> impl Iterator<Item = &Key> {
        self.keys.iter()
    }

    /// Added to every value.
    pub const fn offset(&self) -> f64 {
        self.offset
    }

    /// The value at a frame; before the first key and after the last, theirs.
    pub fn at(&self, frame: f64) -> f64 {
        let next = self.keys.partition_point(|key| key.frame <= frame);
        let value = match (next.checked_sub(1).map(|index| self.keys[index]), self.keys.get(next)) {
            (Some(here), Some(there)) => {
                let t = (frame - here.frame) / (there.frame - here.frame);
                match here.ease.share(t) {
                    Some(share) => here.value + (there.value - here.value) * share,
                    None => self.through(next - 1, t),
                }
            }
            (Some(last), None) => last.value,
            (None, first) => first.map_or(0.0, |key| key.value),
        };
        value + self.offset
    }

    /// The slopes of the key at an index: its own, or the monotone ones, which are flat at a summit, a
    /// valley and both ends and never let the curve rise above or fall below its keys.
    ///
    /// Source: F. N. Fritsch and J. Butland, "A method for constructing local monotone piecewise cubic
    /// interpolants", SIAM J. Sci. Stat. Comput. 5 (1984).
    pub fn slopes(&self, index: usize) -> Slopes {
        let Some(key) = self.keys.get(index) else { return Slopes::FLAT };
        if let Some(slopes) = key.slopes {
            return slopes;
        }
        let before = index.checked_sub(1).map(|at| self.keys[at]);
        let (Some(before), Some(after)) = (before, self.keys.get(index + 1)) else { return Slopes::FLAT };
        let (back, ahead) = (key.frame - before.frame, after.frame - key.frame);
        let (fall, rise) = ((key.value - before.value) / back, (after.value - key.value) / ahead);
        if fall * rise <= 0.0 {
            return Slopes::FLAT;
        }
        let share = (back + 2.0 * ahead) / (3.0 * (back + ahead));
        let slope = fall * rise / (share * rise + (1.0 - share) * fall);
        Slopes { arrive: slope, leave: slope }
    }

    /// The cubic Hermite curve from the key at an index to the next, at a share of the time.
    fn through(&self, index: usize, t: f64) -> f64 {
        let (here, there) = (self.keys[index], self.keys[index + 1]);
        let span = there.frame - here.frame;
        let (leave, arrive) = (self.slopes(index).leave * span, self.slopes(index + 1).arrive * span);
        let s = 1.0 - t;
        here.value * s * s * (1.0 + 2.0 * t) + leave * s * s * t + there.value * t * t * (3.0 - 2.0 * t)
            - arrive * t * t * s
    }

    /// The same keys with this value at this frame; a key that stands there keeps its ease, a new one
    /// takes that of the key before it.
    pub fn with_value(&self, frame: f64, value: f64) -> Self {
        let mut made = self.clone();
        let value = value - self.offset;
        let at = made.keys.partition_point(|key| key.frame < frame);
        match made.keys.get_mut(at) {
            Some(key) if key.frame == frame => key.value = value,
            _ => {
                let ease = at.checked_sub(1).map_or(Ease::default(), |before| made.keys[before].ease);
                made.keys.insert(at, Key { ease, ..Key::new(frame, value) });
            }
        }
        made
    }

    /// Both together, with a key wherever either has one.
    pub fn plus(&self, other: &Self) -> Self {
        let frames = other.keys.iter().map(|key| key.frame);
        let all = frames.fold(self.clone(), |keys, frame| keys.with_value(frame, self.at(frame)));
        let summed =
            |key: &Key| Key { value: self.at(key.frame) + other.at(key.frame), slopes: None, ..*key };
        Self { keys: all.keys.iter().map(summed).collect(), offset: 0.0 }
    }

    /// The same keys, every value moved by so much.
    pub fn shifted(&self, by: f64) -> Self {
        Self { keys: self.keys.clone(), offset: self.offset + by }
    }

    /// The same keys, every value multiplied.
    pub fn scaled(&self, factor: f64) -> Self {
        let scaled = |key: &Key| Key {
            value: key.value * factor,
            slopes: key.slopes.map(|slopes| slopes.scaled(factor)),
            ..*key
        };
        Self { keys: self.keys.iter().map(scaled).collect(), offset: self.offset * factor }
    }

    /// Made of some keys, which must be in order and apart.
    pub const fn of(keys: Vec<Key>, offset: f64) -> Self {
        Self { keys, offset }
    }
}
