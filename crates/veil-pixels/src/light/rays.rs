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

use crate::{Cancel, Cancelled, Edge, Picture, Raster, Rgba, Window};

/// No shaft is longer, in pixels.
pub const LONGEST: f64 = 20_000.0;
/// Rays of a band; and those of it that are followed side by side where they go along rows.
const BAND: usize = 64;
const TOGETHER: usize = 4;

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
        if self.length <= 1.0 || data.is_empty() {
            return Ok(source.extended(wanted, data, Edge::Clear));
        }
        let fan = |goes: Goes, way: i32| Fan::new(self, goes, way, [data, frame, wanted]);
        let mut fans =
            [fan(Goes::Upright, -1), fan(Goes::Upright, 1), fan(Goes::Level, -1), fan(Goes::Level, 1)];
        for fan in &mut fans {
            fan.follow(source, cancel)?;
        }
        let [up, down, left, right] = &fans;
        let [x, y] = self.centre;
        let per_column: Vec<f64> =
            (wanted.x0..wanted.x1).map(|column| right.rays_per_pixel(f64::from(column) + 0.5 - x)).collect();
        Raster::written(wanted, cancel, |row, pixels: &mut [Rgba]| {
            let below = f64::from(row) + 0.5 - y;
            let per_row = down.rays_per_pixel(below);
            let upright = if below < 0.0 { up } else { down };
            for ((column, pixel), per_column) in (wanted.x0..).zip(pixels).zip(&per_column) {
                let beside = f64::from(column) + 0.5 - x;
                *pixel = if beside.abs() > below.abs() {
                    if beside < 0.0 { left } else { right }.between(column, below * per_column)
                } else if below == 0.0 {
                    source.get(column, row).unwrap_or_default()
                } else {
                    upright.between(row, beside * per_row)
                };
            }
        })
    }
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

/// Whether rays go along rows or from row to row.
#[derive(Clone, Copy, PartialEq)]
enum Goes {
    Upright,
    Level,
}

/// All rays to one side of the centre: up, down, left or right of it.
struct Fan {
    rays: Rays,
    goes: Goes,
    /// 1 where rows or columns are counted up away from the centre, else -1.
    way: i32,
    /// How far aside neighbouring rays go for each pixel along.
    spacing: f64,
    /// The row or column that rays begin in, and the farthest one that is asked for.
    first: i32,
    last: i32,
    /// The first band, and what each gives: ray by ray along rows, else row by row.
    first_band: i32,
    bands: Vec<Band>,
}

/// Rays that lie beside each other.
#[derive(Default)]
struct Band {
    /// Rows or columns that they are followed over.
    steps: usize,
    light: Vec<Rgba>,
}

impl Fan {
    fn new(rays: &Rays, goes: Goes, way: i32, [data, frame, wanted]: [Window; 3]) -> Self {
        let turned = |window: Window| match goes {
            Goes::Upright => window,
            Goes::Level => Window { x0: window.y0, y0: window.x0, x1: window.y1, y1: window.x1 },
        };
        let [data, frame, wanted] = [data, frame, wanted].map(turned);
        let [aside, along] =
            if goes == Goes::Upright { rays.centre } else { [rays.centre[1], rays.centre[0]] };
        let farthest = [frame.y0, frame.y1].map(|border| (f64::from(border) - along).abs());
        let spacing = 1.0 / farthest[0].max(farthest[1]).max(1.0);
        let (first, last) = if way > 0 {
            (data.y0.max((along - 0.5).floor() as i32 + 1), wanted.y1 - 1)
        } else {
            ((data.y1 - 1).min((along - 0.5).ceil() as i32 - 1), wanted.y0)
        };
        let mut fan = Self { rays: *rays, goes, way, spacing, first, last, first_band: 0, bands: Vec::new() };
        let far = fan.along(last);
        if far <= 0.0 || wanted.is_empty() || (last - first) * way < 0 {
            return fan;
        }
        let near = fan.along(if way > 0 { wanted.y0 } else { wanted.y1 - 1 }).max(1e-3);
        let sides = [wanted.x0, wanted.x1].map(|border| f64::from(border) - aside);
        let slopes = sides.map(|side| [side / near, side / far].map(|slope| slope.clamp(-1.0, 1.0)));
        let band = |slope: f64| (slope / spacing / BAND as f64).floor() as i32;
        fan.first_band = band(slopes[0][0].min(slopes[0][1]));
        // One more, of which the last pixel's second ray may be.
        let last_band = band(slopes[1][0].max(slopes[1][1])) + 1;
        fan.bands = (fan.first_band..=last_band)
            .map(|band| Band { steps: fan.steps(band, sides), light: Vec::new() })
            .collect();
        fan
    }

    /// How far along a row or column is.
    fn along(&self, at: i32) -> f64 {
        let centre = self.rays.centre[if self.goes == Goes::Upright { 1 } else { 0 }];
        (f64::from(at) + 0.5 - centre) * f64::from(self.way)
    }

    /// Over how many rows or columns a band is followed, so far as anything between those sides is asked for.
    fn steps(&self, band: i32, [low, high]: [f64; 2]) -> usize {
        let all = ((self.last - self.first) * self.way + 1).max(0) as usize;
        let ends = [band, band + 1].map(|band| f64::from(band) * BAND as f64);
        // A pixel lies up to a ray beside those that it is mixed from.
        let (slope, side) = if ends[0] > 1.0 {
            ((ends[0] - 1.0) * self.spacing, high)
        } else if ends[1] < -1.0 {
            (-(ends[1] + 1.0) * self.spacing, -low)
        } else {
            return all;
        };
        if side <= 0.0 {
            return 0;
        }
        let far = side / slope - self.along(self.first);
        if far < 0.0 { 0 } else { all.min(far as usize + 3) }
    }

    /// How many rays lie beside each other in a pixel so far along.
    fn rays_per_pixel(&self, along: f64) -> f64 {
        1.0 / (along.abs() * self.spacing)
    }

    fn follow(&mut self, source: &Picture, cancel: &Cancel) -> Result<(), Cancelled> {
        let mut bands = std::mem::take(&mut self.bands);
        bands.par_iter_mut().enumerate().try_for_each(|(number, band)| {
            cancel.check()?;
            let before = (i64::from(self.first_band) + number as i64) as f64 * BAND as f64;
            let rays: [Ray; BAND] =
                std::array::from_fn(|number| Ray::of(&self.rays, (before + number as f64) * self.spacing));
            band.light = vec![[0.0; 4]; BAND * band.steps];
            match self.goes {
                Goes::Upright => from_row_to_row(self, source, &rays, &mut band.light),
                Goes::Level => along_rows(self, source, &rays, band),
            }
            Ok(())
        })?;
        self.bands = bands;
        Ok(())
    }

    /// The light in a row or column, at a place between rays that are counted from the middle one.
    #[inline(always)]
    fn between(&self, at: i32, place: f64) -> Rgba {
        let step = ((at - self.first) * self.way) as usize;
        // Whole numbers are cut off and not rounded down, so rays are counted from far before the first.
        const BEFORE: f64 = 4_294_967_296.0;
        let ray = ((place + BEFORE) as i64 - BEFORE as i64) as i32;
        let share = f32x4::splat((place - f64::from(ray)) as f32);
        let (own, next) = (self.light(ray, step), self.light(ray + 1, step));
        (own + (next - own) * share).into()
    }

    #[inline(always)]
    fn light(&self, ray: i32, step: usize) -> f32x4 {
        let (band, ray) =
            (ray.div_euclid(BAND as i32) - self.first_band, ray.rem_euclid(BAND as i32) as usize);
        let Some(band) = self.bands.get(band as usize) else { return f32x4::ZERO };
        let at = match self.goes {
            Goes::Upright => step * BAND + ray,
            Goes::Level => ray * band.steps + step,
        };
        // Nothing shines before the first row that there is.
        if step < band.steps { f32x4::from(band.light[at]) } else { f32x4::ZERO }
    }
}

impl Ray {
    /// Its sums go on by what comes and what goes, and what they make of it.
    #[inline(always)]
    fn go_on(&self, [sum, ramp]: &mut [f32x4; 2], comes: f32x4, goes: Option<f32x4>) -> Rgba {
        let kept = f32x4::splat(self.kept);
        *ramp = (*ramp + *sum) * kept;
        *sum = *sum * kept + comes;
        if let Some(goes) = goes {
            let goes = goes * f32x4::splat(self.left);
            *sum -= goes;
            *ramp -= goes * f32x4::splat(self.rows as f32);
        }
        // The ends of a stretch count half, as in the trapezoidal rule; at its far end nothing is left.
        let all = *sum - comes * f32x4::splat(0.5) - *ramp * f32x4::splat(self.per_row);
        (all * f32x4::splat(self.whole)).into()
    }
}

/// Follows rays that go up or down, all of them a row at a time.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn from_row_to_row(fan: &Fan, source: &Picture, rays: &[Ray; BAND], light: &mut [Rgba]) {
    let centre = fan.rays.centre[0] - 0.5 - f64::from(source.window().x0);
    let mut sums = [[f32x4::ZERO; 2]; BAND];
    for (step, light) in (0..).zip(light.as_chunks_mut::<BAND>().0) {
        let row = fan.first + step * fan.way;
        let (along, pixels) = (fan.along(row), source.row(row));
        for ((ray, sums), light) in rays.iter().zip(&mut sums).zip(light) {
            let comes = read(pixels, centre + ray.slope * along);
            let goes = (step >= ray.rows).then(|| {
                let left = source.row(row - fan.way * ray.rows);
                read(left, centre + ray.slope * (along - f64::from(ray.rows)))
            });
            *light = ray.go_on(sums, comes, goes);
        }
    }
}

/// Follows rays that go to the left or right, a few of them together, so that none waits for another.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn along_rows(fan: &Fan, source: &Picture, rays: &[Ray; BAND], band: &mut Band) {
    let centre = fan.rays.centre[1] - 0.5;
    if band.steps == 0 {
        return;
    }
    let groups = rays.as_chunks::<TOGETHER>().0.iter();
    for (rays, light) in groups.zip(band.light.chunks_mut(TOGETHER * band.steps)) {
        let mut sums = [[f32x4::ZERO; 2]; TOGETHER];
        for step in 0..band.steps {
            let column = fan.first + step as i32 * fan.way;
            let along = fan.along(column);
            for (number, (ray, sums)) in rays.iter().zip(&mut sums).enumerate() {
                let comes = read_down(source, column, centre + ray.slope * along);
                let goes = (step as i32 >= ray.rows).then(|| {
                    let back = along - f64::from(ray.rows);
                    read_down(source, column - fan.way * ray.rows, centre + ray.slope * back)
                });
                light[number * band.steps + step] = ray.go_on(sums, comes, goes);
            }
        }
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

/// What shines at a place of a column; nothing beyond the picture.
#[inline(always)]
fn read_down(source: &Picture, column: i32, at: f64) -> f32x4 {
    const BEFORE: f64 = 16_777_216.0;
    let place = at.clamp(-BEFORE / 2.0, BEFORE / 2.0) + BEFORE;
    let whole = place as i32;
    let (row, share) = (whole - BEFORE as i32, f32x4::splat((place - f64::from(whole)) as f32));
    let (window, pixels) = (source.window(), source.pixels());
    let aside = column - window.x0;
    if row >= window.y0 && row + 1 < window.y1 && aside >= 0 && column < window.x1 {
        let above = (row - window.y0) as usize * window.width() + aside as usize;
        let (upper, lower) = (f32x4::from(pixels[above]), f32x4::from(pixels[above + window.width()]));
        return upper + (lower - upper) * share;
    }
    let one = |row: i32| source.get(column, row).map_or(f32x4::ZERO, f32x4::from);
    let (upper, lower) = (one(row), one(row + 1));
    upper + (lower - upper) * share
}
