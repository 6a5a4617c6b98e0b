//! A signal seen through a homography: moved, turned, scaled, sheared, or pinned by its corners.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: places in pixels of the raster, pixel centres at halves; matrices act on columns `(x, y, 1)`.
//! - Reading: each pixel's place is carried back by the inverse and read by the filter. Where the signal is made
//!   smaller it is read softened, by a Gaussian as wide as a pixel of the result is in the source (the wider of its
//!   two sides), so that nothing finer than the result can show comes through.
//! - Edges: as the [`Edge`] says, outside the data window; nothing where a place lies behind the eye.
//! - Source: Hartley and Zisserman, "Multiple View Geometry", chapter 2; Heckbert, "Fundamentals of Texture Mapping
//!   and Image Warping", 1989, for the width of a pixel in the source.

use multiversion::multiversion;

use crate::buffer::raster::Pixel;
use crate::filter::blur::{Sigma, gaussian};
use crate::sample::resample::{Filter, ROWS_AHEAD, Sampler, Scratch};
use crate::sample::softness::{self, Reader, SoftScratch, Softness};
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// A 3×3 matrix that carries places to places.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Homography([[f64; 3]; 3]);

impl Homography {
    /// Every place stays.
    pub const IDENTITY: Self = Self([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]]);

    /// From its rows.
    pub const fn from_rows(rows: [[f64; 3]; 3]) -> Self {
        Self(rows)
    }

    /// Its rows.
    pub const fn rows(self) -> [[f64; 3]; 3] {
        self.0
    }

    /// Moved by so many pixels, x right and y down.
    pub const fn shift(x: f64, y: f64) -> Self {
        Self([[1.0, 0.0, x], [0.0, 1.0, y], [0.0, 0.0, 1.0]])
    }

    /// Scaled about the origin.
    pub const fn scale(x: f64, y: f64) -> Self {
        Self([[x, 0.0, 0.0], [0.0, y, 0.0], [0.0, 0.0, 1.0]])
    }

    /// Turned about the origin by radians, counter-clockwise as seen; y is down.
    pub fn turn(angle: f64) -> Self {
        let (sin, cos) = angle.sin_cos();
        Self([[cos, sin, 0.0], [-sin, cos, 0.0], [0.0, 0.0, 1.0]])
    }

    /// Sheared: x grows by so much for each pixel up.
    pub const fn shear(x: f64) -> Self {
        Self([[1.0, -x, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]])
    }

    /// The one that carries four corners to four others, each in order round; `None` where three of them lie in a line.
    ///
    /// Source: Heckbert, "Fundamentals of Texture Mapping and Image Warping", 1989, section 2.2.3.
    pub fn between(from: [[f64; 2]; 4], to: [[f64; 2]; 4]) -> Option<Self> {
        Some(Self::from_square(from)?.inverse()?.then(Self::from_square(to)?))
    }

    /// From the corners of the unit square, (0, 0), (1, 0), (1, 1) and (0, 1).
    fn from_square([a, b, c, d]: [[f64; 2]; 4]) -> Option<Self> {
        let less = |p: [f64; 2], q: [f64; 2]| [p[0] - q[0], p[1] - q[1]];
        let cross = |p: [f64; 2], q: [f64; 2]| p[0] * q[1] - p[1] * q[0];
        let (right, down) = (less(b, c), less(d, c));
        let rest = [a[0] - b[0] + c[0] - d[0], a[1] - b[1] + c[1] - d[1]];
        let whole = cross(right, down);
        let (g, h) = (cross(rest, down) / whole, cross(right, rest) / whole);
        let made = Self([
            [b[0] - a[0] + g * b[0], d[0] - a[0] + h * d[0], a[0]],
            [b[1] - a[1] + g * b[1], d[1] - a[1] + h * d[1], a[1]],
            [g, h, 1.0],
        ]);
        (made.0.iter().flatten().all(|entry| entry.is_finite()) && made.inverse().is_some()).then_some(made)
    }

    /// First this, then `next`.
    pub fn then(self, next: Self) -> Self {
        let entry = |row: usize, column: usize| (0..3).map(|k| next.0[row][k] * self.0[k][column]).sum();
        Self(std::array::from_fn(|row| std::array::from_fn(|column| entry(row, column))))
    }

    /// The way back; `None` where a whole line falls together.
    pub fn inverse(self) -> Option<Self> {
        let m = self.0;
        let cofactor = |row: usize, column: usize| {
            let [a, b] = [(row + 1) % 3, (row + 2) % 3];
            let [c, d] = [(column + 1) % 3, (column + 2) % 3];
            m[a][c] * m[b][d] - m[a][d] * m[b][c]
        };
        let determinant: f64 = (0..3).map(|column| m[0][column] * cofactor(0, column)).sum();
        determinant.is_normal().then(|| {
            let entry = |row: usize, column: usize| cofactor(column, row) / determinant;
            Self(std::array::from_fn(|row| std::array::from_fn(|column| entry(row, column))))
        })
    }

    /// Where a place comes to lie; `None` behind the eye.
    pub fn at(self, [x, y]: [f64; 2]) -> Option<[f64; 2]> {
        let [a, b, depth] = self.0.map(|row| row[0] * x + row[1] * y + row[2]);
        (depth > 0.0).then(|| [a / depth, b / depth])
    }

    /// The smallest window that holds what a window becomes; everything where part of it lies behind the eye. What lies
    /// farther off than a million pixels counts as just that far off.
    pub fn window(self, window: Window) -> Window {
        const FAR: f64 = 1e6;
        let Window { x0, y0, x1, y1 } = window;
        let corners =
            [(x0, y0), (x1, y0), (x0, y1), (x1, y1)].map(|(x, y)| self.at([f64::from(x), f64::from(y)]));
        let mut bounds = [f64::INFINITY, f64::INFINITY, f64::NEG_INFINITY, f64::NEG_INFINITY];
        for corner in corners {
            let [x, y] = match corner {
                Some(place) => place,
                None => return Window::new(-FAR as i32, -FAR as i32, FAR as i32, FAR as i32),
            };
            bounds = [bounds[0].min(x), bounds[1].min(y), bounds[2].max(x), bounds[3].max(y)];
        }
        let [left, top] = [bounds[0], bounds[1]].map(|bound| bound.clamp(-FAR, FAR).floor() as i32);
        let [right, bottom] = [bounds[2], bounds[3]].map(|bound| bound.clamp(-FAR, FAR).ceil() as i32);
        Window::new(left, top, right.max(left + 1), bottom.max(top + 1))
    }

    /// How wide a pixel at a place becomes: the longer of the sides that one pixel right and one pixel down give.
    pub fn width_at(self, place: [f64; 2]) -> f64 {
        let Some(here) = self.at(place) else { return WIDEST };
        let side = |step: [f64; 2]| {
            let there = self.at([place[0] + step[0], place[1] + step[1]]);
            there.map_or(WIDEST, |there| length([there[0] - here[0], there[1] - here[1]]).min(WIDEST))
        };
        side([1.0, 0.0]).max(side([0.0, 1.0]))
    }

    /// How wide every pixel becomes, where that is the same everywhere: no place lies nearer than another.
    fn even_width(self) -> Option<f64> {
        let [[a, b, _], [c, d, _], [g, h, depth]] = self.0;
        (g == 0.0 && h == 0.0 && depth > 0.0).then(|| a.hypot(c).max(b.hypot(d)) / depth)
    }

    /// The widest that any pixel of a window becomes: widths change evenly, so its corners have the widest.
    pub(crate) fn widest(self, window: Window) -> f64 {
        let Window { x0, y0, x1, y1 } = window;
        let corners = [(x0, y0), (x1, y0), (x0, y1), (x1, y1)];
        corners.map(|(x, y)| self.width_at([f64::from(x), f64::from(y)])).into_iter().fold(0.0, f64::max)
    }
}

/// Toward what lies behind the eye pixels get as wide as anything.
const WIDEST: f64 = 1e6;

/// Unlike `hypot`, many at a time.
#[inline(always)]
fn length([x, y]: [f64; 2]) -> f64 {
    (x * x + y * y).sqrt()
}

/// σ of the blur that a signal needs before it is read where a pixel of the result is so wide in it.
///
/// A box of width `w` has the variance `w²/12`. The filter itself holds back what is finer than the source's own
/// pixels, and a little more, so that nothing is blurred that is hardly made smaller.
pub fn sigma_of_width(width: f64) -> f32 {
    const HELD_BACK: f64 = 1.25;
    ((width * width - HELD_BACK * HELD_BACK).max(0.0) / 12.0).sqrt() as f32
}

/// How a signal is carried.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Carried {
    /// From the result's places to the source's.
    pub back: Homography,
    /// How it is read between pixels.
    pub filter: Filter,
    /// What lies outside the data window.
    pub edge: Edge,
}

impl Carried {
    /// The widest σ over a window.
    fn widest(self, window: Window) -> f32 {
        sigma_of_width(self.back.widest(window))
    }

    /// The σ by which the signal is softened everywhere, where that is the same.
    fn even(self) -> Option<Sigma> {
        let sigma = self.back.even_width().map(sigma_of_width)?.min(softness::MOST_SIGMA);
        (sigma > 0.0).then_some(Sigma::round(sigma))
    }

    /// What is read of the source to give `wanted`.
    pub fn reads(self, wanted: Window, data: Window) -> Window {
        let softened = match self.even() {
            Some(sigma) => self.filter.reach() + sigma.reach().0 + 1,
            None => softness::reach(self.widest(wanted)),
        };
        let reach = self.filter.reach().max(softened) + 1;
        let there = self.back.window(wanted).grow(reach, reach);
        self.edge.reads_window(there, data)
    }

    /// The pixels of `wanted`. `data` is where the signal exists; `source` must hold what [`Self::reads`] names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        if let Some(sigma) = self.even() {
            // Beyond the fading border it is as the edge says again.
            let fades = match self.edge {
                Edge::Clear | Edge::Hold => sigma.reach(),
                Edge::Mirror | Edge::Repeat => (0, 0),
            };
            let exists = data.grow(fades.0, fades.1);
            let reach = self.filter.reach() + 1;
            let reads = self.edge.reads_window(self.back.window(wanted).grow(reach, reach), exists);
            let soft = gaussian(source, data, self.edge, sigma, reads, cancel)?;
            return self.read(&Sampler::new(&soft, exists, self.edge), wanted, cancel);
        }
        let widest = self.widest(wanted);
        let reads = self.back.window(wanted).grow(2, 2);
        let softness = Softness::new(source, data, self.edge, reads, widest, cancel)?;
        let sampler = Sampler::new(source, data, self.edge);
        if softness.is_sharp() {
            return self.read(&sampler, wanted, cancel);
        }
        let (reader, tile_wide) = (softness.reader(sampler), self.tile_wide(wanted));
        Raster::written_in_bands(wanted, TILE, cancel, |first, band| {
            let (wide, mut scratch) = (wanted.width(), SoftScratch::default());
            for column in (0..wide).step_by(tile_wide) {
                for (y, row) in (first..).zip(band.chunks_mut(wide)) {
                    let run = &mut row[column..(column + tile_wide).min(wide)];
                    self.read_softened(&reader, &mut scratch, [wanted.x0 + column as i32, y], run);
                }
            }
            Ok(())
        })
    }

    /// How wide a tile is whose places lie close together however the picture is turned: its rows cross about as many rows
    /// of the source as it is high itself.
    fn tile_wide(self, wanted: Window) -> usize {
        let middle = f64::from(wanted.y0) + wanted.height() as f64 / 2.0;
        let ends = [wanted.x0, wanted.x1].map(|x| self.back.at([f64::from(x), middle]));
        let [Some(left), Some(right)] = ends else { return TILE_WIDE };
        let rows_a_pixel = (right[1] - left[1]).abs() / wanted.width() as f64;
        ((TILE as f64 / rows_a_pixel) as usize).clamp(TILE_WIDE / 2, TILE_WIDE)
    }

    /// How far, right and down, what is read goes in [`ROWS_AHEAD`] rows about the middle.
    fn rows_ahead(self, wanted: Window) -> [isize; 2] {
        let between = |from: i32, to: i32| (f64::from(from) + f64::from(to)) / 2.0;
        let middle = [between(wanted.x0, wanted.x1), between(wanted.y0, wanted.y1)];
        let later = [middle[0], middle[1] + f64::from(ROWS_AHEAD)];
        match [middle, later].map(|place| self.back.at(place)) {
            // Beside a horizon places go any way; nothing so far off is worth asking for.
            [Some(here), Some(there)] => {
                [0, 1].map(|axis| (there[axis] - here[axis]).clamp(-FARTHEST, FARTHEST).round() as isize)
            }
            _ => [0, ROWS_AHEAD as isize],
        }
    }

    /// A run of places of a row, each softened as it needs.
    fn read_softened<P: Pixel>(
        self,
        reader: &Reader<'_, P>,
        scratch: &mut SoftScratch<P>,
        [x0, y]: [i32; 2],
        row: &mut [P],
    ) {
        let (mut x, mut to_y, mut variances) = ([0.0f32; TILE_WIDE], [0.0; TILE_WIDE], [0.0; TILE_WIDE]);
        let count = row.len();
        let (x, to_y, variances) = (&mut x[..count], &mut to_y[..count], &mut variances[..count]);
        let seen = places_along(x, to_y, self.back, [x0, y]);
        variances_along(variances, self.back, [x0, y]);
        reader.read_run(scratch, self.filter, [x, to_y], variances, row);
        if !seen {
            clear_behind(self.back, [x0, y], row);
        }
    }

    /// What the filter reads at every place.
    fn read<P: Pixel>(
        self,
        sampler: &Sampler<'_, P>,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let (tile_wide, sampler) = (self.tile_wide(wanted), sampler.going(self.rows_ahead(wanted)));
        Raster::written_in_bands(wanted, TILE, cancel, |first, band| {
            let (wide, mut scratch) = (wanted.width(), Scratch::default());
            for column in (0..wide).step_by(tile_wide) {
                for (y, row) in (first..).zip(band.chunks_mut(wide)) {
                    let run = &mut row[column..(column + tile_wide).min(wide)];
                    self.read_tile_row(&sampler, &mut scratch, [wanted.x0 + column as i32, y], run);
                }
            }
            Ok(())
        })
    }

    fn read_tile_row<P: Pixel>(
        self,
        sampler: &Sampler<'_, P>,
        scratch: &mut Scratch,
        [x0, y]: [i32; 2],
        row: &mut [P],
    ) {
        let mut seen = true;
        let along = |start: usize, x: &mut [f32], to_y: &mut [f32]| {
            seen &= places_along(x, to_y, self.back, [x0 + start as i32, y]);
        };
        sampler.read_run_with(scratch, self.filter, along, row);
        if !seen {
            clear_behind(self.back, [x0, y], row);
        }
    }
}

/// What lies behind the eye is nothing.
fn clear_behind<P: Pixel>(back: Homography, [x0, y]: [i32; 2], row: &mut [P]) {
    for (here, out) in centres(x0, y).zip(row) {
        if back.at(here).is_none() {
            *out = P::default();
        }
    }
}

/// Rows of the result that are read together, and the most columns.
const TILE: usize = 32;
const TILE_WIDE: usize = 256;
/// No memory is asked for that lies more rows or columns off.
const FARTHEST: f64 = 1000.0;

/// The centres of a row's pixels, from the first one on.
fn centres(x0: i32, y: i32) -> impl Iterator<Item = [f64; 2]> {
    (x0..).map(move |x| [f64::from(x) + 0.5, f64::from(y) + 0.5])
}

/// Fills in the variance of the blur that each pixel of the row from `(x0, y)` on needs, as [`Homography::width_at`] and
/// [`sigma_of_width`] give it.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn variances_along(variances: &mut [f32], back: Homography, [x0, y]: [i32; 2]) {
    let mut places = [[[0.0f64; TILE_WIDE + 1]; 2]; 2];
    let mut seen = [[true; TILE_WIDE + 1]; 2];
    let count = variances.len();
    for ((places, seen), y) in places.iter_mut().zip(&mut seen).zip([f64::from(y) + 0.5, f64::from(y) + 1.5])
    {
        let [across, down, depth] = back.0;
        let [to_x, to_y] = places;
        for index in 0..=count {
            let x = f64::from(x0) + index as f64 + 0.5;
            let far = depth[0] * x + depth[1] * y + depth[2];
            let near = 1.0 / far;
            to_x[index] = (across[0] * x + across[1] * y + across[2]) * near;
            to_y[index] = (down[0] * x + down[1] * y + down[2]) * near;
            seen[index] = far > 0.0;
        }
    }
    let [[x, to_y], [x_below, y_below]] = &places;
    for (index, variance) in variances.iter_mut().enumerate() {
        let right = length([x[index + 1] - x[index], to_y[index + 1] - to_y[index]]).min(WIDEST);
        let below = length([x_below[index] - x[index], y_below[index] - to_y[index]]).min(WIDEST);
        let seen_right = if seen[0][index + 1] { right } else { WIDEST };
        let seen_below = if seen[1][index] { below } else { WIDEST };
        let width = if seen[0][index] { seen_right.max(seen_below) } else { WIDEST };
        let sigma = sigma_of_width(width);
        *variance = sigma * sigma;
    }
}

/// Fills in the places of the row from pixel `(x0, y)` on; says whether all of them lie before the eye.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn places_along(to_x: &mut [f32], to_y: &mut [f32], back: Homography, [x0, y]: [i32; 2]) -> bool {
    let y = f64::from(y) + 0.5;
    let [across, down, depth] = back.0.map(|row| (row[0], row[1] * y + row[2]));
    if depth.0 == 0.0 {
        // All of the row is as far away.
        let near = 1.0 / depth.1;
        for (index, (place_x, place_y)) in to_x.iter_mut().zip(to_y).enumerate() {
            let x = f64::from(x0 + index as i32) + 0.5;
            *place_x = ((across.0 * x + across.1) * near) as f32;
            *place_y = ((down.0 * x + down.1) * near) as f32;
        }
        return depth.1 > 0.0;
    }
    let mut seen = true;
    for (index, (place_x, place_y)) in to_x.iter_mut().zip(to_y).enumerate() {
        let x = f64::from(x0 + index as i32) + 0.5;
        let far = depth.0 * x + depth.1;
        seen &= far > 0.0;
        let near = 1.0 / far;
        *place_x = ((across.0 * x + across.1) * near) as f32;
        *place_y = ((down.0 * x + down.1) * near) as f32;
    }
    seen
}
