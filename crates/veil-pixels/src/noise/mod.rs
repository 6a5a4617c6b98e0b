//! Noise in the plane or in space, in octaves.
//!
//! - Shape: one float a pixel.
//! - Units: sizes in pixels; `depth` in lattice cells, so that one unit is a wholly new pattern.
//! - Range: about −1 to 1 for one octave; gradient, simplex and value noise have mean 0, and the first two are 0 at
//!   lattice points. Cells give twice a distance less 1. Octaves are summed with weights scaled to sum to 1, so the
//!   range stays.
//! - Size 0 along an axis: no change along that axis.
//! - Sources: Perlin, "Improving Noise", 2002: quintic fade and the twelve edge gradients; those of the simplex and
//!   cellular forms are named with them. The lattice is hashed by integer mixing instead of a permutation table, so a
//!   pattern does not repeat and any seed can be used.

mod cells;
mod hash;
mod lattice;
mod simplex;

use crate::{Cancel, Cancelled, Field, Picture, Raster, Window};
pub use cells::{Points, point};
pub(crate) use hash::mixed;
pub use lattice::plain;
use lattice::{Strip, Way};

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

/// What a pattern is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Basis {
    /// Slopes that meet at the corners of a lattice.
    #[default]
    Gradient,
    /// As the gradient, over triangles: finer, with fewer straight lines.
    Simplex,
    /// Values at the corners of a lattice.
    Value,
    /// How far the nearest of strewn points is.
    Cells,
    /// How much farther the second nearest is: 0 on the walls between cells.
    Walls,
}

impl Basis {
    /// Cells of depth in a unit of it: values at corners that two cells share are alike, slopes there are not.
    const fn layers_a_unit(self) -> f64 {
        match self {
            Self::Gradient | Self::Simplex => 1.0,
            Self::Value | Self::Cells | Self::Walls => 2.0,
        }
    }
}

/// A pattern of noise.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Noise {
    /// Which of the patterns.
    pub seed: u32,
    /// What it is made of.
    pub basis: Basis,
    /// Size of a lattice cell in pixels, by axis; 0 for no change along it.
    pub size: [f64; 2],
    /// How far the pattern is moved, in pixels.
    pub offset: [f64; 2],
    /// Turn of the pattern, counter-clockwise as seen, in radians.
    pub angle: f64,
    /// Place on the third axis, in cells; `None` for a pattern in the plane.
    pub depth: Option<f64>,
    /// The pattern is the same again after so many cells of depth; simplex noise wants a multiple of 3. None for never.
    pub period: Option<u32>,
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
pub struct Octave {
    /// What its lattice is hashed with.
    pub seed: u32,
    basis: Basis,
    /// Lattice place of pixel place (0, 0), and steps for one pixel right and one down.
    origin: [f64; 2],
    right: [f64; 2],
    down: [f64; 2],
    /// Where it lies in depth, in cells; in the plane when none.
    pub depth: Option<f64>,
    period: Option<i64>,
    /// Its share of the sum.
    pub weight: f32,
    /// How it is folded.
    pub fold: Fold,
}

impl Noise {
    /// The pattern over a window, with `pixels_a_step` full-resolution pixels to one pixel of the window.
    pub fn over(&self, window: Window, pixels_a_step: f64, cancel: &Cancel) -> Result<Field, Cancelled> {
        let octaves = self.octaves(pixels_a_step);
        let grounds: Vec<Ground> =
            octaves.iter().map(|octave| Ground::of(octave, self.angle, window)).collect();
        let begin = || octaves.iter().map(|_| Strip::default()).collect::<Vec<_>>();
        Raster::written_with(window, cancel, begin, |strips, y, row| {
            row.fill(0.0);
            for ((octave, ground), strip) in octaves.iter().zip(&grounds).zip(strips) {
                ground.add_row(strip, octave, window.x0, y, row);
            }
        })
    }

    /// The pattern in space, at the places that a picture's red, green and blue name, with `size` of their unit to a cell;
    /// so it stays on what they are of. With a depth it evolves where it is: from one pattern in space to the next, of
    /// which each has nothing to do with the others, mixed so that the contrast stays.
    pub fn through(&self, places: &Picture, size: f64, cancel: &Cancel) -> Result<Field, Cancelled> {
        let octaves = self.octaves(1.0);
        let rate = 1.0 / size.max(1e-9);
        Raster::written(places.window(), cancel, |y, row| {
            for (out, pixel) in row.iter_mut().zip(places.row(y)) {
                let mut frequency = rate;
                *out = 0.0;
                for octave in &octaves {
                    let [origin_u, origin_v] = octave.origin;
                    let apart = [origin_u, origin_v, 0.0];
                    let place = std::array::from_fn(|axis| f64::from(pixel[axis]) * frequency + apart[axis]);
                    *out += octave.weight * folded(octave.fold, octave.in_space(place));
                    frequency *= self.lacunarity;
                }
            }
        })
    }

    /// Its octaves, with so many full-resolution pixels to one pixel of what is asked for.
    pub fn octaves(&self, pixels_a_step: f64) -> Vec<Octave> {
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
                depth: self.depth.map(|depth| (depth + f64::from(index) * 7.31) * self.basis.layers_a_unit()),
                period: self
                    .period
                    .filter(|period| *period > 0)
                    .map(|period| i64::from(period) * self.basis.layers_a_unit() as i64),
                basis: self.basis,
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
    /// Where on its lattice a pixel's middle lies.
    pub fn place(&self, x: f64, y: f64) -> [f64; 2] {
        [
            self.origin[0] + (x + 0.5) * self.right[0] + (y + 0.5) * self.down[0],
            self.origin[1] + (x + 0.5) * self.right[1] + (y + 0.5) * self.down[1],
        ]
    }

    /// A cell of depth, brought to those of one period.
    #[inline(always)]
    fn layer(&self, k: i64) -> i64 {
        self.period.map_or(k, |period| k.rem_euclid(period))
    }

    /// The noise at a place in space, at its depth.
    fn in_space(&self, place: [f64; 3]) -> f32 {
        let of_layer = |layer: i64| {
            self.plain_in_space(mixed(self.seed ^ (layer as u32).wrapping_mul(0x27d4_eb2f)), place)
        };
        let Some(depth) = self.depth else { return self.plain_in_space(self.seed, place) };
        // Two layers to a unit, so that patterns a unit apart have none in common.
        let finer = 2.0 / self.basis.layers_a_unit();
        let (k, share) = cell(finer * depth);
        let share = lattice::fade(share);
        let layer = |k: i64| self.period.map_or(k, |period| k.rem_euclid(finer as i64 * period));
        let (near, far) = (of_layer(layer(k)), of_layer(layer(k.wrapping_add(1))));
        // What two patterns without relation vary by in the mean is less than what each does.
        (near + (far - near) * share) / (share * share + (1.0 - share) * (1.0 - share)).sqrt()
    }

    fn plain_in_space(&self, seed: u32, place: [f64; 3]) -> f32 {
        match self.basis {
            Basis::Gradient | Basis::Value => lattice::plain(self.basis, seed, place),
            Basis::Simplex => simplex::in_space(seed, place, None),
            Basis::Cells => cells::Measure::First.of(cells::in_space(seed, place)),
            Basis::Walls => cells::Measure::Walls.of(cells::in_space(seed, place)),
        }
    }

    /// The first lattice cell along each axis that a window touches, and how many.
    fn cells(&self, window: Window) -> [(i64, i64); 2] {
        let Window { x0, y0, x1, y1 } = window;
        let ends =
            [(x0, y0), (x1, y0), (x0, y1), (x1, y1)].map(|(x, y)| self.place(f64::from(x), f64::from(y)));
        std::array::from_fn(|axis| {
            let [low, high] = ends.iter().fold([f64::INFINITY, f64::NEG_INFINITY], |[low, high], place| {
                [low.min(place[axis]), high.max(place[axis])]
            });
            (cell(low).0, cell(high).0.saturating_sub(cell(low).0).saturating_add(2))
        })
    }

    /// Adds to a row what `noise` is at each place of it.
    #[inline(always)]
    fn add_row(&self, x0: i32, y: i32, row: &mut [f32], noise: impl Fn([f64; 2]) -> f32) {
        for (x, out) in (x0..).zip(row) {
            *out += self.weight * folded(self.fold, noise(self.place(f64::from(x), f64::from(y))));
        }
    }
}

/// What an octave is worked out from over a window.
enum Ground {
    Lattice(Way),
    Simplex,
    Cells(Points, cells::Measure),
}

impl Ground {
    fn of(octave: &Octave, angle: f64, window: Window) -> Self {
        match octave.basis {
            Basis::Gradient | Basis::Value => Self::Lattice(Way::of(octave, angle, window)),
            Basis::Simplex => Self::Simplex,
            Basis::Cells => Self::Cells(Points::new(octave, window), cells::Measure::First),
            Basis::Walls => Self::Cells(Points::new(octave, window), cells::Measure::Walls),
        }
    }

    fn add_row(&self, strip: &mut Strip, octave: &Octave, x0: i32, y: i32, row: &mut [f32]) {
        match self {
            Self::Lattice(way) => way.add_row(strip, octave, x0, y, row),
            Self::Simplex => match octave.depth {
                None => octave.add_row(x0, y, row, |place| simplex::in_plane(octave.seed, place)),
                Some(depth) => {
                    let noise =
                        |[u, v]: [f64; 2]| simplex::in_space(octave.seed, [u, v, depth], octave.period);
                    octave.add_row(x0, y, row, noise);
                }
            },
            Self::Cells(points, measure) => cells::add_row(points, octave, *measure, [x0, y], row),
        }
    }
}

/// Gradient noise at one place of the lattice.
pub fn gradient_noise(seed: u32, place: [f64; 3]) -> f32 {
    lattice::plain(Basis::Gradient, seed, place)
}

/// A number of noise as a fold makes it.
pub fn folded(fold: Fold, noise: f32) -> f32 {
    match fold {
        Fold::Plain => noise,
        Fold::Ridged => 1.0 - 2.0 * noise.abs(),
        Fold::Billow => 2.0 * noise.abs() - 1.0,
    }
}

/// The cell that a place lies in, and how far into it.
#[inline(always)]
pub fn cell(place: f64) -> (i64, f32) {
    let floor = place.floor();
    (floor as i64, (place - floor) as f32)
}
