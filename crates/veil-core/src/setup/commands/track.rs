//! Tracks put into a setup and taken out of it, and what goes with them.

use crate::controls::KeyedPoints;
use crate::feed::{Feed, Keys};
use crate::setup::{CommandError, Setting, Setup, StageEntry, StageId};
use crate::tracks::{Track, TrackId};

/// Puts a track in, or in place of the one with its number; number 0 is given a free one.
pub(in crate::setup) fn put_track(setup: &mut Setup, track: &Track) -> Result<(), CommandError> {
    let name = track.name.trim();
    track.check().map_err(|why| CommandError::Track { name: name.into(), why })?;
    if name.is_empty() {
        return Err(CommandError::Track { name: format!("track {}", track.id.0), why: "wants a name" });
    }
    let id = if track.id.0 == 0 { free_id(setup) } else { track.id };
    let made = Track { id, name: name.into(), ..track.clone() };
    match setup.tracks.iter_mut().find(|track| track.id == id) {
        Some(known) => *known = made,
        None => setup.tracks.push(made),
    }
    Ok(())
}

/// Gives a track's surface other rows and columns.
pub(in crate::setup) fn cut_surface(
    setup: &mut Setup,
    id: TrackId,
    [rows, columns]: [usize; 2],
) -> Result<(), CommandError> {
    let known = setup.tracks.iter_mut().find(|track| track.id == id).ok_or(CommandError::NoTrack(id))?;
    let refused = |why| CommandError::Track { name: known.name.clone(), why };
    let made = known.with_cells(rows, columns).map_err(refused)?;
    *known = made;
    Ok(())
}

/// An id that no track has.
pub(in crate::setup) fn free_id(setup: &Setup) -> TrackId {
    TrackId(setup.tracks.iter().map(|track| track.id.0 + 1).max().unwrap_or(1))
}

/// Takes a track out; what it drove keeps its values, as keys.
pub(in crate::setup) fn remove_track(setup: &mut Setup, id: TrackId) -> Result<(), CommandError> {
    let at = setup.tracks.iter().position(|track| track.id == id).ok_or(CommandError::NoTrack(id))?;
    let before = setup.clone();
    for setting in settings(setup) {
        leave_tracks(setting, &before, &|track| track == id);
    }
    setup.tracks.remove(at);
    Ok(())
}

/// A drawn outline goes with no track any more, and stays where it is at every frame.
pub(in crate::setup) fn free_shape(
    setup: &mut Setup,
    stage: StageId,
    control: &str,
    shape: usize,
) -> Result<(), CommandError> {
    let before = setup.clone();
    let row = crate::setup::commands::entry::entry(setup, stage)?;
    let unknown = || CommandError::NoControl { stage: row.name.clone(), control: control.into() };
    let mut all = row.controls.get_mut(control).ok_or_else(unknown)?.drawn_mut();
    let drawn = all.get_mut(shape).ok_or_else(unknown)?;
    **drawn = standing_alone(drawn, &before);
    Ok(())
}

/// The tracks that a setting goes with.
pub(in crate::setup) fn tracks_of(setting: &Setting) -> Vec<TrackId> {
    let feeds = setting.feeds().iter().flat_map(Feed::tracks);
    let drawn = setting.drawn().into_iter().filter_map(|points| points.carried.as_ref());
    feeds.chain(drawn.map(|by| by.track)).collect()
}

/// Goes with other tracks instead.
pub(in crate::setup) fn rename_tracks(setting: &mut Setting, new: impl Fn(TrackId) -> TrackId) {
    for feed in setting.feeds_mut() {
        feed.replace_tracks(&|track| {
            Some(Feed::Track(crate::feed::TrackFeed { track: new(track.track), ..track.clone() }))
        });
    }
    for by in setting.drawn_mut().into_iter().filter_map(|points| points.carried.as_mut()) {
        by.track = new(by.track);
    }
}

/// What goes with tracks that are `gone` keeps its values, as keys at the frames where those were found.
pub(in crate::setup) fn leave_tracks(setting: &mut Setting, setup: &Setup, gone: &impl Fn(TrackId) -> bool) {
    for feed in setting.feeds_mut() {
        feed.replace_tracks(&|track| {
            gone(track.track).then(|| as_keys(&Feed::Track(track.clone()), track.track, setup))
        });
    }
    for points in setting.drawn_mut() {
        if points.carried.as_ref().is_some_and(|by| gone(by.track)) {
            *points = standing_alone(points, setup);
        }
    }
}

/// The same for all that a row is set to.
pub(in crate::setup) fn leave_all_tracks(row: &mut StageEntry, setup: &Setup) {
    let own = row.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
    for setting in row.controls.values_mut().chain(own) {
        leave_tracks(setting, setup, &|_| true);
    }
}

/// What goes with tracks stays as it is at the frame where its track begins.
pub(in crate::setup) fn stand_where_begun(setting: &mut Setting, setup: &Setup) {
    for feed in setting.feeds_mut() {
        feed.replace_tracks(&|driven| {
            let track = setup.tracks.iter().find(|track| track.id == driven.track);
            let frame = track.map_or(setup.picture.frames.first, |track| track.begins);
            Some(Feed::Fixed(Feed::Track(driven.clone()).at(setup.moment(f64::from(frame)), setup)))
        });
    }
}

/// The frames where a track was found, or where it begins.
fn frames(setup: &Setup, track: TrackId) -> Vec<f64> {
    let Some(track) = setup.tracks.iter().find(|known| known.id == track) else { return Vec::new() };
    let found: Vec<f64> = track.samples.keys().map(|frame| f64::from(*frame)).collect();
    if found.is_empty() { vec![f64::from(track.begins)] } else { found }
}

fn as_keys(feed: &Feed, track: TrackId, setup: &Setup) -> Feed {
    let value = |frame: f64| feed.at(setup.moment(frame), setup);
    let frames = frames(setup, track);
    match frames.as_slice() {
        [] => Feed::Fixed(value(f64::from(setup.picture.frames.first))),
        [only] => Feed::Fixed(value(*only)),
        [first, rest @ ..] => Feed::Keys(
            rest.iter()
                .fold(Keys::one(*first, value(*first)), |keys, frame| keys.with_value(*frame, value(*frame))),
        ),
    }
}

/// Points with keys at every frame where their track was found, and at their own.
fn standing_alone(drawn: &KeyedPoints, setup: &Setup) -> KeyedPoints {
    let Some(by) = &drawn.carried else { return drawn.clone() };
    let own = drawn.keys.iter().map(|key| key.frame);
    let all: Vec<f64> = frames(setup, by.track).into_iter().chain(own).collect();
    let placed = |frame: f64| drawn.placed(frame, setup);
    let free = KeyedPoints { way: drawn.way, ..KeyedPoints::default() };
    all.into_iter().fold(free, |made, frame| made.with_key(frame, placed(frame)))
}

/// Every setting of a setup.
fn settings(setup: &mut Setup) -> impl Iterator<Item = &mut Setting> {
    let of_rows = setup.stages.iter_mut().flat_map(|row| {
        let own = row.tool.iter_mut().flat_map(|tool| &mut tool.controls).map(|own| &mut own.setting);
        row.controls.values_mut().chain(own)
    });
    of_rows.chain(setup.own.iter_mut().map(|own| &mut own.setting))
}
