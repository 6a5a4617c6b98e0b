//! Powers of many numbers at a time.
//!
//! - Shape: a number and an exponent; the same steps for every number, so that a compiler works on as many as a register holds.
//! - Range: positive numbers, subnormal ones as the least that is normal; what would be larger than any float is infinite.
//! - Exactness: worked out in doubles, within 1e-8 of the power (for exponents up to 6) before it is rounded to a float.
//! - Source: the logarithm by the series of the inverse hyperbolic tangent, the power of two by its Taylor series,
//!   Abramowitz and Stegun, "Handbook of Mathematical Functions", 1964, 4.1.27 and 4.2.1.

/// Adding this to a double leaves its whole number in the low bits.
const SHIFT: f64 = 6_755_399_441_055_744.0;

/// `a · b + c`, rounded once where it is `FUSED`: a processor that has such a step does it in the time of one.
#[inline(always)]
fn added<const FUSED: bool>(a: f64, b: f64, c: f64) -> f64 {
    if FUSED { a.mul_add(b, c) } else { a * b + c }
}

/// A polynomial by its coefficients, those of the highest powers first.
#[inline(always)]
fn polynomial<const FUSED: bool, const N: usize>(x: f64, coefficients: [f64; N]) -> f64 {
    let mut sum = coefficients[0];
    for coefficient in &coefficients[1..] {
        sum = added::<FUSED>(sum, x, *coefficient);
    }
    sum
}

/// Logarithm to the base 2 of a positive, normal number.
#[inline(always)]
fn log2<const FUSED: bool>(value: f64) -> f64 {
    const FRACTION: u64 = (1 << 52) - 1;
    // The nearest power of two, so that what is left lies between √½ and √2.
    let bits = value.to_bits();
    let raised = bits.wrapping_add((1 << 52) - SQRT_HALF_FRACTION);
    let exponent =
        f64::from_bits(0x4330_0000_0000_0000 | (raised >> 52)) - (4_503_599_627_370_496.0 + 1023.0);
    let left = f64::from_bits((raised & FRACTION).wrapping_add(SQRT_HALF_BITS));
    let z = (left - 1.0) / (left + 1.0);
    let square = z * z;
    // |z| is at most 0.1716, so what is left out is no more than 1e-9 of a power of two.
    let series = polynomial::<FUSED, 5>(square, [1.0 / 9.0, 1.0 / 7.0, 1.0 / 5.0, 1.0 / 3.0, 1.0]);
    added::<FUSED>(2.0 * std::f64::consts::LOG2_E * z, series, exponent)
}

/// √½ as a double, and its fraction.
const SQRT_HALF_BITS: u64 = 0x3fe6_a09e_667f_3bcd;
const SQRT_HALF_FRACTION: u64 = SQRT_HALF_BITS & ((1 << 52) - 1);

/// 2 to a power from -1000 to 1000.
#[inline(always)]
fn exp2<const FUSED: bool>(power: f64) -> f64 {
    let shifted = power + SHIFT;
    let whole = shifted - SHIFT;
    let x = (power - whole) * std::f64::consts::LN_2;
    // |x| is at most 0.3466.
    let coefficients = [1.0 / 5040.0, 1.0 / 720.0, 1.0 / 120.0, 1.0 / 24.0, 1.0 / 6.0, 1.0 / 2.0, 1.0, 1.0];
    let series = polynomial::<FUSED, 8>(x, coefficients);
    let scale = f64::from_bits(shifted.to_bits().wrapping_add(1023) << 52);
    series * scale
}

/// A positive number to a power; `FUSED` on processors that multiply and add in one step.
#[inline(always)]
pub fn power<const FUSED: bool>(value: f32, exponent: f32) -> f32 {
    let of = f64::from(value.max(f32::MIN_POSITIVE));
    exp2::<FUSED>((log2::<FUSED>(of) * f64::from(exponent)).clamp(-1000.0, 1000.0)) as f32
}
