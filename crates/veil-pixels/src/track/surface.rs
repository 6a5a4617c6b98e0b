//! A surface that bends, followed from frame to frame by a lattice drawn over it.
//!
//! - Each corner of the lattice goes by the picture in the cells about it: the first frame's, as long as it looks so, and that
//!   of the frame before. Both are laid on the new frame from coarse to fine by Gauss and Newton's method with the template's
//!   slopes (Baker and Matthews, "Lucas-Kanade 20 years on", 2004), a pixel pulling the corners of its cell by how near they are.
//!   Between corners the surface is Catmull and Rom's (1974).
//! - Corners are held together by the bending of how far they have moved, as a thin plate's (Bookstein 1989), the more the
//!   stiffer.
//! - Brightness and contrast may change, cell by cell. What passes in front counts little: pixels that differ (Geman and
//!   McClure's measure), and cells that do not look alike.
//! - Units: places in pixels of the image; images hold display-like values, 0 to 1.

use rayon::prelude::*;

use super::grid::Grid;
use super::hold::{Hold, Pull};
use super::plane::shrunk;
use crate::sample::resample::{Filter, Sampler};
use crate::{Cancel, Cancelled, Edge, Field};

/// So many places of the surface are looked at in the finest image.
const MOST_SAMPLES: f64 = 26_000.0;
/// A cell has so many of them along a side.
const SIDES: (usize, usize) = (3, 40);
/// Halvings of the image.
const MOST_HALVED: u32 = 4;
/// A cell is no smaller than this in the coarsest image, in pixels.
const COARSEST: f64 = 4.0;
/// Steps in one image.
const STEPS: usize = 8;
/// A step shorter than this ends them, in pixels of the image.
const ENOUGH: f64 = 0.01;
/// What is even to within this has nothing to be followed.
const EVEN: f32 = 0.004;
/// No pixel differs less by chance.
const LEAST_NOISE: f64 = 0.006;
/// What differs by more than this is never taken for noise.
const MOST_NOISE: f64 = 0.1;
/// Contrast changes by no more than this.
const GAIN: (f32, f32) = (0.4, 2.5);
/// A cell counts for nothing where it is less alike than the first share of what it usually is, fully where it is more than the
/// second.
const ALIKE: (f64, f64) = (0.5, 0.85);
/// What a cell is thought to be alike before it has been followed, and how much each frame says of it.
const USUAL: (f64, f64) = (0.9, 0.1);
/// The frame before counts for at least this much beside the first.
const LAST_COUNTS: f64 = 0.02;
/// Of a coarser image each halving makes the surface so much stiffer.
const COARSELY: f64 = 0.0;
/// How much of the shape of the frame before it keeps where nothing else is known.
const KEEPS: f64 = 0.7;
/// Images that are fine.
const FINER: usize = 2;
/// Where so many of the cells look alike it is found.
const CLEARLY: f64 = 0.9;
/// It is taken for having gone far only where so many more look alike there.
const BETTER: f64 = 0.1;
/// A cell as alike as this is looked for as it is now, in the next frame.
const RENEWED: f64 = 0.7;

/// Where a surface is in a frame.
#[derive(Clone, Debug, PartialEq)]
pub struct LaidSurface {
    /// Its corners, row by row.
    pub points: Vec<[f64; 2]>,
    /// How alike each cell is to what it was at first, −1 to 1, row by row; 0 where it is not on the image, or even.
    pub likeness: Vec<f64>,
}

/// Follows one surface.
pub struct SurfaceTracker {
    grid: Grid,
    rest: Vec<[f64; 2]>,
    stiffness: f64,
    first: Look,
    last: Look,
    /// Where it was in the frame before.
    points: Vec<[f64; 2]>,
    /// How far each corner moved into that one.
    moved: Vec<[f64; 2]>,
    /// How much the first frame's look of each cell counts.
    trust: Vec<f64>,
    /// How alike each cell is while nothing covers it.
    usual: Vec<f64>,
}

/// An image and how many times it is halved.
struct Level {
    halved: u32,
    image: Field,
}

impl Level {
    fn by(&self) -> f64 {
        f64::from(1u32 << self.halved)
    }

    fn filter(&self) -> Filter {
        if self.halved == 0 { Filter::Cubic } else { Filter::Linear }
    }

    fn read(&self, places: &[Vec<f32>; 2]) -> Vec<f32> {
        let sampler = Sampler::new(&self.image, self.image.window(), Edge::Hold);
        let mut out = vec![0.0; places[0].len()];
        let from = |start: usize, x: &mut [f32], y: &mut [f32]| {
            x.copy_from_slice(&places[0][start..start + x.len()]);
            y.copy_from_slice(&places[1][start..start + y.len()]);
        };
        sampler.read_run(self.filter(), from, &mut out);
        out
    }
}

/// What one cell looks like in an image.
#[derive(Clone)]
struct CellLook {
    /// How many places it has along itself, and down.
    side: [usize; 2],
    /// The ways along it and down, when it looked so.
    sides: [[f64; 2]; 2],
    values: Vec<f32>,
    slopes: [Vec<f32>; 2],
    /// How much each place counts.
    weights: Vec<f32>,
}

/// What a surface looks like, in each image.
type Look = Vec<Vec<CellLook>>;

/// What a cell of a new frame says of its corners.
#[derive(Clone, Default)]
struct Said {
    pull: Pull,
    /// What is left, in the mean.
    noise: Option<f64>,
    /// How alike it is to the first frame's.
    likeness: f64,
    /// How alike it is to the frame before's, and how much each of its places is to be believed.
    last: f64,
    believed: Vec<f32>,
}

/// Weighted mean and spread.
fn spread(values: &[f32], weights: &[f32]) -> Option<[f32; 2]> {
    let (mut count, mut sum, mut square) = (0.0f32, 0.0f32, 0.0f32);
    for (value, weight) in values.iter().zip(weights) {
        count += weight;
        sum += weight * value;
    }
    if count < 4.0 {
        return None;
    }
    let mean = sum / count;
    for (value, weight) in values.iter().zip(weights) {
        square += weight * (value - mean) * (value - mean);
    }
    Some([mean, (square / count).sqrt()])
}

fn risen(value: f64, (low, high): (f64, f64)) -> f64 {
    let t = ((value - low) / (high - low)).clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// How a cell's look is met.
struct Meeting<'a> {
    look: &'a CellLook,
    /// From the look's slopes to those of the new frame.
    turned: [[f64; 2]; 2],
    weight: f64,
    /// How alike it should be.
    usual: f64,
    /// What differs by this counts half as much.
    noise: f64,
}

impl Meeting<'_> {
    /// Adds what a look and the new frame's values say of the corners; gives how alike they are, what is left, and how much
    /// each place is to be believed.
    fn add(
        &self,
        values: &[f32],
        weights: &[f32],
        trusting: bool,
        said: &mut Said,
    ) -> Option<(f64, f64, Vec<f32>)> {
        let Self { look, turned, noise, .. } = self;
        let [own_mean, own_spread] = spread(&look.values, weights)?;
        let [mean, new_spread] = spread(values, weights)?;
        if own_spread < EVEN {
            return None;
        }
        let gain = if new_spread < EVEN { 1.0 } else { (own_spread / new_spread).clamp(GAIN.0, GAIN.1) };
        let (mut together, mut left_sum, mut count) = (0.0f32, 0.0f32, 0.0f32);
        let mut left = Vec::with_capacity(values.len());
        for ((value, own), weight) in values.iter().zip(&look.values).zip(weights) {
            let (a, b) = (own - own_mean, value - mean);
            together += weight * a * b;
            let off = a - gain * b;
            left_sum += weight * off.abs();
            count += weight;
            left.push(off);
        }
        let alike = f64::from(together / count / (own_spread * new_spread.max(EVEN)));
        let share = self.weight * if trusting { risen(alike / self.usual, ALIKE) } else { 1.0 };
        let [wide, high] = look.side;
        let mut believed = Vec::with_capacity(values.len());
        let sq = |x: f32| x * x;
        let scale = *noise as f32;
        let turned = turned.map(|row| row.map(|by| by as f32));
        let mut pull = Pull::default();
        for row in 0..high {
            // Sums of a row: of slopes' squares by the left side, both and the right one; of what is left by either.
            let (mut sure, mut wants) = ([[0.0f32; 3]; 3], [[0.0f32; 2]; 2]);
            for column in 0..wide {
                let at = row * wide + column;
                let belief = sq(1.0 / (1.0 + sq(left[at] / scale)));
                believed.push(belief);
                let weight = weights[at] * belief;
                let [sx, sy] = [look.slopes[0][at], look.slopes[1][at]];
                let g = [turned[0][0] * sx + turned[0][1] * sy, turned[1][0] * sx + turned[1][1] * sy];
                let along = (column as f32 + 0.5) / wide as f32;
                let squares = [g[0] * g[0], g[0] * g[1], g[1] * g[1]];
                for (sums, share) in sure.iter_mut().zip([sq(1.0 - along), along * (1.0 - along), sq(along)])
                {
                    sums.iter_mut().zip(squares).for_each(|(sum, own)| *sum += weight * share * own);
                }
                for (sums, share) in wants.iter_mut().zip([1.0 - along, along]) {
                    sums.iter_mut().zip(g).for_each(|(sum, own)| *sum += weight * share * own * left[at]);
                }
            }
            let down = (row as f64 + 0.5) / high as f64;
            pull.add_row(down, &sure, &wants);
        }
        said.pull.add(&pull, share);
        Some((alike, f64::from(left_sum / count), believed))
    }
}

impl SurfaceTracker {
    /// Begins with a lattice of `cells` rows and columns over a frame, its corners row by row. `stiffness` is 0 to 1;
    /// `counts` says how much a place counts. None where there is nothing to follow, or not as many corners as it takes.
    pub fn new(
        image: &Field,
        [rows, columns]: [usize; 2],
        points: &[[f64; 2]],
        stiffness: f64,
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
        cancel: &Cancel,
    ) -> Result<Option<Self>, Cancelled> {
        let grid = Grid { rows, columns };
        if rows == 0 || columns == 0 || points.len() != grid.points() {
            return Ok(None);
        }
        let levels = levels(image, grid, points, cancel)?;
        let first: Look = levels
            .iter()
            .map(|level| {
                let apart = apart(level, grid, points);
                seen(level, grid, points, |cell| side(level, grid.sides(points, cell), apart), counts)
            })
            .collect();
        let is_seen =
            |cell: &CellLook| spread(&cell.values, &cell.weights).is_some_and(|[_, spread]| spread >= EVEN);
        let Some(finest) = first.last().filter(|cells| cells.iter().any(is_seen)) else {
            return Ok(None);
        };
        let trust = vec![1.0; finest.len()];
        Ok(Some(Self {
            grid,
            rest: points.to_vec(),
            stiffness,
            last: first.clone(),
            first,
            points: points.to_vec(),
            moved: vec![[0.0; 2]; points.len()],
            usual: vec![USUAL.0; trust.len()],
            trust,
        }))
    }

    /// Goes on from a frame where it is known to lie. What looks there as it did in the first frame is looked for as it is there,
    /// the rest as it was.
    pub fn resume(
        &mut self,
        image: &Field,
        points: &[[f64; 2]],
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
        cancel: &Cancel,
    ) -> Result<(), Cancelled> {
        if points.len() != self.rest.len() {
            return Ok(());
        }
        let levels = levels(image, self.grid, &self.rest, cancel)?;
        let Some(finest) = levels.last() else { return Ok(()) };
        self.last.clone_from(&self.first);
        let said = self.said(finest, levels.len() - 1, points, counts, (MOST_NOISE, true));
        self.trust = (0..said.len()).map(|cell| self.known(cell, said[cell].likeness)).collect();
        self.renew(&levels, points, counts, &said);
        self.points = points.to_vec();
        self.moved = vec![[0.0; 2]; points.len()];
        Ok(())
    }

    /// Finds it in the next frame.
    pub fn step(
        &mut self,
        image: &Field,
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
        cancel: &Cancel,
    ) -> Result<LaidSurface, Cancelled> {
        let levels = levels(image, self.grid, &self.rest, cancel)?;
        let start: Vec<[f64; 2]> =
            self.points.iter().zip(&self.moved).map(|(at, by)| [at[0] + by[0], at[1] + by[1]]).collect();
        // What has gone far is found from coarse to fine; what has not is not lost to what looks like it further off.
        let alike = |(_, said): &(_, Vec<Said>)| {
            (0..said.len())
                .map(|cell| self.known(cell, said[cell].likeness.max(said[cell].last)))
                .sum::<f64>()
        };
        let finer = levels.len().saturating_sub(FINER);
        let finely = self.laid(&levels, finer, start.clone(), counts, cancel)?;
        let (points, said) = if finer == 0 || alike(&finely) > CLEARLY * finely.1.len() as f64 {
            finely
        } else {
            let coarsely = self.laid(&levels, 0, start, counts, cancel)?;
            if alike(&coarsely) > alike(&finely) + BETTER * coarsely.1.len() as f64 {
                coarsely
            } else {
                finely
            }
        };
        self.trust = (0..said.len()).map(|cell| self.known(cell, said[cell].likeness)).collect();
        for (usual, said) in self.usual.iter_mut().zip(&said) {
            if said.likeness > RENEWED * *usual {
                *usual += USUAL.1 * (said.likeness - *usual);
            }
        }
        self.renew(&levels, &points, counts, &said);
        self.moved = self.pace(&points, &said);
        self.points = points.clone();
        Ok(LaidSurface { points, likeness: said.iter().map(|said| said.likeness).collect() })
    }

    /// Lays it on a frame's images from one of them on; gives where it lies and what is said of that there.
    fn laid(
        &self,
        levels: &[Level],
        from: usize,
        mut points: Vec<[f64; 2]>,
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
        cancel: &Cancel,
    ) -> Result<(Vec<[f64; 2]>, Vec<Said>), Cancelled> {
        let mut noise = MOST_NOISE;
        for (number, level) in levels.iter().enumerate().skip(from) {
            cancel.check()?;
            for _ in 0..STEPS {
                let said = self.said(level, number, &points, counts, (noise, number + FINER >= levels.len()));
                let mut left: Vec<f64> = said.iter().filter_map(|said| said.noise).collect();
                left.sort_by(f64::total_cmp);
                if let Some(middle) = left.get(left.len() / 2) {
                    // Of noise the mean is about four fifths of the deviation; what differs three times as much counts a quarter.
                    noise = (3.0 * 1.25 * middle).clamp(LEAST_NOISE, MOST_NOISE);
                }
                if self.moved_by(&said, level, &mut points) < ENOUGH * level.by() {
                    break;
                }
            }
        }
        let said = match levels.last() {
            Some(finest) => self.said(finest, levels.len() - 1, &points, counts, (noise, true)),
            None => Vec::new(),
        };
        Ok((points, said))
    }

    /// How far each corner is thought to go in the next frame: as far as in this one where its cells look alike.
    fn pace(&self, points: &[[f64; 2]], said: &[Said]) -> Vec<[f64; 2]> {
        let mut share = vec![(0.0, 0.0); points.len()];
        for (cell, said) in said.iter().enumerate() {
            for corner in self.grid.corners(cell) {
                share[corner] =
                    (share[corner].0 + self.known(cell, said.likeness.max(said.last)), share[corner].1 + 1.0);
            }
        }
        let moved = points.iter().zip(&self.points).zip(share);
        moved
            .map(|((to, from), (alike, cells))| [0, 1].map(|axis| (to[axis] - from[axis]) * alike / cells))
            .collect()
    }

    /// What each cell says of its corners, where they are thought to be.
    fn said(
        &self,
        level: &Level,
        number: usize,
        points: &[[f64; 2]],
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
        (noise, trusting): (f64, bool),
    ) -> Vec<Said> {
        let own = |cell: usize| {
            let mut said = Said::default();
            let looks = [&self.first, &self.last];
            let trust = self.trust[cell];
            let side = self.first[number][cell].side;
            let places = self.grid.places(points, cell, side, level.by());
            let values = level.read(&places);
            let here = weights(level, &places, counts);
            for (which, look) in looks.into_iter().enumerate() {
                let look = &look[number][cell];
                let weights: Vec<f32> = here.iter().zip(&look.weights).map(|(a, b)| a * b).collect();
                let Some(turned) = turned(look.sides, self.grid.sides(points, cell)) else { continue };
                let weight = if which == 0 { trust } else { (1.0 - trust).max(LAST_COUNTS) };
                let meeting = Meeting { look, turned, weight, usual: self.usual[cell], noise };
                let met = meeting.add(&values, &weights, trusting, &mut said);
                match (which, met) {
                    (0, Some((alike, left, _))) => {
                        said.likeness = alike;
                        said.noise = Some(left);
                    }
                    (1, Some((alike, left, believed))) => {
                        said.last = alike;
                        said.noise = Some(said.noise.map_or(left, |noise| noise.min(left)));
                        said.believed = believed;
                    }
                    _ => {}
                }
            }
            said
        };
        (0..self.grid.cells()).into_par_iter().map(own).collect()
    }

    /// Moves the corners by what cells say of them, held together; gives the longest step.
    fn moved_by(&self, said: &[Said], level: &Level, points: &mut [[f64; 2]]) -> f64 {
        let by = level.by();
        let gone: Vec<[f64; 2]> = points
            .iter()
            .zip(&self.thought())
            .map(|(at, from)| [0, 1].map(|axis| (at[axis] - from[axis]) / by))
            .collect();
        let steps = Hold { grid: self.grid, stiffness: self.stiffness + COARSELY * f64::from(level.halved) }
            .steps(said.iter().map(|said| &said.pull), &gone);
        let most = self.shortest_side() / 3.0;
        let mut longest = 0.0f64;
        for (point, step) in points.iter_mut().zip(steps) {
            let far = step[0].hypot(step[1]) * by;
            let share = if far > most { most / far } else { 1.0 };
            longest = longest.max(far * share);
            *point = [0, 1].map(|axis| point[axis] + step[axis] * by * share);
        }
        longest
    }

    /// The shape that bends toward nothing: nearly that of the frame before, which in time becomes that of the first.
    fn thought(&self) -> Vec<[f64; 2]> {
        let both = self.points.iter().zip(&self.rest);
        both.map(|(last, rest)| [0, 1].map(|axis| rest[axis] + KEEPS * (last[axis] - rest[axis]))).collect()
    }

    /// How surely a cell that looks so is what it was.
    fn known(&self, cell: usize, likeness: f64) -> f64 {
        risen(likeness / self.usual[cell], ALIKE)
    }

    fn shortest_side(&self) -> f64 {
        let sides = |cell: usize| self.grid.sides(&self.rest, cell).map(|side| side[0].hypot(side[1]));
        (0..self.grid.cells()).flat_map(sides).fold(f64::MAX, f64::min)
    }

    /// What it looks like in a frame, at as many places as in the first one.
    fn looks(
        &self,
        levels: &[Level],
        points: &[[f64; 2]],
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
    ) -> Look {
        let own = |(level, first): (&Level, &Vec<CellLook>)| {
            seen(level, self.grid, points, |cell| first[cell].side, counts)
        };
        levels.iter().zip(&self.first).map(own).collect()
    }

    /// Takes what is seen now for what is looked for next, where it is likely the same thing.
    fn renew(
        &mut self,
        levels: &[Level],
        points: &[[f64; 2]],
        counts: &(impl Fn([f64; 2]) -> f32 + Sync),
        said: &[Said],
    ) {
        let mut new = self.looks(levels, points, counts);
        let finest = levels.len() - 1;
        for (cell, said) in said.iter().enumerate() {
            if said.last.max(said.likeness) < RENEWED * self.usual[cell] {
                for (new, old) in new.iter_mut().zip(&self.last) {
                    new[cell].clone_from(&old[cell]);
                }
            } else if said.believed.len() == new[finest][cell].weights.len() {
                let own = &mut new[finest][cell].weights;
                own.iter_mut().zip(&said.believed).for_each(|(weight, belief)| *weight *= belief.min(1.0));
            }
        }
        self.last = new;
    }
}

/// From slopes by the sides of a cell to those by other sides of it; none where it has no room.
fn turned(from: [[f64; 2]; 2], to: [[f64; 2]; 2]) -> Option<[[f64; 2]; 2]> {
    let [a, b] = to;
    let room = a[0] * b[1] - a[1] * b[0];
    // A slope along either side stays what it was: (to) x = (from) slope.
    let (inverse, [c, d]) = ([[b[1] / room, -a[1] / room], [-b[0] / room, a[0] / room]], from);
    let made = [0, 1]
        .map(|row: usize| [0, 1].map(|axis: usize| inverse[row][0] * c[axis] + inverse[row][1] * d[axis]));
    made.iter().flatten().all(|number| number.is_finite()).then_some(made)
}

fn levels(image: &Field, grid: Grid, rest: &[[f64; 2]], cancel: &Cancel) -> Result<Vec<Level>, Cancelled> {
    let side = |cell: usize| {
        let [a, b] = grid.sides(rest, cell).map(|side| side[0].hypot(side[1]));
        (a * b).sqrt()
    };
    let mean = (0..grid.cells()).map(side).sum::<f64>() / grid.cells() as f64;
    let wanted =
        (0..=MOST_HALVED).filter(|halved| *halved == 0 || mean / f64::from(1u32 << halved) >= COARSEST);
    wanted.rev().map(|halved| Ok(Level { halved, image: shrunk(image, 1 << halved, cancel)? })).collect()
}

/// How much places of an image count: not at all beyond it.
fn weights(level: &Level, places: &[Vec<f32>; 2], counts: &(impl Fn([f64; 2]) -> f32 + Sync)) -> Vec<f32> {
    let window = level.image.window();
    let [left, top, right, bottom] = [window.x0, window.y0, window.x1, window.y1].map(|at| at as f32);
    let own = |(x, y): (&f32, &f32)| {
        let within = *x >= left + 0.5 && *x <= right - 0.5 && *y >= top + 0.5 && *y <= bottom - 0.5;
        if within { counts([*x, *y].map(|at| f64::from(at) * level.by())) } else { 0.0 }
    };
    places[0].iter().zip(&places[1]).map(own).collect()
}

/// How far places that are looked at lie apart, in pixels of an image.
fn apart(level: &Level, grid: Grid, points: &[[f64; 2]]) -> f64 {
    let area = |cell: usize| {
        let [a, b] = grid.sides(points, cell).map(|side| side[0].hypot(side[1]) / level.by());
        a * b
    };
    let all: f64 = (0..grid.cells()).map(area).sum();
    (all / MOST_SAMPLES).sqrt().max(1.0)
}

fn side(level: &Level, sides: [[f64; 2]; 2], apart: f64) -> [usize; 2] {
    sides.map(|side| ((side[0].hypot(side[1]) / level.by() / apart).round() as usize).clamp(SIDES.0, SIDES.1))
}

/// What a surface looks like in an image, cell by cell.
fn seen(
    level: &Level,
    grid: Grid,
    points: &[[f64; 2]],
    side: impl Fn(usize) -> [usize; 2] + Sync,
    counts: &(impl Fn([f64; 2]) -> f32 + Sync),
) -> Vec<CellLook> {
    let own = |cell: usize| {
        let (side, sides) = (side(cell), grid.sides(points, cell));
        let places = grid.places(points, cell, side, level.by());
        let beside = |axis: usize, by: f32| {
            let mut places = places.clone();
            places[axis].iter_mut().for_each(|at| *at += by);
            level.read(&places)
        };
        let slopes = [0, 1].map(|axis| {
            let (before, after) = (beside(axis, -0.5), beside(axis, 0.5));
            after.iter().zip(&before).map(|(after, before)| after - before).collect()
        });
        let weights = weights(level, &places, counts);
        CellLook { side, sides, values: level.read(&places), slopes, weights }
    };
    (0..grid.cells()).into_par_iter().map(own).collect()
}
