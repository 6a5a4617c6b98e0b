//! Numbers that look like chance and are the same every time.
//!
//! Source: Steele, Lea and Flood, "Fast Splittable Pseudorandom Number Generators", 2014 (the mixing of SplitMix64).

/// Mixes the bits of a number.
const fn mixed(state: u64) -> u64 {
    let mut z = state.wrapping_add(0x9e37_79b9_7f4a_7c15);
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^ (z >> 31)
}

/// The number of this place in a seed's sequence, 0 ≤ number < 1.
pub(super) fn share(seed: u32, place: i64) -> f64 {
    let bits = mixed(mixed(u64::from(seed)) ^ place as u64);
    (bits >> 11) as f64 / (1u64 << 53) as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The reference generator's first two numbers from seed 1234567 (from memory).
    #[test]
    fn mixing_gives_the_reference_sequence() {
        let step = 0x9e37_79b9_7f4a_7c15u64;
        assert_eq!(mixed(1_234_567), 6_457_827_717_110_365_317);
        assert_eq!(mixed(1_234_567u64.wrapping_add(step)), 3_203_168_211_198_807_973);
    }

    #[test]
    fn shares_fill_the_run_evenly() {
        let mut counts = [0; 10];
        for place in -5000..5000 {
            counts[(share(7, place) * 10.0) as usize] += 1;
        }
        assert!(counts.iter().all(|count| (900..1100).contains(count)), "{counts:?}");
    }
}
