//! A picture laid on something, by the place of it that each pixel shows.
//!
//! - Shape: a place of the picture for each pixel, no numbers where it shows none, and how much of the pixel is covered; the
//!   result is a premultiplied picture.
//! - Units: places in pixels of the picture's raster, pixel centres at halves.
//! - Window: what is laid is a box of the picture; coverage falls off over one pixel at its sides.
//! - Where a pixel is wide in the picture it is read as softly as it needs: along the longer side of its footprint at several
//!   places, each as soft as the shorter side is wide.
//! - How much of the picture exists makes no difference: of the box each pixel counts, and none beyond it.
//! - Source: Heckbert, "Fundamentals of Texture Mapping and Image Warping", 1989, chapter 3; McCormack, Perry, Farkas and Jouppi,
//!   "Feline: fast elliptical lines for anisotropic texture mapping", 1999.

use std::sync::{Mutex, PoisonError};

use super::perspective::sigma_of_width;
use crate::sample::resample::{Filter, Sampler};
use crate::sample::softness::{self, RUN, SoftScratch, Softness};
use crate::{Cancel, Cancelled, Edge, Field, Map, Picture, Raster, Window};

/// A footprint is read at no more places than this.
const MOST_PLACES: usize = 16;

/// So many rows of pixels are covered at once.
const ROWS_AT_ONCE: usize = 16;

/// No place lies further off, in pixels.
const FAR: f32 = 67_108_864.0;

/// Where a picture is seen.
pub struct Laid {
    /// The place that each pixel shows.
    places: Map,
    /// How much of each pixel is covered.
    coverage: Field,
    extent: Extent,
}

/// What is read of the picture for all pixels.
#[derive(Clone, Copy)]
struct Extent {
    /// The widest σ.
    widest: f32,
    /// A box about the places: left, top, right, bottom.
    about: [f32; 4],
}

impl Extent {
    const NOTHING: Self = Self { widest: 0.0, about: [f32::MAX, f32::MAX, f32::MIN, f32::MIN] };

    /// Of one pixel's.
    fn of(at: [f32; 2], reading: &Reading) -> Self {
        let by = reading.long.map(|long| long.abs() / 2.0);
        let about = [at[0] - by[0], at[1] - by[1], at[0] + by[0], at[1] + by[1]];
        Self { widest: reading.variance.sqrt(), about }
    }

    fn with(self, other: Self) -> Self {
        let (a, b) = (self.about, other.about);
        let about = [a[0].min(b[0]), a[1].min(b[1]), a[2].max(b[2]), a[3].max(b[3])];
        Self { widest: self.widest.max(other.widest), about }
    }
}

/// How the picture is read.
#[derive(Clone, Copy, Debug)]
pub struct Reads {
    data: Window,
    edge: Edge,
    filter: Filter,
}

impl Reads {
    /// Of a box of a picture that exists in a window, the pixels nearest to its sides being the last; beyond it as an edge says.
    /// Where nothing lies beyond, the last pixels are read as if they went on: how much of the result is covered says where they
    /// end. None where the box holds nothing that exists.
    pub fn of(sides: [f64; 4], exists: Window, beyond: Edge, filter: Filter) -> Option<Self> {
        let [x0, y0, x1, y1] = sides.map(|side| side.round() as i32);
        let all = Window::new(x0, y0, x1.max(x0.saturating_add(1)), y1.max(y0.saturating_add(1)));
        // One pixel of nothing about what exists goes on as nothing.
        let held = all.intersect(exists.grow(1, 1));
        let (data, edge) = match beyond {
            Edge::Clear | Edge::Hold => (held, Edge::Hold),
            Edge::Mirror | Edge::Repeat => (all, beyond),
        };
        (!held.is_empty()).then_some(Self { data, edge, filter })
    }
}

/// The places of three rows of pixels, with one to spare on each side.
struct Beside<'a>([&'a [[f32; 2]]; 3]);

impl<'a> Beside<'a> {
    fn of(places: &'a Map, y: i32) -> Self {
        Self([y - 1, y, y + 1].map(|y| places.row(y)))
    }

    /// The place of a pixel; none where it shows none.
    #[inline(always)]
    fn place(&self, at: usize) -> Option<[f32; 2]> {
        Some(self.0[1][at + 1]).filter(|place| !place[0].is_nan())
    }

    /// What a pixel's sides are in the picture: the way to the next pixel right, and down. The shorter of the ways from the pixel
    /// before and to the one after, since one may lead to another part of the surface.
    #[inline(always)]
    fn footprint(&self, at: usize) -> [[f32; 2]; 2] {
        let [above, own, below] = self.0;
        let shorter = |before: [f32; 2], after: [f32; 2]| {
            let here = own[at + 1];
            let ways = [[after[0] - here[0], after[1] - here[1]], [here[0] - before[0], here[1] - before[1]]];
            // One that is no number is longer than any.
            let [onward, back] = ways.map(|way| (way[0] * way[0] + way[1] * way[1]).min(f32::MAX));
            match (ways[0][0].is_nan(), ways[1][0].is_nan()) {
                (true, true) => [0.0; 2],
                (false, true) => ways[0],
                (true, false) => ways[1],
                (false, false) if onward <= back => ways[0],
                (false, false) => ways[1],
            }
        };
        [shorter(own[at], own[at + 2]), shorter(above[at + 1], below[at + 1])]
    }
}

/// The length of a way.
#[inline(always)]
fn long(x: f32, y: f32) -> f32 {
    (x * x + y * y).sqrt()
}

impl Laid {
    /// Of places over a window with a pixel to spare on each side, and coverage of their own. `within` is the box of the picture
    /// that is laid: left, top, right, bottom; without one all of it is, over and over.
    pub fn new(
        places: Map,
        own: Option<&Field>,
        within: Option<[f64; 4]>,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let window = places.window().grow(-1, -1);
        let side = |low: f64, high: f64, at: f32, wide: f32| {
            let near = (f64::from(at) - low).min(high - f64::from(at));
            (near / f64::from(wide).max(1e-6) + 0.5).clamp(0.0, 1.0) as f32
        };
        let of_all = Mutex::new(Extent::NOTHING);
        let wide = window.width().max(1);
        let coverage = Raster::written_in_bands(window, ROWS_AT_ONCE, cancel, |first, rows: &mut [f32]| {
            let mut extent = Extent::NOTHING;
            for (y, row) in (first..).zip(rows.chunks_mut(wide)) {
                let beside = Beside::of(&places, y);
                for (at, out) in row.iter_mut().enumerate() {
                    *out = 0.0;
                    let Some([across, down]) = beside.place(at) else { continue };
                    let [u, v] = beside.footprint(at);
                    let wide = |axis: usize| long(u[axis], v[axis]);
                    let inside = within.map_or(1.0, |[left, top, right, bottom]| {
                        side(left, right, across, wide(0)) * side(top, bottom, down, wide(1))
                    });
                    let x = window.x0 + at as i32;
                    *out = inside * own.and_then(|own| own.get(x, y)).unwrap_or(1.0);
                    if *out > 0.0 {
                        extent = extent.with(Extent::of([across, down], &Reading::of([u, v])));
                    }
                }
            }
            let mut all = of_all.lock().unwrap_or_else(PoisonError::into_inner);
            *all = all.with(extent);
            Ok::<_, Cancelled>(())
        })?;
        let extent = of_all.into_inner().unwrap_or_else(PoisonError::into_inner);
        Ok(Self { places, coverage, extent })
    }

    /// The pixels it is of.
    pub fn window(&self) -> Window {
        self.coverage.window()
    }

    /// What is read of a picture.
    pub fn reads(&self, Reads { data, edge, filter }: Reads) -> Window {
        let Extent { widest, about } = self.extent;
        let reach = filter.reach().max(softness::reach(widest)) + 2;
        edge.reads_window(window_about(about).grow(reach, reach), data)
    }

    /// The picture where it is seen. `source` holds what [`Self::reads`] names.
    pub fn apply(
        &self,
        source: &Picture,
        Reads { data, edge, filter }: Reads,
        cancel: &Cancel,
    ) -> Result<Picture, Cancelled> {
        let Extent { widest, about } = self.extent;
        let reads = window_about(about).grow(1, 1);
        let softness = Softness::new(source, data, edge, reads, widest, cancel)?;
        let reader = softness.reader(Sampler::new(source, data, edge));
        Raster::written_with(self.window(), cancel, Line::default, |line, y, row: &mut [[f32; 4]]| {
            line.gather(self, y);
            row.fill([0.0; 4]);
            let mut pixels = vec![[0.0; 4]; line.x.len()];
            for (number, out) in pixels.chunks_mut(RUN).enumerate() {
                let run = number * RUN..number * RUN + out.len();
                let places = [&line.x[run.clone()], &line.y[run.clone()]];
                reader.read_run(&mut line.scratch, filter, places, &line.variances[run], out);
            }
            for (pixel, to) in pixels.iter().zip(&line.pixels) {
                let (at, share) = *to;
                row[at].iter_mut().zip(pixel).for_each(|(out, own)| *out += own * share);
            }
        })
    }
}

/// The pixels that places between a least and a most one lie on; none for no places.
fn window_about([left, top, right, bottom]: [f32; 4]) -> Window {
    if left > right {
        return Window::EMPTY;
    }
    let [x0, y0] = [left, top].map(|at| at.floor().clamp(-FAR, FAR) as i32);
    let [x1, y1] = [right, bottom].map(|at| at.ceil().clamp(-FAR, FAR) as i32 + 1);
    Window::new(x0, y0, x1, y1)
}

/// How a footprint is read: at places along its longer side, each so soft.
struct Reading {
    long: [f32; 2],
    places: usize,
    variance: f32,
}

impl Reading {
    #[inline(always)]
    fn of([u, v]: [[f32; 2]; 2]) -> Self {
        // The axes of the ellipse that the footprint's sides make: singular values of the matrix of both.
        let (a, b, c) = (u[0] * u[0] + v[0] * v[0], u[0] * u[1] + v[0] * v[1], u[1] * u[1] + v[1] * v[1]);
        let (mean, off) = ((a + c) / 2.0, long((a - c) / 2.0, b));
        let (longer, shorter) = ((mean + off).max(0.0).sqrt(), (mean - off).max(0.0).sqrt());
        let places = ((longer / shorter.max(1.0)).ceil() as usize).clamp(1, MOST_PLACES);
        let wide = shorter.max(longer / places as f32);
        let sigma = sigma_of_width(f64::from(wide));
        let axis = if off <= f32::EPSILON * mean { [1.0, 0.0] } else { [b, mean + off - a] };
        let axis = if long(axis[0], axis[1]) > 0.0 {
            axis
        } else if a >= c {
            [1.0, 0.0]
        } else {
            [0.0, 1.0]
        };
        let by = longer / long(axis[0], axis[1]);
        Self { long: axis.map(|along| along * by), places, variance: sigma * sigma }
    }
}

/// The places that a row of pixels reads.
#[derive(Default)]
struct Line {
    x: Vec<f32>,
    y: Vec<f32>,
    variances: Vec<f32>,
    /// The pixel that each is of, and its share.
    pixels: Vec<(usize, f32)>,
    scratch: SoftScratch<[f32; 4]>,
}

impl Line {
    fn gather(&mut self, laid: &Laid, y: i32) {
        self.x.clear();
        self.y.clear();
        self.variances.clear();
        self.pixels.clear();
        let beside = Beside::of(&laid.places, y);
        for (at, covered) in laid.coverage.row(y).iter().enumerate() {
            let Some(place) = beside.place(at).filter(|_| *covered > 0.0) else { continue };
            let reading = Reading::of(beside.footprint(at));
            for number in 0..reading.places {
                let along = (number as f32 + 0.5) / reading.places as f32 - 0.5;
                self.x.push(place[0] + along * reading.long[0]);
                self.y.push(place[1] + along * reading.long[1]);
                self.variances.push(reading.variance);
                self.pixels.push((at, covered / reading.places as f32));
            }
        }
    }
}
