//! Shafts of light: what shines is drawn outward from a centre, weaker with its way.
//!
//! - Shape: a picture of what shines; a picture of its shafts over the window asked for.
//! - Units: the centre and the length in pixels of this picture, at most [`LONGEST`].
//! - Weight: over a way `t` of the length `L` light counts `(1 − t/L)·exp(−fade·t/L)`; all together 1, so that an even surface is
//!   as bright as it was.
//! - Edges: nothing comes from beyond the picture, nor from beyond the centre.
//! - Quality: every pixel of a ray is summed, whatever the length. Each of the four sides of the centre is cut into rays that lie at
//!   most a pixel apart; along one, the sum of the weighted light of a stretch is that of the stretch before with a pixel more and
//!   one less (two first-order recursions, as for a decaying and a ramped box: Heckbert, "Filtering by Repeated Integration",
//!   1986), so its cost does not grow with the length. A pixel lies between two rays and mixes them.

use multiversion::multiversion;
use rayon::prelude::*;
use wide::f32x4;

use crate::{Cancel, Cancelled, Picture, Raster, Rgba, Window};

/// No shaft is longer, in pixels.
pub const LONGEST: f64 = 20_000.0;
/// Rays that are followed side by side.
const BAND: usize = 64;

/// Shafts from a centre.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rays {
    /// Where they come from.
    pub centre: [f64; 2],
    /// How far they reach.
    pub length: f64,
    /// How much weaker they get besides: 0 in a straight line to nothing, more sooner.
    pub fade: f64,
}

impl Rays {
    /// What is read for a window of a signal that exists within `data`.
    pub fn reads(&self, wanted: Window, data: Window) -> Window {
        let [x, y] = self.centre.map(|at| at.clamp(-1e6, 1e6) as i32);
        wanted.union(Window::new(x - 2, y - 2, x + 2, y + 2)).grow(2, 2).intersect(data)
    }

    /// The shafts over a window. `source` must hold what [`Self::reads`] names; `frame` is all that is ever asked for.
    pub fn apply(
        &self,
        source: &Picture,
        data: Window,
        frame: Window,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Picture, Cancelled> {
        if self.length <= 1.0 {
            return Ok(source.extended(wanted, data, crate::Edge::Clear));
        }
        let upright = Side::of(self, source.clone(), data, frame, wanted, self.centre);
        let [x, y] = self.centre;
        let level =
            Side::of(self, turned(source, cancel)?, across(data), across(frame), across(wanted), [y, x]);
        let up_and_down = upright.rays(cancel)?;
        let aside = turned(&level.rays(cancel)?, cancel)?;
        let mut made = up_and_down;
        made.fill_rows(cancel, |row, pixels| {
            let down = (f64::from(row) + 0.5 - y).abs();
            for ((column, pixel), aside) in (wanted.x0..).zip(pixels).zip(aside.row(row)) {
                let right = (f64::from(column) + 0.5 - x).abs();
                if right > down {
                    *pixel = *aside;
                } else if down == 0.0 {
                    *pixel = source.get(column, row).unwrap_or_default();
                }
            }
        })?;
        Ok(made)
    }
}

const fn across(window: Window) -> Window {
    Window { x0: window.y0, y0: window.x0, x1: window.y1, y1: window.x1 }
}

/// Columns as rows.
fn turned(picture: &Picture, cancel: &Cancel) -> Result<Picture, Cancelled> {
    const TILE: usize = 16;
    let window = across(picture.window());
    let from = picture.window();
    Raster::written_in_bands(window, TILE, cancel, |first, band: &mut [Rgba]| {
        let width = window.width();
        let rows = band.len() / width.max(1);
        for start in (0..width).step_by(TILE) {
            for column in start..(start + TILE).min(width) {
                let begin = (first - from.x0) as usize;
                let run = &picture.row(window.x0 + column as i32)[begin..begin + rows];
                for (row, pixel) in run.iter().enumerate() {
                    band[row * width + column] = *pixel;
                }
            }
        }
        Ok(())
    })
}

/// Two opposite sides of the centre, in axes of which the rays go down or up.
struct Side {
    rays: Rays,
    source: Picture,
    data: Window,
    wanted: Window,
    /// How much aside neighbouring rays go for each pixel along.
    spacing: f64,
}

/// One of many rays.
struct Ray {
    /// How far it goes aside for each pixel along.
    slope: f64,
    /// What is left of light from one row to the next, and of what leaves the stretch.
    kept: f32,
    left: f32,
    /// Rows of a stretch.
    rows: i32,
    /// One over its length in rows, and over the sum of all weights.
    per_row: f32,
    whole: f32,
}

impl Ray {
    fn of(rays: &Rays, slope: f64) -> Self {
        let step = (1.0 + slope * slope).sqrt();
        let rows = (rays.length.min(LONGEST) / step).max(1.0);
        let count = rows.floor() + 1.0;
        let decay = if rays.fade < 1e-3 { 0.0 } else { rays.fade / rows };
        let kept = (-decay).exp();
        let left = (-decay * count).exp();
        // Sums of kept^j and of j·kept^j over the stretch.
        let (sum, ramp) = if decay == 0.0 {
            (count, count * (count - 1.0) / 2.0)
        } else {
            let lost = 1.0 - kept;
            let sum = (1.0 - left) / lost;
            (sum, (kept * sum - count * left) / lost)
        };
        Self {
            slope,
            kept: kept as f32,
            left: left as f32,
            rows: count as i32,
            per_row: (1.0 / rows) as f32,
            whole: (1.0 / (sum - 0.5 - ramp / rows)) as f32,
        }
    }
}

/// Pixels of a row.
struct Run {
    row: i32,
    first: i32,
    /// Where they begin in their band.
    begins: usize,
    count: usize,
}

/// What a band of rays gives.
struct Given {
    runs: Vec<Run>,
    pixels: Vec<Rgba>,
}

impl Side {
    fn of(
        rays: &Rays,
        source: Picture,
        data: Window,
        frame: Window,
        wanted: Window,
        centre: [f64; 2],
    ) -> Self {
        let farthest = [frame.y0, frame.y1].map(|border| (f64::from(border) - centre[1]).abs());
        let farthest = farthest[0].max(farthest[1]).max(1.0);
        Self { rays: Rays { centre, ..*rays }, source, data, wanted, spacing: 1.0 / farthest }
    }

    fn rays(&self, cancel: &Cancel) -> Result<Picture, Cancelled> {
        let of_way = |way: i32| {
            let [first, last] = self.bands(way);
            (first..=last).map(move |band| (way, band))
        };
        let tasks: Vec<(i32, i32)> = [1, -1].into_iter().flat_map(of_way).collect();
        let given: Vec<Given> = tasks
            .into_par_iter()
            .map(|(way, band)| {
                cancel.check()?;
                Ok(self.band(way, band))
            })
            .collect::<Result<_, Cancelled>>()?;
        let mut rows: Vec<Vec<(i32, &[Rgba])>> = vec![Vec::new(); self.wanted.height()];
        for band in &given {
            for run in &band.runs {
                let pixels = &band.pixels[run.begins..run.begins + run.count];
                rows[(run.row - self.wanted.y0) as usize].push((run.first, pixels));
            }
        }
        Raster::written(self.wanted, cancel, |row, out: &mut [Rgba]| {
            out.fill([0.0; 4]);
            for (first, pixels) in &rows[(row - self.wanted.y0) as usize] {
                let begin = (first - self.wanted.x0) as usize;
                out[begin..begin + pixels.len()].copy_from_slice(pixels);
            }
        })
    }

    /// The first and the last band of rays that anything asked for lies in; the first beyond the last where nothing does.
    fn bands(&self, way: i32) -> [i32; 2] {
        let rows = [self.wanted.y0, self.wanted.y1 - 1].map(|row| self.along(way, row));
        let far = rows[0].max(rows[1]);
        if far <= 0.0 || self.wanted.is_empty() {
            return [0, -1];
        }
        let near = rows[0].min(rows[1]).max(1e-3);
        let aside = [self.wanted.x0, self.wanted.x1].map(|border| f64::from(border) - self.rays.centre[0]);
        let slopes = aside.map(|aside| [aside / near, aside / far].map(|slope| slope.clamp(-1.0, 1.0)));
        let band = |slope: f64| (slope / self.spacing / BAND as f64).floor() as i32;
        [band(slopes[0][0].min(slopes[0][1])), band(slopes[1][0].max(slopes[1][1]))]
    }

    /// How far along a row is on the way down or up.
    fn along(&self, way: i32, row: i32) -> f64 {
        (f64::from(row) + 0.5 - self.rays.centre[1]) * f64::from(way)
    }

    /// The pixels of a row that lie between the first ray of a band and that of the next one.
    fn run(&self, along: f64, band: i32) -> [i32; 2] {
        [band, band + 1].map(|band| {
            let slope = f64::from(band) * BAND as f64 * self.spacing;
            let at = (self.rays.centre[0] + slope * along - 0.5).ceil();
            at.clamp(f64::from(self.wanted.x0), f64::from(self.wanted.x1)) as i32
        })
    }

    fn band(&self, way: i32, band: i32) -> Given {
        let mut given = Given { runs: Vec::new(), pixels: Vec::new() };
        // Rows from the centre outward, as far as any pixel of the band is asked for.
        let (first, end) = if way > 0 {
            (self.data.y0.max((self.rays.centre[1] - 0.5).floor() as i32 + 1), self.wanted.y1)
        } else {
            ((self.data.y1 - 1).min((self.rays.centre[1] - 0.5).ceil() as i32 - 1), self.wanted.y0 - 1)
        };
        let is_asked = |row: i32| {
            let [begin, end] = self.run(self.along(way, row), band);
            row >= self.wanted.y0 && row < self.wanted.y1 && end > begin && self.along(way, row) > 0.0
        };
        let count = (end - first) * way;
        let Some(last) = (0..count).rev().find(|step| is_asked(first + step * way)) else { return given };
        let rays: [Ray; BAND + 1] = std::array::from_fn(|number| {
            Ray::of(&self.rays, (f64::from(band) * BAND as f64 + number as f64) * self.spacing)
        });
        let mut sums = [[f32x4::ZERO; 2]; BAND + 1];
        let mut light = [f32x4::ZERO; BAND + 1];
        for step in 0..=last {
            let row = first + step * way;
            let along = self.along(way, row);
            if along <= 0.0 {
                continue;
            }
            go_on(self, [row, way, step], along, &rays, &mut sums, &mut light);
            if is_asked(row) {
                self.give(row, along, band, &light, &mut given);
            }
        }
        given
    }

    /// The pixels of a row between rays.
    fn give(&self, row: i32, along: f64, band: i32, light: &[f32x4; BAND + 1], given: &mut Given) {
        let [first, end] = self.run(along, band);
        let begins = given.pixels.len();
        let per_ray = 1.0 / (along * self.spacing);
        given.pixels.resize(begins + (end - first) as usize, [0.0; 4]);
        let (aside, before) = (f64::from(first) + 0.5 - self.rays.centre[0], f64::from(band) * BAND as f64);
        between([aside, per_ray, before], light, &mut given.pixels[begins..]);
        given.runs.push(Run { row, first, begins, count: (end - first) as usize });
    }
}

/// Follows rays by one row.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn go_on(
    side: &Side,
    [row, way, step]: [i32; 3],
    along: f64,
    rays: &[Ray; BAND + 1],
    sums: &mut [[f32x4; 2]; BAND + 1],
    light: &mut [f32x4; BAND + 1],
) {
    let centre = side.rays.centre[0] - 0.5 - f64::from(side.source.window().x0);
    let pixels = side.source.row(row);
    for ((ray, [sum, ramp]), light) in rays.iter().zip(sums).zip(light) {
        let comes = read(pixels, centre + ray.slope * along);
        let kept = f32x4::splat(ray.kept);
        *ramp = (*ramp + *sum) * kept;
        *sum = *sum * kept + comes;
        if step >= ray.rows {
            let back = along - f64::from(ray.rows);
            let left = side.source.row(row - way * ray.rows);
            let goes = read(left, centre + ray.slope * back) * f32x4::splat(ray.left);
            *sum -= goes;
            *ramp -= goes * f32x4::splat(ray.rows as f32);
        }
        // The ends of a stretch count half, as in the trapezoidal rule; at its far end nothing is left.
        let all = *sum - comes * f32x4::splat(0.5) - *ramp * f32x4::splat(ray.per_row);
        *light = all * f32x4::splat(ray.whole);
    }
}

/// What shines at a place of a row, counted from its first pixel's middle; nothing beyond it.
#[inline(always)]
fn read(pixels: &[Rgba], at: f64) -> f32x4 {
    // Whole numbers are cut off and not rounded down, so places are counted from far before the row.
    const BEFORE: f64 = 16_777_216.0;
    let place = at.clamp(-BEFORE / 2.0, BEFORE / 2.0) + BEFORE;
    let whole = place as i32;
    let (first, share) = (whole - BEFORE as i32, f32x4::splat((place - f64::from(whole)) as f32));
    let place = first as usize;
    if let Some([left, right]) = pixels.get(place..place.wrapping_add(2)) {
        let (left, right) = (f32x4::from(*left), f32x4::from(*right));
        return left + (right - left) * share;
    }
    let one = |at: i32| {
        usize::try_from(at)
            .ok()
            .and_then(|at| pixels.get(at))
            .map_or(f32x4::ZERO, |pixel| f32x4::from(*pixel))
    };
    let (left, right) = (one(first), one(first + 1));
    left + (right - left) * share
}

/// Pixels so far aside and beyond between the rays of a band, of which so many lie in a pixel and so many before it.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn between([aside, per_pixel, before]: [f64; 3], light: &[f32x4; BAND + 1], out: &mut [Rgba]) {
    for (number, pixel) in out.iter_mut().enumerate() {
        let at = ((aside + number as f64) * per_pixel - before).max(0.0);
        let ray = (at as usize).min(BAND - 1);
        let share = f32x4::splat((at - ray as f64) as f32);
        *pixel = (light[ray] + (light[ray + 1] - light[ray]) * share).into();
    }
}
