//! A square of pixels, and the bicubic through what its corners have.

use multiversion::multiversion;

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
        Cubic { x: self.x, y: self.y, size: self.size, holds, slack: self.slack(), powers }
    }

    /// How much of each number [`SHARED`] is.
    fn slack(&self) -> [f32; 2] {
        [0, 1].map(|number| {
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

/// By powers of the way down and, in each, of each lane by powers of the way across.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn powers(corners: &[Sample; 4], size: f64) -> [[f32; 16]; 4] {
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
    let mut powers = [[0.0; 16]; 4];
    for down in 0..4 {
        let across = cubics(left[down], right[down], left_by[down], right_by[down]);
        for (power, lanes) in across.iter().enumerate() {
            for lane in 0..4 {
                powers[down][4 * lane + power] = lanes[lane] as f32;
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
    slack: [f32; 2],
    /// By powers of the way down and, in each, of each lane by powers of the way across.
    powers: [[f32; 16]; 4],
}

impl Cubic {
    /// The least and the most of its moves by both axes: they lie within the corners of its Bezier net.
    pub(in crate::warp) fn bounds(&self) -> [[f32; 2]; 2] {
        // How much of each power's number a corner has.
        const SHARES: [[f32; 4]; 4] =
            [[1.0, 0.0, 0.0, 0.0], [1.0, 1.0 / 3.0, 0.0, 0.0], [1.0, 2.0 / 3.0, 1.0 / 3.0, 0.0], [1.0; 4]];
        let mut bounds = [[f32::MAX, f32::MIN]; 2];
        for down in SHARES {
            let mut along = [0.0f32; 16];
            for (powers, share) in self.powers.iter().zip(down) {
                for (along, power) in along.iter_mut().zip(powers) {
                    *along += share * power;
                }
            }
            for across in SHARES {
                for (bounds, first) in bounds.iter_mut().zip([8, 12]) {
                    let corner = (0..4).map(|power| across[power] * along[first + power]).sum::<f32>();
                    *bounds = [bounds[0].min(corner), bounds[1].max(corner)];
                }
            }
        }
        bounds
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
        for (axis, first) in [8, 12].into_iter().enumerate() {
            let (mut across, mut down) = ([0.0; 4], [0.0; 4]);
            for power in 0..4 {
                let [a, b, c, d] = [0, 1, 2, 3].map(|row: usize| f64::from(self.powers[row][first + power]));
                across[power] = ((d * t + c) * t + b) * t + a;
                down[power] = (3.0 * d * t + 2.0 * c) * t + b;
            }
            let [a, b, c, d] = across;
            made[0][axis] = ((d * s + c) * s + b) * s + a;
            made[1][axis] = ((3.0 * d * s + 2.0 * c) * s + b) / size;
            let [a, b, c, d] = down;
            made[2][axis] = (((d * s + c) * s + b) * s + a) / size;
        }
        made
    }

    /// The part of a row of pixels that it covers: of a whole block, or of what its piece holds of it.
    #[inline(always)]
    pub(super) fn write(&self, y: i32, first: i32, row: &mut [[f32; 2]]) {
        let (from, to) = (self.x.max(first), (self.x + self.size).min(first + row.len() as i32));
        if from >= to {
            return;
        }
        let inverse = 1.0 / self.size as f32;
        let along = Along { start: (from - self.x) as f32, step: inverse };
        let (t, out) =
            ((y - self.y) as f32 * inverse, &mut row[(from - first) as usize..(to - first) as usize]);
        match self.holds {
            Holds::All => whole(&self.powers, t, along, out),
            _ => held(&self.powers, t, self.slack, along, out),
        }
    }
}

/// Blocks are no wider.
pub(super) const WIDEST: usize = 32;

/// Where in a block a row of pixels starts, and how far the next is, both in shares of its size.
#[derive(Clone, Copy)]
struct Along {
    start: f32,
    step: f32,
}

/// Each lane's powers of the way across at a way down.
#[inline(always)]
fn across(powers: &[[f32; 16]; 4], t: f32) -> [f32; 16] {
    let mut across = [0.0; 16];
    for at in 0..16 {
        across[at] = ((powers[3][at] * t + powers[2][at]) * t + powers[1][at]) * t + powers[0][at];
    }
    across
}

/// The cubic of a lane at each of some shares of the way.
#[inline(always)]
fn run(at: &[f32; 16], lane: usize, shares: &[f32], made: &mut [f32]) {
    let (a, b, c, d) = (at[4 * lane], at[4 * lane + 1], at[4 * lane + 2], at[4 * lane + 3]);
    for (made, s) in made.iter_mut().zip(shares) {
        *made = ((d * s + c) * s + b) * s + a;
    }
}

/// The numbers of pixels from the first on: telling them from whole numbers takes longer than all the rest.
const NUMBERS: [f32; WIDEST] = {
    let mut numbers = [0.0; WIDEST];
    let mut at = 0;
    while at < WIDEST {
        numbers[at] = at as f32;
        at += 1;
    }
    numbers
};

#[inline(always)]
fn fill(along: Along, shares: &mut [f32]) {
    for (share, number) in shares.iter_mut().zip(&NUMBERS) {
        *share = (along.start + number) * along.step;
    }
}

/// The moves of a row of a block by their cubics.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn whole(powers: &[[f32; 16]; 4], t: f32, along: Along, out: &mut [[f32; 2]]) {
    let at = across(powers, t);
    let (mut shares, mut x, mut y) = ([0.0; WIDEST], [0.0; WIDEST], [0.0; WIDEST]);
    let count = out.len().min(WIDEST);
    fill(along, &mut shares[..count]);
    run(&at, 2, &shares[..count], &mut x[..count]);
    run(&at, 3, &shares[..count], &mut y[..count]);
    for ((out, x), y) in out.iter_mut().zip(&x[..count]).zip(&y[..count]) {
        *out = [*x, *y];
    }
}

/// A side of a piece bends by less than so many times its room within a row of a block.
const BENDS: f32 = 1000.0;

/// The same where the numbers of a piece lie between 0 and 1, with room for what it shares with others.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn held(powers: &[[f32; 16]; 4], t: f32, room: [f32; 2], along: Along, out: &mut [[f32; 2]]) {
    let at = across(powers, t);
    let [mut shares, mut u, mut v, mut x, mut y] = [[0.0; WIDEST]; 5];
    let count = out.len().min(WIDEST);
    fill(along, &mut shares[..count]);
    let (most_u, most_v) = (0.5 + room[0], 0.5 + room[1]);
    // How far both ends are outside, at least and at most, where a side that bends a little within the row is taken for straight.
    let ends = [shares[0], shares[count - 1]];
    let far = |lane: usize, most: f32, room: f32| {
        let [a, b] = ends.map(|s| {
            ((at[4 * lane + 3] * s + at[4 * lane + 2]) * s + at[4 * lane + 1]) * s + at[4 * lane] - 0.5
        });
        let apart = a.min(b) - most > BENDS * room || a.max(b) + most < -BENDS * room;
        let within = a.abs().max(b.abs()) - most < -BENDS * room;
        (apart, within)
    };
    let ((apart_u, within_u), (apart_v, within_v)) = (far(0, most_u, room[0]), far(1, most_v, room[1]));
    if apart_u || apart_v {
        return;
    }
    run(&at, 2, &shares[..count], &mut x[..count]);
    run(&at, 3, &shares[..count], &mut y[..count]);
    if within_u && within_v {
        for ((out, x), y) in out[..count].iter_mut().zip(&x[..count]).zip(&y[..count]) {
            *out = [*x, *y];
        }
        return;
    }
    run(&at, 0, &shares[..count], &mut u[..count]);
    run(&at, 1, &shares[..count], &mut v[..count]);
    for (u, v) in u[..count].iter_mut().zip(&v[..count]) {
        // From the middle, so that both sides are asked for at once.
        let (across, down) = ((*u - 0.5).abs() - most_u, (v - 0.5).abs() - most_v);
        *u = if across > down { across } else { down };
    }
    for (((out, x), y), outside) in out[..count].iter_mut().zip(&x[..count]).zip(&y[..count]).zip(&u[..count])
    {
        let [old_x, old_y] = *out;
        let held = *outside <= 0.0;
        *out = [if held { *x } else { old_x }, if held { *y } else { old_y }];
    }
}
