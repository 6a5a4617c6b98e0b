//! A hole filled as smoothly as can be: a membrane spanned over it.
//!
//! - Each pixel of the hole is the mean of those beside it, so nothing in it is brighter than the brightest at its rim; beyond the
//!   raster's border there is nothing, and it goes on there as it is.
//! - Found from half the size, where it is found in the same way, by conjugate gradients: a cascade.
//! - Source: Pérez, Gangnet and Blake, "Poisson image editing", 2003, for the equation; Bornemann and Deuflhard, "The cascadic
//!   multigrid method for elliptic problems", 1996, for the way it is solved.

use rayon::prelude::*;

use super::marks;
use crate::{Cancel, Cancelled, Field, Pixel, Raster};

/// What is left, as a share of the largest value at a rim, is not looked for.
const EXACT: f64 = 1e-5;
const MOST_STEPS: usize = 400;
/// Sums are made of runs of so many, in their order, whatever the number of threads.
const RUN: usize = 1 << 13;

/// A raster with its hole filled.
pub fn membrane<P: Pixel>(known: &Raster<P>, hole: &Field, cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    let window = known.window();
    let wide = window.width();
    let is_hole = marks(hole, window);
    let has_both = is_hole.contains(&true) && is_hole.contains(&false);
    if !has_both {
        return Ok(known.clone());
    }
    let mut pixels = known.pixels().to_vec();
    for channel in 0..P::CHANNELS {
        let values: Vec<f32> =
            P::floats(&pixels).iter().skip(channel).step_by(P::CHANNELS).copied().collect();
        let filled = Grid { wide, values, is_hole: is_hole.clone() }.filled(cancel)?;
        let floats = P::floats_mut(&mut pixels).iter_mut().skip(channel).step_by(P::CHANNELS);
        for ((to, filled), is_hole) in floats.zip(filled).zip(&is_hole) {
            if *is_hole {
                *to = filled;
            }
        }
    }
    Ok(Raster::from_pixels(window, pixels).unwrap_or_else(|| known.clone()))
}

/// One float a pixel, some of which are not known.
struct Grid {
    wide: usize,
    values: Vec<f32>,
    is_hole: Vec<bool>,
}

impl Grid {
    fn high(&self) -> usize {
        self.values.len() / self.wide
    }

    /// All values, those of the hole found.
    fn filled(mut self, cancel: &Cancel) -> Result<Vec<f32>, Cancelled> {
        cancel.check()?;
        if let Some(half) = self.halved() {
            let half_wide = half.wide;
            let coarse = half.filled(cancel)?;
            self.begin_with(&coarse, half_wide);
        } else {
            let known = || self.values.iter().zip(&self.is_hole).filter(|(_, hole)| !**hole);
            let mean =
                known().map(|(value, _)| f64::from(*value)).sum::<f64>() / known().count().max(1) as f64;
            let holes = self.values.iter_mut().zip(&self.is_hole).filter(|(_, hole)| **hole);
            holes.for_each(|(value, _)| *value = mean as f32);
        }
        self.relax(cancel)?;
        Ok(self.values)
    }

    /// Of half the size: known wherever any of four pixels is. None where that would be no help.
    fn halved(&self) -> Option<Self> {
        const SMALL: usize = 4;
        let (wide, high) = (self.wide.div_ceil(2), self.high().div_ceil(2));
        if wide.min(high) < SMALL || !self.is_hole.contains(&true) {
            return None;
        }
        let mut half = Self { wide, values: vec![0.0; wide * high], is_hole: vec![true; wide * high] };
        for row in 0..high {
            for column in 0..wide {
                let (mut sum, mut count) = (0.0f64, 0.0f64);
                for y in 2 * row..(2 * row + 2).min(self.high()) {
                    for x in 2 * column..(2 * column + 2).min(self.wide) {
                        if !self.is_hole[y * self.wide + x] {
                            sum += f64::from(self.values[y * self.wide + x]);
                            count += 1.0;
                        }
                    }
                }
                if count > 0.0 {
                    half.values[row * wide + column] = (sum / count) as f32;
                    half.is_hole[row * wide + column] = false;
                }
            }
        }
        Some(half)
    }

    /// The hole as it was found at half the size.
    fn begin_with(&mut self, coarse: &[f32], coarse_wide: usize) {
        let coarse_high = coarse.len() / coarse_wide;
        let wide = self.wide;
        for (at, value) in self.values.iter_mut().enumerate().filter(|(at, _)| self.is_hole[*at]) {
            let place = |at: usize, most: usize| {
                let at = (at as f32 / 2.0 - 0.25).clamp(0.0, (most - 1) as f32);
                let first = (at as usize).min(most.saturating_sub(2));
                (first, (first + 1).min(most - 1), at - first as f32)
            };
            let (left, right, across) = place(at % wide, coarse_wide);
            let (above, below, down) = place(at / wide, coarse_high);
            let line = |row: usize| {
                let (a, b) = (coarse[row * coarse_wide + left], coarse[row * coarse_wide + right]);
                a + (b - a) * across
            };
            *value = line(above) + (line(below) - line(above)) * down;
        }
    }

    /// Conjugate gradients from what stands in the hole.
    fn relax(&mut self, cancel: &Cancel) -> Result<(), Cancelled> {
        let system = System::of(self);
        let count = system.places.len();
        let mut x: Vec<f32> = system.places.iter().map(|place| self.values[*place as usize]).collect();
        let most = system
            .rim
            .iter()
            .zip(&system.degrees)
            .fold(0.0f64, |most, (rim, degree)| most.max(f64::from(rim.abs() / degree.max(1.0))));
        let end = (EXACT * most).powi(2) * count as f64;
        let mut towards = vec![0.0f32; count];
        system.apply(&x, &mut towards);
        let mut left: Vec<f32> = system.rim.iter().zip(&towards).map(|(rim, made)| rim - made).collect();
        let mut way = left.clone();
        let mut size = dot(&left, &left);
        for _ in 0..MOST_STEPS {
            if size <= end || size == 0.0 {
                break;
            }
            cancel.check()?;
            system.apply(&way, &mut towards);
            let far = dot(&way, &towards);
            if far <= 0.0 {
                break;
            }
            let step = (size / far) as f32;
            x.par_iter_mut().zip(&way).with_min_len(RUN).for_each(|(x, way)| *x += step * way);
            left.par_iter_mut().zip(&towards).with_min_len(RUN).for_each(|(left, made)| *left -= step * made);
            let next = dot(&left, &left);
            let share = (next / size) as f32;
            way.par_iter_mut()
                .zip(&left)
                .with_min_len(RUN)
                .for_each(|(way, left)| *way = left + share * *way);
            size = next;
        }
        for (place, x) in system.places.iter().zip(x) {
            self.values[*place as usize] = x;
        }
        Ok(())
    }
}

/// What is beside a pixel of the hole and is known, or beyond the border.
const NO_NEIGHBOUR: u32 = u32::MAX;

/// Equations of the pixels of a hole: so many times each, less those beside it in the hole, is the sum of those beside it that are
/// known.
struct System {
    /// Where each lies in the grid.
    places: Vec<u32>,
    beside: Vec<[u32; 4]>,
    degrees: Vec<f32>,
    rim: Vec<f32>,
}

impl System {
    fn of(grid: &Grid) -> Self {
        let places: Vec<u32> =
            (0..grid.values.len() as u32).filter(|place| grid.is_hole[*place as usize]).collect();
        let mut numbers = vec![NO_NEIGHBOUR; grid.values.len()];
        places.iter().zip(0..).for_each(|(place, number)| numbers[*place as usize] = number);
        let (wide, high) = (grid.wide, grid.high());
        let equations = places.par_iter().map(|place| {
            let (x, y) = (*place as usize % wide, *place as usize / wide);
            let (mut beside, mut degree, mut rim) = ([NO_NEIGHBOUR; 4], 0.0, 0.0);
            let all = [
                (x > 0).then(|| *place as usize - 1),
                (x + 1 < wide).then_some(*place as usize + 1),
                (y > 0).then(|| *place as usize - wide),
                (y + 1 < high).then_some(*place as usize + wide),
            ];
            for (beside, other) in beside.iter_mut().zip(all) {
                let Some(other) = other else { continue };
                degree += 1.0;
                *beside = numbers[other];
                if !grid.is_hole[other] {
                    rim += grid.values[other];
                }
            }
            (beside, (degree, rim))
        });
        let (beside, rest): (Vec<_>, Vec<(f32, f32)>) = equations.unzip();
        let (degrees, rim) = rest.into_iter().unzip();
        Self { places, beside, degrees, rim }
    }

    fn apply(&self, x: &[f32], out: &mut [f32]) {
        let equations = self.beside.par_iter().zip(&self.degrees).zip(x).with_min_len(RUN);
        out.par_iter_mut().zip(equations).for_each(|(out, ((beside, degree), own))| {
            let others: f32 = beside.iter().filter_map(|other| x.get(*other as usize)).sum();
            *out = degree * own - others;
        });
    }
}

fn dot(a: &[f32], b: &[f32]) -> f64 {
    let runs: Vec<f64> = a
        .par_chunks(RUN)
        .zip(b.par_chunks(RUN))
        .map(|(a, b)| a.iter().zip(b).map(|(a, b)| f64::from(*a) * f64::from(*b)).sum())
        .collect();
    runs.into_iter().sum()
}
