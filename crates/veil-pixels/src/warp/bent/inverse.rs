//! The inverse of a bent surface: for each of its pieces blocks of pixels, and what they have.

use std::cell::OnceCell;
use std::ops::Range;

use rayon::prelude::*;

use super::block::{Block, Cubic, Holds, Rows, SHARED};
use super::plane::{folds, meets, triangles};
use super::sample::Sample;
use super::triangle::Triangle;
use super::{Bent, Spot};
use crate::{Cancel, Cancelled, Map, Raster, Window};

/// Blocks start no larger than this, in pixels, and are cut in four until they are right.
const LARGEST: i32 = 32;
/// Blocks that no inverse is found for somewhere are made of triangles from this size down.
const HARD: i32 = 4;

/// So many rows of moves are written at once where all of them are.
const ROWS_AT_ONCE: usize = 8;

/// So many pieces are worked out by one worker at a time: one where it is hard takes as long as many others.
const PIECES_AT_ONCE: usize = 2;

/// The numbers of the middle of a piece.
const MIDDLE: [f64; 2] = [0.5; 2];

/// Moves of a run of pixels in a row.
struct Run {
    x: i32,
    y: i32,
    moves: Vec<[f32; 2]>,
}

/// What some pixels are made of.
#[expect(
    clippy::large_enum_variant,
    reason = "nearly all are the large one, and a box would be a way through memory for each row"
)]
enum Part {
    Cubic(Cubic),
    Run(Run),
}

impl Part {
    fn rows(&self) -> [i32; 2] {
        match self {
            Self::Cubic(cubic) => [cubic.y, cubic.y + cubic.size],
            Self::Run(run) => [run.y, run.y + 1],
        }
    }

    /// No move of it is longer.
    fn longest(&self) -> f32 {
        match self {
            Self::Cubic(cubic) => cubic.longest(),
            Self::Run(run) => run.moves.iter().fold(0.0_f32, |most, [x, y]| most.max(x * x + y * y)).sqrt(),
        }
    }

    /// Its pixels of some rows, from a pixel on.
    fn write(&self, numbers: Range<i32>, first: i32, rows: &mut Rows<'_>) {
        match self {
            Self::Cubic(cubic) => cubic.write(numbers, first, rows),
            Self::Run(run) => {
                let (from, to) =
                    (run.x.max(first), (run.x + run.moves.len() as i32).min(first + rows.wide as i32));
                let place = (run.y - numbers.start) as usize * rows.wide;
                for x in from..to {
                    let (at, own) = (place + (x - first) as usize, run.moves[(x - run.x) as usize]);
                    for (rows, own) in rows.moves.iter_mut().zip(own) {
                        rows[at] = own;
                    }
                }
            }
        }
    }
}

/// A row of the largest blocks.
#[derive(Default)]
struct Band {
    /// The parts that lie in it, in the order of pieces: the piece's number and the part's own.
    parts: Vec<[u32; 2]>,
    /// Whether every pixel of it is written.
    covered: bool,
}

/// The inverse of a bent surface over a window: the moves of each of its pixels.
pub struct Inverse {
    window: Window,
    /// What pixels have that the surface does not reach.
    beyond: [f32; 2],
    longest: f32,
    /// What each piece holds.
    pieces: Vec<Vec<Part>>,
    /// The number of the first row of the largest blocks.
    first: i32,
    bands: Vec<Band>,
}

impl Inverse {
    /// Of a surface.
    pub fn over(bent: &impl Bent, window: Window, cancel: &Cancel) -> Result<Self, Cancelled> {
        let beyond = if bent.is_everywhere() { [0.0; 2] } else { [f32::NAN; 2] };
        if window.is_empty() {
            return Ok(Self {
                window,
                beyond,
                longest: 0.0,
                pieces: Vec::new(),
                first: 0,
                bands: Vec::new(),
            });
        }
        let owners = bent.is_everywhere().then(|| Owners::over(bent, window));
        let made = (0..bent.pieces()).into_par_iter().with_max_len(PIECES_AT_ONCE).map(|piece| {
            cancel.check()?;
            let parts = Filler::of(bent, piece, window, owners.as_ref()).filled();
            let longest = parts.iter().map(Part::longest).fold(0.0, f32::max);
            Ok((parts, longest))
        });
        let (pieces, longest): (Vec<_>, Vec<_>) =
            made.collect::<Result<Vec<_>, Cancelled>>()?.into_iter().unzip();
        let first = window.y0.div_euclid(LARGEST);
        let count = ((window.y1 - 1).div_euclid(LARGEST) - first + 1) as usize;
        let bands = bands(&pieces, first, count, owners.as_ref());
        Ok(Self { window, beyond, longest: longest.into_iter().fold(0.0, f32::max), pieces, first, bands })
    }

    /// The pixels that it is of.
    pub const fn window(&self) -> Window {
        self.window
    }

    /// No move is longer, in pixels.
    pub const fn longest(&self) -> f32 {
        self.longest
    }

    /// All moves as a map.
    pub fn map(&self, cancel: &Cancel) -> Result<Map, Cancelled> {
        let wide = self.window.width();
        Raster::written_in_bands(self.window, ROWS_AT_ONCE, cancel, |y, out| {
            let [mut x, mut down] = [vec![0.0; out.len()], vec![0.0; out.len()]];
            self.write(y, &mut Rows { wide, moves: [&mut x, &mut down] });
            for ((out, x), y) in out.iter_mut().zip(x).zip(down) {
                *out = [x, y];
            }
            Ok(())
        })
    }

    /// The moves of rows of pixels of the window from one on, as many as there is room for.
    pub(in crate::warp) fn write(&self, y: i32, rows: &mut Rows<'_>) {
        let wide = rows.wide;
        let end = y + (rows.moves[0].len() / wide) as i32;
        for number in y.div_euclid(LARGEST)..=(end - 1).div_euclid(LARGEST) {
            let band = &self.bands[(number - self.first) as usize];
            let own = y.max(number * LARGEST)..end.min((number + 1) * LARGEST);
            let places = (own.start - y) as usize * wide..(own.end - y) as usize * wide;
            let mut rows =
                Rows { wide, moves: rows.moves.each_mut().map(|moves| &mut moves[places.clone()]) };
            if !band.covered {
                rows.moves.iter_mut().zip(self.beyond).for_each(|(moves, beyond)| moves.fill(beyond));
            }
            for [piece, part] in &band.parts {
                let part = &self.pieces[*piece as usize][*part as usize];
                let [from, to] = part.rows();
                if from < own.end && own.start < to {
                    part.write(own.clone(), self.window.x0, &mut rows);
                }
            }
        }
    }
}

/// The parts of each row of the largest blocks.
fn bands(pieces: &[Vec<Part>], first: i32, count: usize, owners: Option<&Owners>) -> Vec<Band> {
    let mut bands: Vec<Band> = Vec::new();
    bands.resize_with(count, Band::default);
    let mut written = vec![0; count];
    for (piece, parts) in pieces.iter().enumerate() {
        for (at, part) in parts.iter().enumerate() {
            let Ok(band) = usize::try_from(part.rows()[0].div_euclid(LARGEST) - first) else { continue };
            if band < count {
                bands[band].parts.push([piece as u32, at as u32]);
                written[band] += owners.map_or(0, |owners| owners.written(piece, part));
            }
        }
    }
    let whole = owners.map_or(i32::MAX, |owners| owners.wide as i32 * LARGEST * LARGEST);
    bands.iter_mut().zip(written).for_each(|(band, written)| band.covered = written == whole);
    bands
}

/// The first piece that comes near each of the largest blocks. It need not be asked what it holds of it: what it does not hold
/// is written over by those that do.
struct Owners {
    /// Numbers of the first block's column and row.
    first: [i32; 2],
    wide: usize,
    pieces: Vec<Option<usize>>,
}

impl Owners {
    fn over(bent: &impl Bent, window: Window) -> Self {
        let block = |at: i32| at.div_euclid(LARGEST);
        let first = [block(window.x0), block(window.y0)];
        let last = [block(window.x1 - 1), block(window.y1 - 1)];
        let wide = (last[0] - first[0] + 1) as usize;
        let mut pieces = vec![None; wide * (last[1] - first[1] + 1) as usize];
        for piece in 0..bent.pieces() {
            let bounds = bent.bounds(piece);
            let blocks = |axis: usize| {
                let near = |at: f64| {
                    ((at / f64::from(LARGEST)).floor() as i32).clamp(first[axis] - 1, last[axis] + 1)
                };
                near(bounds[axis]).max(first[axis])..=near(bounds[axis + 2]).min(last[axis])
            };
            for row in blocks(1) {
                for column in blocks(0) {
                    let at = (row - first[1]) as usize * wide + (column - first[0]) as usize;
                    pieces[at].get_or_insert(piece);
                }
            }
        }
        Self { first, wide, pieces }
    }

    /// Whether a piece is first in a place.
    fn is_first(&self, piece: usize, [x, y]: [i32; 2]) -> bool {
        let [column, row] = [x, y].map(|at| at.div_euclid(LARGEST));
        let at = [column - self.first[0], row - self.first[1]].map(usize::try_from);
        let [Ok(column), Ok(row)] = at else { return false };
        column < self.wide && self.pieces.get(row * self.wide + column) == Some(&Some(piece))
    }

    /// How many pixels are written by a part of a piece because it is first.
    fn written(&self, piece: usize, part: &Part) -> i32 {
        match part {
            Part::Cubic(cubic) if self.is_first(piece, [cubic.x, cubic.y]) => cubic.size * cubic.size,
            _ => 0,
        }
    }
}

/// Fills what a piece holds of a window.
struct Filler<'a, B> {
    bent: &'a B,
    piece: usize,
    window: Window,
    owners: Option<&'a Owners>,
    /// The spot in the middle of the piece, from which all others are looked for.
    middle: Spot,
    triangles: OnceCell<Vec<Triangle>>,
    parts: Vec<Part>,
}

impl<'a, B: Bent> Filler<'a, B> {
    fn of(bent: &'a B, piece: usize, window: Window, owners: Option<&'a Owners>) -> Self {
        let middle = bent.at(piece, MIDDLE);
        Self { bent, piece, window, owners, middle, triangles: OnceCell::new(), parts: Vec::new() }
    }

    fn filled(mut self) -> Vec<Part> {
        let [left, top, right, bottom] = self.bent.bounds(self.piece);
        if !meets([left, top, right, bottom], self.window) {
            return self.parts;
        }
        if folds(self.bent, self.piece) {
            // Of several places that lie on a pixel Newton's method finds any.
            self.hard(self.window);
            return self.parts;
        }
        let size = largest((right - left).max(bottom - top));
        let blocks = |from: f64, to: f64, least: i32, most: i32| {
            // What is no number is the window's.
            let (from, to) =
                (from.floor().max(f64::from(least)) as i32, to.floor().min(f64::from(most - 1)) as i32);
            from.div_euclid(size)..=to.div_euclid(size)
        };
        let across = blocks(left, right, self.window.x0, self.window.x1);
        let down = blocks(top, bottom, self.window.y0, self.window.y1);
        self.parts.reserve(across.clone().count() * down.clone().count());
        let line = |made: &Self, row: i32| -> Vec<Option<Sample>> {
            (*across.start()..=across.end() + 1)
                .map(|column| made.far([column * size, row * size], [0.0; 2]))
                .collect()
        };
        let mut above: Option<Vec<Option<Sample>>> = None;
        for row in down {
            let upper = above.take().unwrap_or_else(|| line(&self, row));
            let lower = line(&self, row + 1);
            for (at, column) in across.clone().enumerate() {
                let at_place = [column * size, row * size];
                self.corners(at_place, size, [upper[at], upper[at + 1], lower[at], lower[at + 1]]);
            }
            above = Some(lower);
        }
        self.parts
    }

    /// Fills a block with these corners.
    fn corners(&mut self, [x, y]: [i32; 2], size: i32, corners: [Option<Sample>; 4]) {
        match corners {
            [Some(a), Some(b), Some(c), Some(d)] => self.block(&Block { x, y, size, corners: [a, b, c, d] }),
            _ => self.torn([x, y], size),
        }
    }

    /// What lies on the centre of a pixel, or so far on from it, looked for from two numbers.
    #[inline(always)]
    fn near(&self, [x, y]: [i32; 2], on: [f64; 2], from: [f64; 2]) -> Option<Sample> {
        let to = [f64::from(x) + 0.5 + on[0], f64::from(y) + 0.5 + on[1]];
        Sample::at(self.bent, self.piece, to, from)
    }

    /// The same looked for from the middle of the piece, so that it is the same whatever else is looked for.
    fn far(&self, [x, y]: [i32; 2], on: [f64; 2]) -> Option<Sample> {
        let ([u, v], middle) = (self.middle.moved_by(), self.middle.moved());
        let way = [f64::from(x) + 0.5 + on[0] - middle[0], f64::from(y) + 0.5 + on[1] - middle[1]];
        let area = u[0] * v[1] - u[1] * v[0];
        let step = [(v[1] * way[0] - v[0] * way[1]) / area, (u[0] * way[1] - u[1] * way[0]) / area];
        let first = [0, 1].map(|number| MIDDLE[number] + step[number]);
        self.near([x, y], on, first).or_else(|| self.near([x, y], on, MIDDLE))
    }

    fn block(&mut self, block: &Block) {
        if block.window().intersect(self.window).is_empty() {
            return;
        }
        let foretold = block.foretold();
        let mut found = [block.corners[0]; 5];
        for ((found, on), told) in found.iter_mut().zip(block.half_way()).zip(&foretold) {
            let Some(sample) = self.near([block.x, block.y], on, [told[0][0], told[0][1]]) else {
                return self.torn([block.x, block.y], block.size);
            };
            *found = sample;
        }
        let [a, b, c, d] = block.corners;
        let [e, f, g, h, i] = found;
        let holds = Holds::of(&[a, b, c, d, e, f, g, h, i].map(|sample| sample.numbers()));
        if holds == Holds::Nothing {
            return;
        }
        let most = block.off(&found);
        if most <= self.bent.exactness(block.window()) {
            let is_first = self.owners.is_some_and(|owners| owners.is_first(self.piece, [block.x, block.y]));
            let holds = if is_first { Holds::All } else { holds };
            self.parts.push(Part::Cubic(block.cubic(holds)));
        } else if block.size > 2 {
            for quarter in block.quarters(found) {
                self.block(&quarter);
            }
        } else {
            for ([x, y], sample) in [([0, 0], &a), ([1, 0], &e), ([0, 1], &f), ([1, 1], &g)] {
                if self.holds(sample) {
                    let run = Run { x: block.x + x, y: block.y + y, moves: vec![sample.moves()] };
                    self.parts.push(Part::Run(run));
                }
            }
        }
    }

    /// Whether the piece holds what is there.
    fn holds(&self, sample: &Sample) -> bool {
        [0, 1].iter().all(|number| {
            let room = SHARED * (sample.by[0][*number].abs() + sample.by[1][*number].abs());
            (-room..=1.0 + room).contains(&sample.value[*number])
        })
    }

    /// A block of which no inverse is found in some places.
    fn torn(&mut self, [x, y]: [i32; 2], size: i32) {
        let window = Window::new(x, y, x + size, y + size);
        if window.intersect(self.window).is_empty() || !meets(self.bent.bounds(self.piece), window.grow(1, 1))
        {
            return;
        }
        if size <= HARD {
            self.hard(window);
            return;
        }
        let half = size / 2;
        let far = f64::from(half);
        for at in [[x, y], [x + half, y], [x, y + half], [x + half, y + half]] {
            let corners = [[0.0, 0.0], [far, 0.0], [0.0, far], [far, far]].map(|on| self.far(at, on));
            self.corners(at, half, corners);
        }
    }

    /// Fills what triangles that stand for the piece cover of a window: from the numbers that they have for a pixel its place is
    /// looked for, and where none is found, as beside a fold, theirs counts.
    fn hard(&mut self, window: Window) {
        const NOTHING: [f32; 2] = [f32::NAN; 2];
        let [left, top, right, bottom] = self.bent.bounds(self.piece);
        let bounds =
            Window::new(left.floor() as i32, top.floor() as i32, right.ceil() as i32, bottom.ceil() as i32);
        let window = window.intersect(bounds).intersect(self.window);
        if window.is_empty() {
            return;
        }
        let wide = window.width();
        let mut moves = vec![NOTHING; window.area()];
        let mut numbers = vec![None; window.area()];
        for triangle in self.triangles.get_or_init(|| triangles(self.bent, self.piece)) {
            for y in triangle.rows(window.y0..=window.y1 - 1) {
                for x in triangle.columns(y, window.x0..=window.x1 - 1) {
                    let at = (y - window.y0) as usize * wide + (x - window.x0) as usize;
                    numbers[at] = Some(triangle.at([x, y]));
                }
            }
        }
        for (at, (moves, numbers)) in moves.iter_mut().zip(&numbers).enumerate() {
            let Some(numbers) = *numbers else { continue };
            let place = [window.x0 + (at % wide) as i32, window.y0 + (at / wide) as i32];
            *moves = match self.near(place, [0.0; 2], numbers) {
                Some(sample) if self.holds(&sample) => sample.moves(),
                _ => self.bent.at(self.piece, numbers).way.map(|by| by as f32),
            };
        }
        for (y, row) in (window.y0..).zip(moves.chunks(wide)) {
            let mut x = window.x0;
            for run in row.chunk_by(|a, b| a[0].is_nan() == b[0].is_nan()) {
                if !run[0][0].is_nan() {
                    self.parts.push(Part::Run(Run { x, y, moves: run.to_vec() }));
                }
                x += run.len() as i32;
            }
        }
    }
}

/// The size of blocks for a piece of a size.
fn largest(piece: f64) -> i32 {
    let mut size = LARGEST;
    while size > HARD && f64::from(size) > piece {
        size /= 2;
    }
    size
}
