//! Simplex noise: gradients at the corners of triangles or tetrahedra, each fading out by itself.
//!
//! Sources: Perlin, "Noise Hardware", 2001; Gustavson, "Simplex Noise Demystified", 2005. Fades end at the distance √½,
//! within the nearest simplices, so that the noise has no steps.

use super::cell;
use super::hash::{gradient, hash, plane_gradient};

/// Brings the largest sum of fading gradients to 1; found by search over places and gradients.
const PLANE_SCALE: f32 = 70.148;
const SPACE_SCALE: f32 = 76.885;

/// What is left of a gradient at a squared distance.
#[inline(always)]
fn fading(distance_sq: f32) -> f32 {
    let left = (0.5 - distance_sq).max(0.0);
    (left * left) * (left * left)
}

/// In the plane; about −1 to 1.
pub(super) fn in_plane(seed: u32, [x, y]: [f64; 2]) -> f32 {
    const SKEW: f64 = 0.366_025_403_784_438_6;
    const UNSKEW: f64 = 0.211_324_865_405_187_1;
    let skewed = (x + y) * SKEW;
    let ((i, _), (j, _)) = (cell(x + skewed), cell(y + skewed));
    let back = (i as f64 + j as f64) * UNSKEW;
    let (u, v) = ((x - (i as f64 - back)) as f32, (y - (j as f64 - back)) as f32);
    let side = if u > v { [1, 0] } else { [0, 1] };
    let corner = |[a, b]: [i64; 2]| {
        let back = (a + b) as f32 * UNSKEW as f32;
        let (u, v) = (u - a as f32 + back, v - b as f32 + back);
        let g = plane_gradient(hash(seed, i.wrapping_add(a), j.wrapping_add(b), 0));
        fading(u * u + v * v) * (g[0] * u + g[1] * v)
    };
    PLANE_SCALE * (corner([0, 0]) + corner(side) + corner([1, 1]))
}

/// In space; about −1 to 1. With a period of 3·m it is the same again so far along the third axis: there the lattice of the
/// simplices, which is skewed, has gone m, m and 4·m corners on.
pub(super) fn in_space(seed: u32, [x, y, z]: [f64; 3], period: Option<i64>) -> f32 {
    let skewed = (x + y + z) / 3.0;
    let [i, j, k] = [x, y, z].map(|along| cell(along + skewed).0);
    let back = (i as f64 + j as f64 + k as f64) / 6.0;
    let away = |along: f64, at: i64| (along - (at as f64 - back)) as f32;
    let from = [away(x, i), away(y, j), away(z, k)];
    let corner = |steps: [i64; 3]| {
        let back = (steps[0] + steps[1] + steps[2]) as f32 / 6.0;
        let [u, v, w] = std::array::from_fn(|axis| from[axis] - steps[axis] as f32 + back);
        let [i, j, k] = [i.wrapping_add(steps[0]), j.wrapping_add(steps[1]), k.wrapping_add(steps[2])];
        let turns = period.map_or(0, |period| k.div_euclid(period / 3 * 4));
        let third = period.map_or(0, |period| period / 3) * turns;
        let g = gradient(hash(seed, i - third, j - third, k - 4 * third));
        fading(u * u + v * v + w * w) * (g[0] * u + g[1] * v + g[2] * w)
    };
    let [first, second] = path(from);
    SPACE_SCALE * (corner([0, 0, 0]) + corner(first) + corner(second) + corner([1, 1, 1]))
}

/// The two corners between the first and the last, along the longest way first.
#[inline(always)]
fn path([u, v, w]: [f32; 3]) -> [[i64; 3]; 2] {
    if u >= v {
        if v >= w {
            [[1, 0, 0], [1, 1, 0]]
        } else if u >= w {
            [[1, 0, 0], [1, 0, 1]]
        } else {
            [[0, 0, 1], [1, 0, 1]]
        }
    } else if v < w {
        [[0, 0, 1], [0, 1, 1]]
    } else if u < w {
        [[0, 1, 0], [0, 1, 1]]
    } else {
        [[0, 1, 0], [1, 1, 0]]
    }
}
