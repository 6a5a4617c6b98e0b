//! Checks of `feed::random`.

use veil_core::feed::random::{mixed, share};

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
