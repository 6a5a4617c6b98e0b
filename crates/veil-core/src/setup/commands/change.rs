//! The few ways a setup can change, each with its inverse.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use crate::setup::{Media, OwnControl, PictureFormat, Setup, StageEntry, StageId};
use crate::tracks::{Track, TrackId};

/// One step from a setup to another.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Change {
    /// A stage comes in at a row.
    Insert {
        /// Row, from the top.
        at: usize,
        /// The stage.
        entry: Box<StageEntry>,
    },
    /// A stage goes.
    Remove {
        /// Which.
        id: StageId,
    },
    /// A stage becomes another with the same id.
    Replace {
        /// What it becomes.
        entry: Box<StageEntry>,
    },
    /// The rows stand in another order.
    Reorder {
        /// Every id once.
        order: Vec<StageId>,
    },
    /// The media are these.
    Media {
        /// All of them.
        media: Vec<Media>,
    },
    /// The setup's own controls are these.
    Own {
        /// All of them.
        own: Vec<OwnControl>,
    },
    /// A track is this, or is not there.
    Track {
        /// Which.
        id: TrackId,
        /// What it is.
        track: Option<Box<Track>>,
    },
    /// The tracks are these.
    Tracks {
        /// All of them.
        tracks: Vec<Track>,
    },
    /// The name and the picture's size, rate and range are these.
    About {
        /// As shown.
        name: String,
        /// Size, rate and range.
        picture: PictureFormat,
    },
}

/// Why a change does not fit a setup.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum ChangeError {
    /// It names a stage that is not there.
    #[error("there is no stage {}", .0.0)]
    NoStage(StageId),
    /// It brings a stage whose id is taken.
    #[error("stage {} is there already", .0.0)]
    Taken(StageId),
    /// The new order does not list every stage once.
    #[error("the new order does not list every stage once")]
    Order,
}

impl Change {
    /// Applies it and gives its inverse. On an error the setup is as it was.
    pub fn apply(self, setup: &mut Setup) -> Result<Self, ChangeError> {
        match self {
            Self::Insert { at, entry } => {
                if setup.stage(entry.id).is_some() {
                    return Err(ChangeError::Taken(entry.id));
                }
                let id = entry.id;
                let at = at.min(setup.stages.len());
                setup.stages.insert(at, *entry);
                Ok(Self::Remove { id })
            }
            Self::Remove { id } => {
                let at = setup.row(id).ok_or(ChangeError::NoStage(id))?;
                let entry = Box::new(setup.stages.remove(at));
                Ok(Self::Insert { at, entry })
            }
            Self::Replace { entry } => {
                let at = setup.row(entry.id).ok_or(ChangeError::NoStage(entry.id))?;
                let old = std::mem::replace(&mut setup.stages[at], *entry);
                Ok(Self::Replace { entry: Box::new(old) })
            }
            Self::Reorder { order } => {
                let old: Vec<StageId> = setup.stages.iter().map(|stage| stage.id).collect();
                let ids: BTreeSet<_> = order.iter().collect();
                if order.len() != old.len() || ids != old.iter().collect() {
                    return Err(ChangeError::Order);
                }
                setup.stages.sort_by_key(|stage| order.iter().position(|id| *id == stage.id));
                Ok(Self::Reorder { order: old })
            }
            Self::Own { own } => Ok(Self::Own { own: std::mem::replace(&mut setup.own, own) }),
            Self::Track { id, track } => {
                let at = setup.tracks.partition_point(|known| known.id < id);
                let there = setup.tracks.get(at).is_some_and(|known| known.id == id);
                let old = there.then(|| Box::new(setup.tracks.remove(at)));
                if let Some(track) = track {
                    setup.tracks.insert(at, *track);
                }
                Ok(Self::Track { id, track: old })
            }
            Self::Tracks { tracks } => {
                Ok(Self::Tracks { tracks: std::mem::replace(&mut setup.tracks, tracks) })
            }
            Self::Media { media } => Ok(Self::Media { media: std::mem::replace(&mut setup.media, media) }),
            Self::About { name, picture } => {
                let name = std::mem::replace(&mut setup.name, name);
                let picture = std::mem::replace(&mut setup.picture, picture);
                Ok(Self::About { name, picture })
            }
        }
    }

    /// The changes from one setup to another, in the order they are applied.
    pub fn between(old: &Setup, new: &Setup) -> Vec<Self> {
        let mut changes = Vec::new();
        if (&old.name, old.picture) != (&new.name, new.picture) {
            changes.push(Self::About { name: new.name.clone(), picture: new.picture });
        }
        if old.media != new.media {
            changes.push(Self::Media { media: new.media.clone() });
        }
        if old.own != new.own {
            changes.push(Self::Own { own: new.own.clone() });
        }
        changes.extend(track_changes(&old.tracks, &new.tracks));
        let mut order: Vec<StageId> = Vec::new();
        for stage in &old.stages {
            match new.stage(stage.id) {
                None => changes.push(Self::Remove { id: stage.id }),
                Some(kept) => {
                    order.push(stage.id);
                    if kept != stage {
                        changes.push(Self::Replace { entry: Box::new(kept.clone()) });
                    }
                }
            }
        }
        for (at, stage) in new.stages.iter().enumerate() {
            if old.stage(stage.id).is_none() {
                changes.push(Self::Insert { at, entry: Box::new(stage.clone()) });
                order.insert(at.min(order.len()), stage.id);
            }
        }
        let wanted: Vec<StageId> = new.stages.iter().map(|stage| stage.id).collect();
        if order != wanted {
            changes.push(Self::Reorder { order: wanted });
        }
        changes
    }

    /// What of a setup it touches.
    pub fn part(&self) -> Part {
        match self {
            Self::Insert { entry, .. } | Self::Replace { entry } => Part::Row(entry.id),
            Self::Remove { id } => Part::Row(*id),
            Self::Reorder { .. } => Part::Order,
            Self::Media { .. } => Part::Media,
            Self::Own { .. } => Part::Own,
            Self::Track { .. } | Self::Tracks { .. } => Part::Tracks,
            Self::About { .. } => Part::About,
        }
    }
}

/// A part of a setup that one step may change without meeting a step that changes another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Part {
    /// A row.
    Row(StageId),
    /// In which order the rows stand.
    Order,
    /// The list of media.
    Media,
    /// The setup's own controls.
    Own,
    /// What is followed.
    Tracks,
    /// Name, size, rate and range.
    About,
}

impl std::fmt::Display for Part {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Row(id) => write!(f, "row {}", id.0),
            Self::Order => f.write_str("order"),
            Self::Media => f.write_str("media"),
            Self::Own => f.write_str("own"),
            Self::Tracks => f.write_str("tracks"),
            Self::About => f.write_str("about"),
        }
    }
}

/// The changes from some tracks to others. Their order is that of their numbers; where it is not, all are put anew.
fn track_changes(old: &[Track], new: &[Track]) -> Vec<Change> {
    if ![old, new].iter().all(|tracks| tracks.is_sorted_by(|a, b| a.id < b.id)) {
        let differ = old != new;
        return if differ { vec![Change::Tracks { tracks: new.to_vec() }] } else { Vec::new() };
    }
    let of = |tracks: &[Track], id: TrackId| tracks.iter().find(|track| track.id == id).cloned();
    let ids: BTreeSet<TrackId> = old.iter().chain(new).map(|track| track.id).collect();
    ids.into_iter()
        .map(|id| (id, of(old, id), of(new, id)))
        .filter(|(_, old, new)| old != new)
        .map(|(id, _, new)| Change::Track { id, track: new.map(Box::new) })
        .collect()
}
