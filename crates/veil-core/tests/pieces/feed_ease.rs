//! Checks of `feed::ease`.

use veil_core::feed::{Ease, Key, Keys};

/// The curve from (0, 0) to (1, 1).
fn cubic_bezier(handles: [f64; 4], x: f64) -> f64 {
    let first = Key { ease: Ease::Curve(handles), ..Key::new(0.0, 0.0) };
    Keys::of(vec![first, Key::new(1.0, 1.0)], 0.0).at(x)
}

/// CSS Easing Functions Level 1: `ease` and `ease-in-out`.
#[test]
fn the_published_curves_pass_through_their_values() {
    let ease = [0.25, 0.1, 0.25, 1.0];
    for (x, y) in [(0.25, 0.408_511), (0.5, 0.802_403), (0.75, 0.960_459)] {
        assert!((cubic_bezier(ease, x) - y).abs() < 1e-6, "{x}");
    }
    assert!((cubic_bezier([0.42, 0.0, 0.58, 1.0], 0.25) - 0.129_162).abs() < 1e-6);
}
