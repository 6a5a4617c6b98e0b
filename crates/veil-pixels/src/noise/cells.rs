//! Cellular noise: distances to points strewn one to a cell.
//!
//! Source: Worley, "A Cellular Texture Basis Function", 1996. One point a cell, anywhere in it; the nearest and the
//! second nearest are found exactly.

use rayon::prelude::*;

use super::hash::{hash, mixed, share};
use super::{Octave, cell};
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
        let look = |found: &mut Nearest, a: i64, b: i64, c: i64| {
            let apart = away(a, u) + away(b, v) + if self.depth.is_some() { away(c, w) } else { 0.0 };
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
        let layers: &[i64] = if self.depth.is_some() { &[0, -1, 1] } else { &[0] };
        for c in layers {
            for b in [0, -1, 1] {
                for a in [0, -1, 1] {
                    look(&mut found, a, b, *c);
                }
            }
        }
        let ring = 1.0 + u.min(1.0 - u).min(v.min(1.0 - v));
        let ring = if self.depth.is_some() { ring.min(1.0 + w.min(1.0 - w)) } else { ring };
        if found.second > ring * ring {
            for c in self.layers() {
                for b in -REACH..=REACH {
                    for a in -REACH..=REACH {
                        if a.abs().max(b.abs()).max(c.abs()) == REACH {
                            look(&mut found, a, b, c);
                        }
                    }
                }
            }
        }
        Nearest { first: found.first.sqrt(), second: found.second.sqrt() }
    }
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
