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

/// How often a place is looked for again from where the last look led; and how often besides where that was not near enough,
/// in pixels.
const LOOKS: usize = 3;
const MORE_LOOKS: usize = 3;
const NEAR: f32 = 0.02;
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

/// What is found of a row of pixels, cell by cell of `CELL` pixels from the left border of the places' first on.
#[derive(Default)]
struct Row {
    /// Of the places in two rows about it.
    about: Option<About>,
    /// At the cells' borders in this row.
    lines: Seen,
    /// Of the pixels of cells that were looked for each by itself, and at which number of these such a cell begins.
    alone: Seen,
    begins: Vec<Option<usize>>,
    /// How many pixels lie before the window.
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
    /// One of the numbers of pixels from a number on, counted from the window's border, as they are.
    fn numbers(&self, which: usize, from: usize, out: &mut [f32]) {
        self.numbers_onto(which, from, Onto { first: 0.0, step: 0.0, within: [f32::MIN, f32::MAX] }, out);
    }

    /// The same, added to others.
    fn numbers_onto(&self, which: usize, from: usize, onto: Onto, out: &mut [f32]) {
        let cells = Cells { lines: &self.lines[which], alone: &self.alone[which], begins: &self.begins };
        filled(cells, self.before + from, onto, out);
    }
}

/// What numbers are added to: it begins at `first` and grows by `step`; a sum beyond these bounds is at them.
#[derive(Clone, Copy)]
struct Onto {
    first: f32,
    step: f32,
    within: [f32; 2],
}

/// One of the numbers of a row's cells.
#[derive(Clone, Copy)]
struct Cells<'a> {
    lines: &'a [f32],
    alone: &'a [f32],
    begins: &'a [Option<usize>],
}

impl Cells<'_> {
    /// The numbers of a cell, each added to one, within bounds.
    #[inline(always)]
    fn onto(self, cell: usize, ones: &[f32; CELL], [least, most]: [f32; 2]) -> [f32; CELL] {
        let mut all = *ones;
        if let Some(begin) = self.begins[cell] {
            for (all, own) in all.iter_mut().zip(&self.alone[begin..begin + CELL]) {
                *all += own;
            }
        } else {
            let (left, right) = (self.lines[cell], self.lines[cell + 1]);
            for (all, share) in all.iter_mut().zip(SHARES) {
                *all += left + (right - left) * share;
            }
        }
        for one in &mut all {
            // Not `min` and `max`, which look for what is no number as well.
            let under = if *one > most { most } else { *one };
            *one = if under < least { least } else { under };
        }
        all
    }
}

/// Numbers of cells from a pixel on, each added to what it comes onto.
#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn filled(cells: Cells<'_>, from: usize, Onto { first, step, within: bounds }: Onto, out: &mut [f32]) {
    let (mut cell, within) = (from / CELL, from % CELL);
    let mut ones: [f32; CELL] = std::array::from_fn(|number| first + (number as f32 - within as f32) * step);
    let (head, rest) = out.split_at_mut(((CELL - within) % CELL).min(out.len()));
    if !head.is_empty() {
        head.copy_from_slice(&cells.onto(cell, &ones, bounds)[within..within + head.len()]);
        (cell, ones) = (cell + 1, ones.map(|one| one + STEP as f32 * step));
    }
    let (whole, tail) = rest.as_chunks_mut::<CELL>();
    for out in whole {
        *out = cells.onto(cell, &ones, bounds);
        (cell, ones) = (cell + 1, ones.map(|one| one + STEP as f32 * step));
    }
    if !tail.is_empty() {
        tail.copy_from_slice(&cells.onto(cell, &ones, bounds)[..tail.len()]);
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
        // Of four pixels none is beyond the border where the place is not.
        let bounds = [first, second].map(|one| match filter {
            Filter::Linear => borders(one.window()),
            _ => [[f32::MIN, f32::MAX]; 2],
        });
        let begin = || (Scratch::default(), Row::default());
        Raster::written_with(window, cancel, begin, |(scratch, seen), y, row: &mut [P]| {
            self.look(seen, scratch, share, window, y);
            let (mut room, mut counts) = ([P::default(); RUN], [0.0; RUN]);
            for (number, out) in row.chunks_mut(RUN).enumerate() {
                let (begin, other) = (number * RUN, &mut room[..out.len()]);
                let mut read = |side: usize, out: &mut [P]| {
                    let places = |from: usize, xs: &mut [f32], ys: &mut [f32]| {
                        let from = begin + from;
                        let [along, down] = bounds[side];
                        let x =
                            Onto { first: (window.x0 + from as i32) as f32 + 0.5, step: 1.0, within: along };
                        let y = Onto { first: y as f32 + 0.5, step: 0.0, within: down };
                        seen.numbers_onto(2 * side, from, x, xs);
                        seen.numbers_onto(2 * side + 1, from, y, ys);
                    };
                    samplers[side].read_run_with(scratch, filter, places, out);
                };
                read(0, out);
                read(1, other);
                let counts = &mut counts[..out.len()];
                seen.numbers(4, begin, counts);
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
            let mut numbers = [const { Vec::new() }; 5];
            for (which, numbers) in numbers.iter_mut().enumerate() {
                numbers.resize(row.len(), 0.0);
                seen.numbers(which, 0, numbers);
            }
            for (number, (x, out)) in (window.x0..).zip(row).enumerate() {
                let side = usize::from(numbers[4][number] > 0.5);
                let [right, down] = [0, 1].map(|axis| numbers[2 * side + axis][number]);
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
        about.read(y, &mut row.lines);
        row.begins.clear();
        let mut alone = Vec::new();
        for (column, agree) in (first..last).zip(&about.agree) {
            row.begins.push((!agree).then_some(alone.len()));
            if !agree {
                alone.extend((column * STEP..(column + 1) * STEP).map(|x| [x, y]));
            }
        }
        row.alone = seen(&ways, share, &alone, scratch);
    }
}

/// Pixels that are read of both pictures before the next ones: they stay in the nearest cache.
const RUN: usize = 512;

#[multiversion(targets("x86_64+avx512f+avx512dq+avx512vl", "x86_64+avx2", "aarch64+neon"))]
fn mixed<P: Pixel>(out: &mut [P], other: &[P], counts: &[f32]) {
    for ((out, other), counts) in out.iter_mut().zip(other).zip(counts) {
        *out = out.mix(*other, *counts);
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

    /// The numbers at the cells' borders in a row of pixels.
    fn read(&self, y: i32, lines: &mut Seen) {
        let (down, [above, below]) = ((y - self.upper * STEP) as f32 / STEP as f32, &self.seen);
        for ((lines, above), below) in lines.iter_mut().zip(above).zip(below) {
            lines.clear();
            lines.extend(above.iter().zip(below).map(|(above, below)| above + (below - above) * down));
        }
    }
}

/// Pixels of a cell's side.
const CELL: usize = STEP as usize;
/// How far along a cell its pixels lie.
const SHARES: [f32; CELL] = [0.0, 0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875];

/// What is found of each of some pixels.
fn seen(ways: &[Ways<'_>; 2], share: f32, pixels: &[[i32; 2]], scratch: &mut Scratch) -> Seen {
    let [first, second] = [(0, share), (1, 1.0 - share)]
        .map(|(side, gone)| look([&ways[side], &ways[1 - side]], gone, pixels, scratch));
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

/// Looks for pixels in one picture, all side by side: each look waits for the one before.
fn look([own, other]: [&Ways<'_>; 2], gone: f32, pixels: &[[i32; 2]], scratch: &mut Scratch) -> Found {
    let mut sought = Sought::new(pixels);
    // The first look is at the pixels themselves.
    own.of_pixels(pixels, &mut sought.ways);
    sought.goes_on(gone);
    for _ in 1..LOOKS {
        sought.look(own, gone, scratch);
    }
    let beside = sought.found.counts.iter().enumerate();
    let rest: Vec<usize> =
        beside.filter(|(_, beside)| **beside > NEAR * NEAR).map(|(number, _)| number).collect();
    if !rest.is_empty() {
        let mut some = sought.some(&rest);
        for _ in 0..MORE_LOOKS {
            some.look(own, gone, scratch);
        }
        sought.put_back(&rest, &some);
    }
    let Sought { at, ways, mut found, .. } = sought;
    let ends = ended(&at, &ways);
    let mut returns = vec![[0.0; 2]; ways.len()];
    other.read(scratch, &ends, &mut returns);
    counted(own.window, &ends, [&ways, &returns], &mut found.counts);
    found
}

/// Places that are looked for in one picture.
struct Sought {
    places: Axes,
    /// Where each is looked for next.
    at: Axes,
    /// Where what was there at the last look goes.
    ways: Vec<Move>,
    /// How much each counts is, until all looks are done, how far beside where it was looked for it was found, squared.
    found: Found,
}

impl Sought {
    fn new(pixels: &[[i32; 2]]) -> Self {
        let count = pixels.len();
        let places = [0, 1].map(|axis| pixels.iter().map(|pixel| pixel[axis] as f32 + 0.5).collect());
        let found = Found { off: [vec![0.0; count], vec![0.0; count]], counts: vec![f32::MAX; count] };
        Self { at: [vec![0.0; count], vec![0.0; count]], ways: vec![[0.0; 2]; count], found, places }
    }

    fn look(&mut self, own: &Ways<'_>, gone: f32, scratch: &mut Scratch) {
        own.read(scratch, &self.at, &mut self.ways);
        self.goes_on(gone);
    }

    /// Takes what the last look found.
    fn goes_on(&mut self, gone: f32) {
        led(&self.ways, gone, &mut self.found);
        moved(&self.places, &self.found.off, &mut self.at);
    }

    /// Some of them, by their numbers.
    fn some(&self, numbers: &[usize]) -> Self {
        let of = |all: &[f32]| numbers.iter().map(|number| all[*number]).collect::<Vec<f32>>();
        let each = |axes: &Axes| axes.each_ref().map(|axis| of(axis));
        Self {
            places: each(&self.places),
            at: each(&self.at),
            ways: vec![[0.0; 2]; numbers.len()],
            found: Found { off: each(&self.found.off), counts: of(&self.found.counts) },
        }
    }

    /// What was found of some of them.
    fn put_back(&mut self, numbers: &[usize], some: &Self) {
        for (from, to) in numbers.iter().enumerate() {
            self.ways[*to] = some.ways[from];
            self.found.counts[*to] = some.found.counts[from];
            for axis in 0..2 {
                self.at[axis][*to] = some.at[axis][from];
                self.found.off[axis][*to] = some.found.off[axis][from];
            }
        }
    }
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

/// Within what places are read that lie beyond a border, by axis: what goes on as the border is, is read there, where it takes no
/// longer than elsewhere.
fn borders(window: Window) -> [[f32; 2]; 2] {
    [[window.x0, window.x1], [window.y0, window.y1]]
        .map(|[first, end]| [first as f32 + 0.5, (end as f32 - 0.5).next_down()])
}

/// Moves, to be asked between their pixels; beyond the border those of the border.
struct Ways<'a> {
    map: &'a Map,
    sampler: Sampler<'a, Move>,
    window: Window,
}

impl<'a> Ways<'a> {
    fn of(map: &'a Map) -> Self {
        let sampler = Sampler::new(map, map.window(), Edge::Hold).going([0, STEP as isize]);
        Self { map, sampler, window: map.window() }
    }

    /// The moves of pixels.
    fn of_pixels(&self, pixels: &[[i32; 2]], out: &mut [Move]) {
        let Window { x0, y0, x1, y1 } = self.window;
        for ([x, y], out) in pixels.iter().zip(out) {
            let (x, y) = ((*x).min(x1 - 1).max(x0), (*y).min(y1 - 1).max(y0));
            *out = self.map.get(x, y).unwrap_or_default();
        }
    }

    /// The moves at places.
    fn read(&self, scratch: &mut Scratch, [from_x, from_y]: &Axes, out: &mut [Move]) {
        let [along, down] = borders(self.window);
        let within = |places: &[f32], [first, end]: [f32; 2], to: &mut [f32]| {
            for (to, place) in to.iter_mut().zip(places) {
                *to = place.min(end).max(first);
            }
        };
        let places = |start: usize, xs: &mut [f32], ys: &mut [f32]| {
            within(&from_x[start..], along, xs);
            within(&from_y[start..], down, ys);
        };
        self.sampler.read_run_with(scratch, Filter::Linear, places, out);
    }
}
