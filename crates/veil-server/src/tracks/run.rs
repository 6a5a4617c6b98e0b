//! Tracks followed through frames, and what was found put into the setup.

use std::collections::BTreeMap;

use rayon::prelude::*;
use serde::Deserialize;
use veil_core::engine::EngineError;
use veil_core::setup::Command;
use veil_core::tracks::{Following, Seen, Sights, Track, TrackSample, follow_surface, length};
use veil_pixels::Cancel;
use veil_store::ShotRecord;

use super::FollowRequest;
use super::sight::{Begin, Looked, Sight};
use crate::App;
use crate::error::WebError;
use crate::event::{Event, Going};

/// Which way, and how far.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(super) enum Way {
    /// To the end of the range.
    On,
    /// To its start.
    Back,
    /// One frame on.
    OneOn,
    /// One frame back.
    OneBack,
    /// To the start of the range and to its end.
    Both,
}

impl Way {
    /// The ways of one direction each.
    const fn parts(&self) -> &[Self] {
        match self {
            Self::Both => &[Self::Back, Self::On],
            one => std::slice::from_ref(one),
        }
    }

    /// The frames after the first, in the order they are gone through.
    fn frames(self, shot: &ShotRecord, begins: i32) -> Vec<i32> {
        let range = shot.setup.picture.frames;
        match self {
            Self::On => (begins + 1..=range.last).collect(),
            Self::Back => (range.first..begins).rev().collect(),
            Self::OneOn => (begins + 1..=range.last).take(1).collect(),
            Self::OneBack => (range.first..begins).rev().take(1).collect(),
            Self::Both => (range.first..=range.last).collect(),
        }
    }

    /// Whether what was known of a frame stays when this way is gone.
    const fn keeps(self, frame: i32, begins: i32) -> bool {
        match self {
            Self::On => frame <= begins,
            Self::Back => frame >= begins,
            Self::OneOn | Self::OneBack | Self::Both => true,
        }
    }
}

/// What was found of a track, by frame.
type Found = Vec<(i32, Option<TrackSample>)>;

/// Frames that are not there, and why.
type Absent = BTreeMap<i32, String>;

pub(super) fn run(
    app: &App,
    shot: &ShotRecord,
    request: FollowRequest,
    begin: Begin,
    cancel: &Cancel,
) -> Result<(), WebError> {
    let FollowRequest { tracks, way, frame } = request;
    let name = match tracks.as_slice() {
        [only] => only.name.clone(),
        all => format!("{} tracks", all.len()),
    };
    let total = way.parts().iter().map(|part| steps(&tracks, frame, &part.frames(shot, frame))).sum();
    let tell = |going: Going, done: usize, message: String| {
        let (show, code) = (shot.show.clone(), shot.code.clone());
        app.tell(Event::Track { show, code, name: name.clone(), going, done, total, message });
    };
    let plates = app.plates(&shot.folder)?;
    let sight = Sight::new(app, shot, &*plates, cancel);
    let running = |done| tell(Going::Running, done, String::new());
    let mut run =
        Run { sight, begin, cancel, found: Vec::new(), absent: Absent::new(), done: 0, tell: &running };
    let mut followed = tracks;
    for part in way.parts() {
        let frames = part.frames(shot, frame);
        match app.cpu.rest().install(|| run.follow(followed.clone(), *part, &frames)) {
            Ok(tracks) => followed = tracks,
            Err(Stopped(EngineError::Cancelled)) => break,
            Err(Stopped(error)) => {
                tell(Going::Failed, 0, error.to_string());
                return Ok(());
            }
        }
    }
    let Run { done, absent, found, .. } = run;
    let commands = followed.into_iter().map(|track| Command::PutTrack { track: Box::new(track) });
    let command = Command::Together { commands: commands.collect() };
    let now = app.store.shot(&shot.show, &shot.code)?;
    let kept = app.store.edit(now.id, now.revision, &command)?;
    let (show, code) = (shot.show.clone(), shot.code.clone());
    app.tell(Event::Shot { show, code, revision: kept.revision });
    tell(if done < total { Going::Stopped } else { Going::Done }, done, told(&found, &absent));
    Ok(())
}

/// How often a frame is gone through by tracks that go through frames away from one.
fn steps(tracks: &[Track], from: i32, frames: &[i32]) -> usize {
    let (surfaces, others): (Vec<&Track>, Vec<&Track>) =
        tracks.iter().partition(|track| track.surface.is_some());
    let through = if others.is_empty() { 0 } else { frames.len() };
    through + surfaces.iter().map(|track| length(track, from, frames)).sum::<usize>()
}

/// What was found, in a sentence.
fn told(found: &[bool], absent: &Absent) -> String {
    let (all, seen) = (found.len(), found.iter().filter(|found| **found).count());
    let first = absent.first_key_value().map(|(frame, why)| {
        let others = absent.len() - 1;
        if others == 0 {
            format!("; frame {frame} is not there: {why}")
        } else {
            format!("; frame {frame} and {others} others are not there: {why}")
        }
    });
    let own = if seen == 0 {
        "found in no frame: what is to be followed has no texture there, or leaves the picture".to_owned()
    } else {
        format!("found in {seen} of {all} frames")
    };
    own + &first.unwrap_or_default()
}

/// Why a run ends before its time.
struct Stopped(EngineError);

impl From<EngineError> for Stopped {
    fn from(error: EngineError) -> Self {
        Self(error)
    }
}

impl From<veil_pixels::Cancelled> for Stopped {
    fn from(_: veil_pixels::Cancelled) -> Self {
        Self(EngineError::Cancelled)
    }
}

/// Frames gone through.
struct Run<'a> {
    sight: Sight<'a>,
    begin: Begin,
    cancel: &'a Cancel,
    /// Whether it was found, of each track and frame.
    found: Vec<bool>,
    absent: Absent,
    done: usize,
    tell: &'a (dyn Fn(usize) + Sync),
}

impl Sights for Run<'_> {
    type Error = Stopped;

    fn seen(&mut self, frame: i32) -> Result<Option<Looked>, Stopped> {
        match self.sight.seen(self.begin, frame)? {
            Ok(seen) => Ok(Some(seen)),
            Err(why) => {
                self.absent.insert(frame, why);
                Ok(None)
            }
        }
    }

    fn gone(&mut self) {
        (self.tell)(self.done);
        self.done += 1;
    }
}

impl Run<'_> {
    /// The tracks with what is found of them on a way.
    fn follow(&mut self, tracks: Vec<Track>, way: Way, frames: &[i32]) -> Result<Vec<Track>, Stopped> {
        let (surfaces, others): (Vec<Track>, Vec<Track>) =
            tracks.into_iter().partition(|track| track.surface.is_some());
        let mut found = self.through(&others, frames)?;
        for track in &surfaces {
            let (from, cancel) = (self.begin.frame, self.cancel);
            found.push(follow_surface(track, from, frames, self, cancel)?);
        }
        self.found.extend(found.iter().flatten().map(|(_, sample)| sample.is_some()));
        let (from, called_off) = (self.begin.frame, self.cancel.is_set());
        let with = |(track, found): (Track, Found)| {
            // A surface is followed from one frame laid by hand to the next: what was not gone through stays as it was known.
            let stays = called_off && track.surface.is_some();
            track.with_found(&found, |frame| stays || way.keeps(frame, from))
        };
        Ok(others.into_iter().chain(surfaces).zip(found).map(with).collect())
    }

    /// Where each of the tracks that are no surfaces is in each frame, in their order, as far as it was not called off.
    fn through(&mut self, tracks: &[Track], frames: &[i32]) -> Result<Vec<Found>, Stopped> {
        let cancel = self.cancel;
        let mut found = vec![Found::with_capacity(frames.len()); tracks.len()];
        if tracks.is_empty() {
            return Ok(found);
        }
        let Some((image, without)) = self.seen(self.begin.frame)? else {
            let lost = |frame: &i32| (*frame, None);
            self.done += frames.len();
            return Ok(vec![frames.iter().map(lost).collect(); tracks.len()]);
        };
        let first = Seen { image: &image, without: without.as_ref() };
        let begun: Result<Vec<_>, _> =
            tracks.iter().map(|track| Following::begin(track, first, cancel)).collect();
        let mut following = begun?;
        for frame in frames {
            (self.tell)(self.done);
            let seen = match self.seen(*frame) {
                Err(Stopped(EngineError::Cancelled)) => return Ok(found),
                seen => seen?,
            };
            let step = |one: &mut Option<Following>| match (one, &seen) {
                (Some(one), Some((image, without))) => {
                    one.step(Seen { image, without: without.as_ref() }, cancel)
                }
                _ => Ok(None),
            };
            let steps: Result<Vec<_>, _> = following.par_iter_mut().map(step).collect();
            let Ok(steps) = steps else { return Ok(found) };
            found.iter_mut().zip(steps).for_each(|(found, sample)| found.push((*frame, sample)));
            self.done += 1;
        }
        Ok(found)
    }
}
