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
