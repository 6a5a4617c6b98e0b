//! The thin-plate spline through ways at places.
//!
//! - Source: Bookstein, "Principal warps: thin-plate splines and the decomposition of deformations", 1989.

use rayon::prelude::*;
use wide::f64x4;

/// What a field has at a place: both axes' values, and how each changes by x and by y.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Way {
    pub(super) value: [f64; 2],
    /// By x, then by y, of both axes each.
    pub(super) by: [[f64; 2]; 2],
}

/// A thin plate that is bent through values.
pub(super) struct Plate {
    /// Places in fours, in units of `scale` from `middle`; those that fill up have no weight.
    x: Vec<f64x4>,
    y: Vec<f64x4>,
    weights: [Vec<f64x4>; 2],
    /// Of each axis: at the middle, by x and by y.
    plane: [[f64; 3]; 2],
    middle: [f64; 2],
    scale: f64,
}

/// No two places are nearer, as a share of all.
const APART: f64 = 1e-7;

impl Plate {
    /// Through values at places that lie apart and on no line. None where they do not.
    pub(super) fn through(places: &[[f64; 2]], values: &[[f64; 2]]) -> Option<Self> {
        let count = places.len();
        let bounds = [0, 1].map(|axis| {
            places.iter().fold([f64::MAX, f64::MIN], |[least, most], place| {
                [least.min(place[axis]), most.max(place[axis])]
            })
        });
        let middle = bounds.map(|[least, most]| (least + most) / 2.0);
        let scale = bounds.iter().map(|[least, most]| most - least).fold(0.0, f64::max) / 2.0;
        if count < 3 || !(scale > 0.0) {
            return None;
        }
        let own: Vec<[f64; 2]> =
            places.iter().map(|place| [0, 1].map(|axis| (place[axis] - middle[axis]) / scale)).collect();
        let wide = count + 5;
        let row = |at: usize| -> Vec<f64> {
            let mut row = vec![0.0; wide];
            if at < count {
                let [x, y] = own[at];
                for (out, [ox, oy]) in row.iter_mut().zip(&own) {
                    *out = bend((x - ox) * (x - ox) + (y - oy) * (y - oy));
                }
                row[count..].copy_from_slice(&[1.0, x, y, values[at][0], values[at][1]]);
            } else {
                for (out, [x, y]) in row.iter_mut().zip(&own) {
                    *out = [1.0, *x, *y][at - count];
                }
            }
            row
        };
        let rows: Vec<Vec<f64>> = (0..count + 3).into_par_iter().map(row).collect();
        let solved = solve(rows)?;
        let fours = |of: &dyn Fn(usize) -> f64| -> Vec<f64x4> {
            (0..count.div_ceil(4))
                .map(|four| {
                    f64x4::new(
                        [0, 1, 2, 3]
                            .map(|lane| if four * 4 + lane < count { of(four * 4 + lane) } else { 0.0 }),
                    )
                })
                .collect()
        };
        Some(Self {
            x: fours(&|at| own[at][0]),
            y: fours(&|at| own[at][1]),
            weights: [fours(&|at| solved[at][0]), fours(&|at| solved[at][1])],
            plane: [0, 1].map(|axis| [0, 1, 2].map(|part| solved[count + part][axis])),
            middle,
            scale,
        })
    }

    pub(super) fn at(&self, place: [f64; 2]) -> Way {
        let [x, y] = [0, 1].map(|axis| (place[axis] - self.middle[axis]) / self.scale);
        let (px, py) = (f64x4::splat(x), f64x4::splat(y));
        let (one, two, tiny) = (f64x4::splat(1.0), f64x4::splat(2.0), f64x4::splat(1e-300));
        let mut sums = [[f64x4::splat(0.0); 3]; 2];
        for (at, (cx, cy)) in self.x.iter().zip(&self.y).enumerate() {
            let (dx, dy) = (px - *cx, py - *cy);
            let far = dx * dx + dy * dy;
            let log = far.max(tiny).ln();
            let slope = two * (log + one);
            for (sums, weights) in sums.iter_mut().zip(&self.weights) {
                let weight = weights[at];
                let steep = weight * slope;
                sums[0] += weight * far * log;
                sums[1] += steep * dx;
                sums[2] += steep * dy;
            }
        }
        let sum = |axis: usize, part: usize| sums[axis][part].reduce_add();
        let [a, b] = self.plane;
        Way {
            value: [a[0] + a[1] * x + a[2] * y + sum(0, 0), b[0] + b[1] * x + b[2] * y + sum(1, 0)],
            by: [1, 2]
                .map(|part| [(a[part] + sum(0, part)) / self.scale, (b[part] + sum(1, part)) / self.scale]),
        }
    }
}

/// The plate's own bend, by the square of how far it is: r² ln r².
fn bend(far: f64) -> f64 {
    if far > 0.0 { far * far.ln() } else { 0.0 }
}

/// Solves for two right sides, which are the last columns; rows are changed for one another where that is steadier. None where
/// there is no one answer.
fn solve(mut rows: Vec<Vec<f64>>) -> Option<Vec<[f64; 2]>> {
    let count = rows.len();
    let wide = count + 2;
    for at in 0..count {
        let best = (at..count).max_by(|a, b| rows[*a][at].abs().total_cmp(&rows[*b][at].abs()))?;
        rows.swap(at, best);
        if !(rows[at][at].abs() > APART * APART) {
            return None;
        }
        let (done, rest) = rows.split_at_mut(at + 1);
        let pivot = &done[at];
        let step = |row: &mut Vec<f64>| {
            let by = row[at] / pivot[at];
            if by != 0.0 {
                row[at + 1..wide]
                    .iter_mut()
                    .zip(&pivot[at + 1..wide])
                    .for_each(|(own, pivot)| *own -= by * pivot);
            }
        };
        rest.par_iter_mut().with_min_len(64).for_each(step);
    }
    let mut solved = vec![[0.0; 2]; count];
    for at in (0..count).rev() {
        solved[at] = [0, 1].map(|side| {
            let known: f64 = (at + 1..count).map(|other| rows[at][other] * solved[other][side]).sum();
            (rows[at][count + side] - known) / rows[at][at]
        });
    }
    Some(solved)
}
