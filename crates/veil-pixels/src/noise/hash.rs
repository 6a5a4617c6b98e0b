//! Numbers that look drawn by lot, from places of a lattice. The mixing steps are those of MurmurHash3's finaliser.

/// A number that has nothing to do with its neighbours'.
#[inline(always)]
pub(crate) fn mixed(mut h: u32) -> u32 {
    h ^= h >> 16;
    h = h.wrapping_mul(0x85eb_ca6b);
    h ^= h >> 13;
    h = h.wrapping_mul(0xc2b2_ae35);
    h ^ (h >> 16)
}

/// Of a place of the lattice.
#[inline(always)]
pub(super) fn hash(seed: u32, i: i64, j: i64, k: i64) -> u32 {
    let h = mixed(seed ^ (i as u32).wrapping_mul(0x8da6_b343));
    let h = mixed(h ^ (j as u32).wrapping_mul(0xd816_3841));
    mixed(h ^ (k as u32).wrapping_mul(0xcb1a_b31f))
}

/// The upper 24 bits as a number from 0 up to 1.
#[inline(always)]
pub(super) fn share(hash: u32) -> f32 {
    (hash >> 8) as f32 * (1.0 / 16_777_216.0)
}

/// One of eight directions in the plane, √2 long.
#[inline(always)]
pub(super) fn plane_gradient(hash: u32) -> [f32; 2] {
    use std::f32::consts::SQRT_2;
    const AROUND: [[f32; 2]; 8] = [
        [1.0, 1.0],
        [-1.0, 1.0],
        [1.0, -1.0],
        [-1.0, -1.0],
        [SQRT_2, 0.0],
        [-SQRT_2, 0.0],
        [0.0, SQRT_2],
        [0.0, -SQRT_2],
    ];
    AROUND[(hash >> 29) as usize]
}

/// The twelve middles of a cube's edges; four of them twice, to make sixteen.
#[inline(always)]
pub(super) fn gradient(hash: u32) -> [f32; 3] {
    const EDGES: [[f32; 3]; 16] = [
        [1.0, 1.0, 0.0],
        [-1.0, 1.0, 0.0],
        [1.0, -1.0, 0.0],
        [-1.0, -1.0, 0.0],
        [1.0, 0.0, 1.0],
        [-1.0, 0.0, 1.0],
        [1.0, 0.0, -1.0],
        [-1.0, 0.0, -1.0],
        [0.0, 1.0, 1.0],
        [0.0, -1.0, 1.0],
        [0.0, 1.0, -1.0],
        [0.0, -1.0, -1.0],
        [1.0, 1.0, 0.0],
        [-1.0, 1.0, 0.0],
        [0.0, -1.0, 1.0],
        [0.0, -1.0, -1.0],
    ];
    EDGES[(hash >> 28) as usize]
}
