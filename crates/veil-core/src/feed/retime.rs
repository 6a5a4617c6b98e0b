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

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn curve() -> impl Strategy<Value = Keys> {
        let ease = prop_oneof![
            Just(Ease::Step),
            Just(Ease::Straight),
            Just(Ease::Smooth),
            Just(Ease::Through),
            Just(Ease::Curve([0.2, -0.3, 0.6, 1.4])),
        ];
        let slopes =
            proptest::option::of((-3.0..3.0, -3.0..3.0).prop_map(|(arrive, leave)| Slopes { arrive, leave }));
        let key = (1_i32..12, -50.0..50.0, ease, slopes);
        (proptest::collection::vec(key, 2..8), -5.0..5.0).prop_map(|(parts, offset)| {
            let mut frame = 1000.0;
            let key = |(gap, value, ease, slopes): (i32, f64, Ease, Option<Slopes>)| {
                frame += f64::from(gap);
                Key { frame, value, ease, slopes }
            };
            Keys::of(parts.into_iter().map(key).collect(), offset)
        })
    }

    fn frames(keys: &Keys) -> Vec<f64> {
        keys.iter().map(|key| key.frame).collect()
    }

    proptest! {
        /// Common practice: a whole curve stretched and moved gives at each new time what it gave at the old.
        #[test]
        fn a_stretched_curve_is_the_same_curve_at_another_pace(keys in curve(), stretch in 0.2..4.0_f64, later in -20.0..20.0_f64, scale in -2.0..2.0_f64) {
            let by = KeyMove { about: 1003.0, stretch, later, level: 1.5, scale, higher: 2.0, snap: false };
            let made = keys.moved(&frames(&keys), by).unwrap();
            // A summit stays one whichever way it is scaled, so found slopes follow too.
            for step in 0..300 {
                let frame = 990.0 + f64::from(step) * 0.37;
                let wanted = (keys.at(frame) - 1.5) * scale + 3.5;
                let found = made.at((frame - 1003.0) * stretch + 1003.0 + later);
                // At a step the two sides of a key differ by rounding of its frame.
                let at_key = keys.iter().any(|key| (key.frame - frame).abs() < 1e-6);
                prop_assert!(at_key || (wanted - found).abs() < 1e-6, "{frame}: {wanted} {found}");
            }
        }

        /// Fritsch and Butland 1984: between two keys a smooth curve stays between their values.
        #[test]
        fn smooth_tangents_never_overshoot(keys in curve()) {
            let made = keys.shaped(&frames(&keys), KeyShape::Smooth);
            let all: Vec<Key> = made.iter().copied().collect();
            for pair in all.windows(2) {
                let (low, high) = (pair[0].value.min(pair[1].value), pair[0].value.max(pair[1].value));
                for share in 0..=20 {
                    let at = made.at(pair[0].frame + (pair[1].frame - pair[0].frame) * f64::from(share) / 20.0) - made.offset();
                    prop_assert!((low - 1e-9..=high + 1e-9).contains(&at), "{at} beyond {low} to {high}");
                }
            }
        }

        /// The slope that a tangent states is the slope that the curve has, on either side.
        #[test]
        fn a_broken_tangent_gives_both_its_slopes(keys in curve(), arrive in -4.0..4.0_f64, leave in -4.0..4.0_f64) {
            prop_assume!(keys.iter().count() > 2);
            let frame = frames(&keys)[1];
            let made = keys.shaped(&[frame], KeyShape::Slopes(Slopes { arrive, leave }));
            let step = 1e-5;
            let slope = |from: f64, to: f64| (made.at(to) - made.at(from)) / (to - from);
            prop_assert!((slope(frame, frame + step) - leave).abs() < 1e-2);
            prop_assert!((slope(frame - step, frame) - arrive).abs() < 1e-2);
        }
    }

    #[test]
    fn a_pace_is_copied_key_by_key_or_from_end_to_end() {
        let key = |frame, value, ease| Key { ease, ..Key::new(frame, value) };
        let theirs = Keys::of(
            vec![key(1.0, 0.0, Ease::Straight), key(4.0, 9.0, Ease::Step), key(9.0, 10.0, Ease::Smooth)],
            0.0,
        );
        let two = Keys::of(vec![Key::new(2.0, 100.0), Key::new(3.0, 200.0)], 0.0);
        let made = two.paced_like(&theirs).unwrap();
        assert_eq!(
            made.iter().map(|k| (k.frame, k.value)).collect::<Vec<_>>(),
            [(1.0, 100.0), (4.0, 190.0), (9.0, 200.0)]
        );
        let three = two.with_value(8.0, -5.0);
        let made = three.paced_like(&theirs).unwrap();
        assert_eq!(
            made.iter().map(|k| (k.frame, k.value)).collect::<Vec<_>>(),
            [(1.0, 100.0), (4.0, 200.0), (9.0, -5.0)]
        );
        assert_eq!(theirs.paced_like(&two).unwrap().at(2.5), 5.0);
        let level = Keys::of(vec![Key::new(1.0, 5.0), Key::new(2.0, 5.0)], 0.0);
        assert_eq!(theirs.paced_like(&level), Err(RetimeError::NoPace));
    }

    #[test]
    fn a_key_that_lands_on_another_takes_its_place_and_two_moved_ones_keep_apart() {
        let keys = Keys::of((1..=4).map(|at| Key::new(f64::from(at), f64::from(at))).collect(), 0.0);
        let made = keys.moved(&[2.0], KeyMove { later: 1.0, ..KeyMove::default() }).unwrap();
        assert_eq!(
            made.iter().map(|k| (k.frame, k.value)).collect::<Vec<_>>(),
            [(1.0, 1.0), (3.0, 2.0), (4.0, 4.0)]
        );
        let squeezed = KeyMove { about: 1.0, stretch: 0.1, snap: true, ..KeyMove::default() };
        assert_eq!(keys.moved(&[1.0, 2.0], squeezed), Err(RetimeError::Crowded));
    }
}
