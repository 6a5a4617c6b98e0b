//! A background seen through a clear body, and how much of what is about it the body's surface throws back.
//!
//! - Shape: pictures; a body is a picture of the directions its surface faces in, x right, y down and z toward the eye, of length 1,
//!   with its coverage as fourth float.
//! - Units: thickness in pixels of the raster. The eye looks straight on.
//! - A thin body: light is bent where it comes in, and goes straight on for the thickness. With an index of 1 nothing is bent.
//! - Edges: beyond the background its border goes on.
//! - Sources: Snell's law in vector form, Glassner (ed.), "An Introduction to Ray Tracing", 1989, chapter 2; Cauchy's equation with
//!   two terms for the index by wavelength; Schlick, "An inexpensive BRDF model for physically-based rendering", 1994, for what is
//!   thrown back.

use multiversion::multiversion;

use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Field, Picture, Raster, Rgba, Window};

/// The wavelength that an index is told at, in nanometres: the d line.
const D: f64 = 587.6;
/// Those that tell a dispersion: the F and C lines.
const F: f64 = 486.1;
const C: f64 = 656.3;
/// Dominant wavelengths of the sRGB primaries, in nanometres; from memory.
const PRIMARIES: [f64; 3] = [611.4, 549.1, 464.2];

/// A clear body's material.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Clear {
    /// Index of refraction of red, green and blue, each at least 1.
    indices: [f32; 3],
}

impl Clear {
    /// Of an index at the d line and a dispersion, the index at the F line less that at the C line: 1.5168 and 0.0081 of a
    /// common crown glass, 1.333 and 0.006 of water.
    pub fn of(index: f64, dispersion: f64) -> Self {
        let square = |length: f64| 1.0 / (length * length);
        let slope = dispersion / (square(F) - square(C));
        let at = |length: f64| (index + slope * (square(length) - square(D))).max(1.0) as f32;
        Self { indices: PRIMARIES.map(at) }
    }

    /// Index of refraction of red, green and blue.
    pub const fn indices(self) -> [f32; 3] {
        self.indices
    }

    /// Whether nothing is bent.
    pub fn is_nothing(self) -> bool {
        self.indices == [1.0; 3]
    }

    /// No place is seen further from where it lies, for each pixel of thickness.
    pub fn reach(self) -> f32 {
        let most = self.indices.into_iter().fold(1.0, f32::max);
        (most * most - 1.0).max(0.0).sqrt()
    }
}

/// Where light comes from that is seen through a surface, for each pixel of thickness, right and down.
#[inline(always)]
pub fn bend([x, y, z]: [f32; 3], index: f32) -> [f32; 2] {
    let across = x * x + y * y;
    let inside = (1.0 - across / (index * index)).max(0.0).sqrt();
    // By how much of the surface's direction the ray is turned.
    let by = z / index - inside;
    let ahead = (1.0 / index - by * z).max(1e-6);
    [by * x / ahead, by * y / ahead]
}

/// The share of light that a surface throws back which is looked at under an angle of this cosine.
#[inline(always)]
pub fn thrown_back(cosine: f32, index: f32) -> f32 {
    let least = ((index - 1.0) / (index + 1.0)).powi(2);
    least + (1.0 - least) * (1.0 - cosine.clamp(0.0, 1.0)).powi(5)
}

/// `behind` seen through a body before a background, which is `behind` as well unless the body is rough. `behind` must hold
/// `wanted` grown by what [`Clear::reach`] makes of the thickness, as far as its data goes.
pub fn refracted(
    (background, behind): (&Picture, &Picture),
    body: &Picture,
    clear: Clear,
    thickness: f32,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let left_of = |window: Window| (wanted.x0 - window.x0) as usize;
    let sampler = Sampler::new(behind, behind.window(), Edge::Hold);
    let wide = wanted.width();
    let begin = || (Scratch::default(), [0; 2].map(|_| vec![[0.0f32; 4]; wide]));
    let bends = !behind.window().is_empty() && !clear.is_nothing();
    let [red, green, blue] = clear.indices;
    let is_even = red == green && green == blue;
    Raster::written_with(wanted, cancel, begin, |(scratch, [reds, blues]), y, row| {
        let background = &background.row(y)[left_of(background.window())..][..wide];
        let body = &body.row(y)[left_of(body.window())..][..wide];
        let bent = if bends { bent_part(body) } else { 0..0 };
        row[..bent.start].copy_from_slice(&background[..bent.start]);
        row[bent.end..].copy_from_slice(&background[bent.end..]);
        let (body, left) = (&body[bent.clone()], wanted.x0 + bent.start as i32);
        let mut read = |index: f32, out: &mut [Rgba]| {
            let through = |start: usize, x: &mut [f32], to_y: &mut [f32]| {
                let first = [(left + start as i32) as f32 + 0.5, y as f32 + 0.5];
                looked_through(&body[start..start + x.len()], [index, thickness], first, x, to_y);
            };
            sampler.read_run_with(scratch, Filter::Linear, through, out);
        };
        // Alpha goes with green.
        let row = &mut row[bent.clone()];
        read(green, row);
        if !is_even {
            let (reds, blues) = (&mut reds[..body.len()], &mut blues[..body.len()]);
            read(red, reds);
            read(blue, blues);
            for (out, (red, blue)) in row.iter_mut().zip(reds.iter().zip(&*blues)) {
                (out[0], out[2]) = (red[0], blue[2]);
            }
        }
        let own = row.iter_mut().zip(&background[bent]).zip(body);
        for ((out, own), body) in own.filter(|(_, body)| body[3] < 1.0 || is_straight(body)) {
            let share = if is_straight(body) { 0.0 } else { body[3] };
            // What is infinite must not become no number by a share of nothing.
            *out = std::array::from_fn(|at| {
                if share > 0.0 { own[at] + (out[at] - own[at]) * share } else { own[at] }
            });
        }
    })
}

/// From the first pixel of a row that is bent to behind the last.
fn bent_part(body: &[Rgba]) -> std::ops::Range<usize> {
    let first = body.iter().position(|at| !is_straight(at)).unwrap_or(body.len());
    let last = body.iter().rposition(|at| !is_straight(at)).map_or(first, |last| last + 1);
    first..last
}

/// Whether what lies behind a place of a body is seen where it lies.
#[inline(always)]
fn is_straight([x, y, _, covers]: &Rgba) -> bool {
    (*covers <= 0.0) | ((*x == 0.0) & (*y == 0.0))
}

/// Where a row of pixels is seen from.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn looked_through(
    body: &[Rgba],
    [index, thickness]: [f32; 2],
    [left, line]: [f32; 2],
    to_x: &mut [f32],
    to_y: &mut [f32],
) {
    let places = to_x.iter_mut().zip(to_y).zip(body).enumerate();
    for (number, ((to_x, to_y), [x, y, z, _])) in places {
        let [right, down] = bend([*x, *y, *z], index);
        *to_x = left + number as f32 + right * thickness;
        *to_y = line + down * thickness;
    }
}

/// How high a body stands that is round at its edge, from how far it is to that: a quarter of a circle, and flat where it is
/// further than its radius. Both in pixels.
pub fn rounded(far: f32, radius: f32) -> f32 {
    let share = 1.0 - (far / radius).clamp(0.0, 1.0);
    radius * (1.0 - share * share).max(0.0).sqrt()
}

/// The directions that heights in pixels face in, within a field of coverage; both must hold `wanted`, heights a pixel about it.
pub fn facing(
    heights: &Field,
    covers: &Field,
    wanted: Window,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    Raster::written(wanted, cancel, |y, row: &mut [Rgba]| {
        let lines = [y - 1, y, y + 1].map(|y| heights.row(y));
        let left = (wanted.x0 - heights.window().x0) as usize;
        let covers = &covers.row(y)[(wanted.x0 - covers.window().x0) as usize..];
        for ((out, at), covers) in row.iter_mut().zip(left..).zip(covers) {
            let (x, y) = ((lines[1][at + 1] - lines[1][at - 1]) / -2.0, (lines[2][at] - lines[0][at]) / -2.0);
            let length = (x * x + y * y + 1.0).sqrt();
            *out = [x / length, y / length, 1.0 / length, covers.clamp(0.0, 1.0)];
        }
    })
}
