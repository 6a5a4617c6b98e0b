//! Animation keys.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::ease::cubic_bezier;
use super::is_zero;

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
}

impl Ease {
    const SMOOTH: [f64; 4] = [0.42, 0.0, 0.58, 1.0];

    fn share(self, t: f64) -> f64 {
        match self {
            Self::Step => 0.0,
            Self::Straight => t,
            Self::Smooth => cubic_bezier(Self::SMOOTH, t),
            Self::Curve(handles) => cubic_bezier(handles, t),
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
        let finite = |key: &Key| key.frame.is_finite() && key.value.is_finite();
        if !keys.iter().all(finite) || !written.offset.is_finite() {
            return Err("a key's frame and value must be numbers");
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
        Self { keys: vec![Key { frame, value, ease: Ease::default() }], offset: 0.0 }
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
                here.value + (there.value - here.value) * here.ease.share(t)
            }
            (Some(last), None) => last.value,
            (None, first) => first.map_or(0.0, |key| key.value),
        };
        value + self.offset
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
                made.keys.insert(at, Key { frame, value, ease });
            }
        }
        made
    }

    /// The same keys without the one at this frame; `None` when it was the last one.
    pub fn without(&self, frame: f64) -> Option<Self> {
        let mut made = self.clone();
        made.keys.retain(|key| key.frame != frame);
        (!made.keys.is_empty()).then_some(made)
    }

    /// The same keys, every value moved by so much.
    pub fn shifted(&self, by: f64) -> Self {
        Self { keys: self.keys.clone(), offset: self.offset + by }
    }

    /// The same keys, every value multiplied.
    pub fn scaled(&self, factor: f64) -> Self {
        let keys = self.keys.iter().map(|key| Key { value: key.value * factor, ..*key }).collect();
        Self { keys, offset: self.offset * factor }
    }

    /// The same keys with another way out of the one at this frame.
    pub fn with_ease(&self, frame: f64, ease: Ease) -> Self {
        let mut made = self.clone();
        for key in made.keys.iter_mut().filter(|key| key.frame == frame) {
            key.ease = ease;
        }
        made
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn keys(ease: Ease) -> Keys {
        Keys::one(1001.0, 2.0).with_value(1011.0, 12.0).with_ease(1001.0, ease)
    }

    #[test]
    fn a_curve_passes_through_its_keys_and_holds_outside_them() {
        for ease in [Ease::Step, Ease::Straight, Ease::Smooth, Ease::Curve([0.1, 0.9, 0.2, 1.4])] {
            let keys = keys(ease);
            assert_eq!(
                [900.0, 1001.0, 1011.0, 2000.0].map(|f| keys.at(f)),
                [2.0, 2.0, 12.0, 12.0],
                "{ease:?}"
            );
        }
        assert_eq!(keys(Ease::Step).at(1010.9), 2.0);
        assert_eq!(keys(Ease::Straight).at(1004.0), 5.0);
        assert!((keys(Ease::Smooth).at(1006.0) - 7.0).abs() < 1e-9);
    }

    #[test]
    fn keys_out_of_order_are_sorted_and_two_at_one_frame_are_refused() {
        let read = |text: &str| serde_json::from_str::<Keys>(text);
        let sorted = read(r#"{"keys":[{"frame":9,"value":1},{"frame":3,"value":0}]}"#).unwrap();
        assert_eq!(sorted.iter().map(|key| key.frame).collect::<Vec<_>>(), [3.0, 9.0]);
        assert!(read(r#"{"keys":[{"frame":3,"value":1},{"frame":3,"value":0}]}"#).is_err());
        assert!(read(r#"{"keys":[]}"#).is_err());
    }
}
