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
const LEFT: f64 = 1e-4;

/// Places are found by no more cells than this.
const CELLS: f64 = 250_000.0;
/// Cells are as high as bumps reach, and so many times narrower: the fewer places of a run reach nowhere, the narrower.
const NARROWER: f64 = 2.0;

/// Bumps at places that reach no further than a radius and together have values there.
pub(super) struct Near {
    radius: f64,
    /// By x and y, cell by cell.
    places: [Vec<f64>; 2],
    /// Of both axes.
    weights: [Vec<f64>; 2],
    cells: Cells,
}

/// Cells over all places, in rows: no bump reaches beyond the next row, nor beyond so many columns as are told.
struct Cells {
    least: [f64; 2],
    /// How many there are to a pixel, by both axes.
    by: [f64; 2],
    /// Columns and rows.
    count: [usize; 2],
    /// How many columns a bump reaches.
    reach: isize,
    /// The first place of each cell, and how many there are.
    first: Vec<u32>,
}

impl Cells {
    fn over(places: &[[f64; 2]], radius: f64) -> Self {
        let bounds = [0, 1].map(|axis| {
            places.iter().fold([f64::MAX, f64::MIN], |[least, most], place| {
                [least.min(place[axis]), most.max(place[axis])]
            })
        });
        let long = bounds.map(|[least, most]| (most - least).max(0.0));
        let whole = (long[0] / radius * NARROWER + 1.0) * (long[1] / radius + 1.0);
        let coarser = (whole / CELLS).max(1.0);
        let by = [NARROWER / radius / coarser, 1.0 / radius / coarser];
        let count = [0, 1].map(|axis| (long[axis] * by[axis]) as usize + 1);
        Self {
            least: bounds.map(|[least, _]| least),
            by,
            count,
            reach: NARROWER.ceil() as isize,
            first: Vec::new(),
        }
    }

    /// The column and the row of a place, which may lie beyond all.
    fn of(&self, place: [f64; 2]) -> [isize; 2] {
        [0, 1].map(|axis| ((place[axis] - self.least[axis]) * self.by[axis]).floor() as isize)
    }

    /// The number of the cell that one of the places lies in.
    fn number(&self, place: [f64; 2]) -> usize {
        let own = self.of(place);
        let [column, row] = [0, 1].map(|axis| (own[axis].max(0) as usize).min(self.count[axis] - 1));
        row * self.count[0] + column
    }

    /// Where places of three rows begin and end that may be within reach.
    fn about(&self, place: [f64; 2]) -> [Range<usize>; 3] {
        let [column, row] = self.of(place);
        let [columns, rows] = self.count.map(|count| count as isize);
        let (from, to) = ((column - self.reach).max(0), (column + self.reach + 1).min(columns));
        let mut runs = [const { 0..0 }; 3];
        if from < to {
            for (run, row) in runs.iter_mut().zip(row.saturating_sub(1)..) {
                if (0..rows).contains(&row) {
                    let first = |column: isize| self.first[(row * columns + column) as usize] as usize;
                    *run = first(from)..first(to);
                }
            }
        }
        runs
    }
}

impl Near {
    pub(super) fn through(places: &[[f64; 2]], values: &[[f64; 2]], radius: f64) -> Self {
        let mut cells = Cells::over(places, radius);
        let mut order: Vec<(usize, usize)> =
            places.iter().enumerate().map(|(at, place)| (cells.number(*place), at)).collect();
        order.sort_unstable();
        let all = 0..=cells.count[0] * cells.count[1];
        let mut at = 0;
        let first = |cell: usize| {
            at += order[at..].iter().take_while(|(own, _)| *own < cell).count();
            at as u32
        };
        cells.first = all.map(first).collect();
        let sorted = |of: &[[f64; 2]]| -> Vec<[f64; 2]> { order.iter().map(|(_, at)| of[*at]).collect() };
        let (places, values) = (sorted(places), sorted(values));
        let places = [0, 1].map(|axis| places.iter().map(|place| place[axis]).collect());
        let mut made = Self { radius, weights: [vec![], vec![]], places, cells };
        made.weights = made.solved(&values);
        made
    }

    pub(super) fn add(&self, place: [f64; 2], to: &mut Way) {
        let runs = self.cells.about(place);
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
                self.cells.about([x, y]).into_iter().flatten().map(|other| (other, bump(1.0 - far(other)).0));
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
