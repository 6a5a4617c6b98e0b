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
        let mut made = Raster::clear(window);
        made.fill_rows_with(cancel, Vec::new, |sides, y, row| {
            for octave in &octaves {
                if octave.right[1] == 0.0 {
                    octave.add_row_along_lattice(sides, window.x0, y, row);
                } else {
                    octave.add_row_across_lattice(window.x0, y, row);
                }
            }
        })?;
        Ok(made)
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

    /// The general way: every pixel by itself.
    fn add_row_across_lattice(&self, x0: i32, y: i32, row: &mut [f32]) {
        for (x, out) in (x0..).zip(row) {
            let [u, v] = self.place(f64::from(x), f64::from(y));
            *out += self.weight * folded(self.fold, gradient_noise(self.seed, [u, v, self.depth]));
        }
    }

    /// Along a row that runs along the lattice, y and depth are fixed; within a cell the noise is then
    /// the fade between two straight lines in x. Each side of a cell is found once a row, in `sides`.
    fn add_row_along_lattice(&self, sides: &mut Vec<Side>, x0: i32, y: i32, row: &mut [f32]) {
        let Some(last) = row.len().checked_sub(1) else { return };
        let at_row = |x: f64| self.place(x, f64::from(y));
        let (first, last) = (at_row(f64::from(x0)), at_row(f64::from(x0) + last as f64));
        let (low, high) = (first[0].min(last[0]).floor(), first[0].max(last[0]).floor());
        if high - low > 4.0 * row.len() as f64 + 16.0 {
            // Cells far smaller than pixels: there is nothing to share.
            return self.add_row_across_lattice(x0, y, row);
        }
        let (v, w) = (cell(first[1]), cell(self.depth));
        sides.clear();
        sides.extend((low as i64..=high as i64 + 1).map(|cell_u| self.side(cell_u, v, w)));
        let run = Run {
            x0,
            rate: self.right[0],
            base: self.origin[0] + (f64::from(y) + 0.5) * self.down[0],
            low,
            weight: self.weight,
        };
        match self.fold {
            Fold::Plain => add_run::<PLAIN>(row, sides, run),
            Fold::Ridged => add_run::<RIDGED>(row, sides, run),
            Fold::Billow => add_run::<BILLOW>(row, sides, run),
        }
    }

    /// The noise of one side of a cell, `constant + slope · distance from that side`.
    fn side(&self, cell_u: i64, (cell_v, v): (i64, f32), (cell_w, w): (i64, f32)) -> Side {
        let (fade_v, fade_w) = (fade(v), fade(w));
        let mut constant = 0.0;
        let mut slope = 0.0;
        for (step_w, share_w) in [(0i64, 1.0 - fade_w), (1, fade_w)] {
            for (step_v, share_v) in [(0i64, 1.0 - fade_v), (1, fade_v)] {
                let g = gradient(hash(self.seed, cell_u, cell_v + step_v, cell_w + step_w));
                let share = share_w * share_v;
                constant += share * (g[1] * (v - step_v as f32) + g[2] * (w - step_w as f32));
                slope += share * g[0];
            }
        }
        Side { constant, slope }
    }
}

/// One side of a cell: the noise near it is `constant + slope · distance from it`.
#[derive(Clone, Copy)]
struct Side {
    constant: f32,
    slope: f32,
}

/// A row's way to the lattice: pixel x is at `(x + 0.5) · rate + base`.
#[derive(Clone, Copy)]
struct Run {
    x0: i32,
    rate: f64,
    base: f64,
    /// The cell whose left side is the first of the row's sides.
    low: f64,
    weight: f32,
}

const PLAIN: u8 = 0;
const RIDGED: u8 = 1;
const BILLOW: u8 = 2;

impl Run {
    #[inline(always)]
    fn place(self, index: usize) -> f64 {
        (f64::from(self.x0 + index as i32) + 0.5) * self.rate + self.base
    }

    /// The first index of a row of `length` beyond the cell that `start` lies in, for a row that runs upwards.
    #[inline(always)]
    fn end_of_cell(self, cell: f64, start: usize, length: usize) -> usize {
        if self.rate <= 0.0 {
            return length;
        }
        let guess = ((cell + 1.0 - self.base) / self.rate - 0.5 - f64::from(self.x0)).ceil();
        let mut end = (guess.max(0.0) as usize).clamp(start + 1, length);
        // The division rounds; the cell itself decides.
        while end > start + 1 && self.place(end - 1).floor() > cell {
            end -= 1;
        }
        while end < length && self.place(end).floor() <= cell {
            end += 1;
        }
        end
    }
}

#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn add_run<const FOLD: u8>(row: &mut [f32], sides: &[Side], run: Run) {
    let most = sides.len().saturating_sub(2);
    let length = row.len();
    let mut start = 0;
    while start < length {
        let cell = run.place(start).floor();
        // A row that runs downwards changes cell in the other direction; it goes pixel by pixel.
        let end = if run.rate < 0.0 { start + 1 } else { run.end_of_cell(cell, start, length) };
        let at = ((cell - run.low) as usize).min(most);
        let (near, far) = (sides[at], sides[at + 1]);
        for (index, out) in (start..end).zip(&mut row[start..end]) {
            let u = (run.place(index) - cell) as f32;
            let left = near.constant + near.slope * u;
            let right = far.constant + far.slope * (u - 1.0);
            let noise = left + (right - left) * fade(u);
            let noise = match FOLD {
                RIDGED => 1.0 - 2.0 * noise.abs(),
                BILLOW => 2.0 * noise.abs() - 1.0,
                _ => noise,
            };
            *out += run.weight * noise;
        }
        start = end;
    }
}

/// Gradient noise at one place of the lattice.
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
    fn rows_along_the_lattice_agree_with_the_noise_at_each_place() {
        for fold in [Fold::Plain, Fold::Ridged, Fold::Billow] {
            let noise = Noise { octaves: 3, offset: [3.3, -8.0], fold, ..noise() };
            let by_rows = noise.over(Window::new(-40, -9, 83, 20), 2.0, &Cancel::new()).unwrap();
            let octaves = noise.octaves(2.0);
            for y in -9..20 {
                let mut plain = vec![0.0; 123];
                for octave in &octaves {
                    octave.add_row_across_lattice(-40, y, &mut plain);
                }
                for (got, plain) in by_rows.row(y).iter().zip(plain) {
                    assert!((got - plain).abs() < 1e-5, "{got} {plain}");
                }
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
