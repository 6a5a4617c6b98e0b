//! A camera that moves, in frames spread over all.

use rayon::prelude::*;

use super::bundle::{Free, adjust};
use super::one::{turn, ways_in_both};
use super::scene::{Scene, Stand, median};
use super::seen::{KEY_FRAMES, Seen};
use super::sight::{FEWEST, Sight, Unsolved};
use super::two_views::stands;
use crate::{Cancel, Cancelled};

/// Frames that are compared with each other, to find two that show depth best.
const COMPARED: usize = 16;
/// Two that have this many places in common are as good as any.
const ENOUGH: f64 = 24.0;
/// What is near must go aside from what is far by so many pixels, more than turning explains.
const LEAST_ASIDE: f64 = 1.0;

/// Places that are tried together, how often others are, and the frames they are tried in.
const TOGETHER: usize = 5;
const TRIALS: usize = 240;
const TRIED_IN: usize = 6;
/// A place agrees with a camera that misses it by no more pixels than this.
const AGREES: f64 = 2.0;

/// Begins with the two frames that show depth best, and goes on to others.
pub(super) fn begun(seen: &Seen, empty: Scene, free: Free, cancel: &Cancel) -> Result<Scene, Unsolved> {
    let pair = pair(seen, empty.focal)?;
    let agreeing = seen.only(&agreeing(seen, &empty, pair, free, cancel)?);
    let keys = agreeing.key_frames(FEWEST, KEY_FRAMES, &pair);
    let all = from_two(&agreeing, &empty, pair, &keys, free, cancel)?;
    agreeing.best(all.into_iter().map(Ok).collect()).map_err(|_| Unsolved::NoDepth)
}

/// From two frames on, each way that the camera may have gone between them.
fn from_two(
    seen: &Seen,
    empty: &Scene,
    [first, second]: [usize; 2],
    keys: &[usize],
    free: Free,
    cancel: &Cancel,
) -> Result<Vec<Scene>, Cancelled> {
    let ways = ways_in_both([&seen.by_frame[first], &seen.by_frame[second]], empty.focal);
    let begun = |stand: Stand| {
        let mut scene = empty.clone();
        scene.stands[first] = Some(Stand::begin());
        scene.stands[second] = Some(stand);
        seen.place_points(&mut scene, free);
        adjust(&mut scene, &seen.all, Free { focal: false, ..free }, 20, cancel)?;
        seen.go_on(&mut scene, keys, free, cancel)?;
        Ok(scene)
    };
    stands(&ways, empty.focal).into_iter().map(begun).collect()
}

/// What a camera costs, and by place whether it agrees with it.
type Agreed = (f64, Vec<bool>);

/// By place, whether it agrees with most others: a few are tried together, many times over, for a camera that as many as can be
/// agree with.
///
/// Source: Torr and Zisserman, "MLESAC: A New Robust Estimator with Application to Estimating Image Geometry", 2000, section 4, for
/// what places that do not agree cost.
fn agreeing(
    seen: &Seen,
    empty: &Scene,
    pair: [usize; 2],
    free: Free,
    cancel: &Cancel,
) -> Result<Vec<bool>, Cancelled> {
    let frames = seen.key_frames(FEWEST, TRIED_IN, &pair);
    let few = seen.within(&frames);
    let sees = |frame: usize, point: usize| few.by_frame[frame].iter().any(|sight| sight.point == point);
    let common: Vec<usize> =
        (0..few.by_point.len()).filter(|point| pair.iter().all(|frame| sees(*frame, *point))).collect();
    if common.len() <= TOGETHER {
        return Ok(vec![true; few.by_point.len()]);
    }
    let free = Free { focal: false, ..free };
    let tried: Result<Vec<Option<Agreed>>, Cancelled> = (0..TRIALS)
        .into_par_iter()
        .map(|trial| {
            let mut own = vec![false; few.by_point.len()];
            drawn(common.len(), trial).into_iter().for_each(|number| own[common[number]] = true);
            let scenes = from_two(&few.only(&own), empty, pair, &frames, free, cancel)?;
            let costs = scenes.into_iter().map(|scene| few.agreeing(scene, free));
            Ok(costs.min_by(|a, b| a.0.total_cmp(&b.0)))
        })
        .collect();
    let best = tried?.into_iter().flatten().min_by(|a, b| a.0.total_cmp(&b.0));
    Ok(best.map_or_else(|| vec![true; few.by_point.len()], |(_, agreeing)| agreeing))
}

/// Different numbers below a count, others at each trial, the same in each run.
fn drawn(count: usize, trial: usize) -> Vec<usize> {
    let mut state = trial as u64 + 1;
    let mut drawn = Vec::with_capacity(TOGETHER);
    while drawn.len() < TOGETHER.min(count) {
        // Knuth's constants for a linear congruential generator (MMIX).
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let number = (state >> 33) as usize % count;
        if !drawn.contains(&number) {
            drawn.push(number);
        }
    }
    drawn
}

impl Seen {
    /// What a camera costs that all places are laid out by, and which of these agree with it.
    fn agreeing(&self, mut scene: Scene, free: Free) -> Agreed {
        scene.points.iter_mut().for_each(|point| *point = None);
        self.place_points(&mut scene, free);
        let missed = |seen: &Vec<Sight>| {
            let misses: Option<Vec<f64>> =
                seen.iter().map(|sight| scene.miss(sight).map(|miss| miss.norm_squared())).collect();
            misses
                .filter(|misses| !misses.is_empty())
                .map(|misses| misses.iter().sum::<f64>() / misses.len() as f64)
        };
        let missed: Vec<Option<f64>> = self.by_point.iter().map(missed).collect();
        let most = AGREES * AGREES;
        let cost = missed.iter().map(|missed| missed.map_or(most, |missed| missed.min(most))).sum();
        (cost, missed.iter().map(|missed| missed.is_some_and(|missed| missed < most)).collect())
    }
}

/// Two frames that have many places in common, which go aside from each other.
fn pair(seen: &Seen, focal: f64) -> Result<[usize; 2], Unsolved> {
    let frames: Vec<usize> =
        (0..seen.by_frame.len()).filter(|frame| seen.by_frame[*frame].len() >= FEWEST).collect();
    let count = frames.len().min(COMPARED);
    let compared: Vec<usize> =
        (0..count).map(|number| frames[number * (frames.len() - 1) / (count - 1).max(1)]).collect();
    let mut best: Option<(f64, [usize; 2])> = None;
    let mut farthest = 0.0f64;
    for (number, first) in compared.iter().enumerate() {
        for second in &compared[number + 1..] {
            let ways = ways_in_both([&seen.by_frame[*first], &seen.by_frame[*second]], focal);
            if ways.len() < FEWEST {
                continue;
            }
            let Some(turn) = turn(&ways) else { continue };
            let aside = median(ways.iter().map(|(from, to)| (turn * from - to).norm() * focal).collect());
            farthest = farthest.max(aside);
            let worth = aside * (ways.len() as f64 / ENOUGH).min(1.0);
            if best.is_none_or(|(most, _)| worth > most) {
                best = Some((worth, [*first, *second]));
            }
        }
    }
    let (_, pair) = best.ok_or(Unsolved::TooFew)?;
    if farthest < LEAST_ASIDE { Err(Unsolved::NoDepth) } else { Ok(pair) }
}
