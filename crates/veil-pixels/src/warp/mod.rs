//! Several warps in a row as one: every place of the result is carried back through all of them, and the signal is
//! read once.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: places and moves in pixels of the raster, pixel centres at halves.
//! - Steps: in the order the eye goes back, so the last warp first. Matrices that follow each other become one.
//! - Moves are read between pixels by straight lines; beyond their raster nothing moves.
//! - Softness: variances add up. What a step softens, and the width of a pixel, is carried on by how much the steps
//!   after it widen it.
//! - Edges: as the [`Edge`] says, outside the signal's data window; nothing where a place lies behind the eye.
//! - Source: Heckbert, "Fundamentals of Texture Mapping and Image Warping", 1989, chapters 2 and 3: inverse mappings
//!   composed, and the widths of Gaussians under them.

pub mod bent;
pub mod bulge;
pub mod displace;
pub mod fold;
pub mod lens;
pub mod mesh;
pub mod outlines;
pub mod perspective;
pub mod polar;
pub mod push;
pub mod skin;
pub mod swirl;
pub mod uv;

use crate::buffer::raster::Pixel;
use crate::sample::resample::{Filter, Sampler, covered, is_coverage};
use crate::sample::softness::{self, RUN, SoftScratch, Softness};
use crate::warp::displace::{Displacement, Moves};
use crate::warp::perspective::{Carried, Homography, sigma_of_width};
use crate::{Cancel, Cancelled, Edge, Map, Picture, Raster, Window};

enum Step {
    /// By a matrix, from the result's places to the source's.
    Carried(Homography),
    /// By a map, softened by so much for each pixel of move.
    Moved(Moves, f32),
}

/// A way from the places of a result back to those of a signal.
pub struct Warp {
    wanted: Window,
    steps: Vec<Placed>,
    reading: Reading,
    edge: Edge,
}

/// How a place is read.
#[derive(Clone, Copy, PartialEq)]
enum Reading {
    /// Made of the pixels around it, and softened.
    Filtered(Filter),
    /// As the one pixel that holds it.
    Points,
}

impl Reading {
    const fn filter(self) -> Filter {
        match self {
            Self::Filtered(filter) => filter,
            Self::Points => Filter::Nearest,
        }
    }
}

/// A step with the places it starts from.
struct Placed {
    from: Window,
    step: Step,
}

impl Placed {
    /// Where the places come to lie, with a pixel to spare.
    fn to(&self) -> Window {
        match &self.step {
            Step::Carried(back) => back.window(self.from).grow(1, 1),
            Step::Moved(moves, _) => {
                let longest = moves.longest().ceil() as i32 + 1;
                self.from.grow(longest, longest)
            }
        }
    }
}

/// How wide a pixel of the result has become, and how soft it is, in the pixels it has been carried to.
#[derive(Clone, Copy)]
struct Spread {
    width: f64,
    variance: f64,
}

impl Spread {
    const PIXEL: Self = Self { width: 1.0, variance: 0.0 };

    fn widened(self, by: f64) -> Self {
        Self { width: self.width * by, variance: self.variance * by * by }
    }

    fn softened(self, sigma: f64) -> Self {
        Self { variance: self.variance + sigma * sigma, ..self }
    }

    /// What is read has this variance.
    fn read(self) -> f32 {
        let sigma = f64::from(sigma_of_width(self.width));
        (self.variance + sigma * sigma) as f32
    }
}

impl Warp {
    /// To the pixels of a window, from which no step has been gone yet.
    pub const fn new(wanted: Window, filter: Filter, edge: Edge) -> Self {
        Self { wanted, steps: Vec::new(), reading: Reading::Filtered(filter), edge }
    }

    /// For values that must not be averaged: each place is read as the one pixel that holds it.
    pub const fn of_points(wanted: Window, edge: Edge) -> Self {
        Self { wanted, steps: Vec::new(), reading: Reading::Points, edge }
    }

    /// Where the next step starts from.
    pub fn window(&self) -> Window {
        self.steps.last().map_or(self.wanted, Placed::to)
    }

    /// Goes back by a matrix.
    pub fn carry(&mut self, back: Homography) {
        if let Some(Placed { step: Step::Carried(before), .. }) = self.steps.last_mut() {
            *before = before.then(back);
        } else {
            self.steps.push(Placed { from: self.window(), step: Step::Carried(back) });
        }
    }

    /// Goes back by moves, which must be there for all of [`Self::window`] where anything moves.
    pub fn displace(&mut self, moves: Moves, softness: f32) {
        self.steps.push(Placed { from: self.window(), step: Step::Moved(moves, softness) });
    }

    /// What is read of the signal. `data` is where it exists.
    pub fn reads(&self, data: Window) -> Window {
        let reach = self.reading.filter().reach().max(softness::reach(self.widest())) + 2;
        self.edge.reads_window(self.window().grow(reach, reach), data)
    }

    /// The largest σ that is read anywhere: widths change evenly, so the corners of each step have the widest.
    pub fn widest(&self) -> f32 {
        if self.reading == Reading::Points {
            return 0.0;
        }
        let spread = self.steps.iter().fold(Spread::PIXEL, |spread, placed| match &placed.step {
            Step::Carried(back) => spread.widened(back.widest(placed.from)),
            Step::Moved(moves, softness) => spread.softened(f64::from(softness * moves.longest())),
        });
        spread.read().sqrt()
    }

    /// The pixels of the result. `source` must hold what [`Self::reads`] names.
    pub fn apply<P: Pixel>(
        &self,
        source: &Raster<P>,
        data: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let (filter, edge) = (self.reading.filter(), self.edge);
        match self.steps.as_slice() {
            _ if self.reading == Reading::Points => {}
            [Placed { step: Step::Carried(back), .. }] => {
                return Carried { back: *back, filter, edge }.apply(source, data, self.wanted, cancel);
            }
            [Placed { step: Step::Moved(moves, softness), from }] if moves.window() == *from => {
                return Displacement { softness: *softness, filter, edge }.apply(source, data, moves, cancel);
            }
            _ => {}
        }
        let reads = self.window().grow(1, 1);
        let softness = Softness::new(source, data, edge, reads, self.widest(), cancel)?;
        let sampler = Sampler::new(source, data, edge);
        let reader = softness.reader(sampler);
        let wide = self.wanted.width();
        let begin = || ([0, 1, 2].map(|_| vec![0.0f32; wide]), SoftScratch::default());
        Raster::written_with(self.wanted, cancel, begin, |([x, y, variances], scratch), line, row| {
            for (index, (x, y)) in x.iter_mut().zip(y.iter_mut()).enumerate() {
                *x = (self.wanted.x0 + index as i32) as f32 + 0.5;
                *y = line as f32 + 0.5;
            }
            if softness.is_sharp() {
                self.go_back(x, y);
                let places = |start: usize, to_x: &mut [f32], to_y: &mut [f32]| {
                    to_x.copy_from_slice(&x[start..start + to_x.len()]);
                    to_y.copy_from_slice(&y[start..start + to_y.len()]);
                };
                sampler.read_run(filter, places, row);
            } else {
                self.go_back_softening(x, y, variances);
                for (number, row) in row.chunks_mut(RUN).enumerate() {
                    let run = number * RUN..number * RUN + row.len();
                    let places = [&x[run.clone()], &y[run.clone()]];
                    reader.read_run(scratch, filter, places, &variances[run], row);
                }
            }
            for (out, x) in row.iter_mut().zip(x) {
                if x.is_nan() {
                    *out = P::default();
                }
            }
        })
    }

    /// What [`Self::apply`] made of a premultiplied picture, with its coverage within that of the pixels each was read
    /// from, or between none and the whole: what a filter that rings took beyond is taken back, colour with it.
    pub fn covered(
        &self,
        mut made: Picture,
        source: &Picture,
        data: Window,
        cancel: &Cancel,
    ) -> Result<Picture, Cancelled> {
        let filter = self.reading.filter();
        if !filter.rings() {
            return Ok(made);
        }
        let sampler = Sampler::new(source, data, self.edge);
        let left = made.window().x0;
        made.fill_rows(cancel, |line, row| {
            for (pixel, column) in row.iter_mut().zip(left..) {
                if !is_coverage(pixel[3]) {
                    let (mut x, mut y) = ([column as f32 + 0.5], [line as f32 + 0.5]);
                    self.go_back(&mut x, &mut y);
                    *pixel = covered(*pixel, sampler.coverage(filter, x[0], y[0]));
                }
            }
        })?;
        Ok(made)
    }

    /// Carries places back through every step. One behind the eye becomes no number.
    fn go_back(&self, x: &mut [f32], y: &mut [f32]) {
        for placed in &self.steps {
            match &placed.step {
                Step::Carried(back) => {
                    for (x, y) in x.iter_mut().zip(y.iter_mut()) {
                        [*x, *y] = carried(*back, *x, *y);
                    }
                }
                Step::Moved(moves, _) => {
                    let sampler = moved_sampler(moves.map());
                    for (x, y) in x.iter_mut().zip(y.iter_mut()) {
                        let [right, down] = sampler.at(Filter::Linear, *x, *y);
                        (*x, *y) = (*x - right, *y - down);
                    }
                }
            }
        }
    }

    /// As [`Self::go_back`], with the variance of what is read of each place.
    fn go_back_softening(&self, x: &mut [f32], y: &mut [f32], variances: &mut [f32]) {
        for ((x, y), variance) in x.iter_mut().zip(y.iter_mut()).zip(variances) {
            let mut spread = Spread::PIXEL;
            for placed in &self.steps {
                match &placed.step {
                    Step::Carried(back) => {
                        spread = spread.widened(back.width_at([f64::from(*x), f64::from(*y)]));
                        [*x, *y] = carried(*back, *x, *y);
                    }
                    Step::Moved(moves, softness) => {
                        let [right, down] = moved_sampler(moves.map()).at(Filter::Linear, *x, *y);
                        spread = spread.softened(f64::from(softness * right.hypot(down)));
                        (*x, *y) = (*x - right, *y - down);
                    }
                }
            }
            *variance = spread.read();
        }
    }
}

fn moved_sampler(map: &Map) -> Sampler<'_, [f32; 2]> {
    Sampler::new(map, map.window(), Edge::Clear)
}

fn carried(back: Homography, x: f32, y: f32) -> [f32; 2] {
    back.at([f64::from(x), f64::from(y)]).map_or([f32::NAN; 2], |place| place.map(|along| along as f32))
}
