//! A square of pixels, and the bicubic through what its corners have.

use std::ops::Range;

use multiversion::multiversion;
use wide::{f32x4, f32x8, f64x4};

use crate::Window;

use super::sample::{Sample, lanes};

/// What pieces share is covered by both, so far beyond either, in pixels.
pub(super) const SHARED: f64 = 0.002;

/// Values that are foretold, and their slope along the side that they are in the middle of.
pub(super) type Foretold = [[f64; 4]; 2];

/// What the cubic through two ends has half way between them: its value, and its slope by the ends' measure.
#[inline(always)]
fn half(ends: [[f64; 4]; 2], slopes: [[f64; 4]; 2], size: f64) -> Foretold {
    let ([a, b], [by_a, by_b]) = (ends, slopes);
    [
        lanes(|lane| (a[lane] + b[lane]) / 2.0 + size / 8.0 * (by_a[lane] - by_b[lane])),
        lanes(|lane| 1.5 / size * (b[lane] - a[lane]) - (by_a[lane] + by_b[lane]) / 4.0),
    ]
}

/// A square of pixels with its corners: at the left and right above, then below.
pub(in crate::warp) struct Block {
    pub(in crate::warp) x: i32,
    pub(in crate::warp) y: i32,
    pub(in crate::warp) size: i32,
    pub(in crate::warp) corners: [Sample; 4],
}

impl Block {
    pub(in crate::warp) fn window(&self) -> Window {
        Window::new(self.x, self.y, self.x + self.size, self.y + self.size)
    }

    /// Half way above, at the left, in the middle, at the right and below, from its first corner on.
    pub(in crate::warp) fn half_way(&self) -> [[f64; 2]; 5] {
        let (size, half) = (f64::from(self.size), f64::from(self.size) / 2.0);
        [[half, 0.0], [0.0, half], [half; 2], [size, half], [half, size]]
    }

    /// What is foretold above, at the left, in the middle, at the right and below; in the middle with the slope across.
    pub(super) fn foretold(&self) -> [Foretold; 5] {
        foretold(&self.corners, f64::from(self.size))
    }

    /// How far what is half way between its corners is from what they foretell, at most.
    pub(in crate::warp) fn off(&self, found: &[Sample; 5]) -> f64 {
        // What is half way may be right by chance; the slope is not, then.
        let size = f64::from(self.size);
        let off = |told: &Foretold, found: &Sample, way: usize| {
            let off = |lane: usize| {
                let [value, slope] = [told[0][lane] - found.value[lane], told[1][lane] - found.by[way][lane]];
                value.abs() + size / 8.0 * slope.abs()
            };
            off(2).max(off(3))
        };
        let all = self.foretold().into_iter().zip(found).zip([0, 1, 0, 1, 0]);
        all.map(|((told, found), way)| off(&told, found, way)).fold(0.0, f64::max)
    }

    /// The bicubic through its corners.
    pub(in crate::warp) fn cubic(&self, holds: Holds) -> Cubic {
        let powers = powers(&self.corners, f64::from(self.size));
        let slack = if holds == Holds::All { [f32::INFINITY; 2] } else { self.slack(&powers) };
        Cubic { x: self.x, y: self.y, size: self.size, holds, slack, powers }
    }

    /// How much of each number [`SHARED`] is; no end to it where the number lies between 0 and 1 all over.
    fn slack(&self, powers: &Powers) -> [f32; 2] {
        NUMBERS.map(|number| {
            let [least, most] = bounds(powers, number);
            if least >= 0.0 && most <= 1.0 {
                return f32::INFINITY;
            }
            let [x, y] = self.corners[0].by.map(|by| by[number].abs());
            (SHARED * (x + y)) as f32
        })
    }

    /// Its four quarters, with what is there half way between its corners.
    pub(in crate::warp) fn quarters(&self, [above, left, middle, right, below]: [Sample; 5]) -> [Self; 4] {
        let [a, b, c, d] = self.corners;
        let size = self.size / 2;
        let quarter = |x: i32, y: i32, corners| Self { x: self.x + x, y: self.y + y, size, corners };
        [
            quarter(0, 0, [a, above, left, middle]),
            quarter(size, 0, [above, b, middle, right]),
            quarter(0, size, [left, middle, c, below]),
            quarter(size, size, [middle, right, below, d]),
        ]
    }
}

#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn foretold(corners: &[Sample; 4], size: f64) -> [Foretold; 5] {
    let [a, b, c, d] = corners;
    let above = half([a.value, b.value], [a.by[0], b.by[0]], size);
    let left = half([a.value, c.value], [a.by[1], c.by[1]], size);
    let right = half([b.value, d.value], [b.by[1], d.by[1]], size);
    let below = half([c.value, d.value], [c.by[0], d.by[0]], size);
    // How the slopes across change downward, by the corners' values and slopes.
    let twists = lanes(|lane| (b.by[1][lane] - a.by[1][lane] - d.by[1][lane] + c.by[1][lane]) / 8.0);
    let slopes = [(a, c), (b, d)]
        .map(|(above, below)| lanes(|lane| (above.by[0][lane] + below.by[0][lane]) / 2.0 + twists[lane]));
    [above, left, half([left[0], right[0]], slopes, size), right, below]
}

/// The cubic with these values and slopes at its ends, by its powers.
#[inline(always)]
fn cubics(from: [f64; 4], to: [f64; 4], starts: [f64; 4], ends: [f64; 4]) -> [[f64; 4]; 4] {
    let mut powers = [from, starts, [0.0; 4], [0.0; 4]];
    for lane in 0..4 {
        let way = to[lane] - from[lane];
        powers[2][lane] = 3.0 * way - 2.0 * starts[lane] - ends[lane];
        powers[3][lane] = starts[lane] + ends[lane] - 2.0 * way;
    }
    powers
}

/// By powers of the way down, of each lane by powers of the way across.
type Powers = [[[f32; 4]; 4]; 4];

#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn powers(corners: &[Sample; 4], size: f64) -> Powers {
    let mut by = [[[0.0; 4]; 2]; 4];
    let mut twists = [[0.0; 4]; 4];
    for lane in 0..4 {
        let [fa, fb, fc, fd] = [0, 1, 2, 3].map(|corner: usize| corners[corner].value[lane]);
        for (by, corner) in by.iter_mut().zip(corners) {
            by[0][lane] = corner.by[0][lane] * size;
            by[1][lane] = corner.by[1][lane] * size;
        }
        // Twists that the slopes and values of the corners tell.
        let all = fd - fb - fc + fa;
        let (left, right) = (by[2][0][lane] - by[0][0][lane], by[3][0][lane] - by[1][0][lane]);
        let (above, below) = (by[1][1][lane] - by[0][1][lane], by[3][1][lane] - by[2][1][lane]);
        twists[0][lane] = left + above - all;
        twists[1][lane] = right + above - all;
        twists[2][lane] = left + below - all;
        twists[3][lane] = right + below - all;
    }
    // Down each side, and how that changes across.
    let left = cubics(corners[0].value, corners[2].value, by[0][1], by[2][1]);
    let right = cubics(corners[1].value, corners[3].value, by[1][1], by[3][1]);
    let left_by = cubics(by[0][0], by[2][0], twists[0], twists[2]);
    let right_by = cubics(by[1][0], by[3][0], twists[1], twists[3]);
    let mut powers = [[[0.0; 4]; 4]; 4];
    for down in 0..4 {
        let across = cubics(left[down], right[down], left_by[down], right_by[down]);
        for (power, lanes) in across.iter().enumerate() {
            for lane in 0..4 {
                powers[down][lane][power] = lanes[lane] as f32;
            }
        }
    }
    powers
}

/// Whether a piece holds a block.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::warp) enum Holds {
    /// All of it.
    All,
    /// Some, as its numbers tell.
    Some,
    /// Nothing of it.
    Nothing,
}

impl Holds {
    /// By numbers of a block's corners, sides and middle.
    pub(super) fn of(numbers: &[[f64; 2]]) -> Self {
        let bounds = [0, 1].map(|number| {
            let all = numbers.iter().map(|numbers| numbers[number]);
            all.fold([f64::MAX, f64::MIN], |[least, most], at| [least.min(at), most.max(at)])
        });
        // Between those that are known they go a little further.
        let room = bounds.map(|[least, most]| (most - least) / 4.0);
        let apart = |[least, most]: [f64; 2], room: f64| least - room > 1.0 || most + room < 0.0;
        let within = |[least, most]: [f64; 2], room: f64| least - room >= 0.0 && most + room <= 1.0;
        let both = |f: &dyn Fn([f64; 2], f64) -> bool| [0, 1].map(|number| f(bounds[number], room[number]));
        if both(&apart).contains(&true) {
            Self::Nothing
        } else if both(&within) == [true; 2] {
            Self::All
        } else {
            Self::Some
        }
    }
}

/// Numbers of a piece and moves over a square of pixels, as bicubics.
pub(in crate::warp) struct Cubic {
    pub(super) x: i32,
    pub(super) y: i32,
    pub(super) size: i32,
    pub(super) holds: Holds,
    /// How far a number may be beyond 0 and 1.
    slack: [f32; 2],
    powers: Powers,
}

impl Cubic {
    /// The least and the most of its moves by both axes.
    pub(in crate::warp) fn bounds(&self) -> [[f32; 2]; 2] {
        MOVES.map(|lane| bounds(&self.powers, lane))
    }

    /// No move of it is longer.
    pub(super) fn longest(&self) -> f32 {
        let [x, y] = self.bounds().map(|[least, most]| least.abs().max(most.abs()));
        x.hypot(y)
    }

    /// Its moves so many pixels on from its first corner, and how they change by x and by y.
    pub(in crate::warp) fn moves_at(&self, place: [f64; 2]) -> [[f64; 2]; 3] {
        let size = f64::from(self.size);
        let [s, t] = place.map(|at| at / size);
        let mut made = [[0.0; 2]; 3];
        for (axis, lane) in MOVES.into_iter().enumerate() {
            let [a, b, c, d] =
                [0, 1, 2, 3].map(|row: usize| f64x4::from(self.powers[row][lane].map(f64::from)));
            let (across, down) = (((d * t + c) * t + b) * t + a, (d * (3.0 * t) + c * 2.0) * t + b);
            let [a, b, c, d] = across.to_array();
            made[0][axis] = ((d * s + c) * s + b) * s + a;
            made[1][axis] = ((3.0 * d * s + 2.0 * c) * s + b) / size;
            let [a, b, c, d] = down.to_array();
            made[2][axis] = (((d * s + c) * s + b) * s + a) / size;
        }
        made
    }

    /// The part that it covers of some rows of pixels, from a pixel on: of a whole block, or of what its piece holds of it.
    pub(super) fn write(&self, numbers: Range<i32>, first: i32, rows: &mut Rows<'_>) {
        let (from, to) = (self.x.max(first), (self.x + self.size).min(first + rows.wide as i32));
        let (above, below) = (self.y.max(numbers.start), (self.y + self.size).min(numbers.end));
        if from >= to || above >= below {
            return;
        }
        let columns = from - self.x..to - self.x;
        let place = (above - numbers.start) as usize * rows.wide + (from - first) as usize;
        let out = Part { columns, rows: above - self.y..below - self.y, place };
        match self.holds {
            Holds::All => whole(self, &out, rows),
            _ => some(self, &out, rows),
        }
    }

    /// Where in it a row of pixels starts.
    #[inline(always)]
    fn along(&self, part: &Part) -> Along {
        Along { start: part.columns.start as f32, step: 1.0 / self.size as f32 }
    }
}

/// The least and the most of a lane: it lies within the corners of its Bezier net.
fn bounds(powers: &Powers, lane: usize) -> [f32; 2] {
    // How much of each power's number a corner has, and turned: of a power's number each corner.
    const SHARES: [[f32; 4]; 4] =
        [[1.0, 0.0, 0.0, 0.0], [1.0, 1.0 / 3.0, 0.0, 0.0], [1.0, 2.0 / 3.0, 1.0 / 3.0, 0.0], [1.0; 4]];
    const TURNED: [[f32; 4]; 4] =
        [[1.0; 4], [0.0, 1.0 / 3.0, 2.0 / 3.0, 1.0], [0.0, 0.0, 1.0 / 3.0, 1.0], [0.0, 0.0, 0.0, 1.0]];
    let powers = powers.map(|powers| f32x4::from(powers[lane]));
    let (mut least, mut most) = (f32x4::splat(f32::MAX), f32x4::splat(f32::MIN));
    for down in SHARES {
        let along = powers.iter().zip(down).fold(f32x4::ZERO, |sum, (own, share)| sum + *own * share);
        let along = TURNED.iter().zip(along.to_array());
        let corners = along.fold(f32x4::ZERO, |sum, (shares, own)| sum + f32x4::from(*shares) * own);
        (least, most) = (least.min(corners), most.max(corners));
    }
    let [least, most] = [least, most].map(f32x4::to_array);
    [least.into_iter().fold(f32::MAX, f32::min), most.into_iter().fold(f32::MIN, f32::max)]
}

/// Room for rows of moves, all of the same length, by x and by y.
pub(in crate::warp) struct Rows<'a> {
    pub(in crate::warp) wide: usize,
    pub(in crate::warp) moves: [&'a mut [f32]; 2],
}

/// Columns and rows of a block, and the place of the first among rows of moves.
struct Part {
    columns: Range<i32>,
    rows: Range<i32>,
    place: usize,
}

impl Part {
    /// Its rows, and their places among others.
    #[inline(always)]
    fn places(&self, wide: usize) -> impl Iterator<Item = (i32, Range<usize>)> {
        let (place, count) = (self.place, self.columns.len());
        self.rows.clone().zip((place..).step_by(wide)).map(move |(row, place)| (row, place..place + count))
    }
}

/// Blocks are no wider.
pub(super) const WIDEST: usize = 32;

/// The lanes of both numbers.
const NUMBERS: [usize; 2] = [0, 1];
/// The lanes of both moves.
const MOVES: [usize; 2] = [2, 3];

/// Where in a block a row of pixels starts, and how far the next is, both in shares of its size.
#[derive(Clone, Copy)]
struct Along {
    start: f32,
    step: f32,
}

/// The numbers of pixels from the first on: telling them from whole numbers takes longer than all the rest.
const PIXELS: [f32; WIDEST] = {
    let mut pixels = [0.0; WIDEST];
    let mut at = 0;
    while at < WIDEST {
        pixels[at] = at as f32;
        at += 1;
    }
    pixels
};

/// A lane's powers of the way across at a way down.
#[inline(always)]
fn across(powers: &Powers, lane: usize, t: f32) -> [f32; 4] {
    let [a, b, c, d] = [0, 1, 2, 3].map(|power: usize| f32x4::from(powers[power][lane]));
    (((d * t + c) * t + b) * t + a).to_array()
}

#[inline(always)]
fn cubic([a, b, c, d]: [f32; 4], s: f32) -> f32 {
    ((d * s + c) * s + b) * s + a
}

/// Both moves of some pixels of a row.
#[inline(always)]
fn moves(across: [[f32; 4]; 2], along: Along, pixels: &[f32], [x, y]: [&mut [f32]; 2]) {
    for ((x, y), pixel) in x.iter_mut().zip(y).zip(pixels) {
        let s = (along.start + pixel) * along.step;
        (*x, *y) = (cubic(across[0], s), cubic(across[1], s));
    }
}

/// The moves of a part of a block by its cubics.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn whole(block: &Cubic, part: &Part, out: &mut Rows<'_>) {
    let (along, [x, y]) = (block.along(part), &mut out.moves);
    for (row, place) in part.places(out.wide) {
        let across = MOVES.map(|lane| across(&block.powers, lane, row as f32 * along.step));
        moves(across, along, &PIXELS, [&mut x[place.clone()], &mut y[place]]);
    }
}

/// A side of a piece bends by less than so many times its room within a row of a block.
const BENDS: f32 = 1000.0;

/// Which of so many pixels of a row have a number of their piece between 0 and 1, with some room: a bit for each.
#[inline(always)]
fn held(across: [f32; 4], room: f32, along: Along, count: usize) -> u32 {
    const AT_ONCE: usize = 8;
    // From the middle, so that both sides are asked for at once.
    let middle = |pixel: f32| cubic(across, (along.start + pixel) * along.step) - 0.5;
    let within = |pixel: f32| 0.5 + room - middle(pixel).abs();
    // How far both ends are within, where a side that bends a little within the row is taken for straight.
    let ends = [0, count - 1].map(|at| middle(PIXELS[at]));
    let [first, last] = ends.map(|middle| 0.5 + room - middle.abs());
    if first.min(last) > BENDS * room {
        return u32::MAX;
    }
    if first.max(last) < -BENDS * room && ends[0] * ends[1] > 0.0 {
        return 0;
    }
    let mut all_within = [0.0; WIDEST];
    for (made, pixel) in all_within.iter_mut().zip(&PIXELS) {
        *made = within(*pixel);
    }
    let outside = all_within.chunks_exact(AT_ONCE).enumerate().map(|(chunk, within)| {
        // Below zero is what has the bit of its sign set.
        f32x8::from(within).to_bitmask() << (chunk * AT_ONCE)
    });
    !outside.fold(0, |bits, more| bits | more)
}

/// The moves of those pixels of a part whose numbers lie between 0 and 1, with room for what their piece shares with others.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn some(block: &Cubic, part: &Part, out: &mut Rows<'_>) {
    let (along, count, [x, y]) = (block.along(part), part.columns.len(), &mut out.moves);
    for (row, place) in part.places(out.wide) {
        let t = row as f32 * along.step;
        let mut bits = u32::MAX >> (WIDEST - count);
        for (number, room) in NUMBERS.into_iter().zip(block.slack) {
            if bits != 0 && room < f32::INFINITY {
                bits &= held(across(&block.powers, number, t), room, along, count);
            }
        }
        if bits == 0 {
            continue;
        }
        let across = MOVES.map(|lane| across(&block.powers, lane, t));
        while bits != 0 {
            let first = bits.trailing_zeros() as usize;
            let run = first..first + (!(bits >> first)).trailing_zeros() as usize;
            bits &= u32::MAX.checked_shl(run.end as u32).unwrap_or(0);
            let own = place.start + run.start..place.start + run.end;
            moves(across, along, &PIXELS[run], [&mut x[own.clone()], &mut y[own]]);
        }
    }
}
