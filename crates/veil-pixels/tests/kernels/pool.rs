//! Checks of `pool`.

use veil_pixels::buffer::pool::*;

#[test]
fn memory_is_given_again_for_about_the_same_size_only() {
    let pool = Pool::<f32>::new();
    pool.give(vec![7.0; 100_000]);
    assert_eq!(pool.take(20_000)[0], 0.0, "what is kept is far too large for it");
    let kept = pool.take(90_000);
    assert_eq!((kept.len(), kept[0]), (90_000, 7.0));
    assert_eq!(pool.take(90_000)[0], 0.0, "given away once");
}
