//! Numbers that look random and are the same each time.

use glam::Vec3;
use multiversion::multiversion;

/// A short stream of numbers for one sample. Source: O'Neill, "PCG: A Family of Simple Fast
/// Space-Efficient Statistically Good Algorithms for Random Number Generation", 2014.
#[derive(Clone)]
pub(crate) struct Random(u64);

impl Random {
    pub(crate) fn new(parts: [u32; 3]) -> Self {
        let mut state = 0x853c_49e6_748f_ea9b_u64;
        for part in parts {
            state = (state ^ u64::from(part))
                .wrapping_mul(0x5851_f42d_4c95_7f2d)
                .wrapping_add(0x1405_7b7e_f767_814f);
            state ^= state >> 29;
        }
        Self(state)
    }

    fn word(&mut self) -> u32 {
        let state = self.0;
        self.0 = state.wrapping_mul(0x5851_f42d_4c95_7f2d).wrapping_add(0x1405_7b7e_f767_814f);
        let mixed = (((state >> 18) ^ state) >> 27) as u32;
        mixed.rotate_right((state >> 59) as u32)
    }

    /// From 0 to just below 1.
    pub(crate) fn next(&mut self) -> f32 {
        (self.word() >> 8) as f32 * (1.0 / 16_777_216.0)
    }

    /// With mean 0 and deviation 1, by the sum of four even numbers of 16 bits: no long tails, as of a sensor that is
    /// not at its limit.
    pub(crate) fn normal(&mut self) -> f32 {
        let (a, b) = (self.word(), self.word());
        let sum = (a & 0xffff) + (a >> 16) + (b & 0xffff) + (b >> 16);
        (sum as f32 * (1.0 / 65_536.0) - 1.999_97) * 1.732
    }

    /// A step into any direction, about one long, and never longer than two.
    pub(crate) fn step(&mut self) -> Vec3 {
        Vec3::new(self.normal(), self.normal(), self.normal()).clamp_length_max(2.0)
    }

    /// On a disc of radius 1: the first place of the square about it that lies on it.
    pub(crate) fn disc(&mut self) -> (f32, f32) {
        loop {
            let (x, y) = (self.next() * 2.0 - 1.0, self.next() * 2.0 - 1.0);
            if x * x + y * y <= 1.0 {
                return (x, y);
            }
        }
    }
}

/// The whole number below, for a number of ordinary size.
#[inline(always)]
fn whole_below(x: f32) -> i32 {
    let towards_nought = x as i32;
    towards_nought - i32::from(x < towards_nought as f32)
}

/// Smooth noise of a place, about −1 to 1.
#[multiversion(targets("x86_64+avx2"))]
pub(crate) fn noise(place: Vec3, seed: u32) -> f32 {
    smooth(place, seed)
}

/// Noise in octaves.
#[multiversion(targets("x86_64+avx2"))]
pub(crate) fn octaves(place: Vec3, count: u32, seed: u32) -> f32 {
    let (mut sum, mut weight, mut place) = (0.0, 0.5, place);
    for octave in 0..count {
        sum += weight * smooth(place, seed + octave);
        weight *= 0.5;
        place = place * 2.03 + 11.7;
    }
    sum
}

/// How noise in octaves rises along x, y and z. Its slope is known in closed form, so it costs little more than the noise.
#[multiversion(targets("x86_64+avx2"))]
pub(crate) fn octaves_slope(place: Vec3, count: u32, seed: u32) -> Vec3 {
    let (mut sum, mut weight, mut place, mut scale) = (Vec3::ZERO, 0.5, place, 1.0);
    for octave in 0..count {
        sum += weight * scale * smooth_slope(place, seed + octave);
        weight *= 0.5;
        scale *= 2.03;
        place = place * 2.03 + 11.7;
    }
    sum
}

/// The eight corners of the cell that a place is in, and where in the cell it is.
#[inline(always)]
fn cell(place: Vec3, seed: u32) -> ([f32; 8], Vec3) {
    let cell = place.to_array().map(whole_below);
    let within = place - Vec3::from_array(cell.map(|at| at as f32));
    let [i, j, k] = cell.map(|at| [at as u32, (at + 1) as u32]);
    let i = i.map(|at| at.wrapping_mul(0x9e37_79b1));
    let j = j.map(|at| at.wrapping_mul(0x85eb_ca77));
    let k = k.map(|at| at.wrapping_mul(0xc2b2_ae3d) ^ seed.wrapping_mul(0x27d4_eb2f));
    let corners = std::array::from_fn(|n| {
        let mut h = i[n & 1] ^ j[(n >> 1) & 1] ^ k[n >> 2];
        h ^= h >> 15;
        h = h.wrapping_mul(0x2c1b_3c6d);
        h ^= h >> 13;
        // Half as many steps as there are whole numbers: those fit a signed number, which converts in one step.
        (h >> 1) as i32 as f32 * (2.0 / 2_147_483_647.5) - 1.0
    });
    (corners, within)
}

#[inline(always)]
fn lerp(a: f32, b: f32, t: f32) -> f32 {
    a + (b - a) * t
}

#[inline(always)]
fn smooth(place: Vec3, seed: u32) -> f32 {
    let (corners, f) = cell(place, seed);
    let u = f * f * (Vec3::splat(3.0) - 2.0 * f);
    let along_x: [f32; 4] = std::array::from_fn(|n| lerp(corners[2 * n], corners[2 * n + 1], u.x));
    lerp(lerp(along_x[0], along_x[1], u.y), lerp(along_x[2], along_x[3], u.y), u.z)
}

#[inline(always)]
fn smooth_slope(place: Vec3, seed: u32) -> Vec3 {
    let (corners, f) = cell(place, seed);
    let u = f * f * (Vec3::splat(3.0) - 2.0 * f);
    let rise = 6.0 * f * (Vec3::ONE - f);
    let steps: [f32; 4] = std::array::from_fn(|n| corners[2 * n + 1] - corners[2 * n]);
    let along_x: [f32; 4] = std::array::from_fn(|n| lerp(corners[2 * n], corners[2 * n + 1], u.x));
    let x = lerp(lerp(steps[0], steps[1], u.y), lerp(steps[2], steps[3], u.y), u.z);
    let y = lerp(along_x[1] - along_x[0], along_x[3] - along_x[2], u.z);
    let z = lerp(along_x[2], along_x[3], u.y) - lerp(along_x[0], along_x[1], u.y);
    Vec3::new(x, y, z) * rise
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_slope_of_noise_is_how_it_rises_between_near_places() {
        for at in 0..200 {
            let place = Vec3::new(at as f32 * 0.37 - 9.0, at as f32 * 0.71 - 20.0, at as f32 * 0.113 - 3.0);
            let slope = octaves_slope(place, 3, 7);
            for axis in [Vec3::X, Vec3::Y, Vec3::Z] {
                let step = 2e-3;
                let rise = octaves(place + axis * step, 3, 7) - octaves(place - axis * step, 3, 7);
                assert!((slope.dot(axis) - rise / (2.0 * step)).abs() < 0.02, "{place} along {axis}");
            }
        }
    }
}
