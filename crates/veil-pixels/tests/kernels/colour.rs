//! Checks of `colour`.

use space::Curve;
use veil_pixels::colour::*;

/// IEC 61966-2-1, values as listed in the project's checks.
#[test]
fn srgb_gives_the_published_values_and_comes_back() {
    for (linear, encoded) in [(0.18, 0.461_356), (0.5, 0.735_357), (0.001, 0.012_92), (0.0, 0.0), (1.0, 1.0)]
    {
        assert!((srgb_from_linear(linear) - encoded).abs() < 1e-5, "{linear}");
        assert!((linear_from_srgb(encoded) - linear).abs() < 1e-5, "{encoded}");
    }
    assert_eq!(srgb_from_linear(-0.5), -srgb_from_linear(0.5));
}

#[test]
fn the_byte_table_is_never_more_than_one_step_from_the_curve() {
    let table = ScreenBytes::new(Curve::Srgb);
    for step in 0..=20_000u16 {
        let linear = f32::from(step) / 18_000.0;
        let truth = (srgb_from_linear(linear).min(1.0) * 255.0).round() as i32;
        assert!((i32::from(table.encode(linear)) - truth).abs() <= 1, "{linear}");
    }
    for byte in 0..=255u8 {
        assert_eq!(table.encode(linear_from_srgb(f32::from(byte) / 255.0)), byte);
    }
    assert_eq!((table.encode(-1.0), table.encode(f32::NAN), table.encode(f32::INFINITY)), (0, 0, 255));
}
