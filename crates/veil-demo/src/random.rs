//! Numbers that look random and are the same each time.

/// A short stream of numbers for one sample. Source: O'Neill, "PCG: A Family of Simple Fast
/// Space-Efficient Statistically Good Algorithms for Random Number Generation", 2014.
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

    /// From 0 to just below 1.
    pub(crate) fn next(&mut self) -> f32 {
        let state = self.0;
        self.0 = state.wrapping_mul(0x5851_f42d_4c95_7f2d).wrapping_add(0x1405_7b7e_f767_814f);
        let mixed = (((state >> 18) ^ state) >> 27) as u32;
        let word = mixed.rotate_right((state >> 59) as u32);
        (word >> 8) as f32 * (1.0 / 16_777_216.0)
    }

    /// With mean 0 and deviation 1, by the sum of four even numbers: no long tails, as of a sensor that is
    /// not at its limit.
    pub(crate) fn normal(&mut self) -> f32 {
        (self.next() + self.next() + self.next() + self.next() - 2.0) * 1.732
    }

    /// On a disc of radius 1.
    pub(crate) fn disc(&mut self) -> (f32, f32) {
        let radius = self.next().sqrt();
        let (sin, cos) = (self.next() * std::f32::consts::TAU).sin_cos();
        (radius * cos, radius * sin)
    }
}

/// Smooth noise of a place, about −1 to 1.
pub(crate) fn noise(place: glam::Vec3, seed: u32) -> f32 {
    let cell = place.floor();
    let f = place - cell;
    let u = f * f * (glam::Vec3::splat(3.0) - 2.0 * f);
    let (i, j, k) = (cell.x as i32, cell.y as i32, cell.z as i32);
    let corner = |a: i32, b: i32, c: i32| {
        let mut h = (i + a) as u32;
        h = h.wrapping_mul(0x9e37_79b1) ^ ((j + b) as u32).wrapping_mul(0x85eb_ca77);
        h ^= ((k + c) as u32).wrapping_mul(0xc2b2_ae3d) ^ seed.wrapping_mul(0x27d4_eb2f);
        h ^= h >> 15;
        h = h.wrapping_mul(0x2c1b_3c6d);
        h ^= h >> 13;
        h as f32 * (2.0 / 4_294_967_295.0) - 1.0
    };
    let lerp = |a: f32, b: f32, t: f32| a + (b - a) * t;
    let face = |c: i32| {
        lerp(lerp(corner(0, 0, c), corner(1, 0, c), u.x), lerp(corner(0, 1, c), corner(1, 1, c), u.x), u.y)
    };
    lerp(face(0), face(1), u.z)
}

/// Noise in octaves.
pub(crate) fn octaves(place: glam::Vec3, count: u32, seed: u32) -> f32 {
    let (mut sum, mut weight, mut place) = (0.0, 0.5, place);
    for octave in 0..count {
        sum += weight * noise(place, seed + octave);
        weight *= 0.5;
        place = place * 2.03 + 11.7;
    }
    sum
}
