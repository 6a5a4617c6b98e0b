//! Cameras and places as they are known so far.

use nalgebra::{UnitQuaternion, Vector2, Vector3};

use super::sight::Sight;

/// A place nearer to the camera than this part of a unit is not before it.
pub(super) const NEAREST: f64 = 1e-9;

/// A camera in one frame.
#[derive(Clone, Copy, Debug)]
pub(super) struct Stand {
    /// From the world to the camera: x right, y down, z away from it.
    pub(super) turn: UnitQuaternion<f64>,
    pub(super) place: Vector3<f64>,
}

impl Stand {
    /// At the origin, not turned.
    pub(super) fn begin() -> Self {
        Self { turn: UnitQuaternion::identity(), place: Vector3::zeros() }
    }

    /// A place of the world as the camera has it.
    pub(super) fn before(&self, world: &Vector3<f64>) -> Vector3<f64> {
        self.turn * (world - self.place)
    }

    /// The way in the world, of length 1, that is seen at a place of the picture.
    pub(super) fn ray(&self, at: [f64; 2], focal: f64) -> Vector3<f64> {
        self.turn.inverse() * ray(at, focal)
    }

    /// A share of the way to another.
    pub(super) fn toward(&self, other: &Self, share: f64) -> Self {
        let turn = self.turn.try_slerp(&other.turn, share, 1e-12).unwrap_or(self.turn);
        Self { turn, place: self.place.lerp(&other.place, share) }
    }
}

/// The way of length 1 from the camera that is seen at a place of the picture.
pub(super) fn ray([x, y]: [f64; 2], focal: f64) -> Vector3<f64> {
    Vector3::new(x, y, focal).normalize()
}

/// All that is known.
#[derive(Clone, Debug)]
pub(super) struct Scene {
    /// Focal length in pixels.
    pub(super) focal: f64,
    pub(super) stands: Vec<Option<Stand>>,
    pub(super) points: Vec<Option<Vector3<f64>>>,
}

impl Scene {
    pub(super) fn empty(focal: f64, frames: usize, points: usize) -> Self {
        Self { focal, stands: vec![None; frames], points: vec![None; points] }
    }

    /// How far from where it was seen a place is expected; none where the one or the other is not known, or it is not before the
    /// camera.
    pub(super) fn miss(&self, sight: &Sight) -> Option<Vector2<f64>> {
        let (stand, point) = (self.stands[sight.frame]?, self.points[sight.point]?);
        let before = stand.before(&point);
        (before.z > NEAREST).then(|| before.xy() * (self.focal / before.z) - Vector2::from(sight.at))
    }

    /// The frames that are known.
    pub(super) fn known_frames(&self) -> impl Iterator<Item = usize> {
        self.stands.iter().enumerate().filter_map(|(frame, stand)| stand.map(|_| frame))
    }

    /// The known frame that is nearest to one.
    pub(super) fn nearest(&self, frame: usize) -> Option<usize> {
        self.known_frames().min_by_key(|known| known.abs_diff(frame))
    }

    /// Where the camera most likely is in a frame: between the known ones about it, or as it went on.
    pub(super) fn likely(&self, frame: usize) -> Option<Stand> {
        let nearest = self.nearest(frame)?;
        let other = if nearest < frame {
            self.known_frames()
                .find(|known| *known > frame)
                .or_else(|| self.known_frames().filter(|known| *known < nearest).last())
        } else {
            self.known_frames()
                .filter(|known| *known < frame)
                .last()
                .or_else(|| self.known_frames().find(|known| *known > nearest))
        };
        let (own, Some(other)) = (self.stands[nearest]?, other) else { return self.stands[nearest] };
        let far = other as f64 - nearest as f64;
        let share = (frame as f64 - nearest as f64) / far;
        // It goes on for as long as it is known to have gone at most.
        Some(own.toward(&self.stands[other]?, share.max(-1.0)))
    }
}

/// The middle one of some numbers; 0 of none.
pub(super) fn median(mut numbers: Vec<f64>) -> f64 {
    if numbers.is_empty() {
        return 0.0;
    }
    let middle = numbers.len() / 2;
    *numbers.select_nth_unstable_by(middle, f64::total_cmp).1
}

/// How much a miss counts that is as long as this: all up to `most`, and less from there on, so that it draws evenly.
///
/// Source: Huber, "Robust Estimation of a Location Parameter", 1964.
pub(super) fn counts(miss: f64, most: f64) -> f64 {
    if miss <= most { 1.0 } else { most / miss }
}

/// What a miss of this length costs.
pub(super) fn cost(miss: f64, most: f64) -> f64 {
    if miss <= most { miss * miss } else { 2.0 * most * miss - most * most }
}
