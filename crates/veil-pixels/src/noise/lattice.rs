//! Gradient and value noise: corners of a lattice, and a smooth way between them.

use multiversion::multiversion;
use rayon::prelude::*;

use super::hash::{gradient, hash, plane_gradient, share};
use super::{Basis, Fold, Octave, cell, folded};
use crate::Window;

/// How an octave is worked out over a window.
pub(super) enum Way {
    /// Rows run along the lattice: what depends on x alone is shared by many of them.
    Along(Columns),
    /// Rows run across it: the corners of the lattice are worked out once each.
    Across(Slice),
    /// Cells are far smaller than pixels, so that there is nothing to share.
    ByPlaces,
}

impl Way {
    /// A pixel's value must not depend on the window: of two ways that differ in their last bits only the octave
    /// chooses.
    pub(super) fn of(octave: &Octave, angle: f64, window: Window) -> Self {
        const MOST_CELLS_A_PIXEL: f64 = 4.0;
        if angle != 0.0 {
            Slice::new(octave, window).map_or(Self::ByPlaces, Self::Across)
        } else if octave.right[0].abs() <= MOST_CELLS_A_PIXEL {
            Self::Along(Columns::new(octave, window))
        } else {
            Self::ByPlaces
        }
    }

    /// Adds the octave to a row of pixels.
    pub(super) fn add_row(&self, strip: &mut Strip, octave: &Octave, x0: i32, y: i32, row: &mut [f32]) {
        match self {
            Self::Along(columns) => strip.add_row(octave, columns, y, row),
            Self::Across(slice) => slice.add_row(octave, x0, y, row),
            Self::ByPlaces => add_row_by_corners(octave, x0, y, row, |i, j| Corner::new(octave, i, j)),
        }
    }
}

/// The general way: every pixel by itself, its corners by `corner`.
#[inline(always)]
fn add_row_by_corners(
    octave: &Octave,
    x0: i32,
    y: i32,
    row: &mut [f32],
    corner: impl Fn(i64, i64) -> Corner,
) {
    for (x, out) in (x0..).zip(row) {
        let [u, v] = octave.place(f64::from(x), f64::from(y));
        let ((i, u), (j, v)) = (cell(u), cell(v));
        let side = |j: i64, v: f32| {
            let left = corner(i, j).at(u, v);
            left + (corner(i.wrapping_add(1), j).at(u - 1.0, v) - left) * fade(u)
        };
        let top = side(j, v);
        let noise = top + (side(j.wrapping_add(1), v - 1.0) - top) * fade(v);
        *out += octave.weight * folded(octave.fold, noise);
    }
}

/// All corners of an octave's lattice about a window.
pub(super) struct Slice {
    first: [i64; 2],
    wide: usize,
    corners: Vec<Corner>,
}

impl Slice {
    /// None where that would be many more than there are pixels.
    fn new(octave: &Octave, window: Window) -> Option<Self> {
        let [(first_u, wide), (first_v, high)] = octave.cells(window);
        if wide.saturating_mul(high) > 4 * window.area() as i64 + 1024 {
            return None;
        }
        let corner = |index: i64| Corner::new(octave, first_u + index % wide, first_v + index / wide);
        let corners = (0..wide * high).into_par_iter().map(corner).collect();
        Some(Self { first: [first_u, first_v], wide: wide as usize, corners })
    }

    fn add_row(&self, octave: &Octave, x0: i32, y: i32, row: &mut [f32]) {
        add_row_by_corners(octave, x0, y, row, |i, j| {
            self.corners[(j - self.first[1]) as usize * self.wide + (i - self.first[0]) as usize]
        });
    }
}

/// Where each column of a window lies in an octave's lattice, for a pattern that is not turned.
pub(super) struct Columns {
    /// The lattice column that `cells` are counted from.
    first: i64,
    /// How many lattice columns are read.
    count: usize,
    /// Lattice column to the left of each pixel.
    cells: Vec<u32>,
    /// Distance from that lattice column.
    across: Vec<f32>,
}

impl Columns {
    fn new(octave: &Octave, window: Window) -> Self {
        let places = || (window.x0..window.x1).map(|x| cell(octave.place(f64::from(x), 0.0)[0]));
        let first = places().map(|(at, _)| at).min().unwrap_or(0);
        let count = places().map(|(at, _)| at - first).max().unwrap_or(0) + 2;
        Self {
            first,
            count: count as usize,
            cells: places().map(|(at, _)| (at - first) as u32).collect(),
            across: places().map(|(_, u)| u).collect(),
        }
    }
}

/// A corner of the lattice, its two depths mixed: the noise near it is `gradient · (u, v) + constant`.
#[derive(Clone, Copy)]
struct Corner {
    gradient: [f32; 2],
    constant: f32,
}

impl Corner {
    fn new(octave: &Octave, i: i64, j: i64) -> Self {
        let flat = |gradient: [f32; 2], constant: f32| Self { gradient, constant };
        let Some(depth) = octave.depth else {
            let hash = hash(octave.seed, i, j, 0);
            return match octave.basis {
                Basis::Value => flat([0.0; 2], value(hash)),
                _ => flat(plane_gradient(hash), 0.0),
            };
        };
        let (k, w) = cell(depth);
        let layers = (octave.layer(k), octave.layer(k.wrapping_add(1)));
        let hashes = (hash(octave.seed, i, j, layers.0), hash(octave.seed, i, j, layers.1));
        if octave.basis == Basis::Value {
            let (near, far) = (value(hashes.0), value(hashes.1));
            return flat([0.0; 2], near + (far - near) * fade(w));
        }
        let (near, far) = (gradient(hashes.0), gradient(hashes.1));
        let share = fade(w);
        let mixed = |a: f32, b: f32| a + (b - a) * share;
        Self {
            gradient: [mixed(near[0], far[0]), mixed(near[1], far[1])],
            constant: mixed(near[2] * w, far[2] * (w - 1.0)),
        }
    }

    #[inline(always)]
    fn at(self, u: f32, v: f32) -> f32 {
        self.gradient[0] * u + self.gradient[1] * v + self.constant
    }
}

/// One row of the lattice along a row of pixels: at a distance `v` below it the noise is `level + rise · v`.
#[derive(Default)]
struct LatticeRow {
    /// Which row of the lattice; none before it is first written.
    at: Option<i64>,
    level: Vec<f32>,
    rise: Vec<f32>,
}

impl LatticeRow {
    fn write(&mut self, octave: &Octave, columns: &Columns, at: i64) {
        self.at = Some(at);
        let last = columns.first + columns.count as i64;
        let corners: Vec<Corner> = (columns.first..last).map(|i| Corner::new(octave, i, at)).collect();
        self.level.clear();
        self.rise.clear();
        for (cell, u) in columns.cells.iter().zip(&columns.across) {
            let (near, far) = (corners[*cell as usize], corners[*cell as usize + 1]);
            let (left, right) =
                (near.gradient[0] * u + near.constant, far.gradient[0] * (u - 1.0) + far.constant);
            let share = fade(*u);
            self.level.push(left + (right - left) * share);
            self.rise.push(near.gradient[1] + (far.gradient[1] - near.gradient[1]) * share);
        }
    }
}

/// The rows of the lattice above and below the pixels at hand. Rows of pixels that follow each other mostly lie
/// between the same two, so what depends on x alone is worked out once for all of them.
#[derive(Default)]
pub(super) struct Strip {
    above: LatticeRow,
    below: LatticeRow,
}

impl Strip {
    fn add_row(&mut self, octave: &Octave, columns: &Columns, y: i32, row: &mut [f32]) {
        let (at, v) = cell(octave.place(0.0, f64::from(y))[1]);
        if self.below.at == Some(at) {
            std::mem::swap(&mut self.above, &mut self.below);
        }
        for (lattice, at) in [(&mut self.above, at), (&mut self.below, at.wrapping_add(1))] {
            if lattice.at != Some(at) {
                lattice.write(octave, columns, at);
            }
        }
        let lattice = [&self.above.level, &self.above.rise, &self.below.level, &self.below.rise];
        let lattice = lattice.map(Vec::as_slice);
        let share = fade(v);
        let shares = [1.0 - share, (1.0 - share) * v, share, share * (v - 1.0)];
        match octave.fold {
            Fold::Plain => add_weighed::<PLAIN>(lattice, shares, octave.weight, row),
            Fold::Ridged => add_weighed::<RIDGED>(lattice, shares, octave.weight, row),
            Fold::Billow => add_weighed::<BILLOW>(lattice, shares, octave.weight, row),
        }
    }
}

const PLAIN: u8 = 0;
const RIDGED: u8 = 1;
const BILLOW: u8 = 2;

/// Adds `weight` times the folded sum of four rows, each by its share.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn add_weighed<const FOLD: u8>(rows: [&[f32]; 4], shares: [f32; 4], weight: f32, out: &mut [f32]) {
    let length = out.len();
    let [a, b, c, d] = rows.map(|row| &row[..length]);
    for (index, out) in out.iter_mut().enumerate() {
        let noise = a[index] * shares[0] + b[index] * shares[1] + c[index] * shares[2] + d[index] * shares[3];
        *out += weight
            * match FOLD {
                RIDGED => 1.0 - 2.0 * noise.abs(),
                BILLOW => 2.0 * noise.abs() - 1.0,
                _ => noise,
            };
    }
}

/// From −1 to 1.
#[inline(always)]
fn value(hash: u32) -> f32 {
    2.0 * share(hash) - 1.0
}

/// Perlin 2002: `6t⁵ − 15t⁴ + 10t³`.
#[inline(always)]
pub(super) fn fade(t: f32) -> f32 {
    t * t * t * (t * (t * 6.0 - 15.0) + 10.0)
}

/// The plain form, which the faster ones are tested against: between the eight corners of a cell of space.
pub fn plain(basis: Basis, seed: u32, place: [f64; 3]) -> f32 {
    let [(i, u), (j, v), (k, w)] = place.map(cell);
    let (fade_u, fade_v, fade_w) = (fade(u), fade(v), fade(w));
    let corner = |a: i64, b: i64, c: i64| {
        let hash = hash(seed, i + a, j + b, k + c);
        let g = gradient(hash);
        match basis {
            Basis::Value => value(hash),
            _ => g[0] * (u - a as f32) + g[1] * (v - b as f32) + g[2] * (w - c as f32),
        }
    };
    let lerp = |a: f32, b: f32, t: f32| a + (b - a) * t;
    let face = |c: i64| {
        let top = lerp(corner(0, 0, c), corner(1, 0, c), fade_u);
        let bottom = lerp(corner(0, 1, c), corner(1, 1, c), fade_u);
        lerp(top, bottom, fade_v)
    };
    lerp(face(0), face(1), fade_w)
}
