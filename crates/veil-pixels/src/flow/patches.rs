//! Where each patch of one picture is found again in another, to a fraction of a pixel.
//!
//! - Patches of 8 by 8 pixels, every fourth pixel along and down, so that four hold each pixel.
//! - Method: from the most alike of a few beginnings, Gauss-Newton steps whose slopes are those of the patch itself, so
//!   that they are worked out once; brightness that is added to a whole patch does not count.
//! - Source: Baker and Matthews, "Lucas-Kanade 20 Years On", 2004, for the steps; Kroeger, Timofte, Dai and Van Gool, "Fast
//!   Optical Flow using Dense Inverse Search", 2016, for the patches and for what their votes count.

use multiversion::multiversion;

use crate::flow::BORDER;
use crate::{Cancel, Cancelled, Field, Map, Move, Picture, Raster, Rgba, Window};

/// Pixels along a side of a patch.
pub(super) const SIZE: usize = 8;
/// Pixels from one patch to the next.
const STEP: i32 = 4;
/// Most steps that are taken.
const STEPS: usize = 12;
/// Squared length, in pixels², of a step that is not worth another.
const SHORT: f32 = 1e-4;
/// Squared distance, in pixels², from which a beginning is another one.
const OTHER: f32 = 0.25;

const PIXELS: f32 = (SIZE * SIZE) as f32;

type Values = [[f32; SIZE]; SIZE];

/// How many patches lie along an axis of so many pixels.
fn count(length: i32) -> i32 {
    (length - SIZE as i32 + STEP - 1) / STEP + 1
}

/// The first pixel of a patch by its number; the last patch ends with the picture.
fn first(number: i32, length: i32) -> i32 {
    (number * STEP).min(length - SIZE as i32)
}

/// A patch as it is sought.
struct Patch {
    values: Values,
    /// Slopes along and down.
    slopes: [Values; 2],
    /// Sums of the slopes.
    sums: [f32; 2],
    /// What turns the two sums of differences by slopes into a step.
    inverse: [f32; 3],
}

/// What a patch is like at a place of the other picture.
#[derive(Clone, Copy)]
struct Likeness {
    /// Sum of squared differences, less what a change of brightness explains.
    apart: f32,
    /// How much brighter it is there.
    brighter: f32,
    /// The step that comes next.
    step: Move,
}

/// Eight pixels of a row between pixels, by shares of the four about each.
#[inline(always)]
fn between(above: &[f32; SIZE + 1], below: &[f32; SIZE + 1], shares: &[f32; 4]) -> [f32; SIZE] {
    let mut read = [0.0; SIZE];
    for at in 0..SIZE {
        let upper = above[at] * shares[0] + above[at + 1] * shares[1];
        read[at] = upper + (below[at] * shares[2] + below[at + 1] * shares[3]);
    }
    read
}

/// The other picture, with a border, so that patches may lead out of the frame.
#[derive(Clone, Copy)]
pub(super) struct Sought<'a> {
    pixels: &'a [f32],
    stride: usize,
    least: Move,
    most: Move,
}

impl<'a> Sought<'a> {
    /// `bordered` must lead [`BORDER`] pixels beyond a picture from the origin on.
    pub(super) fn new(bordered: &'a Field) -> Self {
        let Window { x0, y0, x1, y1 } = bordered.window();
        let room = SIZE as i32 + 1;
        Self {
            pixels: bordered.pixels(),
            stride: bordered.window().width(),
            least: [x0 as f32, y0 as f32],
            most: [(x1 - room) as f32, (y1 - room) as f32],
        }
    }

    /// Where the pixel before a place lies and what shares the four about it have.
    #[inline(always)]
    fn place(&self, at: Move) -> (usize, [f32; 4]) {
        // No number lies at the least place.
        let [x, y] =
            [0, 1].map(|axis| at[axis].max(self.least[axis]).min(self.most[axis]) - self.least[axis]);
        let (column, row) = (x as usize, y as usize);
        let (right, down) = (x - column as f32, y - row as f32);
        let shares = [(1.0 - right) * (1.0 - down), right * (1.0 - down), (1.0 - right) * down, right * down];
        (row * self.stride + column, shares)
    }

    #[inline(always)]
    fn line(&self, start: usize) -> &'a [f32; SIZE + 1] {
        const NOTHING: [f32; SIZE + 1] = [0.0; SIZE + 1];
        self.pixels.get(start..).and_then(|rest| rest.first_chunk()).unwrap_or(&NOTHING)
    }
}

impl Patch {
    #[inline(always)]
    fn new(from: Sought<'_>, at: [i32; 2]) -> Self {
        let start = from.place([at[0] as f32, at[1] as f32]).0;
        let mut lines = [[0.0; SIZE + 2]; SIZE + 2];
        for (number, line) in lines.iter_mut().enumerate() {
            let begin = start + number * from.stride - from.stride - 1;
            line.copy_from_slice(&from.pixels[begin..begin + SIZE + 2]);
        }
        let mut made = Self {
            values: [[0.0; SIZE]; SIZE],
            slopes: [[[0.0; SIZE]; SIZE]; 2],
            sums: [0.0; 2],
            inverse: [0.0; 3],
        };
        let mut sums = [[0.0f32; SIZE]; 5];
        for row in 0..SIZE {
            for column in 0..SIZE {
                let along = (lines[row + 1][column + 2] - lines[row + 1][column]) * 0.5;
                let down = (lines[row + 2][column + 1] - lines[row][column + 1]) * 0.5;
                made.values[row][column] = lines[row + 1][column + 1];
                made.slopes[0][row][column] = along;
                made.slopes[1][row][column] = down;
                sums[0][column] += along;
                sums[1][column] += down;
                sums[2][column] += along * along;
                sums[3][column] += along * down;
                sums[4][column] += down * down;
            }
        }
        let [along, down, xx, xy, yy] = sums.map(|lanes| lanes.iter().sum::<f32>());
        made.sums = [along, down];
        let (xx, xy, yy) =
            (xx - along * along / PIXELS, xy - along * down / PIXELS, yy - down * down / PIXELS);
        // Where nothing is seen along one way no step leads that way.
        let damped = 1e-3 * (xx + yy) + 1e-6;
        let (xx, yy) = (xx + damped, yy + damped);
        let whole = xx * yy - xy * xy;
        made.inverse = [yy / whole, -xy / whole, xx / whole];
        made
    }

    #[inline(always)]
    fn against(&self, other: Sought<'_>, at: Move) -> Likeness {
        let (start, shares) = other.place(at);
        let mut sums = [[0.0f32; SIZE]; 4];
        let mut above = other.line(start);
        for row in 0..SIZE {
            let below = other.line(start + (row + 1) * other.stride);
            let read = between(above, below, &shares);
            for column in 0..SIZE {
                let difference = read[column] - self.values[row][column];
                sums[0][column] += difference;
                sums[1][column] += difference * difference;
                sums[2][column] += difference * self.slopes[0][row][column];
                sums[3][column] += difference * self.slopes[1][row][column];
            }
            above = below;
        }
        let [sum, squares, along, down] = sums.map(|lanes| lanes.iter().sum::<f32>());
        let mean = sum / PIXELS;
        let (along, down) = (along - mean * self.sums[0], down - mean * self.sums[1]);
        let [xx, xy, yy] = self.inverse;
        Likeness {
            apart: squares - mean * sum,
            brighter: mean,
            step: [xx * along + xy * down, xy * along + yy * down],
        }
    }

    /// The move at which it is most alike, from the best of some, and how much brighter it is there; then nothing.
    #[inline(always)]
    fn found(&self, other: Sought<'_>, at: [f32; 2], starts: &[Move; 5]) -> Rgba {
        let like_at = |way: Move| self.against(other, [at[0] + way[0], at[1] + way[1]]);
        let (mut start, mut like) = (starts[0], like_at(starts[0]));
        for other_start in &starts[1..] {
            if square_of_way(*other_start, start) > OTHER {
                let this = like_at(*other_start);
                if this.apart < like.apart {
                    (start, like) = (*other_start, this);
                }
            }
        }
        let mut way = start;
        for _ in 0..STEPS {
            let next = [way[0] - like.step[0], way[1] - like.step[1]];
            let this = like_at(next);
            let nearer = this.apart < like.apart;
            if !nearer {
                break;
            }
            let long = square_of_way(next, way);
            (way, like) = (next, this);
            if long < SHORT {
                break;
            }
        }
        if square_of_way(way, start) > (SIZE * SIZE) as f32 {
            (way, like) = (start, like_at(start));
        }
        [way[0], way[1], like.brighter, 0.0]
    }
}

#[inline(always)]
fn square_of_way(to: Move, from: Move) -> f32 {
    let [x, y] = [to[0] - from[0], to[1] - from[1]];
    x * x + y * y
}

/// The move of each patch, with how much brighter it is there. `starts` has a move for every pixel of the window.
pub(super) fn search(
    from: &Field,
    other: &Field,
    starts: &Map,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let (window, half) = (starts.window(), SIZE as i32 / 2);
    let at = |[x, y]: [i32; 2]| {
        starts.row((y + half).clamp(0, window.y1 - 1))[(x + half).clamp(0, window.x1 - 1) as usize]
    };
    each_patch([from, other], window, cancel, at)
}

/// The same, each from what is most alike of its own move and those of the patches about it that share no pixel with it.
pub(super) fn handed_on(
    from: &Field,
    other: &Field,
    found: &Picture,
    window: Window,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let last = [found.window().x1 - 1, found.window().y1 - 1];
    let at = |place: [i32; 2]| {
        // The last patches do not lie on a whole step.
        let [right, down] =
            [0, 1].map(|axis| ((place[axis] + STEP - 1).div_euclid(STEP)).clamp(0, last[axis]));
        let [x, y, _, _] = found.row(down)[right as usize];
        [x, y]
    };
    each_patch([from, other], window, cancel, at)
}

/// Each patch of a window, sought from the moves that `start` has for its first pixel and for those of the patches left,
/// right, above and below that share no pixel with it.
fn each_patch(
    [from, other]: [&Field; 2],
    window: Window,
    cancel: &Cancel,
    start: impl Fn([i32; 2]) -> Move + Copy + Sync,
) -> Result<Picture, Cancelled> {
    let size = [window.width() as i32, window.height() as i32];
    let patches = Window::sized(count(size[0]) as u32, count(size[1]) as u32);
    let pair = [Sought::new(from), Sought::new(other)];
    Raster::written(patches, cancel, |number, row| {
        patch_row(pair, size[0], first(number, size[1]), start, row)
    })
}

#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn patch_row<F: Fn([i32; 2]) -> Move>(
    [from, other]: [Sought<'_>; 2],
    wide: i32,
    y: i32,
    start: F,
    row: &mut [Rgba],
) {
    let far = SIZE as i32;
    for (number, out) in (0..).zip(row) {
        let x = first(number, wide);
        let starts = [[x, y], [x - far, y], [x + far, y], [x, y - far], [x, y + far]].map(&start);
        *out = Patch::new(from, [x, y]).found(other, [x as f32, y as f32], &starts);
    }
}

/// The move of every pixel: the mean of what the patches say that hold it, each counted by how alike the pixel is there.
pub(super) fn dense(
    from: &Field,
    other: &Field,
    found: &Picture,
    window: Window,
    cancel: &Cancel,
) -> Result<Map, Cancelled> {
    let (wide, high) = (window.width(), window.height() as i32);
    let (sought, rows) = (Sought::new(other), found.window().height() as i32);
    Raster::written_with(
        window,
        cancel,
        || vec![[0.0f32; 3]; wide],
        |votes, y, row| {
            votes.fill([0.0; 3]);
            let own = &from.row(y)[BORDER as usize..];
            let begins = (y - SIZE as i32 + 1).max(0).div_euclid(STEP).min(rows - 1);
            for number in begins..rows.min(y / STEP + 2) {
                let top = first(number, high);
                if (top..top + SIZE as i32).contains(&y) {
                    vote(sought, found.row(number), own, y, wide as i32, votes);
                }
            }
            for (out, [x, y, count]) in row.iter_mut().zip(votes) {
                *out = [*x / *count, *y / *count];
            }
        },
    )
}

/// Adds what a row of patches says of a row of pixels.
#[multiversion(targets("x86_64+avx512f+avx512vl+fma", "x86_64+avx2+fma", "aarch64+neon"))]
fn vote(other: Sought<'_>, found: &[Rgba], own: &[f32], y: i32, wide: i32, votes: &mut [[f32; 3]]) {
    for (number, [along, down, brighter, _]) in (0..).zip(found) {
        let x = first(number, wide) as usize;
        let (start, shares) = other.place([x as f32 + along, y as f32 + down]);
        let read = between(other.line(start), other.line(start + other.stride), &shares);
        for ((vote, read), own) in votes[x..x + SIZE].iter_mut().zip(&read).zip(&own[x..]) {
            let share = 1.0 / (read - own - brighter).abs().max(1.0);
            vote[0] += share * along;
            vote[1] += share * down;
            vote[2] += share;
        }
    }
}
