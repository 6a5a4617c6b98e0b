//! Checks of `feed::offset`.

use veil_core::feed::*;

/// Mending over a mend adds both: at every key of either, and before and after them all.
#[test]
fn two_keyed_offsets_together_are_their_sum_at_the_keys_of_either() {
    let keys = |places: &[(f64, f64)]| {
        let (first, rest) = (places[0], &places[1..]);
        rest.iter().fold(Keys::one(first.0, first.1), |keys, (frame, value)| keys.with_value(*frame, *value))
    };
    let one = Offset::Keys(keys(&[(1001.0, 0.0), (1010.0, 9.0), (1020.0, -3.0)])).shifted(0.5);
    let other = Offset::Keys(keys(&[(1005.0, 2.0), (1010.0, 4.0), (1030.0, 1.0)])).scaled(2.0);
    let both = one.plus(&other);
    for frame in [990.0, 1001.0, 1005.0, 1010.0, 1020.0, 1030.0, 1100.0] {
        let wanted = one.at(frame) + other.at(frame);
        assert!((both.at(frame) - wanted).abs() < 1e-12, "{frame}: {}, not {wanted}", both.at(frame));
    }
    assert_eq!(one.plus(&Offset::Fixed(-0.5)).at(1010.0), 9.0);
}
