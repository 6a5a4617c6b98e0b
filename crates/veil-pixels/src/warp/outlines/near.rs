//! What a plate leaves of ways at places, made up for in what lies near them.
//!
//! - Source: Wendland, "Piecewise polynomial, positive definite and compactly supported radial functions of minimal degree",
//!   1995; one after another, each finer, Floater and Iske, "Multistep scattered data interpolation using compactly supported
//!   radial basis functions", 1996. The equations are solved by conjugate gradients, Hestenes and Stiefel, 1952.

use std::ops::Range;

use multiversion::multiversion;
use rayon::prelude::*;

use super::plate::Way;

/// Steps of the solver before what is left is left to the next, finer, one.
const STEPS: usize = 400;
/// What is left is no more than this share of what there was.
const LEFT: f64 = 1e-6;

/// Places are found by no more rows than this.
const ROWS: f64 = 1e6;

/// Bumps at places that reach no further than a radius and together have values there.
pub(super) struct Near {
    radius: f64,
    /// By x and y, in rows as high as the radius or higher, each from left to right.
    places: [Vec<f64>; 2],
    /// Of both axes.
    weights: [Vec<f64>; 2],
    /// What holds all places: the least and the most by both axes.
    bounds: [[f64; 2]; 2],
    high: f64,
    /// The first place of each row, and how many there are.
    rows: Vec<usize>,
}

impl Near {
    pub(super) fn through(places: &[[f64; 2]], values: &[[f64; 2]], radius: f64) -> Self {
        let bounds = [0, 1].map(|axis| {
            places.iter().fold([f64::MAX, f64::MIN], |[least, most], place| {
                [least.min(place[axis]), most.max(place[axis])]
            })
        });
        let [top, bottom] = bounds[1];
        let high = radius.max((bottom - top) / ROWS);
        let row = |place: &[f64; 2]| ((place[1] - top) / high) as usize;
        let mut order: Vec<usize> = (0..places.len()).collect();
        order.sort_by(|a, b| {
            let [a, b] = [a, b].map(|at| &places[*at]);
            row(a).cmp(&row(b)).then(a[0].total_cmp(&b[0]))
        });
        let sorted = |of: &[[f64; 2]]| -> Vec<[f64; 2]> { order.iter().map(|at| of[*at]).collect() };
        let (places, values) = (sorted(places), sorted(values));
        let last = places.last().map_or(0, row);
        let rows = (0..=last + 1).map(|number| places.partition_point(|place| row(place) < number)).collect();
        let places = [0, 1].map(|axis| places.iter().map(|place| place[axis]).collect());
        let mut made = Self { radius, weights: [vec![], vec![]], places, bounds, high, rows };
        made.weights = made.solved(&values);
        made
    }

    /// The places of each row that are no further than the radius to the left and right of one.
    fn about(&self, [x, y]: [f64; 2]) -> [Range<usize>; 3] {
        let ([left, right], [top, bottom]) = (self.bounds[0], self.bounds[1]);
        let within = |at: f64, least: f64, most: f64| at > least - self.radius && at < most + self.radius;
        if !(within(x, left, right) && within(y, top, bottom)) {
            return [const { 0..0 }; 3];
        }
        let row = ((y - top) / self.high).floor() as isize;
        let mut runs = [const { 0..0 }; 3];
        for (run, row) in runs.iter_mut().zip(row - 1..) {
            if (0..self.rows.len() as isize - 1).contains(&row) {
                let [from, to] = [self.rows[row as usize], self.rows[row as usize + 1]];
                let places = &self.places[0][from..to];
                let first = from + places.partition_point(|place| *place <= x - self.radius);
                let count =
                    self.places[0][first..to].iter().take_while(|place| **place < x + self.radius).count();
                *run = first..first + count;
            }
        }
        runs
    }

    pub(super) fn add(&self, place: [f64; 2], to: &mut Way) {
        let runs = self.about(place);
        if runs.iter().all(Range::is_empty) {
            return;
        }
        for (axis, [value, by_x, by_y]) in bumps(self, runs, place).into_iter().enumerate() {
            to.value[axis] += value;
            to.by[0][axis] += by_x / self.radius;
            to.by[1][axis] += by_y / self.radius;
        }
    }

    /// The weights that give values at the places.
    fn solved(&self, values: &[[f64; 2]]) -> [Vec<f64>; 2] {
        let row = |at: usize| -> Vec<(usize, f64)> {
            let [x, y] = self.places.each_ref().map(|along| along[at]);
            let far = |other: usize| {
                let way =
                    [(x - self.places[0][other]) / self.radius, (y - self.places[1][other]) / self.radius];
                (way[0] * way[0] + way[1] * way[1]).sqrt()
            };
            let shares =
                self.about([x, y]).into_iter().flatten().map(|other| (other, bump(1.0 - far(other)).0));
            shares.filter(|(_, share)| *share > 0.0).collect()
        };
        let rows: Vec<Vec<(usize, f64)>> = (0..values.len()).into_par_iter().map(row).collect();
        let times = |of: &[f64]| -> Vec<f64> {
            rows.iter().map(|row| row.iter().map(|(number, share)| share * of[*number]).sum()).collect()
        };
        let one = |axis: usize| {
            let dot = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f64>();
            let mut left: Vec<f64> = values.iter().map(|value| value[axis]).collect();
            let (mut made, mut way) = (vec![0.0; left.len()], left.clone());
            let mut size = dot(&left, &left);
            let enough = size * LEFT * LEFT;
            for _ in 0..STEPS {
                if size <= enough {
                    break;
                }
                let ahead = times(&way);
                let by = size / dot(&way, &ahead);
                made.iter_mut().zip(&way).for_each(|(made, way)| *made += by * way);
                left.iter_mut().zip(&ahead).for_each(|(left, ahead)| *left -= by * ahead);
                let next = dot(&left, &left);
                way.iter_mut().zip(&left).for_each(|(way, left)| *way = left + next / size * *way);
                size = next;
            }
            made
        };
        rayon::join(|| one(0), || one(1)).into()
    }
}

/// A bump, by how far from its end a place lies, and how steep it is, by the way.
#[inline(always)]
fn bump(less: f64) -> (f64, f64) {
    let less = if less > 0.0 { less } else { 0.0 };
    let cube = less * less * less;
    (cube * less * (5.0 - 4.0 * less), -20.0 * cube)
}

/// Bumps that are taken at once.
const RUN: usize = 4;

/// Adds what some bumps have at a place: to both axes, each the value and how that changes by x and by y over the radius.
#[inline(always)]
fn take(all: &mut [[f64; RUN]; 6], [xs, ys, first, second]: [&[f64; RUN]; 4], [x, y, by]: [f64; 3]) {
    for lane in 0..RUN {
        let (dx, dy) = ((x - xs[lane]) * by, (y - ys[lane]) * by);
        let (bump, steep) = bump(1.0 - (dx * dx + dy * dy).sqrt());
        all[0][lane] += first[lane] * bump;
        all[1][lane] += first[lane] * steep * dx;
        all[2][lane] += first[lane] * steep * dy;
        all[3][lane] += second[lane] * bump;
        all[4][lane] += second[lane] * steep * dx;
        all[5][lane] += second[lane] * steep * dy;
    }
}

/// What runs of bumps add at a place.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn bumps(near: &Near, runs: [Range<usize>; 3], [x, y]: [f64; 2]) -> [[f64; 3]; 2] {
    let at = [x, y, 1.0 / near.radius];
    let ([xs, ys], [first, second]) = (&near.places, &near.weights);
    let mut all = [[0.0; RUN]; 6];
    for run in runs {
        let (xs, ys, first, second) = (&xs[run.clone()], &ys[run.clone()], &first[run.clone()], &second[run]);
        let ((xs, rest_x), (ys, rest_y)) = (xs.as_chunks(), ys.as_chunks());
        let ((first, rest_first), (second, rest_second)) = (first.as_chunks(), second.as_chunks());
        for (((xs, ys), first), second) in xs.iter().zip(ys).zip(first).zip(second) {
            take(&mut all, [xs, ys, first, second], at);
        }
        if !rest_x.is_empty() {
            // Those that fill up the last run have no weight.
            let mut filled = [[0.0; RUN]; 4];
            for (filled, rest) in filled.iter_mut().zip([rest_x, rest_y, rest_first, rest_second]) {
                filled[..rest.len()].copy_from_slice(rest);
            }
            take(&mut all, filled.each_ref(), at);
        }
    }
    let sum = |at: usize| all[at][0] + all[at][1] + all[at][2] + all[at][3];
    [[sum(0), sum(1), sum(2)], [sum(3), sum(4), sum(5)]]
}
