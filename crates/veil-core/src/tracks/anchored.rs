//! A surface followed from where it was laid by hand to where it was laid by hand again.
//!
//! Between two such frames it is followed from both; each corner goes by either way the more the nearer its frame is, and the more
//! alike the cells about it look that way, and have looked until then.

use veil_pixels::{Cancel, Cancelled, Field};

use super::surface::{FollowedSurface, SurfaceSample, TrackSurface, middle};
use super::{Seen, Track, TrackSample};

/// A way counts by this power of how sure it is: what looks a little less alike is likely to lie elsewhere.
const POWER: i32 = 4;
/// What was hidden becomes so much surer with each frame: it may have come out somewhere else.
const RECOVERS: f64 = 0.1;
/// Beside what looks unlike, a way counts for this much all the same.
const LEAST: f64 = 1e-4;

/// Shows frames to what is followed, and is told how far it has come.
pub trait Sights {
    /// Why a frame cannot be asked for any more.
    type Error: From<Cancelled>;

    /// The image of a frame and the coverage of what does not count in it; none where the frame is not there.
    fn seen(&mut self, frame: i32) -> Result<Option<(Field, Option<Field>)>, Self::Error>;

    /// One more frame was gone through.
    fn gone(&mut self);
}

/// A piece of the way.
struct Leg {
    /// The frame it begins at.
    from: i32,
    /// The frames to be gone through, in order.
    frames: Vec<i32>,
    /// The frame it ends at, where that was laid by hand.
    until: Option<i32>,
}

/// The legs of a way through frames.
fn legs(track: &Track, from: i32, frames: &[i32]) -> Vec<Leg> {
    let mut legs = vec![Leg { from, frames: Vec::new(), until: None }];
    for frame in frames {
        if laid_by_hand(track, *frame).is_some() {
            if let Some(leg) = legs.last_mut() {
                leg.until = Some(*frame);
            }
            legs.push(Leg { from: *frame, frames: Vec::new(), until: None });
        } else if let Some(leg) = legs.last_mut() {
            leg.frames.push(*frame);
        }
    }
    legs.retain(|leg| !leg.frames.is_empty());
    legs
}

fn laid_by_hand(track: &Track, frame: i32) -> Option<&SurfaceSample> {
    track.samples.get(&frame)?.surface.as_ref().filter(|surface| surface.by_hand)
}

/// How often a frame is gone through on a way from a frame.
pub fn length(track: &Track, from: i32, frames: &[i32]) -> usize {
    legs(track, from, frames)
        .iter()
        .map(|leg| leg.frames.len() * if leg.until.is_some() { 2 } else { 1 })
        .sum()
}

/// Where a surface is at frames, in order away from one where it is known; none where it is lost or the frame is not there.
/// Frames where it was laid by hand are not gone through, and not among them. Given up on the way, a leg of which only one end is
/// known gives what was found of it.
pub fn follow_surface<S: Sights>(
    track: &Track,
    from: i32,
    frames: &[i32],
    sights: &mut S,
    cancel: &Cancel,
) -> Result<Vec<(i32, Option<TrackSample>)>, S::Error> {
    let Some(lattice) = &track.surface else { return Ok(Vec::new()) };
    let mut found = Vec::new();
    for leg in legs(track, from, frames) {
        let mut way = Way { track, lattice, sights, cancel };
        let there = way.gone(leg.from, &leg.frames)?;
        let complete = there.len() == leg.frames.len();
        match leg.until {
            Some(_) if !complete => break,
            None => found.extend(leg.frames.iter().copied().zip(there)),
            Some(until) => {
                let back: Vec<i32> = leg.frames.iter().rev().copied().collect();
                let back = way.gone(until, &back)?;
                if back.len() < leg.frames.len() {
                    break;
                }
                let sure = [sureness(lattice, &there), sureness(lattice, &back)];
                let whole = f64::from(until - leg.from);
                let last = leg.frames.len() - 1;
                for (at, (frame, one)) in leg.frames.iter().zip(there).enumerate() {
                    let share = f64::from(*frame - leg.from) / whole;
                    let ends = [
                        End { sample: one, sure: &sure[0][at] },
                        End { sample: back[last - at].clone(), sure: &sure[1][last - at] },
                    ];
                    found.push((*frame, both(ends, share)));
                }
            }
        }
        if !complete {
            break;
        }
    }
    Ok(found)
}

/// A way through frames.
struct Way<'a, S> {
    track: &'a Track,
    lattice: &'a TrackSurface,
    sights: &'a mut S,
    cancel: &'a Cancel,
}

impl<S: Sights> Way<'_, S> {
    /// Followed from a frame through others; fewer where it was given up.
    fn gone(&mut self, from: i32, frames: &[i32]) -> Result<Vec<Option<TrackSample>>, S::Error> {
        let Some(mut surface) = self.begun()? else { return Ok(vec![None; frames.len()]) };
        let known = self.track.samples.get(&from).and_then(|sample| sample.surface.as_ref());
        if from != self.track.begins
            && let Some(known) = known
            && let Some((image, without)) = self.sights.seen(from)?
        {
            let seen = Seen { image: &image, without: without.as_ref() };
            surface.resume(&known.corners, seen, self.cancel)?;
        }
        let mut found = Vec::with_capacity(frames.len());
        for frame in frames {
            self.sights.gone();
            if self.cancel.is_set() {
                break;
            }
            let (image, without) = match self.sights.seen(*frame) {
                Ok(Some(seen)) => seen,
                Ok(None) => {
                    found.push(None);
                    continue;
                }
                Err(_) if self.cancel.is_set() => break,
                Err(error) => return Err(error),
            };
            let seen = Seen { image: &image, without: without.as_ref() };
            match surface.step(seen, self.cancel) {
                Ok(sample) => found.push(sample),
                Err(Cancelled) => break,
            }
        }
        Ok(found)
    }

    /// As it looked where it was laid first: what is seen where it was put right may hide it.
    fn begun(&mut self) -> Result<Option<FollowedSurface>, S::Error> {
        let Some((image, without)) = self.sights.seen(self.track.begins)? else { return Ok(None) };
        let seen = Seen { image: &image, without: without.as_ref() };
        Ok(FollowedSurface::begin(self.lattice, self.track.least_likeness, seen, self.cancel)?)
    }
}

/// What was found from one end, and how sure each corner is.
struct End<'a> {
    sample: Option<TrackSample>,
    sure: &'a [f64],
}

/// What was found on the way there and on the way back, at a share of the way there.
fn both([ahead, behind]: [End<'_>; 2], share: f64) -> Option<TrackSample> {
    let (there, back) = match (ahead.sample, behind.sample) {
        (Some(there), Some(back)) => (there, back),
        (one, other) => return one.or(other),
    };
    let (Some(one), Some(other)) = (&there.surface, &back.surface) else { return Some(there) };
    let weight = |sure: f64, share: f64| (sure.powi(POWER) + LEAST) * share;
    let corners: Vec<[f64; 2]> = (0..one.corners.len())
        .map(|at| {
            let (own, its) = (weight(ahead.sure[at], 1.0 - share), weight(behind.sure[at], share));
            super::mixed(one.corners[at], other.corners[at], its / (own + its))
        })
        .collect();
    let likeness = one.likeness.iter().zip(&other.likeness).map(|(a, b)| a.max(*b)).collect();
    let (at, by_hand) = (middle(&corners), false);
    let surface = Some(SurfaceSample { corners, likeness, by_hand });
    let mean = TrackSample { surface: None, ..there.towards(&back, share) };
    Some(TrackSample { at, likeness: there.likeness.max(back.likeness), surface, ..mean })
}

/// How sure each corner is in each frame of a way, 0 to 1.
fn sureness(lattice: &TrackSurface, way: &[Option<TrackSample>]) -> Vec<Vec<f64>> {
    let mut sure = vec![1.0; (lattice.rows + 1) * (lattice.columns + 1)];
    let mut all = Vec::with_capacity(way.len());
    for sample in way {
        let alike = sample.as_ref().and_then(|sample| sample.surface.as_ref());
        let alike = alike.map(|surface| corner_likeness(lattice, &surface.likeness));
        for (at, sure) in sure.iter_mut().enumerate() {
            *sure = alike.as_ref().map_or(0.0, |alike| alike[at]).min(*sure + RECOVERS);
        }
        all.push(sure.clone());
    }
    all
}

/// How alike the cells about each corner are in the mean.
fn corner_likeness(lattice: &TrackSurface, cells: &[f64]) -> Vec<f64> {
    let (rows, columns) = (lattice.rows, lattice.columns);
    let at = |corner: usize| {
        let (row, column) = (corner / (columns + 1), corner % (columns + 1));
        let near = |at: usize, most: usize| at.saturating_sub(1)..(at + 1).min(most);
        let about =
            near(row, rows).flat_map(|row| near(column, columns).map(move |column| row * columns + column));
        let alike: Vec<f64> = about.map(|cell| cells[cell].max(0.0)).collect();
        alike.iter().sum::<f64>() / alike.len() as f64
    };
    (0..(rows + 1) * (columns + 1)).map(at).collect()
}
