//! Numbers that look like chance and are the same every time.
//!
//! Source: Steele, Lea and Flood, "Fast Splittable Pseudorandom Number Generators", 2014 (the mixing of SplitMix64).

/// Mixes the bits of a number.
pub const fn mixed(state: u64) -> u64 {
    let mut z = state.wrapping_add(0x9e37_79b9_7f4a_7c15);
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^ (z >> 31)
}

/// The number of this place in a seed's sequence, 0 ≤ number < 1.
pub fn share(seed: u32, place: i64) -> f64 {
    let bits = mixed(mixed(u64::from(seed)) ^ place as u64);
    (bits >> 11) as f64 / (1u64 << 53) as f64
}
