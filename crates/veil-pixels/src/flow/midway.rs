//! A picture between two, along their motion.
//!
//! - Shape: two rasters, what moves each to the other, and the share of the way from the first to the second.
//! - Units: moves in pixels.
//! - A place is looked for in both: where what is there comes by on its way. What is found in one only, as it comes into sight or
//!   is covered, is taken from that one; where both have something else there, what is seen in both counts.
//! - Edges: rasters and moves go on as at their border.
//! - The problem and its measure: Baker, Scharstein, Lewis, Roth, Black and Szeliski, "A Database and Evaluation Methodology for
//!   Optical Flow", 2011.

use multiversion::multiversion;

use super::agree::sureness;
use crate::buffer::raster::Pixel;
use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Map, Move, Raster, Window};

/// How often a place is looked for again from where the last look led.
const LOOKS: usize = 4;
/// A look that leads so many pixels beside a place has found it, and one beyond the other has not.
const FOUND: f32 = 0.5;
const LOST: f32 = 1.5;
/// What is found but not seen in the other picture counts so little.
const UNSURE: f32 = 0.02;
/// Pixels from one place that is looked for to the next, where those about agree; counted from the origin.
const STEP: i32 = 8;
/// How much places that agree differ at most: in pixels, and in how much the second picture counts.
const AGREES: [f32; 2] = [1.2, 0.1];

/// Two pictures' motion to each other.
#[derive(Clone, Copy)]
pub struct Motion<'a> {
    /// From the first to the second.
    pub forth: &'a Map,
    /// From the second to the first.
    pub back: &'a Map,
}

/// What is found of some pixels, number by number: how far off each is read in the first picture, by x and y, and in the second,
/// and how much that counts.
type Seen = [Vec<f32>; 5];

/// What is found of a row of pixels.
#[derive(Default)]
struct Row {
    /// Of the places in two rows about it.
    about: Option<About>,
    /// Of its pixels, and how many of them lie before the window.
    pixels: Seen,
    before: usize,
}

/// Places that were looked for above and below some rows of pixels.
struct About {
    /// The number of the upper row of places.
    upper: i32,
    seen: [Seen; 2],
    /// Whether the four about each cell agree.
    agree: Vec<bool>,
}

impl Row {
    /// One of the numbers of every pixel in the window.
    fn numbers(&self, which: usize) -> &[f32] {
        &self.pixels[which][self.before..]
    }
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
        let begin = || (Scratch::default(), Row::default());
        Raster::written_with(window, cancel, begin, |(scratch, seen), y, row: &mut [P]| {
            self.look(seen, scratch, share, window, y);
            let mut room = [P::default(); RUN];
            for (number, out) in row.chunks_mut(RUN).enumerate() {
                let run = number * RUN..number * RUN + out.len();
                let other = &mut room[..out.len()];
                let [right, down, other_right, other_down, counts] =
                    std::array::from_fn(|which| &seen.numbers(which)[run.clone()]);
                let x0 = window.x0 + run.start as i32;
                let mut read = |sampler: Sampler<'_, P>, off: [&[f32]; 2], out: &mut [P]| {
                    sampler.read_run_with(
                        scratch,
                        filter,
                        |from, x, y_of| places([x0, y], off, from, x, y_of),
                        out,
                    );
                };
                read(samplers[0], [right, down], out);
                read(samplers[1], [other_right, other_down], other);
                mixed(out, other, counts);
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
        let begin = || (Scratch::default(), Row::default());
        Raster::written_with(window, cancel, begin, |(scratch, seen), y, row: &mut [P]| {
            self.look(seen, scratch, share, window, y);
            for (number, (x, out)) in (window.x0..).zip(row).enumerate() {
                let side = usize::from(seen.numbers(4)[number] > 0.5);
                let [right, down] = [0, 1].map(|axis| seen.numbers(2 * side + axis)[number]);
                *out = samplers[side].at(Filter::Nearest, x as f32 + 0.5 + right, y as f32 + 0.5 + down);
            }
        })
    }

    /// Looks for a row of pixels in both pictures: for each by itself where those about do not agree.
    fn look(self, row: &mut Row, scratch: &mut Scratch, share: f32, window: Window, y: i32) {
        let ways = [self.forth, self.back].map(Ways::of);
        let (above, first, last) =
            (y.div_euclid(STEP), window.x0.div_euclid(STEP), window.x1.div_euclid(STEP) + 1);
        if row.about.as_ref().is_none_or(|about| about.upper != above) {
            let mut along = |row: i32| {
                let places: Vec<[i32; 2]> =
                    (first..=last).map(|column| [column * STEP, row * STEP]).collect();
                seen(&ways, share, &places, scratch)
            };
            let upper = match row.about.take() {
                Some(About { upper, seen: [_, lower], .. }) if upper + 1 == above => lower,
                _ => along(above),
            };
            row.about = Some(About::new(above, [upper, along(above + 1)]));
        }
        let Some(about) = &row.about else { return };
        row.before = (window.x0 - first * STEP) as usize;
        about.read(y, &mut row.pixels);
        let alone: Vec<[i32; 2]> = (first..last)
            .zip(&about.agree)
            .filter(|(_, agree)| !**agree)
            .flat_map(|(column, _)| (column * STEP).max(window.x0)..((column + 1) * STEP).min(window.x1))
            .map(|x| [x, y])
            .collect();
        for (numbers, found) in row.pixels.iter_mut().zip(seen(&ways, share, &alone, scratch)) {
            for (number, [x, _]) in found.into_iter().zip(&alone) {
                numbers[(x - first * STEP) as usize] = number;
            }
        }
    }
}

/// Pixels that are read of both pictures before the next ones: they stay in the nearest cache.
const RUN: usize = 256;

#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn mixed<P: Pixel>(out: &mut [P], other: &[P], counts: &[f32]) {
    for ((out, other), counts) in out.iter_mut().zip(other).zip(counts) {
        *out = out.mix(*other, *counts);
    }
}

/// Where pixels from a number on of a run that begins at one are read, which is so far off.
fn places([x0, y]: [i32; 2], [right, down]: [&[f32]; 2], from: usize, x: &mut [f32], to_y: &mut [f32]) {
    for (at, (x, right)) in x.iter_mut().zip(&right[from..]).enumerate() {
        *x = (x0 + (from + at) as i32) as f32 + 0.5 + right;
    }
    for (to_y, down) in to_y.iter_mut().zip(&down[from..]) {
        *to_y = y as f32 + 0.5 + down;
    }
}

impl About {
    fn new(upper: i32, seen: [Seen; 2]) -> Self {
        let cells = seen[0][0].len().saturating_sub(1);
        let mut agree = vec![true; cells];
        for (which, [above, below]) in (0..5).map(|which| (which, seen.each_ref().map(|row| &row[which]))) {
            let most = AGREES[usize::from(which == 4)];
            for ((agree, above), below) in agree.iter_mut().zip(above.windows(2)).zip(below.windows(2)) {
                let of = above.iter().chain(below);
                let (least, largest) =
                    of.fold((f32::MAX, f32::MIN), |(a, b), own| (a.min(*own), b.max(*own)));
                *agree &= largest - least <= most;
            }
        }
        Self { upper, seen, agree }
    }

    /// The numbers of a row of pixels between the places.
    fn read(&self, y: i32, pixels: &mut Seen) {
        let (down, [above, below]) = ((y - self.upper * STEP) as f32 / STEP as f32, &self.seen);
        for ((numbers, above), below) in pixels.iter_mut().zip(above).zip(below) {
            numbers.resize(self.agree.len() * CELL, 0.0);
            between([above, below], down, numbers);
        }
    }
}

/// Pixels of a cell's side.
const CELL: usize = STEP as usize;

/// Numbers of a row of pixels, a share of the way down from places above to those below.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn between([above, below]: [&[f32]; 2], down: f32, numbers: &mut [f32]) {
    let line = |column: usize| above[column] + (below[column] - above[column]) * down;
    let mut left = line(0);
    for (column, cell) in numbers.as_chunks_mut::<CELL>().0.iter_mut().enumerate() {
        let right = line(column + 1);
        let step = (right - left) / STEP as f32;
        *cell = std::array::from_fn(|number| left + step * number as f32);
        left = right;
    }
}

/// What is found of each of some pixels.
fn seen(ways: &[Ways<'_>; 2], share: f32, pixels: &[[i32; 2]], scratch: &mut Scratch) -> Seen {
    let places = [0, 1].map(|axis| pixels.iter().map(|pixel| pixel[axis] as f32 + 0.5).collect());
    let [first, second] = [(0, share), (1, 1.0 - share)]
        .map(|(side, gone)| look([&ways[side], &ways[1 - side]], gone, &places, scratch));
    // The nearer a picture is in time, the more it counts.
    let counts = first.counts.iter().zip(&second.counts).map(|(own, others)| {
        let (own, others) = (own * (1.0 - share), others * share);
        let all = own + others;
        // Found in neither, each is read where the last look led.
        if all > f32::MIN_POSITIVE { others / all } else { share }
    });
    let counts = counts.collect();
    let ([x, y], [other_x, other_y]) = (first.off, second.off);
    [x, y, other_x, other_y, counts]
}

/// Numbers of places, by axis.
type Axes = [Vec<f32>; 2];

/// What is found of some places in one picture.
struct Found {
    /// How far off what comes by each place after a share of its way begins.
    off: Axes,
    /// How much it counts.
    counts: Vec<f32>,
}

/// Looks for places in one picture, all side by side: each look waits for the one before.
fn look([own, other]: [&Ways<'_>; 2], gone: f32, places: &Axes, scratch: &mut Scratch) -> Found {
    let count = places[0].len();
    let mut found = Found { off: [vec![0.0; count], vec![0.0; count]], counts: vec![f32::MAX; count] };
    let (mut ways, mut returns) = (vec![[0.0f32; 2]; count], vec![[0.0f32; 2]; count]);
    let mut at = places.clone();
    for _ in 0..LOOKS {
        own.read(scratch, &at, &mut ways);
        led(&ways, gone, &mut found);
        moved(places, &found.off, &mut at);
    }
    let ends = ended(&at, &ways);
    other.read(scratch, &ends, &mut returns);
    counted(own.window, &ends, [&ways, &returns], &mut found.counts);
    found
}

/// Where the ways of places lead back to, and how far, squared, that is beside where they were looked for.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn led(ways: &[Move], gone: f32, Found { off: [off_x, off_y], counts: beside }: &mut Found) {
    for (((way, x), y), beside) in ways.iter().zip(off_x).zip(off_y).zip(beside) {
        let [right, down] = [-gone * way[0], -gone * way[1]];
        *beside = (right - *x) * (right - *x) + (down - *y) * (down - *y);
        (*x, *y) = (right, down);
    }
}

#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn moved(places: &Axes, off: &Axes, at: &mut Axes) {
    for ((at, place), off) in at.iter_mut().zip(places).zip(off) {
        for ((at, place), off) in at.iter_mut().zip(place).zip(off) {
            *at = place + off;
        }
    }
}

/// Where ways from places end.
fn ended([x, y]: &Axes, ways: &[Move]) -> Axes {
    let along =
        |from: &[f32], axis: usize| from.iter().zip(ways).map(|(from, way)| from + way[axis]).collect();
    [along(x, 0), along(y, 1)]
}

/// What of places was found, and is seen where its way ends, counts; how far beside it was found becomes how much it does.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn counted(window: Window, [x, y]: &Axes, [ways, returns]: [&[Move]; 2], counts: &mut [f32]) {
    let [x0, y0, x1, y1] = [window.x0, window.y0, window.x1, window.y1].map(|border| border as f32);
    for ((((counts, way), back), x), y) in counts.iter_mut().zip(ways).zip(returns).zip(x).zip(y) {
        let is_found = 1.0 - ((counts.sqrt() - FOUND) / (LOST - FOUND)).clamp(0.0, 1.0);
        let holds = (*x >= x0) & (*x <= x1) & (*y >= y0) & (*y <= y1);
        let sure = if holds { sureness(*way, *back) } else { 0.0 };
        *counts = is_found * (UNSURE + sure);
    }
}

/// Moves, to be asked between their pixels; beyond the border those of the border.
struct Ways<'a> {
    sampler: Sampler<'a, Move>,
    window: Window,
}

impl<'a> Ways<'a> {
    fn of(map: &'a Map) -> Self {
        Self { sampler: Sampler::new(map, map.window(), Edge::Hold), window: map.window() }
    }

    /// The moves at places.
    fn read(&self, scratch: &mut Scratch, [from_x, from_y]: &Axes, out: &mut [Move]) {
        let Window { x0, y0, x1, y1 } = self.window;
        // What goes on as the border is, is read there, where it takes no longer than elsewhere.
        let within = |places: &[f32], first: i32, end: i32, to: &mut [f32]| {
            let (first, end) = (first as f32 + 0.5, (end as f32 - 0.5).next_down());
            for (to, place) in to.iter_mut().zip(places) {
                *to = place.min(end).max(first);
            }
        };
        let places = |start: usize, xs: &mut [f32], ys: &mut [f32]| {
            within(&from_x[start..], x0, x1, xs);
            within(&from_y[start..], y0, y1, ys);
        };
        self.sampler.read_run_with(scratch, Filter::Linear, places, out);
    }
}
