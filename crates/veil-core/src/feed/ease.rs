//! The timing curve of an eased key.

/// `y` of the cubic Bézier from (0, 0) to (1, 1) with handles `[x1, y1, x2, y2]`, where its x is `x`.
///
/// `x1` and `x2` lie in 0–1, so that the curve has one y for each x. Source: CSS Easing Functions Level 1.
pub(super) fn cubic_bezier([x1, y1, x2, y2]: [f64; 4], x: f64) -> f64 {
    if x <= 0.0 || x >= 1.0 {
        return x.clamp(0.0, 1.0);
    }
    let along = |a: f64, b: f64, t: f64| {
        let s = 1.0 - t;
        3.0 * s * s * t * a + 3.0 * s * t * t * b + t * t * t
    };
    // x grows with t, so halving the run always closes in; 60 halvings exhaust a double.
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..60 {
        let middle = 0.5 * (low + high);
        if along(x1, x2, middle) < x { low = middle } else { high = middle }
    }
    along(y1, y2, 0.5 * (low + high))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// CSS Easing Functions Level 1: `ease` and `ease-in-out`.
    #[test]
    fn the_published_curves_pass_through_their_values() {
        let ease = [0.25, 0.1, 0.25, 1.0];
        for (x, y) in [(0.25, 0.408_511), (0.5, 0.802_403), (0.75, 0.960_459)] {
            assert!((cubic_bezier(ease, x) - y).abs() < 1e-6, "{x}");
        }
        assert!((cubic_bezier([0.42, 0.0, 0.58, 1.0], 0.25) - 0.129_162).abs() < 1e-6);
    }
}
