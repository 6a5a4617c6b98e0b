//! The arithmetic of Cryptomatte: names to IDs, and coverage from ranked pairs.
//!
//! - An ID is the MurmurHash3 of the object's name, kept as the bits of a float.
//! - Each pixel holds ranks, pairs of ID and coverage, most coverage first, spread over channels.
//! - Source: Friedman and Jones, "Fully Automatic ID Mattes with Support for Motion Blur and
//!   Transparency", 2015, and the Cryptomatte specification 1.2; Appleby's MurmurHash3_x86_32.

use multiversion::multiversion;

/// An object's ID: the bits of a float that is neither zero nor subnormal nor infinite nor not-a-number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Id(u32);

impl Id {
    /// The ID of a name.
    pub fn of(name: &str) -> Self {
        let hash = murmur3_32(name.as_bytes(), 0);
        let exponent = hash >> 23 & 0xff;
        Self(if exponent == 0 || exponent == 0xff { hash ^ (1 << 23) } else { hash })
    }

    /// From its bits, as a manifest writes them.
    pub const fn from_bits(bits: u32) -> Self {
        Self(bits)
    }

    /// Its bits.
    pub const fn bits(self) -> u32 {
        self.0
    }

    /// A colour to know it by, as sRGB bytes: every ID its own hue, none too dark or too pale to see on grey.
    pub fn swatch(self) -> [u8; 3] {
        let hue = f64::from(self.0 & 0xffff) / 65_536.0 * 6.0;
        let (low, high) = (70.0 + f64::from(self.0 >> 16 & 0x3f), 150.0 + f64::from(self.0 >> 24 & 0x3f));
        // The hexagon of hues: each channel rises, stays, falls and rests.
        let channel = |shift: f64| {
            let place = (hue + shift).rem_euclid(6.0);
            let share = (2.0 - (place - 3.0).abs()).clamp(0.0, 1.0);
            (low + (high - low) * share) as u8
        };
        [channel(3.0), channel(1.0), channel(5.0)]
    }

    /// As it stands in a channel.
    pub const fn as_float(self) -> f32 {
        f32::from_bits(self.0)
    }
}

/// Adds one rank of a row to the coverage of some IDs: the shares of those pixels whose ID is one of them.
///
/// The coverage of an ID is the sum over all ranks, from 0 to 1. No ID may be asked for twice.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
pub fn add_rank(coverage: &mut [f32], ids: &[f32], shares: &[f32], wanted: &[Id]) {
    for wanted in wanted {
        for ((out, id), share) in coverage.iter_mut().zip(ids).zip(shares) {
            *out += if id.to_bits() == wanted.0 { *share } else { 0.0 };
        }
    }
}

/// MurmurHash3_x86_32.
pub fn murmur3_32(bytes: &[u8], seed: u32) -> u32 {
    const C1: u32 = 0xcc9e_2d51;
    const C2: u32 = 0x1b87_3593;
    let scrambled = |block: u32| block.wrapping_mul(C1).rotate_left(15).wrapping_mul(C2);
    let mut hash = seed;
    let (blocks, tail) = bytes.as_chunks::<4>();
    for block in blocks {
        hash ^= scrambled(u32::from_le_bytes(*block));
        hash = hash.rotate_left(13).wrapping_mul(5).wrapping_add(0xe654_6b64);
    }
    if !tail.is_empty() {
        let block = tail.iter().rev().fold(0, |block, byte| block << 8 | u32::from(*byte));
        hash ^= scrambled(block);
    }
    hash ^= bytes.len() as u32;
    hash ^= hash >> 16;
    hash = hash.wrapping_mul(0x85eb_ca6b);
    hash ^= hash >> 13;
    hash = hash.wrapping_mul(0xc2b2_ae35);
    hash ^ (hash >> 16)
}
