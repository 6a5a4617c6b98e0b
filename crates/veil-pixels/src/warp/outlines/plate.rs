//! The thin-plate spline through ways at places.
//!
//! - Source: Bookstein, "Principal warps: thin-plate splines and the decomposition of deformations", 1989.

use multiversion::{multiversion, target::target_cfg_f};
use rayon::prelude::*;

use crate::{Cancel, Cancelled};

/// What a field has at a place: both axes' values, and how each changes by x and by y.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Way {
    pub(super) value: [f64; 2],
    /// By x, then by y, of both axes each.
    pub(super) by: [[f64; 2]; 2],
}

/// A thin plate that is bent through values.
pub(super) struct Plate {
    /// Places by both axes, in units of `scale` from `middle`, and the weights of both axes of ways; those that fill up the last
    /// run have none.
    runs: Vec<[[f64; RUN]; 4]>,
    /// Of each axis: at the middle, by x and by y.
    plane: [[f64; 3]; 2],
    middle: [f64; 2],
    scale: f64,
}

/// No two places are nearer, as a share of all.
const APART: f64 = 1e-7;

impl Plate {
    /// Through values at places that lie apart and on no line. None where they do not.
    pub(super) fn through(
        places: &[[f64; 2]],
        values: &[[f64; 2]],
        cancel: &Cancel,
    ) -> Result<Option<Self>, Cancelled> {
        let count = places.len();
        let bounds = [0, 1].map(|axis| {
            places.iter().fold([f64::MAX, f64::MIN], |[least, most], place| {
                [least.min(place[axis]), most.max(place[axis])]
            })
        });
        let middle = bounds.map(|[least, most]| (least + most) / 2.0);
        let scale = bounds.iter().map(|[least, most]| most - least).fold(0.0, f64::max) / 2.0;
        if count < 3 || scale.is_nan() || scale <= 0.0 {
            return Ok(None);
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
        let Some(solved) = solve(rows, cancel)? else { return Ok(None) };
        let run = |first: usize| -> [[f64; RUN]; 4] {
            let mut run = [[0.0; RUN]; 4];
            for at in first..count.min(first + RUN) {
                let numbers = [own[at][0], own[at][1], solved[at][0], solved[at][1]];
                run.iter_mut().zip(numbers).for_each(|(run, number)| run[at - first] = number);
            }
            run
        };
        Ok(Some(Self {
            runs: (0..count).step_by(RUN).map(run).collect(),
            plane: [0, 1].map(|axis| [0, 1, 2].map(|part| solved[count + part][axis])),
            middle,
            scale,
        }))
    }

    pub(super) fn at(&self, place: [f64; 2]) -> Way {
        let [x, y] = [0, 1].map(|axis| (place[axis] - self.middle[axis]) / self.scale);
        let sums = sums(&self.runs, [x, y]);
        let sum = |axis: usize, part: usize| sums[axis][part];
        let [a, b] = self.plane;
        Way {
            value: [a[0] + a[1] * x + a[2] * y + sum(0, 0), b[0] + b[1] * x + b[2] * y + sum(1, 0)],
            by: [1, 2]
                .map(|part| [(a[part] + sum(0, part)) / self.scale, (b[part] + sum(1, part)) / self.scale]),
        }
    }
}

/// Places that are taken at once.
const RUN: usize = 8;

/// `a · b + c`, rounded once where it is `FUSED`: a processor that has such a step does it in the time of one.
#[inline(always)]
fn added<const FUSED: bool>(a: f64, b: f64, c: f64) -> f64 {
    if FUSED { a.mul_add(b, c) } else { a * b + c }
}

/// The natural logarithm of a number that is none of the smallest, to twelve digits, in steps that any width takes at once.
#[inline(always)]
fn ln<const FUSED: bool>(of: f64) -> f64 {
    const WHOLE: u64 = 0x4330_0000_0000_0000;
    let bits = of.to_bits();
    // The exponent as the last bits of a number that is whole.
    let exponent = f64::from_bits(WHOLE | (bits >> 52)) - f64::from_bits(WHOLE) - 1023.0;
    let mantissa = f64::from_bits((bits & 0x000f_ffff_ffff_ffff) | 0x3ff0_0000_0000_0000);
    let large = mantissa > std::f64::consts::SQRT_2;
    let (mantissa, exponent) =
        (if large { mantissa / 2.0 } else { mantissa }, if large { exponent + 1.0 } else { exponent });
    let s = (mantissa - 1.0) / (mantissa + 1.0);
    let q = s * s;
    let series = [1.0 / 11.0, 1.0 / 9.0, 1.0 / 7.0, 1.0 / 5.0, 1.0 / 3.0, 1.0];
    let series = series.into_iter().fold(1.0 / 13.0, |sum, share| added::<FUSED>(sum, q, share));
    added::<FUSED>(2.0 * s, series, exponent * std::f64::consts::LN_2)
}

/// What all places add at one: to both axes, each its value and how that changes by x and by y.
#[multiversion(targets("x86_64+avx512f+avx512vl+avx512dq", "x86_64+avx2+fma", "aarch64+neon"))]
fn sums(runs: &[[[f64; RUN]; 4]], [x, y]: [f64; 2]) -> [[f64; 3]; 2] {
    const FUSED: bool = target_cfg_f!(target_feature = "fma");
    let mut all = [[0.0; RUN]; 6];
    for [at_x, at_y, first, second] in runs {
        for lane in 0..RUN {
            let (dx, dy) = (x - at_x[lane], y - at_y[lane]);
            // At a place itself all of it is nothing.
            let far = added::<FUSED>(dx, dx, added::<FUSED>(dy, dy, 1e-280));
            let log = ln::<FUSED>(far);
            let (bend, slope) = (far * log, 2.0 * (log + 1.0));
            for (own, weight) in [first[lane], second[lane]].into_iter().enumerate() {
                let steep = weight * slope;
                all[3 * own][lane] = added::<FUSED>(weight, bend, all[3 * own][lane]);
                all[3 * own + 1][lane] = added::<FUSED>(steep, dx, all[3 * own + 1][lane]);
                all[3 * own + 2][lane] = added::<FUSED>(steep, dy, all[3 * own + 2][lane]);
            }
        }
    }
    let sum = |at: usize| all[at].iter().sum();
    [[sum(0), sum(1), sum(2)], [sum(3), sum(4), sum(5)]]
}

/// The plate's own bend, by the square of how far it is: r² ln r².
fn bend(far: f64) -> f64 {
    if far > 0.0 { far * far.ln() } else { 0.0 }
}

/// Solves for two right sides, which are the last columns; rows are changed for one another where that is steadier. None where
/// there is no one answer.
fn solve(mut rows: Vec<Vec<f64>>, cancel: &Cancel) -> Result<Option<Vec<[f64; 2]>>, Cancelled> {
    let count = rows.len();
    let wide = count + 2;
    for at in 0..count {
        cancel.check()?;
        let best = (at..count).max_by(|a, b| rows[*a][at].abs().total_cmp(&rows[*b][at].abs()));
        rows.swap(at, best.unwrap_or(at));
        let own = rows[at][at].abs();
        if own.is_nan() || own <= APART * APART {
            return Ok(None);
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
    Ok(Some(solved))
}
