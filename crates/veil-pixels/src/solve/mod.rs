//! A camera, and places in space, from places that were followed through a picture.
//!
//! - Units: places of a picture in pixels from its middle, x right and y down; the focal length in pixels. A world of its own
//!   measure: its origin is the first camera that is known, which looks along z, with y down.
//! - A lens without distortion, its axis through the middle, of one focal length throughout.
//! - What does not fit the rest, as what moves by itself or was followed badly, counts less, and what is far off not at all.
//! - Source: Hartley and Zisserman, "Multiple View Geometry", 2004, chapters 9 to 12 and 18, and appendix 6.

mod bundle;
mod moving;
mod one;
mod scene;
mod two_views;

use rayon::prelude::*;

use self::bundle::{Free, adjust, cost_of};
use self::scene::{Scene, Stand, median};
use crate::{Cancel, Cancelled};

/// Where a place was seen in a frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sight {
    /// Which place, counted from 0.
    pub point: usize,
    /// In which frame, counted from 0.
    pub frame: usize,
    /// Where there.
    pub at: [f64; 2],
}

/// What is known of the focal length.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Focal {
    /// This many pixels.
    Known(f64),
    /// Nothing; the picture is so many pixels wide.
    Of(f64),
}

/// How the camera goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Going {
    /// It turns where it stands: places are ways only, of length 1.
    Turns,
    /// It moves.
    Moves,
}

impl Going {
    /// How many places two frames must have in common at least.
    pub const fn fewest(self) -> usize {
        match self {
            Self::Turns => FEWEST_TURNED,
            Self::Moves => FEWEST,
        }
    }
}

/// A camera in one frame.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pose {
    /// Its right, its down and its forward way in the world.
    pub axes: [[f64; 3]; 3],
    /// Where it stands.
    pub place: [f64; 3],
}

/// What was found.
#[derive(Clone, Debug, PartialEq)]
pub struct Solved {
    /// Focal length in pixels.
    pub focal: f64,
    /// By frame; none where too little was seen.
    pub poses: Vec<Option<Pose>>,
    /// By place; none of what was seen too little.
    pub points: Vec<Option<[f64; 3]>>,
    /// By sight, how far from it the place is expected, in pixels; none of what is not known.
    pub misses: Vec<Option<f64>>,
    /// By sight, whether it counts.
    pub counts: Vec<bool>,
}

/// Why there is no camera.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unsolved {
    /// It was called off.
    Cancelled,
    /// No two frames see enough places in common.
    TooFew,
    /// Nothing is nearer than something else: where it stands can't be told.
    NoDepth,
}

impl From<Cancelled> for Unsolved {
    fn from(_: Cancelled) -> Self {
        Self::Cancelled
    }
}

/// Places that two frames must have in common.
const FEWEST: usize = 8;
const FEWEST_TURNED: usize = 4;
/// Angles of view that are tried where none is known, as shares of the picture's width that the focal length is.
const TRIED: [f64; 5] = [0.6, 0.9, 1.3, 1.9, 2.8];
/// A frame in so many is solved first, and no more than so many, and no fewer.
const KEY_FRAMES: usize = 12;
/// Steps of the whole, and how often it is looked at anew what fits.
const LAST_STEPS: usize = 20;
const ROUNDS: usize = 3;
/// A sight so many times as far off as most are, and this many pixels, is left out.
const FAR_OFF: f64 = 6.0;
const FAR_OFF_PIXELS: f64 = 2.0;

/// A place that is so many times as far off in all as places are, and this many pixels, is none: what it is of moves.
const DRIFTS: f64 = 3.0;
const DRIFTS_PIXELS: f64 = 0.5;
/// A place so many times as far off as most are is laid out anew.
const ANEW: f64 = 1.5;

/// Finds the camera of so many frames, and so many places.
///
/// # Errors
/// [`Unsolved`] says why there is none.
pub fn solve(
    [frames, points]: [usize; 2],
    sights: &[Sight],
    focal: Focal,
    going: Going,
    cancel: &Cancel,
) -> Result<Solved, Unsolved> {
    let free = Free { focal: matches!(focal, Focal::Of(_)), places: going == Going::Moves };
    let focals = match focal {
        Focal::Known(focal) => vec![focal],
        Focal::Of(width) => TRIED.map(|share| share * width).to_vec(),
    };
    let seen = Seen::of(frames, points, sights);
    let begun: Vec<Result<Scene, Unsolved>> = focals
        .par_iter()
        .map(|focal| {
            let empty = Scene::empty(*focal, frames, points);
            match going {
                Going::Turns => seen.turned(empty, free, cancel),
                Going::Moves => moving::begun(&seen, empty, free, cancel),
            }
        })
        .collect();
    let mut scene = seen.best(begun)?;
    // What was begun with agrees; all else is looked at by it.
    let begun: Vec<bool> = scene.points.iter().map(Option::is_some).collect();
    let begun = seen.only(&begun);
    begun.fill(&mut scene, free, cancel)?;
    adjust(&mut scene, &begun.all, free, LAST_STEPS, cancel)?;
    // The better cameras are known, the better it shows what does not fit.
    for _ in 0..ROUNDS {
        seen.forget_far_off(&mut scene);
        seen.place_points(&mut scene, free);
        let counts = seen.fitting(&mut scene);
        let kept = seen.kept(&counts);
        kept.fill(&mut scene, free, cancel)?;
        adjust(&mut scene, &kept.all, free, LAST_STEPS, cancel)?;
    }
    let counts = seen.fitting(&mut scene);
    Ok(Solved {
        focal: scene.focal,
        misses: sights.iter().map(|sight| Some(scene.miss(sight)?.norm())).collect(),
        poses: scene.stands.iter().map(|stand| stand.as_ref().map(Pose::of)).collect(),
        points: scene.points.iter().map(|point| point.map(Into::into)).collect(),
        counts,
    })
}

impl Pose {
    fn of(stand: &Stand) -> Self {
        let rows = *stand.turn.to_rotation_matrix().matrix();
        let row = |row: usize| [rows[(row, 0)], rows[(row, 1)], rows[(row, 2)]];
        Self { axes: [row(0), row(1), row(2)], place: stand.place.into() }
    }
}

/// What was seen, by frame and by place.
struct Seen {
    all: Vec<Sight>,
    by_frame: Vec<Vec<Sight>>,
    by_point: Vec<Vec<Sight>>,
}

impl Seen {
    fn of(frames: usize, points: usize, sights: &[Sight]) -> Self {
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
    fn only(&self, points: &[bool]) -> Self {
        self.those(|sight| points[sight.point])
    }

    /// What was seen in some frames alone.
    fn within(&self, frames: &[usize]) -> Self {
        self.those(|sight| frames.contains(&sight.frame))
    }

    fn those(&self, which: impl Fn(&Sight) -> bool) -> Self {
        let some: Vec<Sight> = self.all.iter().filter(|sight| which(sight)).copied().collect();
        Self::of(self.by_frame.len(), self.by_point.len(), &some)
    }

    /// Frames spread over all that see enough, with some that must be among them.
    fn key_frames(&self, fewest: usize, most: usize, with: &[usize]) -> Vec<usize> {
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
    fn best(&self, begun: Vec<Result<Scene, Unsolved>>) -> Result<Scene, Unsolved> {
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
        cost_of(scene, &self.all, MOST) + unknown * scene::cost(4.0 * MOST, MOST)
    }

    /// A camera that only turns, in key frames.
    fn turned(&self, mut scene: Scene, free: Free, cancel: &Cancel) -> Result<Scene, Unsolved> {
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
    fn go_on(&self, scene: &mut Scene, keys: &[usize], free: Free, cancel: &Cancel) -> Result<(), Cancelled> {
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
    fn place_points(&self, scene: &mut Scene, free: Free) {
        for (point, seen) in self.by_point.iter().enumerate() {
            if scene.points[point].is_none() {
                scene.points[point] = one::point(scene, seen, free);
            }
        }
    }

    /// Cameras of all frames, and places of all that they see.
    fn fill(&self, scene: &mut Scene, free: Free, cancel: &Cancel) -> Result<(), Cancelled> {
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
    fn forget_far_off(&self, scene: &mut Scene) {
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
    fn fitting(&self, scene: &mut Scene) -> Vec<bool> {
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
    fn kept(&self, counts: &[bool]) -> Self {
        let kept: Vec<Sight> =
            self.all.iter().zip(counts).filter(|(_, counts)| **counts).map(|(sight, _)| *sight).collect();
        Self::of(self.by_frame.len(), self.by_point.len(), &kept)
    }
}
