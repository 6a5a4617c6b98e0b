//! Cellular noise: distances to points strewn one to a cell.
//!
//! Source: Worley, "A Cellular Texture Basis Function", 1996. One point a cell, anywhere in it; the nearest and the
//! second nearest are found exactly.

use multiversion::multiversion;
use rayon::prelude::*;

use super::hash::{hash, mixed, share};
use super::{Octave, cell, folded};
use crate::Window;

/// How far the nearest point and the second nearest are, in cells.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Nearest {
    /// The nearest.
    pub first: f32,
    /// The second nearest.
    pub second: f32,
}

/// The point of a cell, from its lower corner; in the plane the third is not used.
#[inline(always)]
pub fn point(seed: u32, i: i64, j: i64, k: i64) -> [f32; 3] {
    let h = hash(seed, i, j, k);
    [share(h), share(mixed(h ^ 0x68bc_21eb)), share(mixed(h ^ 0x02e5_be93))]
}

/// About a place in space.
pub(super) fn in_space(seed: u32, [u, v, w]: [f64; 3]) -> Nearest {
    let points =
        Points { seed, depth: Some(cell(w)), period: None, first: [0; 2], wide: 0, held: Vec::new() };
    points.nearest([u, v])
}

/// Cells that reach beyond a cell's own neighbours may still hold the second nearest, none beyond these.
const REACH: i64 = 2;

const RING_IN_PLANE: [[i8; 3]; 16] = ring::<16>(0);
const RING_IN_SPACE: [[i8; 3]; 98] = ring::<98>(REACH as i8);

/// The cells that are as far as [`REACH`] along one axis, with so many layers to either side.
const fn ring<const COUNT: usize>(layers: i8) -> [[i8; 3]; COUNT] {
    const FAR: i8 = REACH as i8;
    let mut cells = [[0; 3]; COUNT];
    let (mut count, mut c) = (0, -layers);
    while c <= layers {
        let mut b = -FAR;
        while b <= FAR {
            let mut a = -FAR;
            while a <= FAR {
                if a.abs() == FAR || b.abs() == FAR || c.abs() == FAR {
                    cells[count] = [a, b, c];
                    count += 1;
                }
                a += 1;
            }
            b += 1;
        }
        c += 1;
    }
    cells
}

/// The points about a window, so that each is worked out once.
pub struct Points {
    seed: u32,
    /// Where on the third axis: the cell and how far into it. None in the plane.
    depth: Option<(i64, f32)>,
    /// After so many cells along that axis the same points come again.
    period: Option<i64>,
    first: [i64; 2],
    wide: i64,
    /// Cell after cell, the layers of each together; empty where cells are far smaller than pixels.
    held: Vec<[f32; 3]>,
}

impl Points {
    /// Those that pixels of a window may be near to.
    pub fn new(octave: &Octave, window: Window) -> Self {
        let [(first_u, wide), (first_v, high)] = octave.cells(window);
        let (first, wide, high) = ([first_u - REACH, first_v - REACH], wide + 2 * REACH, high + 2 * REACH);
        let mut made = Self {
            seed: octave.seed,
            depth: octave.depth.map(cell),
            period: octave.period,
            first,
            wide,
            held: vec![],
        };
        if wide.saturating_mul(high) <= window.area() as i64 + 4096 {
            let layers = made.layers();
            let (low, count) = (*layers.start(), layers.end() - layers.start() + 1);
            let at = |index: i64| {
                let (place, layer) = (index / count, index % count);
                made.worked_out(first[0] + place % wide, first[1] + place / wide, low + layer)
            };
            made.held = (0..wide * high * count).into_par_iter().map(at).collect();
        }
        made
    }

    /// Layers of cells along the third axis, counted from the one that is looked at.
    fn layers(&self) -> std::ops::RangeInclusive<i64> {
        if self.depth.is_some() { -REACH..=REACH } else { 0..=0 }
    }

    fn worked_out(&self, i: i64, j: i64, layer: i64) -> [f32; 3] {
        let (k, _) = self.depth.unwrap_or((0, 0.0));
        let k = k.wrapping_add(layer);
        point(self.seed, i, j, self.period.map_or(k, |period| k.rem_euclid(period)))
    }

    #[inline(always)]
    fn point(&self, i: i64, j: i64, layer: i64) -> [f32; 3] {
        if self.held.is_empty() {
            return self.worked_out(i, j, layer);
        }
        let (low, count) = if self.depth.is_some() { (-REACH, 2 * REACH + 1) } else { (0, 1) };
        let place = (j - self.first[1]) * self.wide + (i - self.first[0]);
        self.held[(place * count + layer - low) as usize]
    }

    /// About a place of the lattice that lies in the window.
    pub fn nearest(&self, [u, v]: [f64; 2]) -> Nearest {
        let ((i, u), (j, v)) = (cell(u), cell(v));
        let w = self.depth.map_or(0.0, |(_, w)| w);
        let mut found = Nearest { first: f32::INFINITY, second: f32::INFINITY };
        let look = |found: &mut Nearest, [a, b, c]: [i64; 3]| {
            let apart = away(a, u) + away(b, v) + self.away_in_depth(c, w);
            if apart >= found.second {
                return;
            }
            let [x, y, z] = self.point(i.wrapping_add(a), j.wrapping_add(b), c);
            let (x, y) = (a as f32 + x - u, b as f32 + y - v);
            let z = if self.depth.is_some() { c as f32 + z - w } else { 0.0 };
            let distance = x * x + y * y + z * z;
            found.second = found.second.min(found.first.max(distance));
            found.first = found.first.min(distance);
        };
        // The nearest cells first, so that most of the others can be passed over.
        for c in self.near_layers() {
            for b in [0, -1, 1] {
                for a in [0, -1, 1] {
                    look(&mut found, [a, b, *c]);
                }
            }
        }
        if self.reaches_farther(found.second, [u, v, w]) {
            self.ring().iter().for_each(|cell| look(&mut found, cell.map(i64::from)));
        }
        Nearest { first: found.first.sqrt(), second: found.second.sqrt() }
    }
}

/// What an octave takes of the nearest points.
#[derive(Clone, Copy)]
pub(super) enum Measure {
    /// Twice the distance to the nearest, less 1.
    First,
    /// Twice how much farther the second nearest is, less 1.
    Walls,
}

impl Measure {
    #[inline(always)]
    pub(super) fn of(self, Nearest { first, second }: Nearest) -> f32 {
        match self {
            Self::First => 2.0 * first - 1.0,
            Self::Walls => 2.0 * (second - first) - 1.0,
        }
    }
}

/// Pixels of a row that are looked at together.
const LANES: usize = 16;
/// Fewer pixels than these in one cell are looked at one by one.
const FEWEST: usize = 3;

/// Adds an octave to a row of pixels: what [`Points::nearest`] finds for each, those in one cell together.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
pub(super) fn add_row(
    points: &Points,
    octave: &Octave,
    measure: Measure,
    [x0, y]: [i32; 2],
    row: &mut [f32],
) {
    for (x, row) in (x0..).step_by(LANES).zip(row.chunks_mut(LANES)) {
        let at: [[f64; 2]; LANES] =
            std::array::from_fn(|lane| octave.place(f64::from(x) + lane as f64, f64::from(y)));
        let places = [0, 1].map(|axis| at.map(|place| place[axis]));
        let floors = places.map(|along| along.map(f64::floor));
        let mut start = 0;
        while start < row.len() {
            let is_same = |lane: &usize| (0..2).all(|axis| floors[axis][*lane] == floors[axis][start]);
            let end = start + 1 + (start + 1..row.len()).take_while(is_same).count();
            let mut found = [Nearest { first: 0.0, second: 0.0 }; LANES];
            if end - start < FEWEST {
                for lane in start..end {
                    found[lane - start] = points.nearest([places[0][lane], places[1][lane]]);
                }
            } else {
                let last = end - 1;
                let into = |axis: usize| -> [f32; LANES] {
                    let at = |lane: usize| (start + lane).min(last);
                    std::array::from_fn(|lane| (places[axis][at(lane)] - floors[axis][at(lane)]) as f32)
                };
                let (cell, places) = ([0, 1].map(|axis| floors[axis][start] as i64), [into(0), into(1)]);
                match measure {
                    Measure::First => points.nearest_in_cell::<false>(cell, places, &mut found),
                    Measure::Walls => points.nearest_in_cell::<true>(cell, places, &mut found),
                }
            }
            for (out, found) in row[start..end].iter_mut().zip(found) {
                *out += octave.weight * folded(octave.fold, measure.of(found));
            }
            start = end;
        }
    }
}

/// Places that lie in one cell, by how far into it they are along each axis.
struct CellOfPlaces<'a> {
    points: &'a Points,
    cell: [i64; 2],
    places: [[f32; LANES]; 2],
    w: f32,
}

impl CellOfPlaces<'_> {
    /// How far the point of a cell so many cells away is from each place, squared.
    #[inline(always)]
    fn apart(&self, [a, b, c]: [i64; 3]) -> [f32; LANES] {
        let Self { points, cell: [i, j], places: [u, v], w } = self;
        let [x, y, z] = points.point(i.wrapping_add(a), j.wrapping_add(b), c);
        let (x, y) = (a as f32 + x, b as f32 + y);
        let z = if points.depth.is_some() { c as f32 + z - w } else { 0.0 };
        let mut apart = [0.0; LANES];
        for lane in 0..LANES {
            let (x, y) = (x - u[lane], y - v[lane]);
            apart[lane] = x * x + y * y + z * z;
        }
        apart
    }
}

impl Points {
    /// As [`Self::nearest`], about places in one cell. Unless the second nearest is wanted, only the nearest is right.
    #[inline(always)]
    fn nearest_in_cell<const SECOND: bool>(
        &self,
        [i, j]: [i64; 2],
        [u, v]: [[f32; LANES]; 2],
        out: &mut [Nearest; LANES],
    ) {
        let w = self.depth.map_or(0.0, |(_, w)| w);
        let ends = |along: &[f32; LANES]| {
            along.iter().fold([f32::INFINITY, 0.0f32], |[low, high], at| [low.min(*at), high.max(*at)])
        };
        let (ends_u, ends_v) = (ends(&u), ends(&v));
        let (mut first, mut second) = ([f32::INFINITY; LANES], [f32::INFINITY; LANES]);
        // Whether no place is as near to a cell as it is to the points that it has.
        let is_far = |found: &[f32; LANES], a: i64, b: i64, c: i64| {
            let least = away_from_all(a, ends_u) + away_from_all(b, ends_v) + self.away_in_depth(c, w);
            least >= found.iter().fold(0.0f32, |most, found| most.max(*found))
        };
        let at = CellOfPlaces { points: self, cell: [i, j], places: [u, v], w };
        for c in self.near_layers() {
            for b in [0, -1, 1] {
                if self.depth.is_some() && is_far(if SECOND { &second } else { &first }, 0, b, *c) {
                    continue;
                }
                for a in [0, -1, 1] {
                    let apart = at.apart([a, b, *c]);
                    for lane in 0..LANES {
                        if SECOND {
                            second[lane] = second[lane].min(first[lane].max(apart[lane]));
                        }
                        first[lane] = first[lane].min(apart[lane]);
                    }
                }
            }
        }
        let last = if SECOND { second } else { first };
        let reaches: [bool; LANES] =
            std::array::from_fn(|lane| self.reaches_farther(last[lane], [u[lane], v[lane], w]));
        if reaches.contains(&true) {
            for [a, b, c] in self.ring() {
                let [a, b, c] = [*a, *b, *c].map(i64::from);
                if is_far(if SECOND { &second } else { &first }, a, b, c) {
                    continue;
                }
                let apart = at.apart([a, b, c]);
                for lane in 0..LANES {
                    let apart = if reaches[lane] { apart[lane] } else { f32::INFINITY };
                    if SECOND {
                        second[lane] = second[lane].min(first[lane].max(apart));
                    }
                    first[lane] = first[lane].min(apart);
                }
            }
        }
        for (lane, out) in out.iter_mut().enumerate() {
            *out = Nearest { first: first[lane].sqrt(), second: second[lane].sqrt() };
        }
    }

    /// The layers next to a place, the nearest first.
    fn near_layers(&self) -> &'static [i64] {
        if self.depth.is_some() { &[0, -1, 1] } else { &[0] }
    }

    /// Whether there may be a nearer point beyond the neighbour cells than one so far away, squared.
    #[inline(always)]
    fn reaches_farther(&self, apart: f32, [u, v, w]: [f32; 3]) -> bool {
        let ring = 1.0 + u.min(1.0 - u).min(v.min(1.0 - v));
        let ring = if self.depth.is_some() { ring.min(1.0 + w.min(1.0 - w)) } else { ring };
        apart > ring * ring
    }

    /// The cells beyond the neighbours that may still hold one of the nearest points.
    fn ring(&self) -> &'static [[i8; 3]] {
        if self.depth.is_some() { &RING_IN_SPACE } else { &RING_IN_PLANE }
    }

    /// How far a layer is, squared.
    #[inline(always)]
    fn away_in_depth(&self, layer: i64, w: f32) -> f32 {
        if self.depth.is_some() { away(layer, w) } else { 0.0 }
    }
}

/// How far a cell is at least from places between two ends within the middle one, squared.
#[inline(always)]
fn away_from_all(steps: i64, [low, high]: [f32; 2]) -> f32 {
    away(steps, if steps > 0 { high } else { low })
}

/// How far a cell is from a place `t` in the middle one along an axis, squared.
#[inline(always)]
fn away(steps: i64, t: f32) -> f32 {
    let gap = match steps {
        0 => 0.0,
        1.. => steps as f32 - t,
        _ => t - (steps + 1) as f32,
    };
    gap * gap
}
