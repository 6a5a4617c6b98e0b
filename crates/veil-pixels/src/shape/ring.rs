//! Rings about a centre.
//!
//! - Shape: a field, −1 to 1, or 0 to 1.
//! - Units: lengths in pixels of the raster; the phase in rings, so that a phase of 1 is the same again.
//! - Place: the front of the rings is a circle; rings lie behind it, toward the centre, each a wavelength wide. The number
//!   of rings may end; a ring of a sine begins and ends at 0, so that nothing jumps where the phase is 0.
//! - Decay: falls to 1/e over a length out from the centre, and by a share from each ring to the one behind it.
//! - Source of the wave: `sin 2π·(front − r)/wavelength`, as any handbook of waves gives it.

use crate::{Cancel, Cancelled, Field, Raster, Window};

/// The course of a ring from its front to its end.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum RingShape {
    /// A sine: up, then down.
    #[default]
    Sine,
    /// Straight lines through the same places.
    Triangle,
    /// A soft hump in the middle of each ring, up only.
    Pulse,
}

/// The least and the most that rings give.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum RingRange {
    /// −1 to 1, 0 where there is no ring.
    #[default]
    Signed,
    /// 0 to 1, a half where there is no ring; a pulse from 0.
    Positive,
}

/// Rings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rings {
    /// What they are about.
    pub centre: [f32; 2],
    /// How far out the front is.
    pub front: f32,
    /// Width of a ring; at 0 there are none.
    pub wavelength: f32,
    /// Moves the wave behind the front, in rings.
    pub phase: f32,
    /// How many; none for no end, ahead of the front too.
    pub count: Option<f32>,
    /// The course of each.
    pub shape: RingShape,
    /// The least and the most.
    pub range: RingRange,
    /// Length out from the centre over which they fall to 1/e; 0 for no fall.
    pub fades_over: f32,
    /// Share that each ring loses to the one ahead of it, 0–1.
    pub loss: f32,
}

impl Rings {
    /// The value so far out from the centre.
    pub fn at(&self, radius: f32) -> f32 {
        let signed = self.signed(radius);
        match (self.range, self.shape) {
            (RingRange::Signed, _) | (RingRange::Positive, RingShape::Pulse) => signed,
            (RingRange::Positive, _) => 0.5 + 0.5 * signed,
        }
    }

    fn signed(&self, radius: f32) -> f32 {
        if self.wavelength <= 0.0 {
            return 0.0;
        }
        let behind = (self.front - radius) / self.wavelength;
        let weight = match self.count {
            Some(count) if behind < 0.0 || behind > count => return 0.0,
            // Losses count from the front, where there is one.
            Some(_) => (1.0 - self.loss).max(0.0).powf(behind),
            None => 1.0,
        };
        let faded = if self.fades_over > 0.0 { (-radius / self.fades_over).exp() } else { 1.0 };
        let turn = behind + self.phase;
        let turn = turn - turn.floor();
        weight
            * faded
            * match self.shape {
                RingShape::Sine => (std::f32::consts::TAU * turn).sin(),
                RingShape::Triangle => 1.0 - 4.0 * ((turn + 0.25).fract() - 0.5).abs(),
                RingShape::Pulse => 0.5 - 0.5 * (std::f32::consts::TAU * turn).cos(),
            }
    }

    /// The rings over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        Raster::written(window, cancel, |y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            for (x, out) in (window.x0..).zip(row) {
                let right = x as f32 + 0.5 - self.centre[0];
                *out = self.at((right * right + down * down).sqrt());
            }
        })
    }
}
