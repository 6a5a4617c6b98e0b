//! The inverse of a bent surface, block by block.

use super::seeds::Seeds;
use super::{Bent, Spot};
use crate::{Cancel, Cancelled, Window};

/// Blocks start no larger than this, in pixels, and are cut in four until they are right.
const LARGEST: i32 = 32;
/// Blocks that no inverse is found for are made of triangles from this size down.
const HARD: i32 = 4;
/// Steps of Newton's method before a corner is given up.
const STEPS: usize = 16;

/// How far an inverse may be off.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Exactness {
    /// In pixels, half way between the places that are right.
    pub pixels: f64,
    /// No block there is larger than this, in pixels.
    pub largest: f64,
}

/// A value, how it changes by x and how by y; its lanes are both numbers of the surface, and the moves.
#[derive(Clone, Copy)]
struct Sample {
    value: [f64; 4],
    by: [[f64; 4]; 2],
}

fn lanes(f: impl Fn(usize) -> f64) -> [f64; 4] {
    [f(0), f(1), f(2), f(3)]
}

impl Sample {
    /// The place of the surface that has moved to a place, looked for from two numbers. None where none is found.
    #[inline(always)]
    fn at(bent: &impl Bent, to: [f64; 2], from: [f64; 2]) -> Option<Self> {
        // What is left after a step is its square times how strongly the surface bends.
        const NEAR: f64 = 0.02;
        let mut numbers = from;
        for _ in 0..STEPS {
            let spot = bent.at(numbers);
            let way = [to[0] - spot.moved[0], to[1] - spot.moved[1]];
            let [u, v] = spot.moved_by;
            let area = u[0] * v[1] - u[1] * v[0];
            let back = [[v[1] / area, -u[1] / area], [-v[0] / area, u[0] / area]];
            let step = [0, 1].map(|number| back[0][number] * way[0] + back[1][number] * way[1]);
            if !(step[0].is_finite() && step[1].is_finite()) {
                return None;
            }
            numbers = [numbers[0] + step[0], numbers[1] + step[1]];
            if way[0].abs() + way[1].abs() < NEAR {
                return (spot.area() > 0.0).then(|| Self::of(&spot, to, numbers, step, back));
            }
        }
        None
    }

    #[inline(always)]
    fn of(spot: &Spot, to: [f64; 2], numbers: [f64; 2], step: [f64; 2], back: [[f64; 2]; 2]) -> Self {
        let [u, v] = spot.rest_by;
        let rest = [0, 1].map(|axis| spot.rest[axis] + u[axis] * step[0] + v[axis] * step[1]);
        let by = [0, 1].map(|way| {
            let [a, b] = back[way];
            let rest_by = [0, 1].map(|axis| u[axis] * a + v[axis] * b);
            let own = [f64::from(way == 0), f64::from(way == 1)];
            [a, b, own[0] - rest_by[0], own[1] - rest_by[1]]
        });
        Self { value: [numbers[0], numbers[1], to[0] - rest[0], to[1] - rest[1]], by }
    }

    fn numbers(values: [f64; 4]) -> [f64; 2] {
        [values[0], values[1]]
    }

    fn moves(&self) -> [f32; 2] {
        [self.value[2] as f32, self.value[3] as f32]
    }
}

/// What the cubic through two ends has half way between them: its value, and its slope by the ends' measure.
fn half(ends: [[f64; 4]; 2], slopes: [[f64; 4]; 2], size: f64) -> [[f64; 4]; 2] {
    let ([a, b], [by_a, by_b]) = (ends, slopes);
    [
        lanes(|lane| (a[lane] + b[lane]) / 2.0 + size / 8.0 * (by_a[lane] - by_b[lane])),
        lanes(|lane| 1.5 / size * (b[lane] - a[lane]) - (by_a[lane] + by_b[lane]) / 4.0),
    ]
}

/// A square of pixels with its corners: at the left and right above, then below.
struct Block {
    x: i32,
    y: i32,
    size: i32,
    corners: [Sample; 4],
}

impl Block {
    fn window(&self) -> Window {
        Window::new(self.x, self.y, self.x + self.size, self.y + self.size)
    }

    /// Half way along the side between two corners.
    fn side(&self, [from, to]: [usize; 2], way: usize) -> [[f64; 4]; 2] {
        let [a, b] = [from, to].map(|corner| &self.corners[corner]);
        half([a.value, b.value], [a.by[way], b.by[way]], f64::from(self.size))
    }

    /// What is foretold above, at the left, in the middle, at the right and below, and its slope along that side: in the
    /// middle that across.
    fn foretold(&self) -> [[[f64; 4]; 2]; 5] {
        let size = f64::from(self.size);
        let [above, left, right, below] =
            [self.side([0, 1], 0), self.side([0, 2], 1), self.side([1, 3], 1), self.side([2, 3], 0)];
        let [a, b, c, d] = &self.corners;
        // How the slopes across change downward, by the corners' values and slopes.
        let twists = lanes(|lane| b.by[1][lane] - a.by[1][lane] - d.by[1][lane] + c.by[1][lane]);
        let across =
            |a: &Sample, c: &Sample| lanes(|lane| (a.by[0][lane] + c.by[0][lane]) / 2.0 + twists[lane] / 8.0);
        let middle = half([left[0], right[0]], [across(a, c), across(b, d)], size);
        [above, left, middle, right, below]
    }

    /// The bicubic of the moves: by powers of the way across and, in each, of the way down.
    fn cubic(&self) -> Cubic {
        let size = f64::from(self.size);
        let [a, b, c, d] = &self.corners;
        let powers = [2, 3].map(|lane| {
            let [fa, fb, fc, fd] = [a, b, c, d].map(|corner| corner.value[lane]);
            let [ax, bx, cx, dx] = [a, b, c, d].map(|corner| corner.by[0][lane] * size);
            let [ay, by, cy, dy] = [a, b, c, d].map(|corner| corner.by[1][lane] * size);
            // Twists that the slopes and values of the corners tell.
            let all = fd - fb - fc + fa;
            let twist = |x: f64, y: f64| x + y - all;
            let (above, below, left, right) = (by - ay, dy - cy, cx - ax, dx - bx);
            let [at, bt, ct, dt] =
                [twist(left, above), twist(right, above), twist(left, below), twist(right, below)];
            // Down each side, and how that changes across.
            let cubic = |from: f64, to: f64, starts: f64, ends: f64| {
                let way = to - from;
                [from, starts, 3.0 * way - 2.0 * starts - ends, starts + ends - 2.0 * way]
            };
            let (left, right) = (cubic(fa, fc, ay, cy), cubic(fb, fd, by, dy));
            let (left_x, right_x) = (cubic(ax, cx, at, ct), cubic(bx, dx, bt, dt));
            let across =
                [0, 1, 2, 3].map(|power| cubic(left[power], right[power], left_x[power], right_x[power]));
            [0, 1, 2, 3].map(|x| [0, 1, 2, 3].map(|y| across[y][x] as f32))
        });
        Cubic { x: self.x, y: self.y, size: self.size, powers }
    }

    /// Its four quarters, with what is there half way between its corners.
    fn quarters(&self, [above, left, middle, right, below]: [Sample; 5]) -> [Self; 4] {
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

/// Moves over a square of pixels as a bicubic.
struct Cubic {
    x: i32,
    y: i32,
    size: i32,
    /// Of both axes: by powers of the way across and, in each, of the way down.
    powers: [[[f32; 4]; 4]; 2],
}

impl Cubic {
    /// The part of a row of pixels that it covers.
    fn write(&self, y: i32, first: i32, row: &mut [[f32; 2]]) {
        let inverse = 1.0 / self.size as f32;
        let t = (y - self.y) as f32 * inverse;
        let [by_x, by_y] = self.powers.map(|powers| powers.map(|[a, b, c, d]| ((d * t + c) * t + b) * t + a));
        let from = self.x.max(first);
        let to = (self.x + self.size).min(first + row.len() as i32);
        if from >= to {
            return;
        }
        let ahead = from - self.x;
        for (index, out) in row[(from - first) as usize..(to - first) as usize].iter_mut().enumerate() {
            let s = (ahead + index as i32) as f32 * inverse;
            *out = [by_x, by_y].map(|[a, b, c, d]| ((d * s + c) * s + b) * s + a);
        }
    }
}

/// Moves of a run of pixels in a row.
struct Run {
    x: i32,
    y: i32,
    moves: Vec<[f32; 2]>,
}

/// A row of the largest blocks.
#[derive(Default)]
struct Band {
    cubics: Vec<Cubic>,
    runs: Vec<Run>,
}

/// The inverse of a bent surface over a window.
pub(super) struct Inverse {
    window: Window,
    size: i32,
    /// The number of the first row of blocks.
    first: i32,
    bands: Vec<Band>,
}

impl Inverse {
    pub(super) fn over(bent: &impl Bent, window: Window, cancel: &Cancel) -> Result<Self, Cancelled> {
        use rayon::prelude::*;
        let size = largest(bent.grain());
        let seeds = Seeds::over(bent, window, size, cancel)?;
        let bands = (0..seeds.blocks_down()).into_par_iter().map(|number| {
            cancel.check()?;
            Ok(Filler { bent, seeds: &seeds, window, band: Band::default() }.band(number, size))
        });
        let bands = bands.collect::<Result<Vec<_>, Cancelled>>()?;
        Ok(Self { window, size, first: seeds.block(1, 0), bands })
    }

    /// The moves of a row of pixels of the window.
    pub(super) fn write(&self, y: i32, row: &mut [[f32; 2]]) {
        let band = &self.bands[(y.div_euclid(self.size) - self.first) as usize];
        for cubic in &band.cubics {
            if (cubic.y..cubic.y + cubic.size).contains(&y) {
                cubic.write(y, self.window.x0, row);
            }
        }
        for run in &band.runs {
            if run.y == y {
                let (from, to) =
                    (run.x.max(self.window.x0), (run.x + run.moves.len() as i32).min(self.window.x1));
                if from < to {
                    let place = |x: i32, first: i32| (x - first) as usize;
                    row[place(from, self.window.x0)..place(to, self.window.x0)]
                        .copy_from_slice(&run.moves[place(from, run.x)..place(to, run.x)]);
                }
            }
        }
    }
}

/// The size of blocks for parts of a size.
fn largest(grain: f64) -> i32 {
    let mut size = LARGEST;
    while size > HARD && f64::from(size) > grain {
        size /= 2;
    }
    size
}

/// Fills a row of blocks.
struct Filler<'a, B> {
    bent: &'a B,
    seeds: &'a Seeds,
    window: Window,
    band: Band,
}

impl<B: Bent> Filler<'_, B> {
    fn band(mut self, number: usize, size: i32) -> Band {
        let y = self.seeds.block(1, number) * size;
        let line = |number: usize, y: i32| -> Vec<Option<Sample>> {
            let seeds = self.seeds.line(number).iter().enumerate();
            let sample = |(column, seed): (usize, &Option<[f64; 2]>)| {
                self.sample([self.seeds.block(0, column) * size, y], [0.0; 2], (*seed)?)
            };
            seeds.map(sample).collect()
        };
        let (above, below) = (line(number, y), line(number + 1, y + size));
        for column in 0..self.seeds.blocks_across() {
            let x = self.seeds.block(0, column) * size;
            let mut hard = Vec::new();
            let corners = [above[column], above[column + 1], below[column], below[column + 1]];
            match corners {
                [Some(a), Some(b), Some(c), Some(d)] => {
                    self.block(&Block { x, y, size, corners: [a, b, c, d] }, &mut hard);
                }
                _ => hard.push(Window::new(x, y, x + size, y + size)),
            }
            if !hard.is_empty() {
                self.hard(Window::new(x, y, x + size, y + size), &hard);
            }
        }
        self.band
    }

    /// What lies on the centre of a pixel, so far on from it.
    fn sample(&self, [x, y]: [i32; 2], on: [f64; 2], from: [f64; 2]) -> Option<Sample> {
        Sample::at(self.bent, [f64::from(x) + 0.5 + on[0], f64::from(y) + 0.5 + on[1]], from)
    }

    /// Fills a block; parts of it for which no inverse is found are told.
    fn block(&mut self, block: &Block, hard: &mut Vec<Window>) {
        let window = block.window();
        if window.intersect(self.window).is_empty() {
            return;
        }
        let (size, half) = (f64::from(block.size), f64::from(block.size) / 2.0);
        let places = [[half, 0.0], [0.0, half], [half; 2], [size, half], [half, size]];
        let foretold = block.foretold();
        let mut found = [block.corners[0]; 5];
        for ((found, place), told) in found.iter_mut().zip(places).zip(foretold) {
            let Some(sample) = self.sample([block.x, block.y], place, Sample::numbers(told[0])) else {
                return self.torn(block, hard);
            };
            *found = sample;
        }
        let [left, top] = [block.x, block.y].map(|at| f64::from(at) + 0.5);
        let wanted = self.bent.exactness([left, top, left + size, top + size]);
        // A corner in the surface may lie so that what is half way is right by chance; the slope is not, then.
        let off = |told: &[[f64; 4]; 2], found: &Sample, way: usize| {
            let off = |lane: usize| {
                (told[0][lane] - found.value[lane]).abs()
                    + size / 8.0 * (told[1][lane] - found.by[way][lane]).abs()
            };
            off(2).max(off(3))
        };
        let ways = [0, 1, 0, 1, 0];
        let all = foretold.iter().zip(&found).zip(ways);
        let most = all.map(|((told, found), way)| off(told, found, way)).fold(0.0, f64::max);
        if most <= wanted.pixels && size <= wanted.largest {
            self.band.cubics.push(block.cubic());
        } else if block.size > 2 {
            for quarter in block.quarters(found) {
                self.block(&quarter, hard);
            }
        } else {
            let [above, left, middle, ..] = found;
            for (y, [first, second]) in (block.y..).zip([[block.corners[0], above], [left, middle]]) {
                self.band.runs.push(Run { x: block.x, y, moves: vec![first.moves(), second.moves()] });
            }
        }
    }

    /// A block in which the surface is torn or on its back somewhere: what is right of it, and what is hard.
    fn torn(&mut self, block: &Block, hard: &mut Vec<Window>) {
        if block.size <= HARD {
            hard.push(block.window());
            return;
        }
        let half = block.size / 2;
        for [x, y] in [[0, 0], [half, 0], [0, half], [half, half]] {
            let at = [block.x + x, block.y + y];
            // From the nearest of what is known.
            let seed = block.corners[usize::from(x > 0) + 2 * usize::from(y > 0)];
            let seed = Sample::numbers(seed.value);
            let far = f64::from(half);
            let corners =
                [[0.0, 0.0], [far, 0.0], [0.0, far], [far, far]].map(|on| self.sample(at, on, seed));
            match corners {
                [Some(a), Some(b), Some(c), Some(d)] => {
                    self.block(&Block { x: at[0], y: at[1], size: half, corners: [a, b, c, d] }, hard);
                }
                _ => hard.push(Window::new(at[0], at[1], at[0] + half, at[1] + half)),
            }
        }
    }

    /// Fills parts of a block by the triangles that stand for the surface there.
    fn hard(&mut self, block: Window, parts: &[Window]) {
        let wide = block.width();
        let mut moves = vec![[0.0f32; 2]; wide * block.height()];
        for part in self.seeds.parts_at(block) {
            for triangle in part.triangles(self.bent) {
                for y in triangle.rows(block.y0..=block.y1 - 1) {
                    for x in triangle.columns(y, block.x0..=block.x1 - 1) {
                        let at = (y - block.y0) as usize * wide + (x - block.x0) as usize;
                        moves[at] = triangle.at([x, y]).map(|by| by as f32);
                    }
                }
            }
        }
        for part in parts {
            for y in part.y0..part.y1 {
                let from = (y - block.y0) as usize * wide + (part.x0 - block.x0) as usize;
                let moves = moves[from..from + part.width()].to_vec();
                self.band.runs.push(Run { x: part.x0, y, moves });
            }
        }
    }
}
