//! Grain measured on a picture, or on two that follow each other.
//!
//! - From one picture where it is flat: of small blocks, what is left of each when a plane was fitted to it.
//! - From two: the same of their difference, in which what stands still is flat as well; the difference of two has twice the variance.
//! - By channel and by that channel's brightness. Structure only ever adds. Of two, the most frequent deviation of the calmer half of
//!   the blocks is the grain's (half-sample mode), and those about it are averaged; of one, in which few blocks are flat, the
//!   calmest tenth is taken, and what that is by chance below the mean of all is made up for.
//! - The size is the one at which neighbours go together as closely as they do in those blocks. What the fit of a plane takes away of
//!   wide grain is made up for.
//! - Brightnesses that the picture has too little of get the strength of their neighbours.
//! - Accuracy, with some thirty flat blocks a brightness: of two 8 % of strength and 0.1 px of size up to a size of 1.5 px, of one
//!   15 % and 0.15 px up to 1 px. Where no part of one picture is flat, its structure is taken for grain.
//! - Sources: Olsen, "Estimation of noise in images: an evaluation", 1993, for blocks; Liu, Freeman, Szeliski and Kang, "Noise estimation
//!   from a single image", 2006, for strength by brightness as what lies below all; Bickel, "Robust estimators of the mode", 2002.

use rayon::prelude::*;

use super::{Grain, KNOTS, correlation, place};
use crate::{Cancel, Cancelled, Picture, Window};

/// Pixels of a block's side, of two pictures and of one.
const OF_TWO: usize = 24;
const OF_ONE: usize = 20;
/// What a plane takes of the numbers of a block.
const PLANE: f32 = 3.0;
/// Fewer blocks tell nothing of a brightness.
const FEWEST: usize = 6;
/// Of one picture fewer are hardly flat; they count only where no brightness has as many.
const FEW_OF_ONE: usize = 30;
/// Blocks whose deviation is off the most frequent by no more than this share of it are grain alone.
const NEAR: f32 = 0.3;
/// The calmest tenth, unless that is too few.
const CALMEST: usize = 10;
/// How many standard deviations of a normal distribution the mean of its lowest share lies below the mean of all.
const BELOW: [(f32, f32); 6] =
    [(0.1, 1.755), (0.2, 1.4), (0.3, 1.159), (0.5, 0.798), (0.7, 0.497), (1.0, 0.0)];
/// By what share deviations of blocks of one picture's grain differ, about.
const USUAL_SPREAD: f32 = 0.1;
/// Grain wider than such a share of a block is mostly taken away with its plane.
const WIDEST: f32 = 0.125;
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
    let of_channel = |channel: usize| match next {
        Some(_) => {
            Ok(told::<OF_TWO>(&blocks::<OF_TWO>(picture, next, window, channel, cancel)?, FEWEST, usual))
        }
        None => {
            let blocks = blocks::<OF_ONE>(picture, None, window, channel, cancel)?;
            let many = told::<OF_ONE>(&blocks, FEW_OF_ONE, calmest);
            Ok(many.or_else(|| told::<OF_ONE>(&blocks, FEWEST, calmest)))
        }
    };
    let all = [of_channel(0)?, of_channel(1)?, of_channel(2)?];
    if all.iter().all(Option::is_none) {
        return Ok(None);
    }
    let none = ([0.0; KNOTS], 0.0);
    let all = all.map(|told| told.unwrap_or(none));
    Ok(Some(Grain { strength: all.map(|told| told.0), size: all.map(|told| told.1) }))
}

fn blocks<const SIDE: usize>(
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
        let of = |at: usize| block::<SIDE>(picture, next, [window.x0 + (at * SIDE) as i32, y], channel);
        Ok((0..across).filter_map(of).collect::<Vec<Block>>())
    };
    let lines: Result<Vec<Vec<Block>>, Cancelled> = (0..down).into_par_iter().map(line).collect();
    Ok(lines?.concat())
}

/// The block whose upper left pixel this is; none where it is not opaque or has no grain at all.
fn block<const SIDE: usize>(
    picture: &Picture,
    next: Option<&Picture>,
    [x, y]: [i32; 2],
    channel: usize,
) -> Option<Block> {
    let pixels = (SIDE * SIDE) as f32;
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
    let square: f32 = values.iter().flatten().map(|value| value * value).sum::<f32>() / pixels;
    (square > 0.0 && square.is_finite()).then(|| Block {
        knot: place(light / pixels).round() as usize,
        variance: square,
        correlation: of_neighbours(&values) / square,
    })
}

fn less_its_plane<const SIDE: usize>(values: &mut [[f32; SIDE]; SIDE]) {
    let pixels = (SIDE * SIDE) as f32;
    let middle = (SIDE - 1) as f32 / 2.0;
    let spread: f32 = (0..SIDE).map(|at| (at as f32 - middle).powi(2)).sum::<f32>() * SIDE as f32;
    let (mut mean, mut across, mut down) = (0.0, 0.0, 0.0);
    for (y, row) in values.iter().enumerate() {
        for (x, value) in row.iter().enumerate() {
            mean += value / pixels;
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
fn of_neighbours<const SIDE: usize>(values: &[[f32; SIDE]; SIDE]) -> f32 {
    let across: f32 = values.iter().flat_map(|row| row.windows(2)).map(|two| two[0] * two[1]).sum();
    let down: f32 = values
        .windows(2)
        .flat_map(|two| two[0].iter().zip(&two[1]))
        .map(|(above, below)| above * below)
        .sum();
    (across + down) / (2 * SIDE * (SIDE - 1)) as f32
}

/// What blocks of one brightness say.
struct Chosen {
    /// Of those that are grain alone.
    variance: f32,
    /// By how many standard deviations theirs is below that of all.
    below: f32,
    /// Those that are like most that are grain alone.
    like_most: Vec<Block>,
}

/// Strength by brightness, and size.
fn told<const SIDE: usize>(
    blocks: &[Block],
    fewest: usize,
    of_grain: fn(Vec<Block>) -> Chosen,
) -> Option<([f32; KNOTS], f32)> {
    let mut deviations = [None; KNOTS];
    let (mut sum, mut count) = (0.0, 0);
    for (knot, deviation) in deviations.iter_mut().enumerate() {
        let own: Vec<Block> = blocks.iter().copied().filter(|block| block.knot == knot).collect();
        if own.len() < fewest {
            continue;
        }
        let Chosen { variance, below, like_most } = of_grain(own);
        *deviation = Some((variance.sqrt(), below));
        sum += like_most.iter().map(|block| block.correlation).sum::<f32>();
        count += like_most.len();
    }
    if count == 0 {
        return None;
    }
    let size = size_of::<SIDE>(sum / count as f32);
    let (left, spread) = ((1.0 - taken_by_plane::<SIDE>(size)).sqrt(), spread::<SIDE>(size));
    let of_all = |(deviation, below): (f32, f32)| deviation / (left * (1.0 - below * spread).max(0.3));
    let known: Vec<(f32, f32)> = deviations
        .iter()
        .enumerate()
        .filter_map(|(knot, deviation)| Some((knot as f32, of_all((*deviation)?))))
        .collect();
    Some((std::array::from_fn(|knot| between(&known, knot as f32)), size))
}

/// Those about the most frequent deviation of the calmer half.
fn usual(mut blocks: Vec<Block>) -> Chosen {
    blocks.sort_by(|a, b| a.variance.total_cmp(&b.variance));
    let calm: Vec<f32> =
        blocks[..blocks.len().div_ceil(2)].iter().map(|block| block.variance.sqrt()).collect();
    let like_most = about(blocks, most_frequent(&calm), NEAR);
    Chosen { variance: mean_variance(&like_most), below: 0.0, like_most }
}

fn calmest(mut blocks: Vec<Block>) -> Chosen {
    blocks.sort_by(|a, b| a.variance.total_cmp(&b.variance));
    let taken = (blocks.len() / CALMEST).max(FEWEST);
    let below = between(&BELOW, taken as f32 / blocks.len() as f32);
    let variance = mean_variance(&blocks[..taken]);
    // The calmest are calm by chance, which makes their grain look finer than it is.
    let usual = variance.sqrt() / (1.0 - below * USUAL_SPREAD);
    let like_most = about(blocks, usual, USUAL_SPREAD);
    Chosen { variance, below, like_most }
}

fn mean_variance(blocks: &[Block]) -> f32 {
    blocks.iter().map(|block| block.variance).sum::<f32>() / blocks.len().max(1) as f32
}

/// Blocks whose deviation is off by no more than a share of it.
fn about(mut blocks: Vec<Block>, deviation: f32, off: f32) -> Vec<Block> {
    blocks.retain(|block| (block.variance.sqrt() - deviation).abs() <= off * deviation);
    blocks
}

/// By what share of it the deviations of blocks of the same grain differ, as their standard deviation.
fn spread<const SIDE: usize>(size: f32) -> f32 {
    let along = 1.0 + (1..SIDE).map(|apart| 2.0 * correlation(size, apart).powi(2)).sum::<f32>();
    (along * along / (2 * SIDE * SIDE) as f32).sqrt()
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
fn taken_by_plane<const SIDE: usize>(size: f32) -> f32 {
    let along = 1.0 + (1..SIDE).map(|apart| 2.0 * correlation(size, apart)).sum::<f32>();
    (PLANE * along * along / (SIDE * SIDE) as f32).min(0.9)
}

/// The size at which neighbours are seen to go together so closely.
fn size_of<const SIDE: usize>(seen: f32) -> f32 {
    let of = |size: f32| {
        let taken = taken_by_plane::<SIDE>(size);
        (correlation(size, 1) - taken) / (1.0 - taken)
    };
    let (mut low, mut high) = (0.0, WIDEST * SIDE as f32);
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
