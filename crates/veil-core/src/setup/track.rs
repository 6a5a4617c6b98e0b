//! Tracks put into a setup and taken out of it.

use super::{CommandError, Setting, Setup};
use crate::feed::{Feed, Keys, TrackFeed};
use crate::tracks::{Track, TrackId};

/// Puts a track in, or in place of the one with its number; number 0 is given a free one.
pub(super) fn put_track(setup: &mut Setup, track: &Track) -> Result<(), CommandError> {
    let name = track.name.trim();
    track.check().map_err(|why| CommandError::Track { name: name.into(), why })?;
    if name.is_empty() {
        return Err(CommandError::Track { name: format!("track {}", track.id.0), why: "wants a name" });
    }
    let free = setup.tracks.iter().map(|track| track.id.0 + 1).max().unwrap_or(1);
    let id = if track.id.0 == 0 { TrackId(free) } else { track.id };
    let made = Track { id, name: name.into(), ..track.clone() };
    match setup.tracks.iter_mut().find(|track| track.id == id) {
        Some(known) => *known = made,
        None => setup.tracks.push(made),
    }
    Ok(())
}

/// Takes a track out; what it drove keeps its values, as keys.
pub(super) fn remove_track(setup: &mut Setup, id: TrackId) -> Result<(), CommandError> {
    let at = setup.tracks.iter().position(|track| track.id == id).ok_or(CommandError::NoTrack(id))?;
    let before = setup.clone();
    for feed in feeds(setup) {
        if let Feed::Track(driven) = feed
            && driven.track == id
        {
            *feed = as_keys(&before, at, driven);
        }
    }
    setup.tracks.remove(at);
    Ok(())
}

fn as_keys(setup: &Setup, at: usize, driven: &TrackFeed) -> Feed {
    let value = |frame: f64| Feed::Track(driven.clone()).at(setup.moment(frame), setup);
    let mut frames = setup.tracks[at].samples.keys().map(|frame| f64::from(*frame));
    let Some(first) = frames.next() else { return Feed::Fixed(value(f64::from(setup.tracks[at].begins))) };
    Feed::Keys(
        frames.fold(Keys::one(first, value(first)), |keys, frame| keys.with_value(frame, value(frame))),
    )
}

/// Every feed of a setup.
fn feeds(setup: &mut Setup) -> impl Iterator<Item = &mut Feed> {
    let of_rows = setup.stages.iter_mut().flat_map(|row| {
        let own = row.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
        row.controls.values_mut().chain(own)
    });
    of_rows.chain(setup.own.iter_mut().map(|own| &mut own.setting)).flat_map(Setting::feeds_mut)
}
