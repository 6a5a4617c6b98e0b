//! What lens, sensor and film do to light.

use glam::Vec3;

use crate::random::Random;

/// Values above this are bent towards [`WHITE`], as film's shoulder does.
const SHOULDER: f32 = 3.0;
const WHITE: f32 = 14.0;

/// The recorded value: a shoulder, and noise that grows with brightness.
pub(crate) fn recorded(light: Vec3, random: &mut Random) -> Vec3 {
    let bent = Vec3::from_array(light.to_array().map(|value| {
        let over = (value - SHOULDER).max(0.0);
        value.min(SHOULDER) + (WHITE - SHOULDER) * (1.0 - (-over / (WHITE - SHOULDER)).exp())
    }));
    let grain = Vec3::new(random.normal(), random.normal(), random.normal() * 1.4);
    // Shot noise goes with the square root of the light, read noise stays.
    let deviation = (bent * 0.00011 + Vec3::splat(0.000_004)).to_array().map(f32::sqrt);
    bent + grain * Vec3::from_array(deviation)
}
