//! White light by its colour temperature.
//!
//! Source: Kang, Moon, Hong, Lee, Cho and Kim, "Design of Advanced Color Temperature Control System for HDTV
//! Applications", Journal of the Korean Physical Society 41 (2002): cubic fits of the Planckian locus.

use super::space::Primaries;

/// The lowest and the highest temperature of the fits, in kelvin.
pub const RANGE: [f64; 2] = [1667.0, 25_000.0];
/// Where a picture is left as it is, in kelvin.
pub const NEUTRAL: f64 = 6504.0;

/// CIE 1931 x and y of a black body at so many kelvin; beyond [`RANGE`] that of its end.
pub fn black_body(kelvin: f64) -> [f64; 2] {
    let kelvin = kelvin.clamp(RANGE[0], RANGE[1]);
    let t = 1000.0 / kelvin;
    let x = if kelvin <= 4000.0 {
        ((-0.266_123_9 * t - 0.234_358_9) * t + 0.877_695_6) * t + 0.179_910
    } else {
        ((-3.025_846_9 * t + 2.107_037_9) * t + 0.222_634_7) * t + 0.240_390
    };
    let y = if kelvin <= 2222.0 {
        ((-1.106_381_4 * x - 1.348_110_20) * x + 2.185_558_32) * x - 0.202_196_83
    } else if kelvin <= 4000.0 {
        ((-0.954_947_6 * x - 1.374_185_93) * x + 2.091_370_15) * x - 0.167_488_67
    } else {
        ((3.081_758_0 * x - 5.873_386_70) * x + 3.751_129_97) * x - 0.370_014_83
    };
    [x, y]
}

/// Factors on linear red, green and blue that turn light of [`NEUTRAL`] into light of `kelvin` of the same luma.
/// Exactly 1 at [`NEUTRAL`].
pub fn gains(kelvin: f64, primaries: Primaries) -> [f32; 3] {
    let white = |kelvin: f64| {
        let [x, y] = black_body(kelvin);
        primaries.of_xyz([x / y, 1.0, (1.0 - x - y) / y])
    };
    let (asked, neutral) = (white(kelvin), white(NEUTRAL));
    let gains: [f64; 3] = std::array::from_fn(|channel| (asked[channel] / neutral[channel]).max(0.0));
    let luma: f64 = primaries.luma().iter().zip(gains).map(|(weight, gain)| f64::from(*weight) * gain).sum();
    if kelvin == NEUTRAL { [1.0; 3] } else { gains.map(|gain| (gain / luma) as f32) }
}
