//! A picture between two, along their motion.
//!
//! - Shape: two rasters, what moves each to the other, and the share of the way from the first to the second.
//! - Units: moves in pixels.
//! - A place is looked for in both: where what is there comes by on its way. What is found in one only, as it comes into sight or
//!   is covered, is taken from that one; where both have something else there, what is seen in both counts.
//! - Edges: rasters and moves go on as at their border.
//! - The problem and its measure: Baker, Scharstein, Lewis, Roth, Black and Szeliski, "A Database and Evaluation Methodology for
//!   Optical Flow", 2011.

use super::agree::sureness;
use crate::buffer::raster::Pixel;
use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Map, Raster, Window};

/// How often a place is looked for again from where the last look led.
const LOOKS: usize = 4;
/// A look that leads so many pixels beside a place has found it, and one beyond the other has not.
const FOUND: f32 = 0.5;
const LOST: f32 = 1.5;
/// What is found but not seen in the other picture counts so little.
const UNSURE: f32 = 0.02;

/// Two pictures' motion to each other.
#[derive(Clone, Copy)]
pub struct Motion<'a> {
    /// From the first to the second.
    pub forth: &'a Map,
    /// From the second to the first.
    pub back: &'a Map,
}

/// Where a row of pixels between two pictures is read in one of them, and how much it counts.
#[derive(Default)]
struct Read {
    x: Vec<f32>,
    y: Vec<f32>,
    weights: Vec<f32>,
}

impl Motion<'_> {
    /// The picture a share of the way from `first` to `second`, over a window.
    pub fn midway<P: Pixel>(
        self,
        [first, second]: [&Raster<P>; 2],
        share: f32,
        filter: Filter,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let samplers = [first, second].map(|one| Sampler::new(one, one.window(), Edge::Hold));
        let begin =
            || (Scratch::default(), [Read::default(), Read::default()], vec![P::default(); window.width()]);
        Raster::written_with(window, cancel, begin, |(scratch, reads, other), y, row: &mut [P]| {
            self.look(reads, share, window, y);
            let [near, far] = &*reads;
            for (read, sampler, out) in [(near, samplers[0], &mut *row), (far, samplers[1], &mut other[..])] {
                let places = |start: usize, x: &mut [f32], y: &mut [f32]| {
                    x.copy_from_slice(&read.x[start..start + x.len()]);
                    y.copy_from_slice(&read.y[start..start + y.len()]);
                };
                sampler.read_run_with(scratch, filter, places, out);
            }
            for (at, (out, other)) in row.iter_mut().zip(&*other).enumerate() {
                let [own, others] = [near.weights[at], far.weights[at]];
                *out = out.mix(*other, others / (own + others));
            }
        })
    }

    /// Of each pixel the value that counts more, as it is: for what must not be averaged.
    pub fn nearest<P: Pixel>(
        self,
        [first, second]: [&Raster<P>; 2],
        share: f32,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let samplers = [first, second].map(|one| Sampler::new(one, one.window(), Edge::Hold));
        let begin = || [Read::default(), Read::default()];
        Raster::written_with(window, cancel, begin, |reads, y, row: &mut [P]| {
            self.look(reads, share, window, y);
            for (at, out) in row.iter_mut().enumerate() {
                let chosen = usize::from(reads[1].weights[at] > reads[0].weights[at]);
                let read = &reads[chosen];
                *out = samplers[chosen].at(Filter::Nearest, read.x[at], read.y[at]);
            }
        })
    }

    /// Looks for a row of places in both pictures.
    fn look(self, reads: &mut [Read; 2], share: f32, window: Window, y: i32) {
        let sides = [(self.forth, self.back, share), (self.back, self.forth, 1.0 - share)];
        for (read, (own, other, gone)) in reads.iter_mut().zip(sides) {
            let width = window.width();
            read.x.resize(width, 0.0);
            read.y.resize(width, 0.0);
            read.weights.resize(width, 0.0);
            for at in 0..width {
                let place = [window.x0 as f32 + at as f32 + 0.5, y as f32 + 0.5];
                let (found, weight) = look(own, other, gone, place);
                [read.x[at], read.y[at]] = found;
                // The nearer a picture is in time, the more it counts.
                read.weights[at] = weight * (1.0 - gone);
            }
        }
        let [first, second] = reads;
        for (own, others) in first.weights.iter_mut().zip(&mut second.weights) {
            if *own + *others <= f32::MIN_POSITIVE {
                // Found in neither: each is read where the last look led.
                (*own, *others) = (1.0 - share, share);
            }
        }
    }
}

/// Where what comes by a place after a share of its way begins, and how much it counts.
fn look(own: &Map, other: &Map, gone: f32, place: [f32; 2]) -> ([f32; 2], f32) {
    let mut at = place;
    let mut beside = f32::MAX;
    for _ in 0..LOOKS {
        let way = linear(own, at);
        let ahead = [place[0] - gone * way[0], place[1] - gone * way[1]];
        beside = (ahead[0] - at[0]).hypot(ahead[1] - at[1]);
        at = ahead;
    }
    let found = 1.0 - ((beside - FOUND) / (LOST - FOUND)).clamp(0.0, 1.0);
    let way = linear(own, at);
    let end = [at[0] + way[0], at[1] + way[1]];
    let Window { x0, y0, x1, y1 } = own.window();
    let inside = |at: f32, from: i32, to: i32| at >= from as f32 && at <= to as f32;
    let seen = inside(end[0], x0, x1) && inside(end[1], y0, y1);
    let sure = if seen { sureness(way, linear(other, end)) } else { 0.0 };
    (at, found * (UNSURE + sure))
}

/// The move at a place; beyond the border that of the border.
fn linear(map: &Map, [x, y]: [f32; 2]) -> [f32; 2] {
    let window = map.window();
    let within = |at: f32, from: i32, to: i32| (at - from as f32 - 0.5).clamp(0.0, (to - from - 1) as f32);
    let (x, y) = (within(x, window.x0, window.x1), within(y, window.y0, window.y1));
    let (column, row) = (x as usize, y as usize);
    let (right, down) = (x - column as f32, y - row as f32);
    let next = (column + 1).min(window.width() - 1);
    let rows = [row, (row + 1).min(window.height() - 1)].map(|row| map.row(window.y0 + row as i32));
    [0, 1].map(|axis| {
        let [above, below] =
            rows.map(|row| row[column][axis] + (row[next][axis] - row[column][axis]) * right);
        above + (below - above) * down
    })
}
