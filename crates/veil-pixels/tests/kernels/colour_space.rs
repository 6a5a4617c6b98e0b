//! Checks of `colour::space`.

use veil_pixels::colour::space::*;

const CURVES: [Curve; 6] =
    [Curve::Linear, Curve::Srgb, Curve::Bt709, Curve::Bt1886, Curve::Gamma22, Curve::AcesCct];

/// ITU-R BT.709; Academy S-2016-001 (values from its formula); BT.1886 and 2.2 are powers.
#[test]
fn curves_give_the_published_values() {
    for (curve, linear, encoded) in [
        (Curve::Bt709, 0.18, 0.409_008),
        (Curve::AcesCct, 0.0, 0.072_906),
        (Curve::AcesCct, 0.18, 0.413_588),
        (Curve::AcesCct, 1.0, 0.554_795),
        (Curve::Bt1886, 0.18, 0.489_437),
        (Curve::Gamma22, 0.5, 0.729_740),
    ] {
        assert!((curve.encode(linear) - encoded).abs() < 2e-6, "{curve:?} {linear}");
    }
}

#[test]
fn every_curve_comes_back_below_zero_and_above_one_too() {
    for curve in CURVES {
        for step in -100..1000 {
            let linear = step as f32 * 0.01;
            let back = curve.decode(curve.encode(linear));
            assert!((back - linear).abs() < 2e-5 * (1.0 + linear.abs()), "{curve:?} {linear} {back}");
        }
    }
}

/// Academy S-2014-004 and common practice: sRGB to ACEScg by Bradford; ACES TB-2014-012 lists AP1 to AP0.
#[test]
fn matrices_are_the_listed_ones() {
    let close = |row: [f64; 3], listed: [f64; 3]| row.iter().zip(listed).all(|(a, b)| (a - b).abs() < 2e-6);
    let row = BT709.to(AP1)[0];
    let near = row.iter().zip([0.613_132, 0.339_538, 0.047_417]).all(|(a, b)| (a - b).abs() < 5e-5);
    assert!(near, "{row:?}");
    let listed = [0.695_452_241_4, 0.140_678_696_5, 0.163_869_062_2];
    assert!(close(AP1.to(AP0)[0], listed), "{:?}", AP1.to(AP0)[0]);
    assert!(BT709.luma().iter().zip(veil_pixels::colour::LUMA_709).all(|(a, b)| (a - b).abs() < 1e-4));
}

/// Whites are equal in every space.
#[test]
fn grey_stays_grey() {
    for to in [BT2020, AP0, AP1] {
        for row in BT709.to(to) {
            assert!((row.iter().sum::<f64>() - 1.0).abs() < 1e-9, "{row:?}");
        }
    }
}
