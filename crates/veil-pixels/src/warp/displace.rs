//! A signal moved by a map, and softened by how far it went.
//!
//! - Shape: the result covers the window of `moves`.
//! - Units: `moves` in pixels of the raster, x right and y down; output `p` reads `p − moves(p)`.
//! - Softness: a pixel that moved by `d` pixels is read from the signal blurred by σ = `softness · d`.
//! - Where the move is zero the pixel is the input bit for bit.
//! - Edges: as the [`Edge`] says, outside the data window.

use std::ops::Range;
use std::sync::OnceLock;

use multiversion::multiversion;

use crate::buffer::prefetch::ask_all;
use crate::buffer::raster::Pixel;
use crate::sample::resample::{Filter, Sampler};
use crate::sample::softness::{self, RUN, Reader, SoftScratch, Softness};
use crate::warp::bent::{self, Inverse};
use crate::{Cancel, Cancelled, Edge, Field, Map, Raster, Window};

/// How a signal is moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Displacement {
    /// Standard deviation of the blur for each pixel of move; 0 keeps the picture sharp.
    pub softness: f32,
    /// How the picture is read between pixels, where it is sharp.
    pub filter: Filter,
    /// What lies outside the data window.
    pub edge: Edge,
}

impl Displacement {
    /// How far beyond a pixel the result reads when the longest move is `longest` pixels.
    pub fn reach(self, longest: f32) -> i32 {
        longest.ceil() as i32 + self.filter.reach().max(softness::reach(self.softness * longest)) + 3
    }

    /// Moves `source` by `moves`.
    ///
    /// `data` is where the signal exists; `source` must hold what [`Edge::reads_window`] of the
    /// window of `moves`, grown by [`Self::reach`], names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        moves: &Moves,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let about = moves.longest.ceil() as i32 + 2;
        let (reads, widest) = (moves.moved.grow(about, about), self.softness * moves.longest);
        let softness = Softness::new(source, data, self.edge, reads, widest, cancel)?;
        let reader = softness.reader(Sampler::new(source, data, self.edge));
        if softness.is_sharp() {
            return self.apply_sharp(source, data, moves, cancel);
        }
        let window = moves.window();
        let begin = || (SoftScratch::default(), MovedRun::default(), Room::default());
        Raster::written_with(window, cancel, begin, |(scratch, run, room), y, row| {
            let moves = moves.row(y, room);
            for (start, out) in (window.x0..).step_by(RUN).zip(row.chunks_mut(RUN)) {
                let moves = &moves[(start - window.x0) as usize..][..out.len()];
                run.take(moves, [start, y], self.softness, source, out);
                run.read(&reader, scratch, self.filter, out);
            }
        })
    }

    /// As [`Self::apply`], where nothing is softened.
    fn apply_sharp<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        moves: &Moves,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let sampler = Sampler::new(source, data, self.edge);
        let window = moves.window();
        Raster::written_with(window, cancel, Room::default, |room, y, row| {
            let mut all_move = true;
            match &moves.rows {
                Rows::Kept(map) => {
                    let (moves, next) = (map.row(y), map.row(y + 1));
                    let from = |start: usize, from_x: &mut [f32], from_y: &mut [f32]| {
                        let ahead = start + from_x.len();
                        let coming = moves.get(ahead..).filter(|rest| !rest.is_empty()).unwrap_or(next);
                        ask_all(&coming[..from_x.len().min(coming.len())]);
                        let moves = &moves[start..ahead];
                        all_move &= places(moves, [window.x0 + start as i32, y], from_x, from_y);
                    };
                    sampler.read_run(self.filter, from, row);
                    if !all_move {
                        keep_still(source, moves.iter().copied(), [window.x0, y], row);
                    }
                }
                Rows::Bent(bending) => {
                    let [x, down] = room.row(bending, y);
                    let from = |start: usize, from_x: &mut [f32], from_y: &mut [f32]| {
                        let own = start..start + from_x.len();
                        let moves = [&x[own.clone()], &down[own]];
                        all_move &= places_apart(moves, [window.x0 + start as i32, y], from_x, from_y);
                    };
                    sampler.read_run(self.filter, from, row);
                    if !all_move {
                        let moves = x.iter().zip(down).map(|(x, y)| [*x, *y]);
                        keep_still(source, moves, [window.x0, y], row);
                    }
                }
            }
        })
    }
}

/// How far each pixel of a window moves, with what is known of all of it.
pub struct Moves {
    rows: Rows,
    /// No move is longer.
    longest: f32,
    /// No pixel beyond it moves.
    moved: Window,
    /// The moves as a map, where they are asked for as one and are none.
    made: OnceLock<Map>,
}

enum Rows {
    Kept(Map),
    /// Made a row at a time, so that they need not go through memory.
    Bent(Bending),
}

/// The inverse of what is bent, scaled.
struct Bending {
    inverse: Inverse,
    by: f32,
    matte: Option<Field>,
}

impl Bending {
    /// The moves of rows from one on, as many as there is room for, by x and by y.
    fn write(&self, y: i32, mut moves: [&mut [f32]; 2]) {
        let wide = self.inverse.window().width();
        self.inverse.write(y, &mut bent::Rows { wide, moves: moves.each_mut().map(|moves| &mut **moves) });
        match &self.matte {
            Some(matte) => {
                for moves in moves {
                    for (y, row) in (y..).zip(moves.chunks_mut(wide)) {
                        row.iter_mut().zip(matte.row(y)).for_each(|(along, share)| *along *= self.by * share);
                    }
                }
            }
            None if self.by != 1.0 => {
                moves.into_iter().flatten().for_each(|along| *along *= self.by);
            }
            None => {}
        }
    }

    /// The moves of rows from one on, as many as there is room for.
    fn write_pairs(&self, y: i32, rows: &mut [[f32; 2]]) {
        let [mut x, mut down] = [vec![0.0; rows.len()], vec![0.0; rows.len()]];
        self.write(y, [&mut x, &mut down]);
        for ((out, x), y) in rows.iter_mut().zip(x).zip(down) {
            *out = [x, y];
        }
    }
}

/// So many rows of what is bent are made together: all that is known of a block is at hand, then.
const ROWS_AT_ONCE: usize = 4;

/// Rows of moves that were made together.
#[derive(Default)]
struct Room {
    rows: Range<i32>,
    moves: [Vec<f32>; 2],
    /// One row of them, in pairs.
    pairs: Vec<[f32; 2]>,
}

impl Room {
    /// The moves of a row, by x and by y.
    fn row(&mut self, bending: &Bending, y: i32) -> [&[f32]; 2] {
        let window = bending.inverse.window();
        let wide = window.width();
        if !self.rows.contains(&y) {
            self.rows = y..(y + ROWS_AT_ONCE as i32).min(window.y1);
            self.moves.iter_mut().for_each(|moves| moves.resize(self.rows.len() * wide, 0.0));
            bending.write(y, self.moves.each_mut().map(Vec::as_mut_slice));
        }
        let start = (y - self.rows.start) as usize * wide;
        self.moves.each_ref().map(|moves| &moves[start..start + wide])
    }

    /// The same in pairs.
    fn pairs(&mut self, bending: &Bending, y: i32) -> &[[f32; 2]] {
        let mut pairs = std::mem::take(&mut self.pairs);
        let [x, down] = self.row(bending, y);
        pairs.clear();
        pairs.extend(x.iter().zip(down).map(|(x, y)| [*x, *y]));
        self.pairs = pairs;
        &self.pairs
    }
}

impl Moves {
    /// Of a map in pixels of the raster. A move that is not a number counts as none.
    pub fn new(map: Map) -> Self {
        use rayon::prelude::*;
        let window = map.window();
        let of_row = |y: i32| {
            let row = map.row(y);
            let most_sq = row.iter().fold(0.0f32, |most, m| most.max(length_sq(*m)));
            let ends = (row.iter().position(moves), row.iter().rposition(moves));
            let moved = match ends {
                (Some(first), Some(last)) => {
                    Window::new(window.x0 + first as i32, y, window.x0 + last as i32 + 1, y + 1)
                }
                _ => Window::EMPTY,
            };
            (most_sq, moved)
        };
        let (longest_sq, moved) = (window.y0..window.y1)
            .into_par_iter()
            .with_min_len(16)
            .map(of_row)
            .reduce(|| (0.0, Window::EMPTY), |a, b| (a.0.max(b.0), a.1.union(b.1)));
        Self { longest: longest_sq.sqrt(), moved, rows: Rows::Kept(map), made: OnceLock::new() }
    }

    /// Of what is bent, times a number and, where there is one, a matte of its window.
    pub fn bent(inverse: Inverse, by: f32, matte: Option<Field>) -> Self {
        let longest = inverse.longest() * by.abs();
        let moved = if longest > 0.0 { inverse.window() } else { Window::EMPTY };
        Self { rows: Rows::Bent(Bending { inverse, by, matte }), longest, moved, made: OnceLock::new() }
    }

    /// No move is longer, in pixels of the raster.
    pub const fn longest(&self) -> f32 {
        self.longest
    }

    /// The moves themselves.
    pub(crate) fn map(&self) -> &Map {
        match &self.rows {
            Rows::Kept(map) => map,
            Rows::Bent(bending) => self.made.get_or_init(|| {
                let write = |y: i32, rows: &mut [[f32; 2]]| {
                    bending.write_pairs(y, rows);
                    Ok::<_, Cancelled>(())
                };
                let made = Raster::written_in_bands(self.window(), ROWS_AT_ONCE, &Cancel::new(), write);
                made.expect("a flag that nobody else holds is never set")
            }),
        }
    }

    /// The moves of a row of the window, in memory or in some room.
    fn row<'a>(&'a self, y: i32, room: &'a mut Room) -> &'a [[f32; 2]] {
        match &self.rows {
            Rows::Kept(map) => map.row(y),
            Rows::Bent(bending) => room.pairs(bending, y),
        }
    }

    /// The pixels that move.
    pub fn window(&self) -> Window {
        match &self.rows {
            Rows::Kept(map) => map.window(),
            Rows::Bent(bending) => bending.inverse.window(),
        }
    }
}

/// A move that is not a number is none.
#[inline(always)]
fn moves(m: &[f32; 2]) -> bool {
    length_sq(*m) > 0.0
}

#[inline(always)]
fn length_sq(m: [f32; 2]) -> f32 {
    m[0] * m[0] + m[1] * m[1]
}

/// Where each pixel of a row from pixel `(x0, y)` on is read, and whether all of them move.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn places(moves: &[[f32; 2]], [x0, y]: [i32; 2], from_x: &mut [f32], from_y: &mut [f32]) -> bool {
    let middle = y as f32 + 0.5;
    let mut all_move = true;
    for (index, ((m, from_x), from_y)) in moves.iter().zip(from_x).zip(from_y).enumerate() {
        *from_x = (x0 + index as i32) as f32 + 0.5 - m[0];
        *from_y = middle - m[1];
        all_move &= self::moves(m);
    }
    all_move
}

/// The same of moves by x and by y.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn places_apart([x, down]: [&[f32]; 2], [x0, y]: [i32; 2], from_x: &mut [f32], from_y: &mut [f32]) -> bool {
    let middle = y as f32 + 0.5;
    let mut all_move = true;
    for (index, (((x, y), from_x), from_y)) in x.iter().zip(down).zip(from_x).zip(from_y).enumerate() {
        *from_x = (x0 + index as i32) as f32 + 0.5 - x;
        *from_y = middle - y;
        all_move &= moves(&[*x, *y]);
    }
    all_move
}

/// The pixels of a run that move.
struct MovedRun<P> {
    /// Which of the run they are.
    numbers: Vec<u16>,
    /// Where each is read, by axis, and how softly.
    places: [Vec<f32>; 2],
    variances: Vec<f32>,
    read: Vec<P>,
}

impl<P> Default for MovedRun<P> {
    fn default() -> Self {
        Self { numbers: vec![], places: [vec![], vec![]], variances: vec![], read: vec![] }
    }
}

impl<P: Pixel> MovedRun<P> {
    /// Takes those of the run that begins at pixel `(x0, y)`; what does not move is put there as it is.
    fn take(
        &mut self,
        moves: &[[f32; 2]],
        [x0, y]: [i32; 2],
        softness: f32,
        source: &Raster<P>,
        out: &mut [P],
    ) {
        let (from, still) = (source.window().x0, source.row(y));
        self.numbers.clear();
        for (number, ((x, out), m)) in (x0..).zip(out.iter_mut()).zip(moves).enumerate() {
            match still.get(x.wrapping_sub(from) as u32 as usize) {
                Some(pixel) if !self::moves(m) => *out = *pixel,
                _ => self.numbers.push(number as u16),
            }
        }
        let moved = || self.numbers.iter().map(|number| (usize::from(*number), moves[usize::from(*number)]));
        let [x, to_y] = &mut self.places;
        x.clear();
        x.extend(moved().map(|(number, m)| (x0 + number as i32) as f32 + 0.5 - m[0]));
        to_y.clear();
        to_y.extend(moved().map(|(_, m)| y as f32 + 0.5 - m[1]));
        self.variances.clear();
        self.variances.extend(moved().map(|(_, m)| softness * softness * length_sq(m)));
    }

    /// Reads them into the run.
    fn read(&mut self, reader: &Reader<'_, P>, scratch: &mut SoftScratch<P>, filter: Filter, out: &mut [P]) {
        let places = self.places.each_ref().map(|along| &along[..]);
        if self.numbers.len() == out.len() {
            return reader.read_run(scratch, filter, places, &self.variances, out);
        }
        self.read.resize(self.numbers.len(), P::default());
        reader.read_run(scratch, filter, places, &self.variances, &mut self.read);
        for (number, pixel) in self.numbers.iter().zip(&self.read) {
            out[usize::from(*number)] = *pixel;
        }
    }
}

/// Puts the pixels of a row back that do not move; the row begins at pixel `(x0, y)`.
fn keep_still<P: Pixel>(
    source: &Raster<P>,
    moves: impl Iterator<Item = [f32; 2]>,
    [x0, y]: [i32; 2],
    row: &mut [P],
) {
    let (from, still) = (source.window().x0, source.row(y));
    for ((x, out), m) in (x0..).zip(row).zip(moves) {
        if !self::moves(&m)
            && let Some(pixel) = still.get(x.wrapping_sub(from) as u32 as usize)
        {
            *out = *pixel;
        }
    }
}
