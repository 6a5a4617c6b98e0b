//! Rows copied: beside themselves, as text, or for one taker alone.

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::feed::{ControlAxis, Feed, FollowFeed};
use crate::setup::commands::entry::entry;
use crate::setup::commands::refused::CommandError;
use crate::setup::commands::strand::{join_strand, link};
use crate::setup::commands::track::{free_id, rename_tracks, tracks_of};
use crate::setup::commands::wording::NewRow;
use crate::setup::{
    FORMAT, Link, Media, MediaId, Setting, Setup, SetupError, Source, StageEntry, StageId, StageKind,
};
use crate::shape;
use crate::spec::MAIN;
use crate::tracks::{Track, TrackId};

/// Rows as text: they can be put into the same setup or into another, in another window or in a message.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CopiedRows {
    /// Format of the setup that they are from.
    pub format: u32,
    /// In working order.
    pub rows: Vec<StageEntry>,
    /// The media that they name.
    #[serde(default)]
    pub media: Vec<Media>,
    /// The tracks that they go with.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tracks: Vec<Track>,
    /// What they take from rows that are not among them.
    #[serde(default)]
    pub taken: Vec<TakenRow>,
    /// What their controls follow on rows that are not among them.
    #[serde(default)]
    pub followed: Vec<FollowedFeed>,
}

/// A number that copied rows follow. Where its row is not there, they get what it came from instead.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FollowedFeed {
    /// The number.
    pub of: ControlAxis,
    /// Where it came from.
    pub feed: Feed,
}

/// A row that copied rows take. Where they are put in, they take it again if it is there by both.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TakenRow {
    /// Its id in the setup that the rows are from.
    pub id: StageId,
    /// Its name there.
    pub name: String,
}

/// Where copies have their values from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(in crate::setup) enum Values {
    /// They bring them.
    Own,
    /// They follow the rows that they are copies of.
    Followed,
}

impl CopiedRows {
    /// The chosen rows of a setup, with all that is inside of them.
    pub fn of(setup: &Setup, chosen: &[StageId]) -> Result<Self, CommandError> {
        let mut set: BTreeSet<StageId> = chosen.iter().copied().collect();
        if let Some(missing) = set.iter().find(|id| setup.stage(**id).is_none()) {
            return Err(CommandError::NoStage(*missing));
        }
        // Rows of a tool stand above the tool's own, so a nested one is found on the next round.
        loop {
            let inner = |stage: &&StageEntry| stage.inside.is_some_and(|tool| set.contains(&tool));
            let more: Vec<StageId> = setup.stages.iter().filter(inner).map(|stage| stage.id).collect();
            let before = set.len();
            set.extend(more);
            if set.len() == before {
                break;
            }
        }
        let mut rows: Vec<StageEntry> =
            setup.stages.iter().filter(|stage| set.contains(&stage.id)).cloned().collect();
        // What a row has from one that is not copied with it becomes its own.
        for row in rows.iter_mut().filter(|row| row.copy_of.is_some_and(|of| !set.contains(&of))) {
            row.controls = setup.settings(row);
            row.copy_of = None;
        }
        if rows.iter().any(|row| row.kind.is_final()) {
            return Err(CommandError::Final);
        }
        let sources: BTreeSet<StageId> = rows
            .iter()
            .flat_map(|row| row.links.values())
            .filter_map(|link| match link.from {
                Source::Stage(id) => Some(id).filter(|id| !set.contains(id)),
                Source::Input(_) => None,
            })
            .collect();
        let mut followed: Vec<ControlAxis> = rows
            .iter()
            .flat_map(|row| row.controls.values())
            .flat_map(Setting::feeds)
            .flat_map(Feed::follows)
            .filter(|of| !set.contains(&of.stage))
            .cloned()
            .collect();
        followed.sort();
        followed.dedup();
        let sources: BTreeSet<StageId> =
            sources.into_iter().chain(followed.iter().map(|of| of.stage)).collect();
        let feed_of = |of: ControlAxis| setup.in_place_of(&of).map(|feed| FollowedFeed { of, feed });
        let named = |id: StageId| setup.stage(id).map(|row| TakenRow { id, name: row.name.clone() });
        let goes_with: BTreeSet<TrackId> =
            rows.iter().flat_map(|row| row.controls.values()).flat_map(tracks_of).collect();
        let used: BTreeSet<MediaId> = rows.iter().flat_map(media_of).collect();
        Ok(Self {
            format: FORMAT,
            media: setup.media.iter().filter(|media| used.contains(&media.id)).cloned().collect(),
            tracks: setup.tracks.iter().filter(|track| goes_with.contains(&track.id)).cloned().collect(),
            taken: sources.into_iter().filter_map(named).collect(),
            followed: followed.into_iter().filter_map(feed_of).collect(),
            rows,
        })
    }

    /// Puts the rows in below `place`, with ids and names that are free, and gives the last of them.
    ///
    /// Where the head of their strand takes nothing, they join the strand there.
    pub(in crate::setup) fn put_in(
        &self,
        setup: &mut Setup,
        place: &NewRow,
        values: Values,
    ) -> Result<StageId, CommandError> {
        if self.format == 0 || self.format > FORMAT {
            return Err(SetupError::Format(self.format).into());
        }
        let before = match place.after {
            Some(after) => Some(setup.stage(after).ok_or(CommandError::NoStage(after))?.clone()),
            None => None,
        };
        let inside = before.as_ref().and_then(|row| row.inside);
        let added = self.fresh(setup, inside, values);
        let last =
            added.iter().rfind(|row| row.inside == inside).map(|row| row.id).ok_or(CommandError::NoRows)?;
        let at = before.as_ref().and_then(|row| setup.row(row.id)).map_or(0, |row| row + 1);
        let at = at.min(setup.stages.len().saturating_sub(1));
        let head = self.head(&added, last);
        setup.stages.splice(at..at, added);
        if let Some((taker, slot)) = &place.into {
            link(setup, *taker, slot, Some(Source::Stage(last)), None)?;
        }
        let joins = setup.stage(head).is_some_and(|row| {
            !row.links.contains_key(MAIN) && shape::slots(row).iter().any(|slot| slot.id == MAIN)
        });
        if let Some(before) = before.filter(|row| joins && !row.kind.is_final()) {
            join_strand(setup, [head, last], &before)?;
        }
        Ok(last)
    }

    /// The rows with free ids and names, taking what of their sources is there.
    fn fresh(&self, setup: &mut Setup, inside: Option<StageId>, values: Values) -> Vec<StageEntry> {
        let first = setup.free_id().0;
        let ids: BTreeMap<StageId, StageId> =
            self.rows.iter().zip(first..).map(|(row, id)| (row.id, StageId(id))).collect();
        let media: BTreeMap<MediaId, MediaId> =
            self.media.iter().map(|media| (media.id, known_media(setup, media))).collect();
        let tracks = self.known_tracks(setup, &ids);
        let mut named = setup.clone();
        let mut rows = Vec::new();
        for row in &self.rows {
            let mut copy = row.clone();
            copy.id = ids[&row.id];
            copy.name = named.free_name(&row.name);
            copy.bake = None;
            let inner = row.inside.and_then(|tool| ids.get(&tool).copied());
            copy.inside = inner.or(inside);
            match values {
                Values::Own => copy.copy_of = row.copy_of.and_then(|of| ids.get(&of).copied()),
                Values::Followed => {
                    copy.copy_of = Some(row.id);
                    copy.controls.clear();
                }
            }
            copy.links.retain(|_, link| match &mut link.from {
                Source::Stage(id) => {
                    let from = ids.get(id).copied().or_else(|| {
                        self.is_there(setup, *id)
                            .filter(|id| setup.stage(*id).is_some_and(|row| row.inside == copy.inside))
                    });
                    *id = from.unwrap_or(*id);
                    from.is_some()
                }
                Source::Input(_) => inner.is_some(),
            });
            let moved = |follows: &FollowFeed| {
                let of = follows.follow.stage;
                let held = self.followed.iter().find(|held| held.of == follows.follow);
                let own = setup.in_place_of(&follows.follow);
                let same =
                    of == StageId::WHOLE && own.is_some() && own.as_ref() == held.map(|held| &held.feed);
                let there = ids.get(&of).copied().or_else(|| self.is_there(setup, of)).or(same.then_some(of));
                Some(match there {
                    Some(stage) => {
                        let follow = ControlAxis { stage, ..follows.follow.clone() };
                        Feed::Follow(FollowFeed { follow, ..follows.clone() })
                    }
                    None => {
                        let instead = held.map_or(Feed::Fixed(0.0), |held| held.feed.clone());
                        instead.scaled(follows.scale).plus(&follows.offset)
                    }
                })
            };
            for feed in copy.controls.values_mut().flat_map(Setting::feeds_mut) {
                feed.replace_followers(&moved);
            }
            for setting in copy.controls.values_mut() {
                rename_tracks(setting, |track| tracks.get(&track).copied().unwrap_or(track));
                if let Setting::Media { media: named } = setting {
                    *named = media.get(named).copied().unwrap_or(*named);
                }
            }
            if let Some(tool) = &mut copy.tool {
                tool.rename_rows(|id| ids.get(&id).copied().unwrap_or(id));
            }
            named.stages.push(copy.clone());
            rows.push(copy);
        }
        rows
    }

    /// The tracks that the rows go with: those of the setup that are the same, and those that are put in.
    fn known_tracks(
        &self,
        setup: &mut Setup,
        ids: &BTreeMap<StageId, StageId>,
    ) -> BTreeMap<TrackId, TrackId> {
        let mut known = BTreeMap::new();
        for track in &self.tracks {
            let same = |other: &&Track| (&other.name, &other.samples) == (&track.name, &track.samples);
            let id = setup.tracks.iter().find(same).map(|track| track.id).unwrap_or_else(|| {
                let id = free_id(setup);
                // Its picture may not have come along: it is then followed in what is rendered.
                let stage = ids.get(&track.stage).copied().or(setup.final_id()).unwrap_or(track.stage);
                setup.tracks.push(Track { id, stage, without: None, ..track.clone() });
                id
            });
            known.insert(track.id, id);
        }
        known
    }

    /// A row of the setup that is one of the taken ones.
    fn is_there(&self, setup: &Setup, id: StageId) -> Option<StageId> {
        let name = &self.taken.iter().find(|taken| taken.id == id)?.name;
        setup.stage(id).filter(|row| row.name == *name).map(|row| row.id)
    }

    /// The top of the strand that ends in the last row.
    fn head(&self, added: &[StageEntry], last: StageId) -> StageId {
        let mut head = last;
        for row in added.iter().rev().filter(|row| row.inside == added[added.len() - 1].inside) {
            if row.id == head
                && let Some(Source::Stage(next)) = row.links.get(MAIN).map(|link| link.from)
                && added.iter().any(|row| row.id == next)
            {
                head = next;
            }
        }
        head
    }
}

fn media_of(row: &StageEntry) -> impl Iterator<Item = MediaId> {
    row.controls.values().filter_map(|setting| match setting {
        Setting::Media { media } => Some(*media),
        _ => None,
    })
}

/// The setup's own id of a medium, which it is given where it does not have it.
fn known_media(setup: &mut Setup, media: &Media) -> MediaId {
    if let Some(known) = setup.media.iter().find(|known| known.path == media.path) {
        return known.id;
    }
    let id = setup.free_media_id();
    setup.media.push(Media { id, ..media.clone() });
    id
}

/// Copies rows beside themselves, below the last of them. What is linked follows the first in every control that is
/// not changed on the copy.
pub(in crate::setup) fn duplicate(
    setup: &mut Setup,
    chosen: &[StageId],
    linked: bool,
) -> Result<StageId, CommandError> {
    let copied = CopiedRows::of(setup, chosen)?;
    let after = copied.rows.last().map(|row| row.id);
    let values = if linked { Values::Followed } else { Values::Own };
    copied.put_in(setup, &NewRow { after, ..NewRow::default() }, values)
}

/// Gives one taker a copy of what it takes in a slot, so that changing that changes nothing else.
pub(in crate::setup) fn split_off(
    setup: &mut Setup,
    taker: StageId,
    slot: &str,
) -> Result<StageId, CommandError> {
    let row = setup.stage(taker).ok_or(CommandError::NoStage(taker))?;
    let taken = *row
        .links
        .get(slot)
        .ok_or_else(|| CommandError::NothingTaken { stage: row.name.clone(), slot: slot.into() })?;
    let Source::Stage(from) = taken.from else {
        return Err(CommandError::InsideTool(row.name.clone()));
    };
    let copy = duplicate(setup, &[from], false)?;
    if let Some(link) = entry(setup, taker)?.links.get_mut(slot) {
        link.from = Source::Stage(copy);
    }
    Ok(copy)
}

/// Names the group of rows and brings them together, below what they take of rows outside; the order that every edit
/// ends with keeps all else that holds.
pub(in crate::setup) fn group(setup: &mut Setup, rows: &[StageId], name: &str) -> Result<(), CommandError> {
    if rows.is_empty() {
        return Err(CommandError::NoRows);
    }
    for id in rows {
        if entry(setup, *id)?.kind.is_final() {
            return Err(CommandError::Final);
        }
        entry(setup, *id)?.group = name.to_owned();
    }
    if name.is_empty() {
        return Ok(());
    }
    let (members, others): (Vec<StageEntry>, Vec<StageEntry>) =
        std::mem::take(&mut setup.stages).into_iter().partition(|row| rows.contains(&row.id));
    let taken = |id: StageId| {
        let takes = |row: &StageEntry| row.links.values().any(|link| link.from == Source::Stage(id));
        members.iter().any(takes)
    };
    let at = others.iter().rposition(|row| taken(row.id)).map_or(0, |row| row + 1);
    setup.stages = others.into();
    setup.stages.splice(at..at, members);
    Ok(())
}

/// Makes a row another kind, keeping what fits: its links by slot, its settings by control, its own name.
pub(in crate::setup) fn replace_kind(setup: &mut Setup, id: StageId, kind: &str) -> Result<(), CommandError> {
    let old = setup.stage(id).ok_or(CommandError::NoStage(id))?.clone();
    let no_kind = || CommandError::NoKind(kind.into());
    let stage = crate::stages::find(&StageKind(kind.into())).ok_or_else(no_kind)?;
    if old.kind.is_final() || stage.spec().id == StageKind::FINAL {
        return Err(CommandError::Final);
    }
    let was = crate::stages::find(&old.kind).ok_or_else(|| CommandError::ToolKind(old.name.clone()))?;
    let mut new = StageEntry { kind: StageKind(kind.into()), bake: None, copy_of: None, ..old.clone() };
    if old.name.trim_end_matches(|c: char| c.is_ascii_digit() || c == ' ') == was.spec().name {
        new.name = setup.free_name(stage.spec().name);
    }
    let own = shape::all_controls(&new);
    let settings = setup.settings(&old);
    new.controls = settings
        .into_iter()
        .filter(|(id, setting)| own.iter().any(|spec| spec.id == *id && spec.kind.fits(setting).is_ok()))
        .collect();
    let slots = shape::slots(&new);
    new.links.retain(|id, link| {
        let taken = shape::linked_kind(setup, Link { take: None, ..*link }, old.inside);
        let Some(slot) = slots.iter().find(|slot| slot.id == id) else { return false };
        if !slot.accepts.converts(taken) {
            link.take = None;
        }
        slot.accepts.takes(taken)
    });
    // A field that a picture was turned into stays one; a slot that now wants one is plugged by its own rule.
    let again: Vec<(String, Link)> = new
        .links
        .iter()
        .filter(|(_, link)| link.take.is_none())
        .map(|(id, link)| (id.clone(), *link))
        .collect();
    *entry(setup, id)? = new;
    for (slot, taken) in again {
        link(setup, id, &slot, Some(taken.from), None)?;
    }
    Ok(())
}
