//! Grain measured on a picture, or on two that follow each other.
//!
//! - From one picture where it is flat: of small blocks, what is left of each when a plane was fitted to it.
//! - From two: the same of their difference, in which what stands still is flat as well; the difference of two has twice the variance.
//! - By channel and by that channel's brightness: structure only ever adds, so of the blocks of one brightness that vary little the
//!   most frequent deviation is the grain's (half-sample mode), and those about it are averaged.
//! - The size is the one at which neighbours go together as closely as they do in those blocks. What the fit of a plane takes away of
//!   wide grain is made up for.
//! - Brightnesses that the picture has too little of get the strength of their neighbours.
//! - Accuracy: 5 % of strength and 0.1 px of size up to a size of 2 px, with some thirty flat blocks a brightness.
//! - Sources: Olsen, "Estimation of noise in images: an evaluation", 1993, for blocks; Liu, Freeman, Szeliski and Kang, "Noise estimation
//!   from a single image", 2006, for strength by brightness as what lies below all; Bickel, "Robust estimators of the mode", 2002.

use rayon::prelude::*;

use super::{Grain, KNOTS, correlation, place};
use crate::{Cancel, Cancelled, Picture, Window};

/// Pixels of a block's side.
const SIDE: usize = 24;
const PIXELS: f32 = (SIDE * SIDE) as f32;
/// What a plane takes of the numbers of a block.
const PLANE: f32 = 3.0;
/// Fewer blocks tell nothing of a brightness.
const FEWEST: usize = 6;
/// Blocks whose deviation is off the most frequent by no more than this share of it are grain alone.
const NEAR: f32 = 0.3;
/// Wider grain is not told from structure.
const WIDEST: f32 = 4.0;
const HALVINGS: usize = 20;

/// What a block tells of one channel.
#[derive(Clone, Copy)]
struct Block {
    knot: usize,
    variance: f32,
    /// How closely neighbours go together.
    correlation: f32,
}

/// What is seen of a picture where it is flat, or of two where nothing moves; none where they tell nothing.
///
/// # Errors
///
/// When it is called off.
pub fn measured(
    picture: &Picture,
    next: Option<&Picture>,
    cancel: &Cancel,
) -> Result<Option<Grain>, Cancelled> {
    let window = next.map_or(picture.window(), |next| picture.window().intersect(next.window()));
    let [red, green, blue] = [0, 1, 2].map(|channel| blocks(picture, next, window, channel, cancel));
    let all = [told(&red?), told(&green?), told(&blue?)];
    if all.iter().all(Option::is_none) {
        return Ok(None);
    }
    let none = ([0.0; KNOTS], 0.0);
    let all = all.map(|told| told.unwrap_or(none));
    Ok(Some(Grain { strength: all.map(|told| told.0), size: all.map(|told| told.1) }))
}

fn blocks(
    picture: &Picture,
    next: Option<&Picture>,
    window: Window,
    channel: usize,
    cancel: &Cancel,
) -> Result<Vec<Block>, Cancelled> {
    let [across, down] = [window.width() / SIDE, window.height() / SIDE];
    let line = |number: usize| {
        cancel.check()?;
        let y = window.y0 + (number * SIDE) as i32;
        let of = |at: usize| block(picture, next, [window.x0 + (at * SIDE) as i32, y], channel);
        Ok((0..across).filter_map(of).collect::<Vec<Block>>())
    };
    let lines: Result<Vec<Vec<Block>>, Cancelled> = (0..down).into_par_iter().map(line).collect();
    Ok(lines?.concat())
}

/// The block whose upper left pixel this is; none where it is not opaque or has no grain at all.
fn block(picture: &Picture, next: Option<&Picture>, [x, y]: [i32; 2], channel: usize) -> Option<Block> {
    let mut values = [[0.0f32; SIDE]; SIDE];
    let mut light = 0.0;
    for (number, out) in values.iter_mut().enumerate() {
        let y = y + number as i32;
        let run = |of: &Picture| (x - of.window().x0) as usize..(x - of.window().x0) as usize + SIDE;
        let own = &picture.row(y)[run(picture)];
        if own.iter().any(|pixel| pixel[3] < 1.0) {
            return None;
        }
        out.iter_mut().zip(own).for_each(|(out, own)| *out = own[channel]);
        light += out.iter().sum::<f32>();
        if let Some(next) = next {
            let next = &next.row(y)[run(next)];
            out.iter_mut()
                .zip(next)
                .for_each(|(out, next)| *out = (*out - next[channel]) * std::f32::consts::FRAC_1_SQRT_2);
        }
    }
    // What does not vary at all shall not seem to by how sums are rounded.
    let first = values[0][0];
    values.iter_mut().flatten().for_each(|value| *value -= first);
    less_its_plane(&mut values);
    let square: f32 = values.iter().flatten().map(|value| value * value).sum::<f32>() / PIXELS;
    (square > 0.0 && square.is_finite()).then(|| Block {
        knot: place(light / PIXELS).round() as usize,
        variance: square,
        correlation: of_neighbours(&values) / square,
    })
}

fn less_its_plane(values: &mut [[f32; SIDE]; SIDE]) {
    let middle = (SIDE - 1) as f32 / 2.0;
    let spread: f32 = (0..SIDE).map(|at| (at as f32 - middle).powi(2)).sum::<f32>() * SIDE as f32;
    let (mut mean, mut across, mut down) = (0.0, 0.0, 0.0);
    for (y, row) in values.iter().enumerate() {
        for (x, value) in row.iter().enumerate() {
            mean += value / PIXELS;
            across += value * (x as f32 - middle) / spread;
            down += value * (y as f32 - middle) / spread;
        }
    }
    for (y, row) in values.iter_mut().enumerate() {
        for (x, value) in row.iter_mut().enumerate() {
            *value -= mean + across * (x as f32 - middle) + down * (y as f32 - middle);
        }
    }
}

/// The mean product of two that lie side by side or one below the other.
fn of_neighbours(values: &[[f32; SIDE]; SIDE]) -> f32 {
    let across: f32 = values.iter().flat_map(|row| row.windows(2)).map(|two| two[0] * two[1]).sum();
    let down: f32 = values
        .windows(2)
        .flat_map(|two| two[0].iter().zip(&two[1]))
        .map(|(above, below)| above * below)
        .sum();
    (across + down) / (2 * SIDE * (SIDE - 1)) as f32
}

/// Strength by brightness, and size.
fn told(blocks: &[Block]) -> Option<([f32; KNOTS], f32)> {
    let mut variances = [None; KNOTS];
    let (mut sum, mut count) = (0.0, 0);
    for (knot, variance) in variances.iter_mut().enumerate() {
        let own: Vec<Block> = blocks.iter().copied().filter(|block| block.knot == knot).collect();
        let grain = of_grain(own);
        if grain.is_empty() {
            continue;
        }
        *variance = Some(grain.iter().map(|block| block.variance).sum::<f32>() / grain.len() as f32);
        sum += grain.iter().map(|block| block.correlation).sum::<f32>();
        count += grain.len();
    }
    if count == 0 {
        return None;
    }
    let size = size_of(sum / count as f32);
    let left = 1.0 - taken_by_plane(size);
    let known: Vec<(f32, f32)> = variances
        .iter()
        .enumerate()
        .filter_map(|(knot, variance)| Some((knot as f32, ((*variance)? / left).sqrt())))
        .collect();
    Some((std::array::from_fn(|knot| between(&known, knot as f32)), size))
}

/// Blocks of one brightness in which nothing but grain is seen; none where they are too few.
fn of_grain(mut blocks: Vec<Block>) -> Vec<Block> {
    if blocks.len() < FEWEST {
        return Vec::new();
    }
    blocks.sort_by(|a, b| a.variance.total_cmp(&b.variance));
    let calm: Vec<f32> =
        blocks[..blocks.len().div_ceil(2)].iter().map(|block| block.variance.sqrt()).collect();
    let usual = most_frequent(&calm);
    blocks.retain(|block| (block.variance.sqrt() - usual).abs() <= NEAR * usual);
    blocks
}

/// The half-sample mode of numbers in order.
fn most_frequent(sorted: &[f32]) -> f32 {
    let mut about = sorted;
    while about.len() > 2 {
        let half = about.len().div_ceil(2);
        let width = |first: usize| about[first + half - 1] - about[first];
        let first = (0..=about.len() - half).min_by(|a, b| width(*a).total_cmp(&width(*b))).unwrap_or(0);
        if half == about.len() {
            break;
        }
        about = &about[first..first + half];
    }
    about.iter().sum::<f32>() / about.len().max(1) as f32
}

/// The share of the variance that the fit of a plane takes away: three numbers of white noise, as many patches of wide grain.
fn taken_by_plane(size: f32) -> f32 {
    let along = 1.0 + (1..SIDE).map(|apart| 2.0 * correlation(size, apart)).sum::<f32>();
    (PLANE * along * along / PIXELS).min(0.9)
}

/// The size at which neighbours are seen to go together so closely.
fn size_of(seen: f32) -> f32 {
    let of = |size: f32| {
        let taken = taken_by_plane(size);
        (correlation(size, 1) - taken) / (1.0 - taken)
    };
    let (mut low, mut high) = (0.0, WIDEST);
    for _ in 0..HALVINGS {
        let middle = f32::midpoint(low, high);
        if of(middle) < seen { low = middle } else { high = middle }
    }
    f32::midpoint(low, high)
}

/// Straight between what is known, and as the nearest beyond.
fn between(known: &[(f32, f32)], at: f32) -> f32 {
    let after = known.partition_point(|(place, _)| *place < at);
    match (after.checked_sub(1).map(|before| known[before]), known.get(after)) {
        (Some((before, from)), Some((after, to))) => from + (to - from) * (at - before) / (after - before),
        (Some((_, only)), None) => only,
        (None, Some((_, only))) => *only,
        (None, None) => 0.0,
    }
}
