//! What numbers stand for: luma, the sRGB curve, colour spaces and lookup tables.
//!
//! Sources: sRGB from IEC 61966-2-1; luma weights from ITU-R BT.709.

pub mod bare;
pub mod channels;
pub mod grade;
pub mod grade_match;
pub mod hsv;
pub mod hue;
pub mod lut;
pub mod power;
pub mod roll_off;
pub mod space;
pub mod temperature;
pub mod tone;

use crate::Rgba;
use space::Curve;

/// Weights of red, green and blue in BT.709 luma.
pub const LUMA_709: [f32; 3] = [0.2126, 0.7152, 0.0722];

/// Luma of a linear pixel by the weights of its primaries, as premultiplied as the pixel is.
#[inline(always)]
pub fn luma(pixel: Rgba, weights: [f32; 3]) -> f32 {
    pixel[0] * weights[0] + pixel[1] * weights[1] + pixel[2] * weights[2]
}

/// Linear light to the sRGB encoding. Below 0 the curve is mirrored, above 1 it goes on.
pub fn srgb_from_linear(linear: f32) -> f32 {
    let size = linear.abs();
    let encoded = if size <= 0.003_130_8 { 12.92 * size } else { 1.055 * size.powf(1.0 / 2.4) - 0.055 };
    encoded.copysign(linear)
}

/// The sRGB encoding to linear light. Below 0 the curve is mirrored, above 1 it goes on.
pub fn linear_from_srgb(encoded: f32) -> f32 {
    let size = encoded.abs();
    let linear = if size <= 0.040_45 { size / 12.92 } else { ((size + 0.055) / 1.055).powf(2.4) };
    linear.copysign(encoded)
}

/// Divided by alpha; where alpha is 0 the colour is light that covers nothing and stays as it is.
#[inline(always)]
pub fn unpremultiplied(pixel: Rgba) -> Rgba {
    let [r, g, b, a] = pixel;
    if a == 0.0 || a == 1.0 { pixel } else { [r / a, g / a, b / a, a] }
}

/// Multiplied by alpha; the inverse of [`unpremultiplied`].
#[inline(always)]
pub fn premultiplied(pixel: Rgba) -> Rgba {
    let [r, g, b, a] = pixel;
    if a == 0.0 || a == 1.0 { pixel } else { [r * a, g * a, b * a, a] }
}

/// Linear light to the bytes of a screen, by a table over the upper half of the float's bits; never more than one step
/// from the curve.
pub struct ScreenBytes {
    /// Encoded byte for the upper 16 bits of a non-negative float below 1.
    bytes: Vec<u8>,
}

/// 1.0 as the upper half of its bits.
const ONE_UPPER: usize = 0x3f80;

impl ScreenBytes {
    /// Makes the table of a curve.
    pub fn new(curve: Curve) -> Self {
        let byte = |upper: usize| {
            // The middle of the floats that share these upper bits.
            let linear = f32::from_bits(((upper as u32) << 16) | 0x8000);
            (curve.encode(linear) * 255.0 + 0.5) as u8
        };
        Self { bytes: (0..ONE_UPPER).map(byte).collect() }
    }

    /// One channel. Below 0 and not-a-number give 0, above 1 gives 255.
    #[inline(always)]
    pub fn encode(&self, linear: f32) -> u8 {
        if linear <= 0.0 || linear.is_nan() {
            return 0;
        }
        self.bytes.get((linear.to_bits() >> 16) as usize).copied().unwrap_or(255)
    }
}
