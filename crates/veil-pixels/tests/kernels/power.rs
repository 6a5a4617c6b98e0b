//! Checks of `colour::power`.

use proptest::prelude::*;
use veil_pixels::colour::power::power;

proptest! {
    /// Beside the standard library's power in doubles.
    #[test]
    fn powers_are_those_of_the_standard_library(stop in -20.0f32..20.0, exponent in -6.0f32..6.0) {
        let value = stop.exp2();
        let wanted = f64::from(value).powf(f64::from(exponent));
        for got in [power::<false>(value, exponent), power::<true>(value, exponent)].map(f64::from) {
            // Half a float's last bit, and as much again.
            prop_assert!((got - wanted).abs() <= wanted * 1.2e-7 + 1e-45, "{value}^{exponent}: {got}, not {wanted}");
        }
    }
}

#[test]
fn powers_at_the_ends_are_bounded_and_of_one_are_one() {
    for power in [power::<false>, power::<true>] {
        assert_eq!(power(1.0, 3.7), 1.0);
        assert_eq!(power(2.0, 10.0), 1024.0);
        assert_eq!(power(f32::MAX, 100.0), f32::INFINITY);
        assert_eq!(power(1e-30, 100.0), 0.0);
        assert!(power(f32::INFINITY, 2.0).is_infinite());
    }
}
