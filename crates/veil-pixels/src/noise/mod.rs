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
use cells::Points;
pub(crate) use hash::mixed;
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
struct Octave {
    seed: u32,
    basis: Basis,
    /// Lattice place of pixel place (0, 0), and steps for one pixel right and one down.
    origin: [f64; 2],
    right: [f64; 2],
    down: [f64; 2],
    depth: Option<f64>,
    period: Option<i64>,
    weight: f32,
    fold: Fold,
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
    fn place(&self, x: f64, y: f64) -> [f64; 2] {
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
            Basis::Cells => 2.0 * cells::in_space(seed, place).first - 1.0,
            Basis::Walls => {
                let nearest = cells::in_space(seed, place);
                2.0 * (nearest.second - nearest.first) - 1.0
            }
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
    /// Twice the distance to the nearest point, less 1.
    Cells(Points),
    /// Twice how much farther the second nearest is, less 1.
    Walls(Points),
}

impl Ground {
    fn of(octave: &Octave, angle: f64, window: Window) -> Self {
        match octave.basis {
            Basis::Gradient | Basis::Value => Self::Lattice(Way::of(octave, angle, window)),
            Basis::Simplex => Self::Simplex,
            Basis::Cells => Self::Cells(Points::new(octave, window)),
            Basis::Walls => Self::Walls(Points::new(octave, window)),
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
            Self::Cells(points) => {
                octave.add_row(x0, y, row, |place| 2.0 * points.nearest(place).first - 1.0);
            }
            Self::Walls(points) => octave.add_row(x0, y, row, |place| {
                let nearest = points.nearest(place);
                2.0 * (nearest.second - nearest.first) - 1.0
            }),
        }
    }
}

/// Gradient noise at one place of the lattice.
pub fn gradient_noise(seed: u32, place: [f64; 3]) -> f32 {
    lattice::plain(Basis::Gradient, seed, place)
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

#[cfg(test)]
pub(super) mod tests {
    use super::lattice::plain;
    use super::*;

    fn noise() -> Noise {
        Noise {
            seed: 7,
            basis: Basis::Gradient,
            size: [40.0, 25.0],
            offset: [0.0, 0.0],
            angle: 0.0,
            depth: Some(0.4),
            period: None,
            octaves: 1,
            lacunarity: 2.0,
            gain: 0.5,
            fold: Fold::Plain,
        }
    }

    /// An octave with eight pixels to a cell.
    pub(in crate::noise) fn octave(depth: Option<f64>) -> Octave {
        Noise { size: [8.0; 2], depth, ..noise() }.octaves(1.0)[0]
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

    /// Less its mean.
    fn centred(field: &Field) -> Field {
        let mean = field.pixels().iter().sum::<f32>() / field.pixels().len() as f32;
        field.map(&Cancel::new(), |value: f32| value - mean).unwrap()
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
        for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
            let at = |depth: f64| {
                centred(&over(&Noise { basis, depth: Some(depth), size: [9.0, 9.0], ..noise() }))
            };
            assert!(correlation(&at(0.4), &at(1.4)).abs() < 0.1, "{basis:?}");
            assert!(correlation(&at(0.4), &at(0.41)) > 0.99, "{basis:?}");
        }
    }

    /// A loop: after its period each pattern is the one it began as, and within it is not.
    #[test]
    fn a_loop_ends_where_it_began() {
        for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
            for (angle, octaves) in [(0.0, 3), (0.5, 1)] {
                let noise = Noise { basis, angle, octaves, period: Some(6), size: [9.0; 2], ..noise() };
                let at = |depth: f64| over(&Noise { depth: Some(depth), ..noise });
                let apart = |a: &Field, b: &Field| {
                    a.pixels().iter().zip(b.pixels()).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
                };
                let begin = at(0.3);
                assert!(apart(&begin, &at(6.3)) < 1e-4, "{basis:?}");
                assert!(apart(&begin, &at(3.3)) > 0.2, "{basis:?}");
                assert!(apart(&at(5.999), &at(0.001)) < 0.05, "{basis:?}: no step where it meets itself");
            }
        }
    }

    /// A pattern through places goes with them, wherever on the frame they are, and a unit of depth is another pattern.
    #[test]
    fn a_pattern_through_places_goes_with_them() {
        let window = Window::sized(200, 120);
        let places = |shift: i32| {
            Raster::from_fn(window, move |x, y| {
                [(x - shift) as f32 * 0.05, y as f32 * 0.05, (x - shift + y) as f32 * 0.02, 1.0]
            })
        };
        for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
            let noise = Noise { basis, ..noise() };
            let through = |noise: &Noise, shift| noise.through(&places(shift), 0.4, &Cancel::new()).unwrap();
            let (here, there) = (through(&noise, 0), through(&noise, 20));
            for y in 0..120 {
                assert_eq!(here.row(y)[..180], there.row(y)[20..], "{basis:?}");
            }
            let later = through(&Noise { depth: noise.depth.map(|depth| depth + 1.0), ..noise }, 0);
            assert!(correlation(&centred(&here), &centred(&later)).abs() < 0.2, "{basis:?}");
        }
    }

    #[test]
    fn rows_along_and_across_the_lattice_agree_with_the_noise_at_each_place() {
        for (basis, fold, angle) in [
            (Basis::Gradient, Fold::Plain, 0.0),
            (Basis::Value, Fold::Ridged, 0.0),
            (Basis::Gradient, Fold::Billow, 0.7),
            (Basis::Value, Fold::Plain, -2.0),
        ] {
            let noise = Noise { basis, octaves: 3, offset: [3.3, -8.0], fold, angle, ..noise() };
            let by_rows = noise.over(Window::new(-40, -9, 83, 20), 2.0, &Cancel::new()).unwrap();
            let octaves = noise.octaves(2.0);
            for y in -9..20 {
                let mut by_places = vec![0.0; 123];
                for octave in &octaves {
                    for (x, out) in (-40..).zip(&mut by_places) {
                        let [u, v] = octave.place(f64::from(x), f64::from(y));
                        let noise = plain(basis, octave.seed, [u, v, octave.depth.unwrap()]);
                        *out += octave.weight * folded(octave.fold, noise);
                    }
                }
                for (got, plain) in by_rows.row(y).iter().zip(by_places) {
                    assert!((got - plain).abs() < 1e-5, "{got} {plain}");
                }
            }
        }
    }

    /// Cells down to a hundredth of a pixel, over windows whose shape would favour one way or the other.
    #[test]
    fn a_pixel_is_the_same_in_every_window() {
        let patterns = |size: f64, angle: f64| {
            [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Walls].map(|basis| (basis, size, angle))
        };
        let sizes = [(60.0, 0.0), (0.3, 0.0), (0.01, 0.0), (60.0, 0.4), (0.3, 0.4), (0.01, 0.4)];
        for (basis, size, angle) in sizes.into_iter().flat_map(|(size, angle)| patterns(size, angle)) {
            let noise = Noise { basis, size: [size; 2], octaves: 4, angle, ..noise() };
            let over = |window| noise.over(window, 1.0, &Cancel::new()).unwrap();
            let whole = over(Window::new(-20, -30, 60, 70));
            for part in [Window::new(3, 5, 4, 69), Window::new(-20, 8, 60, 9), Window::new(10, 10, 12, 12)] {
                assert_eq!(over(part), whole.cropped(part), "size {size}, angle {angle}");
            }
        }
    }

    /// Common practice: noise has no steps, stays about within −1 to 1, and fills that range.
    #[test]
    fn every_kind_of_noise_is_even_and_fills_its_range() {
        for basis in [Basis::Gradient, Basis::Simplex, Basis::Value, Basis::Cells, Basis::Walls] {
            for depth in [None, Some(0.4)] {
                let field = over(&Noise { basis, depth, size: [20.0; 2], ..noise() });
                let steepest =
                    (0..300).flat_map(|y| field.row(y).windows(2)).map(|two| (two[0] - two[1]).abs());
                let steepest = steepest.fold(0.0, f32::max);
                assert!(steepest < 0.35, "{basis:?} {depth:?} steps by {steepest}");
                let (low, high) = field
                    .pixels()
                    .iter()
                    .fold((9.0f32, -9.0f32), |(low, high), value| (low.min(*value), high.max(*value)));
                assert!((-1.05..-0.6).contains(&low) && (0.6..1.8).contains(&high), "{basis:?} {low} {high}");
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
