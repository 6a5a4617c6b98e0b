//! Rows joining a strand and leaving it, and what is plugged in their slots.

use std::collections::BTreeSet;

use crate::lists;
use crate::setup::commands::entry::entry;
use crate::setup::commands::refused::CommandError;
use crate::setup::commands::wording::NewRow;
use crate::setup::{Link, Setup, Source, StageEntry, StageId};
use crate::shape;
use crate::signal::{SignalKind, Take};
use crate::spec::{Accepts, MAIN, MATTE};
use crate::stages;

/// Puts rows in after a row; the last of them is the one that joins the strand.
pub(in crate::setup) fn put_in(
    setup: &mut Setup,
    rows: Vec<StageEntry>,
    joins: StageId,
    place: &NewRow,
) -> Result<(), CommandError> {
    if let Some(side) = Side::of(setup, &rows, joins, place) {
        return side.put_in(setup, rows, joins);
    }
    let last = setup.stages.len().saturating_sub(1);
    let at = match place.after {
        Some(after) => (setup.row(after).ok_or(CommandError::NoStage(after))? + 1).min(last),
        None => 0,
    };
    let before = place.after.and_then(|after| setup.stage(after)).filter(|row| !row.kind.is_final()).cloned();
    // On the final row, what comes in goes before it on its strand.
    let before = match (before, place.after) {
        (None, Some(_)) => main_source(setup, setup.final_id()).and_then(|id| setup.stage(id)).cloned(),
        (before, _) => before,
    };
    let inside = before.as_ref().and_then(|row| row.inside);
    let outermost: Vec<StageId> = rows.iter().filter(|row| row.inside.is_none()).map(|row| row.id).collect();
    setup.stages.splice(at..at, rows);
    for id in outermost {
        entry(setup, id)?.inside = inside;
    }
    match (&place.into, before) {
        // Into one slot of one row: all else that takes the row above goes on doing so.
        (Some((taker, slot)), before) => {
            if let Some(before) = before {
                take_main(setup, joins, &before)?;
            }
            link(setup, *taker, slot, Some(Source::Stage(joins)), None)
        }
        (None, Some(before)) => join_strand(setup, [joins, joins], &before),
        (None, None) => Ok(()),
    }
}

/// A row that is put on one strand and takes another in a slot beside it.
struct Side {
    /// What it takes.
    from: StageId,
    /// In which of its slots.
    slot: String,
    /// On whose strand it goes.
    on: StageId,
}

impl Side {
    /// Where a map is meant for a slot of maps, or a field for a slot of fields in a row that cannot go on from a field.
    fn of(setup: &Setup, rows: &[StageEntry], joins: StageId, place: &NewRow) -> Option<Self> {
        let (from, on) = (place.after?, place.on?);
        let row = rows.iter().find(|row| row.id == joins)?;
        let slots = shape::slots(row);
        let main = slots.iter().find(|slot| slot.id == MAIN).map(|slot| slot.accepts);
        let given = shape::kind_of(setup, from);
        let beside = slots.iter().filter(|slot| slot.id != MAIN);
        let slot = match given {
            SignalKind::Map => beside.clone().find(|slot| slot.accepts == Accepts::Map),
            SignalKind::Field if main.is_none_or(|main| !main.takes(SignalKind::Field)) => {
                let mut fields = beside.filter(|slot| slot.accepts.takes(SignalKind::Field));
                let own = fields.clone().find(|slot| slot.id != MATTE);
                // A source's matte is how much of it there is, which nobody means who adds one.
                own.or_else(|| fields.next().filter(|_| main.is_some()))
            }
            SignalKind::Field | SignalKind::Picture => None,
        }?;
        let slot = slot.id.to_owned();
        // A row whose kind does not fit, or which is the side itself, leaves the strand that ends in the last row.
        let fits =
            |id: &StageId| *id != from && main.is_some_and(|main| main.takes(shape::kind_of(setup, *id)));
        let last = main_source(setup, setup.final_id());
        let on = Some(on).filter(fits).or_else(|| last.filter(fits)).or(setup.final_id())?;
        Some(Self { from, slot, on })
    }

    fn put_in(self, setup: &mut Setup, rows: Vec<StageEntry>, joins: StageId) -> Result<(), CommandError> {
        let Self { from, slot, on } = self;
        let mut rows = rows;
        if let Some(row) = rows.iter_mut().find(|row| row.id == joins) {
            row.links.insert(slot.clone(), Link::stage(from));
        }
        put_in(setup, rows, joins, &NewRow { after: Some(on), ..NewRow::default() })?;
        // As a person plugs it, with what that means for a picture in a slot of fields.
        link(setup, joins, &slot, Some(Source::Stage(from)), None)
    }
}

/// Whether a row needs another, however far above.
fn needs(setup: &Setup, row: StageId, other: StageId) -> bool {
    let (mut met, mut next) = (BTreeSet::from([row]), vec![row]);
    while let Some(id) = next.pop() {
        if id == other {
            return true;
        }
        let links = setup.stage(id).into_iter().flat_map(|row| row.links.values());
        let above = links.filter_map(|link| match link.from {
            Source::Stage(above) => Some(above),
            Source::Input(_) => None,
        });
        next.extend(above.filter(|above| met.insert(*above)));
    }
    false
}

/// Where the first main slot takes from.
fn main_source(setup: &Setup, id: Option<StageId>) -> Option<StageId> {
    match setup.stage(id?)?.links.get(MAIN)?.from {
        Source::Stage(from) => Some(from),
        Source::Input(_) => None,
    }
}

/// Lets a row take another as its main input, where the kinds fit; tells whether they do.
fn take_main(setup: &mut Setup, id: StageId, before: &StageEntry) -> Result<bool, CommandError> {
    let row = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let given = shape::kind_of(setup, before.id);
    let fits = shape::slots(row).iter().any(|slot| slot.id == MAIN && slot.accepts.takes(given));
    if fits {
        link(setup, id, MAIN, Some(Source::Stage(before.id)), None)?;
    }
    Ok(fits)
}

/// Links new rows into the strand after `before`: the first takes `before`, and what took `before` along the
/// strand takes the last, each where the kinds fit.
pub(in crate::setup) fn join_strand(
    setup: &mut Setup,
    [first, id]: [StageId; 2],
    before: &StageEntry,
) -> Result<(), CommandError> {
    let takers: Vec<(StageId, String)> = setup
        .takers(before.id)
        .into_iter()
        // What the new rows need cannot take them.
        .filter(|(taker, _)| *taker != first && !needs(setup, id, *taker))
        .map(|(taker, slot)| (taker, slot.to_owned()))
        .collect();
    if !take_main(setup, first, before)? {
        return Ok(());
    }
    let along =
        takers.iter().find(|(_, slot)| slot == MAIN).or_else(|| takers.first().filter(|_| takers.len() == 1));
    if let Some((taker, slot)) = along {
        let gives = shape::kind_of(setup, id);
        let stage = setup.stage(*taker).ok_or(CommandError::NoStage(*taker))?;
        let fits = shape::slots(stage).iter().any(|s| s.id == slot && s.accepts.takes(gives));
        if fits {
            let take = setup.stage(*taker).and_then(|stage| stage.links.get(slot)).and_then(|link| link.take);
            link(setup, *taker, slot, Some(Source::Stage(id)), take)?;
        }
    }
    // The result of a tool moves on when its last row gets a follower.
    if let Some(tool) = before
        .inside
        .and_then(|row| setup.stages.iter_mut().find(|stage| stage.id == row))
        .and_then(|row| row.tool.as_mut())
        && tool.result == before.id
    {
        tool.result = id;
    }
    Ok(())
}

/// Takes a stage out with all that is inside it; gives the row that took its place on the strand.
pub(in crate::setup) fn remove(setup: &mut Setup, id: StageId) -> Result<Option<StageId>, CommandError> {
    let gone = setup.stage(id).ok_or(CommandError::NoStage(id))?.clone();
    if gone.kind.is_final() {
        return Err(CommandError::Final);
    }
    let healed = gone.links.get(MAIN).copied();
    let takers: Vec<(StageId, String)> =
        setup.takers(id).into_iter().map(|(taker, slot)| (taker, slot.to_owned())).collect();
    for (taker, slot) in takers {
        let stage = setup.stage(taker).ok_or(CommandError::NoStage(taker))?;
        let accepts = shape::slots(stage).into_iter().find(|s| s.id == slot).map(|slot| slot.accepts);
        let kind = healed.map(|link| shape::linked_kind(setup, link, gone.inside));
        let fits = accepts.zip(kind).is_some_and(|(accepts, kind)| accepts.takes(kind));
        link(setup, taker, &slot, healed.filter(|_| fits).map(|link| link.from), None)?;
    }
    let above = healed.and_then(|link| match link.from {
        Source::Stage(above) => Some(above),
        Source::Input(_) => None,
    });
    if let Some(tool) = gone
        .inside
        .and_then(|row| setup.stages.iter_mut().find(|stage| stage.id == row))
        .and_then(|row| row.tool.as_mut())
    {
        tool.faceplate.retain(|entry| entry.stage != id);
        if tool.result == id {
            tool.result = above.ok_or_else(|| CommandError::InsideTool(gone.name.clone()))?;
        }
    }
    let mut gone = vec![id];
    let mut next = 0;
    while let Some(outer) = gone.get(next).copied() {
        gone.extend(setup.stages.iter().filter(|stage| stage.inside == Some(outer)).map(|stage| stage.id));
        next += 1;
    }
    let orphans = setup.stages.iter().filter(|row| row.copy_of.is_some_and(|of| gone.contains(&of)));
    for orphan in orphans.map(|row| row.id).collect::<Vec<_>>() {
        stand_alone(setup, orphan)?;
    }
    let before = setup.clone();
    for row in &mut setup.stages {
        before.end_following(row, |followed| gone.contains(&followed));
    }
    setup.stages.retain(|stage| !gone.contains(&stage.id));
    Ok(above)
}

/// Ends following another row: the values that a copy has from it become its own.
pub(in crate::setup) fn stand_alone(setup: &mut Setup, id: StageId) -> Result<(), CommandError> {
    let row = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let settings = setup.settings(row);
    let row = entry(setup, id)?;
    row.controls = settings;
    row.copy_of = None;
    Ok(())
}

/// Plugs a slot. Where a field is wanted and a picture comes, one float is chosen and kept: luma of a plate
/// or of what is made of one alone, alpha of anything else, unless it is said.
pub(in crate::setup) fn link(
    setup: &mut Setup,
    taker: StageId,
    slot: &str,
    from: Option<Source>,
    take: Option<Take>,
) -> Result<(), CommandError> {
    let stage = setup.stage(taker).ok_or(CommandError::NoStage(taker))?;
    let Some(from) = from else {
        let taker = entry(setup, taker)?;
        taker.links.remove(slot);
        lists::close_up(taker);
        return Ok(());
    };
    if let Source::Stage(id) = from {
        let source = setup.stage(id).ok_or(CommandError::NoStage(id))?;
        if source.inside != stage.inside {
            return Err(CommandError::InsideTool(source.name.clone()));
        }
    }
    let accepts = shape::slots(stage).into_iter().find(|s| s.id == slot).map_or(Accepts::Any, |s| s.accepts);
    let kind = shape::linked_kind(setup, Link { from, take: None }, stage.inside);
    let take = accepts.converts(kind).then(|| take.unwrap_or_else(|| natural_take(setup, from)));
    entry(setup, taker)?.links.insert(slot.into(), Link { from, take });
    Ok(())
}

fn natural_take(setup: &Setup, from: Source) -> Take {
    let mut id = match from {
        Source::Stage(id) => Some(id),
        Source::Input(_) => return Take::Luma,
    };
    while let Some(stage) = id.and_then(|id| setup.stage(id)) {
        if stage.kind.0 == "plate" {
            return Take::Luma;
        }
        if stages::find(&stage.kind).is_some_and(|stage| stage.cuts()) {
            return Take::Alpha;
        }
        id = main_source(setup, Some(stage.id));
    }
    Take::Alpha
}
