//! Gradient noise in three dimensions, in octaves.
//!
//! - Shape: one float a pixel.
//! - Units: sizes in pixels; `depth` in lattice cells, so that one unit is a wholly new pattern.
//! - Range: about −1 to 1 for one octave, mean 0; 0 at lattice points. Octaves are summed with
//!   weights scaled to sum to 1, so the range stays.
//! - Size 0 along an axis: no change along that axis.
//! - Source: Perlin, "Improving Noise", 2002: quintic fade and the twelve edge gradients. The
//!   lattice is hashed by integer mixing instead of a permutation table, so a pattern does not
//!   repeat and any seed can be used; the mixing steps are those of MurmurHash3's finaliser.

use multiversion::multiversion;
use rayon::prelude::*;

use crate::{Cancel, Cancelled, Field, Raster, Window};

/// How octaves are folded into the sum.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Fold {
    /// As they are.
    #[default]
    Plain,
    /// `1 − 2·|n|`: sharp crests.
    Ridged,
    /// `2·|n| − 1`: round lumps.
    Billow,
}

/// A pattern of gradient noise.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Noise {
    /// Which of the patterns.
    pub seed: u32,
    /// Size of a lattice cell in pixels, by axis; 0 for no change along it.
    pub size: [f64; 2],
    /// How far the pattern is moved, in pixels.
    pub offset: [f64; 2],
    /// Turn of the pattern, counter-clockwise as seen, in radians.
    pub angle: f64,
    /// Place on the third axis, in cells.
    pub depth: f64,
    /// Sums this many, at least 1.
    pub octaves: u32,
    /// How much finer each octave is.
    pub lacunarity: f64,
    /// How much weaker each octave is.
    pub gain: f64,
    /// How each octave is folded.
    pub fold: Fold,
}

/// One octave's way from a pixel to the lattice, and its part in the sum.
#[derive(Clone, Copy)]
struct Octave {
    seed: u32,
    /// Lattice place of pixel place (0, 0), and steps for one pixel right and one down.
    origin: [f64; 2],
    right: [f64; 2],
    down: [f64; 2],
    depth: f64,
    weight: f32,
    fold: Fold,
}

impl Noise {
    /// The pattern over a window, with `pixels_a_step` full-resolution pixels to one pixel of the window.
    pub fn over(&self, window: Window, pixels_a_step: f64, cancel: &Cancel) -> Result<Field, Cancelled> {
        let octaves = self.octaves(pixels_a_step);
        let ways: Vec<Way> = octaves.iter().map(|octave| Way::of(octave, self.angle, window)).collect();
        let begin = || octaves.iter().map(|_| Strip::default()).collect::<Vec<_>>();
        Raster::written_with(window, cancel, begin, |strips, y, row| {
            row.fill(0.0);
            for ((octave, way), strip) in octaves.iter().zip(&ways).zip(strips) {
                match way {
                    Way::Along(columns) => strip.add_row(octave, columns, y, row),
                    Way::Across(slice) => slice.add_row(octave, window.x0, y, row),
                    Way::ByPlaces => {
                        octave.add_row_by_corners(window.x0, y, row, |i, j| Corner::new(octave, i, j));
                    }
                }
            }
        })
    }

    fn octaves(&self, pixels_a_step: f64) -> Vec<Octave> {
        let rate = |size: f64| if size == 0.0 { 0.0 } else { 1.0 / size };
        let (sin, cos) = self.angle.sin_cos();
        let mut made = Vec::new();
        let (mut frequency, mut weight, mut weights) = (1.0, 1.0, 0.0);
        for index in 0..self.octaves.max(1) {
            let (rate_x, rate_y) = (rate(self.size[0]) * frequency, rate(self.size[1]) * frequency);
            // The pattern turns counter-clockwise as seen, so places turn the other way; y is down.
            let to_lattice = |x: f64, y: f64| [(x * cos - y * sin) * rate_x, (x * sin + y * cos) * rate_y];
            let shift = |place: [f64; 2]| {
                // Each octave starts elsewhere in the lattice, so that their zeros do not meet.
                let apart = f64::from(index) * 19.19;
                [place[0] + apart, place[1] + apart * 0.73]
            };
            made.push(Octave {
                seed: mixed(self.seed ^ index.wrapping_mul(0x9e37_79b9)),
                origin: shift(to_lattice(-self.offset[0], -self.offset[1])),
                right: to_lattice(pixels_a_step, 0.0),
                down: to_lattice(0.0, pixels_a_step),
                depth: self.depth + f64::from(index) * 7.31,
                weight: weight as f32,
                fold: self.fold,
            });
            weights += weight;
            weight *= self.gain;
            frequency *= self.lacunarity;
        }
        for octave in &mut made {
            octave.weight /= weights as f32;
        }
        made
    }
}

impl Octave {
    fn place(&self, x: f64, y: f64) -> [f64; 2] {
        [
            self.origin[0] + (x + 0.5) * self.right[0] + (y + 0.5) * self.down[0],
            self.origin[1] + (x + 0.5) * self.right[1] + (y + 0.5) * self.down[1],
        ]
    }

    /// The general way: every pixel by itself, its corners by `corner`.
    #[inline(always)]
    fn add_row_by_corners(&self, x0: i32, y: i32, row: &mut [f32], corner: impl Fn(i64, i64) -> Corner) {
        for (x, out) in (x0..).zip(row) {
            let [u, v] = self.place(f64::from(x), f64::from(y));
            let ((i, u), (j, v)) = (cell(u), cell(v));
            let side = |j: i64, v: f32| {
                let left = corner(i, j).at(u, v);
                left + (corner(i.wrapping_add(1), j).at(u - 1.0, v) - left) * fade(u)
            };
            let top = side(j, v);
            let noise = top + (side(j.wrapping_add(1), v - 1.0) - top) * fade(v);
            *out += self.weight * folded(self.fold, noise);
        }
    }
}

/// How an octave is worked out over a window.
enum Way {
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
    fn of(octave: &Octave, angle: f64, window: Window) -> Self {
        const MOST_CELLS_A_PIXEL: f64 = 4.0;
        if angle != 0.0 {
            Slice::new(octave, window).map_or(Self::ByPlaces, Self::Across)
        } else if octave.right[0].abs() <= MOST_CELLS_A_PIXEL {
            Self::Along(Columns::new(octave, window))
        } else {
            Self::ByPlaces
        }
    }
}

/// All corners of an octave's lattice about a window.
struct Slice {
    first: [i64; 2],
    wide: usize,
    corners: Vec<Corner>,
}

impl Slice {
    /// None where that would be many more than there are pixels.
    fn new(octave: &Octave, window: Window) -> Option<Self> {
        let ends =
            [(window.x0, window.y0), (window.x1, window.y0), (window.x0, window.y1), (window.x1, window.y1)]
                .map(|(x, y)| octave.place(f64::from(x), f64::from(y)));
        let bounds = |axis: usize| {
            let [low, high] = ends.iter().fold([f64::INFINITY, f64::NEG_INFINITY], |[low, high], place| {
                [low.min(place[axis]), high.max(place[axis])]
            });
            (cell(low).0, cell(high).0.saturating_sub(cell(low).0).saturating_add(2))
        };
        let ((first_u, wide), (first_v, high)) = (bounds(0), bounds(1));
        if wide.saturating_mul(high) > 4 * window.area() as i64 + 1024 {
            return None;
        }
        let corner = |index: i64| Corner::new(octave, first_u + index % wide, first_v + index / wide);
        let corners = (0..wide * high).into_par_iter().map(corner).collect();
        Some(Self { first: [first_u, first_v], wide: wide as usize, corners })
    }

    fn add_row(&self, octave: &Octave, x0: i32, y: i32, row: &mut [f32]) {
        octave.add_row_by_corners(x0, y, row, |i, j| {
            self.corners[(j - self.first[1]) as usize * self.wide + (i - self.first[0]) as usize]
        });
    }
}

/// Where each column of a window lies in an octave's lattice, for a pattern that is not turned.
struct Columns {
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
        let (k, w) = cell(octave.depth);
        let (near, far) =
            (gradient(hash(octave.seed, i, j, k)), gradient(hash(octave.seed, i, j, k.wrapping_add(1))));
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
struct Strip {
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

/// Gradient noise at one place of the lattice: the plain form, which the faster ones are tested against.
pub fn gradient_noise(seed: u32, place: [f64; 3]) -> f32 {
    let [(i, u), (j, v), (k, w)] = place.map(cell);
    let (fade_u, fade_v, fade_w) = (fade(u), fade(v), fade(w));
    let corner = |a: i64, b: i64, c: i64| {
        let g = gradient(hash(seed, i + a, j + b, k + c));
        g[0] * (u - a as f32) + g[1] * (v - b as f32) + g[2] * (w - c as f32)
    };
    let lerp = |a: f32, b: f32, t: f32| a + (b - a) * t;
    let face = |c: i64| {
        let top = lerp(corner(0, 0, c), corner(1, 0, c), fade_u);
        let bottom = lerp(corner(0, 1, c), corner(1, 1, c), fade_u);
        lerp(top, bottom, fade_v)
    };
    lerp(face(0), face(1), fade_w)
}

fn folded(fold: Fold, noise: f32) -> f32 {
    match fold {
        Fold::Plain => noise,
        Fold::Ridged => 1.0 - 2.0 * noise.abs(),
        Fold::Billow => 2.0 * noise.abs() - 1.0,
    }
}

#[inline(always)]
fn cell(place: f64) -> (i64, f32) {
    let floor = place.floor();
    (floor as i64, (place - floor) as f32)
}

/// Perlin 2002: `6t⁵ − 15t⁴ + 10t³`.
#[inline(always)]
fn fade(t: f32) -> f32 {
    t * t * t * (t * (t * 6.0 - 15.0) + 10.0)
}

#[inline(always)]
fn mixed(mut h: u32) -> u32 {
    h ^= h >> 16;
    h = h.wrapping_mul(0x85eb_ca6b);
    h ^= h >> 13;
    h = h.wrapping_mul(0xc2b2_ae35);
    h ^ (h >> 16)
}

#[inline(always)]
fn hash(seed: u32, i: i64, j: i64, k: i64) -> u32 {
    let h = mixed(seed ^ (i as u32).wrapping_mul(0x8da6_b343));
    let h = mixed(h ^ (j as u32).wrapping_mul(0xd816_3841));
    mixed(h ^ (k as u32).wrapping_mul(0xcb1a_b31f))
}

/// The twelve middles of a cube's edges; four of them twice, to make sixteen.
#[inline(always)]
fn gradient(hash: u32) -> [f32; 3] {
    const EDGES: [[f32; 3]; 16] = [
        [1.0, 1.0, 0.0],
        [-1.0, 1.0, 0.0],
        [1.0, -1.0, 0.0],
        [-1.0, -1.0, 0.0],
        [1.0, 0.0, 1.0],
        [-1.0, 0.0, 1.0],
        [1.0, 0.0, -1.0],
        [-1.0, 0.0, -1.0],
        [0.0, 1.0, 1.0],
        [0.0, -1.0, 1.0],
        [0.0, 1.0, -1.0],
        [0.0, -1.0, -1.0],
        [1.0, 1.0, 0.0],
        [-1.0, 1.0, 0.0],
        [0.0, -1.0, 1.0],
        [0.0, -1.0, -1.0],
    ];
    EDGES[(hash >> 28) as usize]
}

#[cfg(test)]
mod tests {
    use super::*;

    fn noise() -> Noise {
        Noise {
            seed: 7,
            size: [40.0, 25.0],
            offset: [0.0, 0.0],
            angle: 0.0,
            depth: 0.4,
            octaves: 1,
            lacunarity: 2.0,
            gain: 0.5,
            fold: Fold::Plain,
        }
    }

    fn over(noise: &Noise) -> Field {
        noise.over(Window::sized(400, 300), 1.0, &Cancel::new()).unwrap()
    }

    fn correlation(a: &Field, b: &Field) -> f64 {
        let pairs = || a.pixels().iter().zip(b.pixels()).map(|(a, b)| (f64::from(*a), f64::from(*b)));
        let (aa, bb, ab) =
            pairs().fold((0.0, 0.0, 0.0), |(aa, bb, ab), (a, b)| (aa + a * a, bb + b * b, ab + a * b));
        ab / (aa * bb).sqrt()
    }

    /// Perlin 2002: the noise is zero at every lattice point.
    #[test]
    fn noise_is_zero_at_lattice_points_and_stays_within_one() {
        for i in -6..6 {
            for j in -6..6 {
                assert_eq!(gradient_noise(3, [f64::from(i), f64::from(j), 2.0]), 0.0);
                let between = gradient_noise(3, [f64::from(i) + 0.37, f64::from(j) + 0.61, 0.52]);
                assert!(between.abs() <= 1.0 && between != 0.0);
            }
        }
    }

    #[test]
    fn the_mean_is_near_zero() {
        let field = Noise { size: [7.0, 7.0], ..noise() }
            .over(Window::sized(1200, 1200), 1.0, &Cancel::new())
            .unwrap();
        let mean = field.pixels().iter().map(|v| f64::from(*v)).sum::<f64>() / field.pixels().len() as f64;
        assert!(mean.abs() < 5e-3, "{mean}");
    }

    /// Common practice: one unit of depth is a wholly new pattern; a small step is nearly the same one.
    #[test]
    fn one_unit_of_depth_is_a_new_pattern_and_a_hundredth_is_not() {
        let at = |depth: f64| over(&Noise { depth, size: [9.0, 9.0], ..noise() });
        assert!(correlation(&at(0.4), &at(1.4)).abs() < 0.1);
        assert!(correlation(&at(0.4), &at(0.41)) > 0.99);
    }

    #[test]
    fn rows_along_and_across_the_lattice_agree_with_the_noise_at_each_place() {
        for (fold, angle) in
            [(Fold::Plain, 0.0), (Fold::Ridged, 0.0), (Fold::Billow, 0.7), (Fold::Plain, -2.0)]
        {
            let noise = Noise { octaves: 3, offset: [3.3, -8.0], fold, angle, ..noise() };
            let by_rows = noise.over(Window::new(-40, -9, 83, 20), 2.0, &Cancel::new()).unwrap();
            let octaves = noise.octaves(2.0);
            for y in -9..20 {
                let mut plain = vec![0.0; 123];
                for octave in &octaves {
                    for (x, out) in (-40..).zip(&mut plain) {
                        let [u, v] = octave.place(f64::from(x), f64::from(y));
                        let noise = gradient_noise(octave.seed, [u, v, octave.depth]);
                        *out += octave.weight * folded(octave.fold, noise);
                    }
                }
                for (got, plain) in by_rows.row(y).iter().zip(plain) {
                    assert!((got - plain).abs() < 1e-5, "{got} {plain}");
                }
            }
        }
    }

    /// Cells down to a hundredth of a pixel, over windows whose shape would favour one way or the other.
    #[test]
    fn a_pixel_is_the_same_in_every_window() {
        for (size, angle) in [(60.0, 0.0), (0.3, 0.0), (0.01, 0.0), (60.0, 0.4), (0.3, 0.4), (0.01, 0.4)] {
            let noise = Noise { size: [size; 2], octaves: 4, angle, ..noise() };
            let over = |window| noise.over(window, 1.0, &Cancel::new()).unwrap();
            let whole = over(Window::new(-20, -30, 60, 70));
            for part in [Window::new(3, 5, 4, 69), Window::new(-20, 8, 60, 9), Window::new(10, 10, 12, 12)] {
                assert_eq!(over(part), whole.cropped(part), "size {size}, angle {angle}");
            }
        }
    }

    #[test]
    fn size_zero_means_no_change_along_that_axis() {
        let field = over(&Noise { size: [0.0, 25.0], ..noise() });
        for y in 0..300 {
            assert!(field.row(y).iter().all(|v| *v == field.row(y)[0]));
        }
        assert!(field.row(3)[0] != field.row(13)[0]);
    }
}
