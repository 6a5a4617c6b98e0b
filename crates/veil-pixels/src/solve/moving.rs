//! A camera that moves, in frames spread over all.

use super::one::{turn, ways_in_both};
use super::scene::{Scene, Stand, median};
use super::two_views::stands;
use super::{FEWEST, Free, Seen, Unsolved, adjust};
use crate::Cancel;

/// Frames that are compared with each other, to find two that show depth best.
const COMPARED: usize = 16;
/// Two that have this many places in common are as good as any.
const ENOUGH: f64 = 24.0;
/// What is near must go aside from what is far by so many pixels, more than turning explains.
const LEAST_ASIDE: f64 = 1.0;

/// Begins with the two frames that show depth best, and goes on to others.
pub(super) fn begun(seen: &Seen, empty: Scene, free: Free, cancel: &Cancel) -> Result<Scene, Unsolved> {
    let [first, second] = pair(seen, empty.focal)?;
    let ways = ways_in_both([&seen.by_frame[first], &seen.by_frame[second]], empty.focal);
    let keys = seen.key_frames(FEWEST, &[first, second]);
    let mut all = Vec::new();
    for stand in stands(&ways, empty.focal) {
        let mut scene = empty.clone();
        scene.stands[first] = Some(Stand::begin());
        scene.stands[second] = Some(stand);
        seen.place_points(&mut scene, free);
        adjust(&mut scene, &seen.all, Free { focal: false, ..free }, 20, cancel)?;
        seen.go_on(&mut scene, &keys, free, cancel)?;
        all.push(Ok(scene));
    }
    if all.is_empty() { Err(Unsolved::NoDepth) } else { seen.best(all) }
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
