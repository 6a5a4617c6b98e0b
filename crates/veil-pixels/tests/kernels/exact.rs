//! What coverage is by definition.

/// The area of a polygon within a pixel: the polygon cut by each side of the square in turn (Sutherland and Hodgman
/// 1974), then the shoelace formula.
pub(crate) fn clipped(corners: &[[f64; 2]], x: f64, y: f64) -> f64 {
    let mut left = corners.to_vec();
    for (axis, at, sign) in [(0, x, 1.0), (0, x + 1.0, -1.0), (1, y, 1.0), (1, y + 1.0, -1.0)] {
        let inside = |p: &[f64; 2]| (p[axis] - at) * sign;
        let mut cut = Vec::new();
        for (number, p) in left.iter().enumerate() {
            let q = left[(number + 1) % left.len()];
            if inside(p) >= 0.0 {
                cut.push(*p);
            }
            if inside(p) * inside(&q) < 0.0 {
                let t = inside(p) / (inside(p) - inside(&q));
                cut.push([p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t]);
            }
        }
        left = cut;
    }
    let twice = |number: usize| {
        let (p, q) = (left[number], left[(number + 1) % left.len()]);
        p[0] * q[1] - q[0] * p[1]
    };
    (0..left.len()).map(twice).sum::<f64>().abs() / 2.0
}
