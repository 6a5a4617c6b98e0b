//! A hole filled with what the rest of the picture looks like: patches of it that fit each other and what lies about the hole.
//!
//! - From coarse to fine. Each patch that reaches into the hole looks for the most alike one that is known, and a pixel of the
//!   hole becomes the mean of what the patches about it have there, those that fit better, or lie nearer to the rim, counting more.
//! - Colours are compared as their 1/2.2th powers, so that what is dark counts as it is seen.
//! - Source: Barnes and others, "PatchMatch: A randomized correspondence algorithm for structural image editing", 2009; of the voting,
//!   Wexler, Shechtman and Irani, "Space-time completion of video", 2007. All patches look at once, at what those about them found
//!   in the round before, so that the result is the same on any number of threads.

use rayon::prelude::*;

use super::{marks, membrane};
use crate::noise::mixed;
use crate::{Cancel, Cancelled, Field, Picture, Raster};

/// Half a patch's side, less a half.
const REACH: i32 = 3;
/// No level is smaller across than this.
const SMALLEST: usize = 24;
const MOST_LEVELS: usize = 7;
/// Known patches that a level must have at least.
const LEAST_KNOWN: usize = 64;
/// Rounds of looking and voting at the coarsest level, and at the finest.
const ROUNDS: [usize; 2] = [16, 3];
/// Rounds of looking, each before a vote.
const LOOKS: u32 = 4;
/// A pixel counts so much less for each pixel that it is further from what is known.
const FADES: f32 = 1.3;

/// Colours as they are compared.
type Seen = [f32; 4];

/// A picture with its hole filled; `seed` says by which lots patches are looked for.
pub fn patches(known: &Picture, hole: &Field, seed: u32, cancel: &Cancel) -> Result<Picture, Cancelled> {
    let window = known.window();
    let smooth = membrane(known, hole, cancel)?;
    if window.is_empty() {
        return Ok(smooth);
    }
    let wide = window.width();
    let is_hole = marks(hole, window);
    let colours: Vec<Seen> = smooth.pixels().par_iter().map(|pixel| pixel.map(seen)).collect();
    let mut levels = vec![Level { wide, colours, is_hole }];
    while levels.len() < MOST_LEVELS {
        let Some(half) = levels.last().and_then(Level::halved) else { break };
        levels.push(half);
    }
    let mut found: Option<(Vec<Option<[i32; 2]>>, usize)> = None;
    let count = levels.len();
    while let Some(mut level) = levels.pop() {
        let number = levels.len();
        let Some(mut search) = Search::over(&level, mixed(seed ^ number as u32)) else { continue };
        search.begin(found.as_ref());
        let [coarse, fine] = ROUNDS;
        let rounds = fine + (coarse - fine) * number / (count - 1).max(1);
        for round in 0..rounds {
            if round > 0 || found.is_none() {
                search.look(&level, round as u32, cancel)?;
            }
            search.vote(&mut level, cancel)?;
        }
        if number == 0 {
            let pixels: Vec<[f32; 4]> = known
                .pixels()
                .par_iter()
                .zip(&level.colours)
                .zip(&level.is_hole)
                .map(|((known, made), hole)| if *hole { made.map(shown) } else { *known })
                .collect();
            return Ok(Raster::from_pixels(window, pixels).unwrap_or(smooth));
        }
        found = Some((search.spread(), level.wide));
    }
    Ok(smooth)
}

fn seen(value: f32) -> f32 {
    value.abs().powf(1.0 / 2.2).copysign(value)
}

fn shown(value: f32) -> f32 {
    value.abs().powf(2.2).copysign(value)
}

/// The picture at a size.
struct Level {
    wide: usize,
    colours: Vec<Seen>,
    is_hole: Vec<bool>,
}

impl Level {
    fn high(&self) -> usize {
        self.colours.len() / self.wide
    }

    /// At half the size; a pixel of it is of the hole where more than half of what it is made of is.
    fn halved(&self) -> Option<Self> {
        let (wide, high) = (self.wide / 2, self.high() / 2);
        if wide.min(high) < SMALLEST {
            return None;
        }
        let four = |at: usize| {
            let first = at / wide * 2 * self.wide + at % wide * 2;
            [first, first + 1, first + self.wide, first + self.wide + 1]
        };
        let is_hole: Vec<bool> =
            (0..wide * high).map(|at| four(at).iter().filter(|of| self.is_hole[**of]).count() > 2).collect();
        let colours = (0..wide * high).map(|at| {
            // What is known counts alone where it makes the pixel known.
            let counts = |of: &&usize| is_hole[at] || !self.is_hole[**of];
            let four = four(at);
            let share = 1.0 / four.iter().filter(counts).count().max(1) as f32;
            let sum = four.iter().filter(counts).fold([0.0; 4], |sum: Seen, of| {
                std::array::from_fn(|channel| sum[channel] + self.colours[*of][channel])
            });
            sum.map(|sum| sum * share)
        });
        let colours = colours.collect();
        is_hole.contains(&true).then_some(Self { wide, colours, is_hole })
    }

    fn at(&self, [x, y]: [i32; 2]) -> Option<usize> {
        let inside = x >= 0 && y >= 0 && (x as usize) < self.wide && (y as usize) < self.high();
        inside.then(|| y as usize * self.wide + x as usize)
    }

    /// How far each pixel of the hole is from what is known, in steps; 0 of what is known.
    fn depths(&self) -> Vec<u16> {
        let mut depths: Vec<u16> = self.is_hole.iter().map(|hole| if *hole { u16::MAX } else { 0 }).collect();
        let (wide, high) = (self.wide, self.high());
        for at in 0..depths.len() {
            let beside = [(at % wide > 0).then(|| at - 1), at.checked_sub(wide)];
            let least = beside.into_iter().flatten().map(|other| depths[other]).min();
            depths[at] = depths[at].min(least.unwrap_or(u16::MAX).saturating_add(1));
        }
        for at in (0..depths.len()).rev() {
            let beside =
                [(at % wide + 1 < wide).then_some(at + 1), (at / wide + 1 < high).then_some(at + wide)];
            let least = beside.into_iter().flatten().map(|other| depths[other]).min();
            depths[at] = depths[at].min(least.unwrap_or(u16::MAX).saturating_add(1));
        }
        depths
    }
}

/// Where a patch's likeness was found, and how unlike it is.
#[derive(Clone, Copy)]
struct Found {
    at: [i32; 2],
    off: f32,
}

/// What looks for patches that are alike.
struct Search {
    seed: u32,
    wide: usize,
    /// Middles of patches that reach into the hole.
    targets: Vec<[i32; 2]>,
    /// The number of the target of each pixel.
    numbers: Vec<Option<u32>>,
    /// Middles of patches that are known whole.
    sources: Vec<[i32; 2]>,
    is_source: Vec<bool>,
    counts: Vec<f32>,
    found: Vec<Found>,
}

impl Search {
    /// None where too little is known, or nothing is to be filled.
    fn over(level: &Level, seed: u32) -> Option<Self> {
        let (wide, high) = (level.wide as i32, level.high() as i32);
        // How many pixels of the hole a patch about each pixel has, the border's patches cut.
        let in_patch = box_sums(&level.is_hole, level.wide, REACH);
        let places = || (0..high).flat_map(|y| (0..wide).map(move |x| [x, y]));
        let number = |[x, y]: [i32; 2]| (y * wide + x) as usize;
        let is_inside =
            |[x, y]: [i32; 2]| (REACH..wide - REACH).contains(&x) && (REACH..high - REACH).contains(&y);
        let sources: Vec<[i32; 2]> =
            places().filter(|place| is_inside(*place) && in_patch[number(*place)] == 0).collect();
        let targets: Vec<[i32; 2]> = places().filter(|place| in_patch[number(*place)] > 0).collect();
        if sources.len() < LEAST_KNOWN || targets.is_empty() {
            return None;
        }
        let mut numbers = vec![None; level.colours.len()];
        targets.iter().zip(0..).for_each(|(place, target)| numbers[number(*place)] = Some(target));
        let mut is_source = vec![false; level.colours.len()];
        sources.iter().for_each(|place| is_source[number(*place)] = true);
        let depths = level.depths();
        let counts = depths.iter().map(|depth| FADES.powi(-i32::from((*depth).min(100)))).collect();
        Some(Self { seed, wide: level.wide, targets, numbers, sources, is_source, counts, found: Vec::new() })
    }

    /// Where the level before found things, or anywhere.
    fn begin(&mut self, coarse: Option<&(Vec<Option<[i32; 2]>>, usize)>) {
        let first = |target: usize, [x, y]: [i32; 2]| {
            let told = coarse.and_then(|(found, wide)| {
                let column = (x / 2).min(*wide as i32 - 1);
                let row = (y / 2).min((found.len() / wide) as i32 - 1);
                let [from_x, from_y] = found[row as usize * wide + column as usize]?;
                Some([2 * from_x + x - 2 * column, 2 * from_y + y - 2 * row])
            });
            told.filter(|place| self.is_known(*place)).unwrap_or_else(|| {
                self.sources[self.lot(target as u32, 0, self.sources.len() as u32) as usize]
            })
        };
        let found: Vec<Found> = self
            .targets
            .iter()
            .enumerate()
            .map(|(target, place)| Found { at: first(target, *place), off: f32::MAX })
            .collect();
        self.found = found;
    }

    fn is_known(&self, [x, y]: [i32; 2]) -> bool {
        let inside = x >= 0 && y >= 0 && (x as usize) < self.wide;
        inside && self.is_source.get(y as usize * self.wide + x as usize) == Some(&true)
    }

    /// A number below `most` for a target at a time.
    fn lot(&self, target: u32, time: u32, most: u32) -> u32 {
        let drawn =
            mixed(mixed(self.seed ^ target.wrapping_mul(0x9e37_79b9)) ^ time.wrapping_mul(0x85eb_ca77));
        ((u64::from(drawn) * u64::from(most)) >> 32) as u32
    }

    /// How unlike the patch at `to` is the one at `from`, for each pixel that counts; no further than `most`.
    fn off(&self, level: &Level, to: [i32; 2], from: [i32; 2], most: f32) -> f32 {
        let (mut sum, mut all) = (0.0f32, 0.0f32);
        let whole = ((2 * REACH + 1) * (2 * REACH + 1)) as f32;
        for down in -REACH..=REACH {
            for across in -REACH..=REACH {
                let Some(own) = level.at([to[0] + across, to[1] + down]) else { continue };
                let other = (from[1] + down) as usize * self.wide + (from[0] + across) as usize;
                let (a, b) = (&level.colours[own], &level.colours[other]);
                let off: f32 = (0..3).map(|channel| (a[channel] - b[channel]).powi(2)).sum();
                sum += off * self.counts[own];
                all += self.counts[own];
            }
            if sum > most * whole {
                return f32::MAX;
            }
        }
        sum / all.max(1e-9)
    }

    /// All targets look about, at what others beside them found, and elsewhere by lot.
    fn look(&mut self, level: &Level, round: u32, cancel: &Cancel) -> Result<(), Cancelled> {
        const STEPS: [i32; LOOKS as usize] = [4, 2, 1, 1];
        let far = level.wide.max(level.high()) as i32;
        for (look, step) in (0..).zip(STEPS) {
            cancel.check()?;
            let found: Vec<Found> = self
                .targets
                .par_iter()
                .enumerate()
                .map(|(target, place)| {
                    let mut best = self.found[target];
                    if look == 0 {
                        best.off = self.off(level, *place, best.at, f32::MAX);
                    }
                    let mut take = |at: [i32; 2]| {
                        if self.is_known(at) && at != best.at {
                            let off = self.off(level, *place, at, best.off);
                            if off < best.off {
                                best = Found { at, off };
                            }
                        }
                    };
                    for way in [[-step, 0], [step, 0], [0, -step], [0, step]] {
                        let beside = [place[0] + way[0], place[1] + way[1]];
                        let Some(other) = level.at(beside).and_then(|at| self.numbers[at]) else { continue };
                        let [x, y] = self.found[other as usize].at;
                        take([x - way[0], y - way[1]]);
                    }
                    let (mut radius, mut time) = (far, 1 + (round * LOOKS + look) * 64);
                    while radius >= 1 {
                        let lot =
                            |time: u32| self.lot(target as u32, time, 2 * radius as u32 + 1) as i32 - radius;
                        let middle = self.found[target].at;
                        take([middle[0] + lot(time), middle[1] + lot(time + 1)]);
                        (radius, time) = (radius / 2, time + 2);
                    }
                    best
                })
                .collect();
            self.found = found;
        }
        Ok(())
    }

    /// What patches have where they reach into the hole.
    fn vote(&self, level: &mut Level, cancel: &Cancel) -> Result<(), Cancelled> {
        cancel.check()?;
        let mut offs: Vec<f32> =
            self.found.iter().map(|found| found.off).filter(|off| *off < f32::MAX).collect();
        // Patches that are as unlike as three of four of them count little.
        let usual = if offs.is_empty() {
            1.0
        } else {
            let at = offs.len() * 3 / 4;
            *offs.select_nth_unstable_by(at, f32::total_cmp).1
        };
        let sharp = 1.0 / (2.0 * usual.max(1e-7));
        let wide = self.wide;
        let made: Vec<Option<Seen>> = (0..level.colours.len())
            .into_par_iter()
            .map(|at| {
                if !level.is_hole[at] {
                    return None;
                }
                let [x, y] = [(at % wide) as i32, (at / wide) as i32];
                let (mut sum, mut all) = ([0.0f32; 4], 0.0f32);
                for down in -REACH..=REACH {
                    for across in -REACH..=REACH {
                        let middle = level.at([x + across, y + down]);
                        let Some((middle, target)) = middle.and_then(|at| Some((at, self.numbers[at]?)))
                        else {
                            continue;
                        };
                        let Found { at: [from_x, from_y], off } = self.found[target as usize];
                        let from = (from_y - down) as usize * wide + (from_x - across) as usize;
                        let unlike = if off == f32::MAX { 1.0 } else { off * sharp };
                        let share = (-unlike).exp().max(1e-6) * self.counts[middle].max(1e-9);
                        (0..4).for_each(|channel| sum[channel] += share * level.colours[from][channel]);
                        all += share;
                    }
                }
                (all > 0.0).then(|| sum.map(|sum| sum / all))
            })
            .collect();
        for (colour, made) in level.colours.iter_mut().zip(made) {
            if let Some(made) = made {
                *colour = made;
            }
        }
        Ok(())
    }

    /// What was found, by pixel.
    fn spread(&self) -> Vec<Option<[i32; 2]>> {
        self.numbers.iter().map(|target| Some(self.found[(*target)? as usize].at)).collect()
    }
}

/// How many marks lie in the square about each place.
fn box_sums(marks: &[bool], wide: usize, reach: i32) -> Vec<u32> {
    let high = marks.len() / wide;
    let mut sums = vec![0u32; (wide + 1) * (high + 1)];
    for y in 0..high {
        let mut line = 0;
        for x in 0..wide {
            line += u32::from(marks[y * wide + x]);
            sums[(y + 1) * (wide + 1) + x + 1] = sums[y * (wide + 1) + x + 1] + line;
        }
    }
    let cut = |at: i32, most: usize| at.clamp(0, most as i32) as usize;
    let (reach_after, wide_i) = (reach + 1, wide as i32);
    (0..marks.len() as i32)
        .map(|at| {
            let (x, y) = (at % wide_i, at / wide_i);
            let (left, right) = (cut(x - reach, wide), cut(x + reach_after, wide));
            let (top, bottom) = (cut(y - reach, high), cut(y + reach_after, high));
            let sum = |x: usize, y: usize| sums[y * (wide + 1) + x];
            sum(right, bottom) + sum(left, top) - sum(right, top) - sum(left, bottom)
        })
        .collect()
}
