//! What was seen, and what is made of it step by step.

use super::bundle::{Free, adjust, cost_of};
use super::one;
use super::scene::{Scene, Stand, cost, median};
use super::sight::{FEWEST_TURNED, Sight, Unsolved};
use crate::{Cancel, Cancelled};

/// Frames that are solved first, at most.
pub(super) const KEY_FRAMES: usize = 12;
/// A sight so many times as far off as most are, and this many pixels, is left out.
const FAR_OFF: f64 = 6.0;
const FAR_OFF_PIXELS: f64 = 2.0;

/// A place that is so many times as far off in all as places are, and this many pixels, is none: what it is of moves.
const DRIFTS: f64 = 3.0;
const DRIFTS_PIXELS: f64 = 0.5;
/// A place so many times as far off as most are is laid out anew.
const ANEW: f64 = 1.5;

/// What was seen, by frame and by place.
pub(super) struct Seen {
    pub(super) all: Vec<Sight>,
    pub(super) by_frame: Vec<Vec<Sight>>,
    pub(super) by_point: Vec<Vec<Sight>>,
}

impl Seen {
    pub(super) fn of(frames: usize, points: usize, sights: &[Sight]) -> Self {
        let mut seen = Self {
            all: sights.to_vec(),
            by_frame: vec![Vec::new(); frames],
            by_point: vec![Vec::new(); points],
        };
        for sight in sights {
            seen.by_frame[sight.frame].push(*sight);
            seen.by_point[sight.point].push(*sight);
        }
        seen
    }

    /// What was seen of some places alone.
    pub(super) fn only(&self, points: &[bool]) -> Self {
        self.those(|sight| points[sight.point])
    }

    /// What was seen in some frames alone.
    pub(super) fn within(&self, frames: &[usize]) -> Self {
        self.those(|sight| frames.contains(&sight.frame))
    }

    fn those(&self, which: impl Fn(&Sight) -> bool) -> Self {
        let some: Vec<Sight> = self.all.iter().filter(|sight| which(sight)).copied().collect();
        Self::of(self.by_frame.len(), self.by_point.len(), &some)
    }

    /// Frames spread over all that see enough, with some that must be among them.
    pub(super) fn key_frames(&self, fewest: usize, most: usize, with: &[usize]) -> Vec<usize> {
        let enough: Vec<usize> =
            (0..self.by_frame.len()).filter(|frame| self.by_frame[*frame].len() >= fewest).collect();
        let count = enough.len().min(most);
        let spread = |number: usize| enough[number * (enough.len() - 1) / (count - 1).max(1)];
        let mut keys: Vec<usize> = (0..count).map(spread).chain(with.iter().copied()).collect();
        keys.sort_unstable();
        keys.dedup();
        keys
    }

    /// Of what was begun from several focal lengths, that which fits best.
    pub(super) fn best(&self, begun: Vec<Result<Scene, Unsolved>>) -> Result<Scene, Unsolved> {
        let mut why = Unsolved::TooFew;
        let mut best: Option<(f64, Scene)> = None;
        for one in begun {
            match one {
                Err(unsolved) => why = unsolved,
                Ok(scene) => {
                    let cost = self.cost(&scene);
                    if best.as_ref().is_none_or(|(least, _)| cost < *least) {
                        best = Some((cost, scene));
                    }
                }
            }
        }
        best.map(|(_, scene)| scene).ok_or(why)
    }

    /// What a scene costs, where what it does not know is as bad as what is far off.
    fn cost(&self, scene: &Scene) -> f64 {
        const MOST: f64 = 3.0;
        let known = self.all.iter().filter(|sight| scene.miss(sight).is_some()).count() as f64;
        let in_keys = scene.known_frames().map(|frame| self.by_frame[frame].len()).sum::<usize>() as f64;
        let unknown = (in_keys - known).max(0.0) / in_keys.max(1.0);
        cost_of(scene, &self.all, MOST) + unknown * cost(4.0 * MOST, MOST)
    }

    /// A camera that only turns, in key frames.
    pub(super) fn turned(&self, mut scene: Scene, free: Free, cancel: &Cancel) -> Result<Scene, Unsolved> {
        let keys = self.key_frames(FEWEST_TURNED, KEY_FRAMES, &[]);
        let first = *keys.get(keys.len() / 2).ok_or(Unsolved::TooFew)?;
        scene.stands[first] = Some(Stand::begin());
        self.place_points(&mut scene, free);
        self.go_on(&mut scene, &keys, free, cancel)?;
        if scene.known_frames().count() < 2 {
            return Err(Unsolved::TooFew);
        }
        Ok(scene)
    }

    /// Goes on from known frames to others, the nearest first, as far as enough is seen.
    pub(super) fn go_on(
        &self,
        scene: &mut Scene,
        keys: &[usize],
        free: Free,
        cancel: &Cancel,
    ) -> Result<(), Cancelled> {
        let mut left: Vec<usize> = keys.iter().copied().filter(|key| scene.stands[*key].is_none()).collect();
        let far =
            |scene: &Scene, key: usize| scene.nearest(key).map_or(usize::MAX, |near| near.abs_diff(key));
        while !left.is_empty() {
            cancel.check()?;
            left.sort_by_key(|key| std::cmp::Reverse(far(scene, *key)));
            let Some(key) = left.pop() else { break };
            if self.place_stand(scene, key, free) {
                self.place_points(scene, free);
                // How wide the lens sees shows only in several frames.
                let own = Free { focal: free.focal && scene.known_frames().count() > 3, ..free };
                adjust(scene, &self.all, own, 4, cancel)?;
            }
        }
        adjust(scene, &self.all, free, 30, cancel)?;
        self.place_points(scene, free);
        adjust(scene, &self.all, free, 10, cancel)
    }

    fn place_stand(&self, scene: &mut Scene, frame: usize, free: Free) -> bool {
        let Some(begin) = scene.likely(frame) else { return false };
        let found = one::stand(scene, &self.by_frame[frame], begin, free);
        scene.stands[frame] = found;
        found.is_some()
    }

    /// Places that are not known so far, where cameras that see them are.
    pub(super) fn place_points(&self, scene: &mut Scene, free: Free) {
        for (point, seen) in self.by_point.iter().enumerate() {
            if scene.points[point].is_none() {
                scene.points[point] = one::point(scene, seen, free);
            }
        }
    }

    /// Cameras of all frames, and places of all that they see.
    pub(super) fn fill(&self, scene: &mut Scene, free: Free, cancel: &Cancel) -> Result<(), Cancelled> {
        let mut left: Vec<usize> =
            (0..scene.stands.len()).filter(|frame| scene.stands[*frame].is_none()).collect();
        left.sort_by_key(|frame| scene.nearest(*frame).map_or(usize::MAX, |near| near.abs_diff(*frame)));
        for frame in left {
            cancel.check()?;
            self.place_stand(scene, frame, free);
        }
        self.place_points(scene, free);
        Ok(())
    }

    /// Places that are farther off than most are laid out anew: each may have come to rest where it was wrong once.
    pub(super) fn forget_far_off(&self, scene: &mut Scene) {
        let missed = |seen: &Vec<Sight>| {
            median(seen.iter().filter_map(|sight| scene.miss(sight)).map(|miss| miss.norm()).collect())
        };
        let missed: Vec<f64> = self.by_point.iter().map(missed).collect();
        let most = ANEW * median(missed.iter().copied().filter(|missed| *missed > 0.0).collect());
        for (point, missed) in scene.points.iter_mut().zip(&missed) {
            *point = point.filter(|_| *missed <= most);
        }
    }

    /// By sight, whether it is near enough to where it is expected. A place that is not, more often than it is, or that drifts, is not known.
    pub(super) fn fitting(&self, scene: &mut Scene) -> Vec<bool> {
        let misses: Vec<Option<f64>> =
            self.all.iter().map(|sight| scene.miss(sight).map(|miss| miss.norm())).collect();
        let most = (FAR_OFF * median(misses.iter().flatten().copied().collect())).max(FAR_OFF_PIXELS);
        // What a frame sees whose camera is not known yet says nothing.
        let mut counts: Vec<bool> = misses.iter().map(|miss| miss.is_none_or(|miss| miss <= most)).collect();
        let mut fits = vec![0i64; self.by_point.len()];
        let mut squares = vec![(0.0, 0.0); self.by_point.len()];
        for ((sight, miss), counts) in self.all.iter().zip(&misses).zip(&counts) {
            let Some(miss) = miss else { continue };
            fits[sight.point] += if *counts { 1 } else { -1 };
            if *counts {
                squares[sight.point].0 += miss * miss;
                squares[sight.point].1 += 1.0;
            }
        }
        let off: Vec<f64> = squares.iter().map(|(sum, count)| (sum / f64::max(*count, 1.0)).sqrt()).collect();
        let usual = median(off.iter().copied().filter(|off| *off > 0.0).collect());
        let most = (DRIFTS * usual).max(DRIFTS_PIXELS);
        let is_fit = |point: usize| fits[point] > 0 && off[point] <= most;
        for (number, point) in scene.points.iter_mut().enumerate() {
            *point = point.filter(|_| is_fit(number));
        }
        for (sight, counts) in self.all.iter().zip(&mut counts) {
            *counts &= is_fit(sight.point);
        }
        counts
    }

    /// What counts of all that was seen.
    pub(super) fn kept(&self, counts: &[bool]) -> Self {
        let kept: Vec<Sight> =
            self.all.iter().zip(counts).filter(|(_, counts)| **counts).map(|(sight, _)| *sight).collect();
        Self::of(self.by_frame.len(), self.by_point.len(), &kept)
    }
}
