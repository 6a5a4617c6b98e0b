//! A tool's row taking another number of its tool, and rows inside becoming a copy of their own.

use std::collections::BTreeSet;

use crate::setup::commands::entry::entry;
use crate::setup::commands::refused::CommandError;
use crate::setup::commands::strand::stand_alone;
use crate::setup::tools::pace::set_pace;
use crate::setup::{Setup, StageEntry, StageId, Tool, ToolError, ToolUse};
use crate::shape;

/// Puts a tool's rows in place of those inside a tool's row. The row keeps its name, its place, its amount and matte,
/// what its inputs take by their names, the values of the faceplate by their labels, and when it starts and how long it
/// lasts.
pub(in crate::setup) fn take_tool(
    setup: &mut Setup,
    id: StageId,
    tool: &Tool,
    lengths: f64,
) -> Result<(), CommandError> {
    tool.check()?;
    let row = setup.stage(id).ok_or(CommandError::NoStage(id))?.clone();
    let Some(old) = &row.tool else { return Err(CommandError::NoTool(row.name)) };
    let mut rows = tool.rows_for(setup, lengths);
    let mut made = rows.pop().ok_or(ToolError::NoRows)?;
    let placed = made.id;
    let here = |row: StageId| if row == placed { id } else { row };
    made.rename_followed(here);
    let mut about = made.tool.ok_or(ToolError::NoRows)?;
    about.rename_rows(here);
    about.own = false;
    for inner in &mut rows {
        inner.inside = inner.inside.map(here);
        inner.rename_followed(here);
    }
    keep_values(setup, old, &about, &mut rows);
    let pace = setup.pace(id);
    let gone = inside(setup, id);
    leave_behind(setup, &gone)?;
    let (had, has) = (old.inputs.clone(), about.inputs.clone());
    let taker = entry(setup, id)?;
    let links = std::mem::take(&mut taker.links);
    for (slot, link) in links {
        let number = (0..had.len()).find(|number| ToolUse::slot_id(*number) == slot);
        let kept = match number {
            // A matte is no input and stays.
            None => Some(slot),
            Some(number) => {
                has.iter().position(|input| *input == had[number]).map(|at| ToolUse::slot_id(at).to_owned())
            }
        };
        if let Some(slot) = kept {
            taker.links.insert(slot, link);
        }
    }
    taker.tool = Some(about);
    let before = setup.clone();
    for row in &mut setup.stages {
        before.end_following(row, |followed| gone.contains(&followed));
    }
    setup.stages.retain(|row| !gone.contains(&row.id));
    let at = setup.row(id).unwrap_or(0);
    setup.stages.splice(at..at, rows);
    if let (Some(pace), Some(_)) = (pace, setup.pace(id)) {
        set_pace(setup, id, Some(pace.starts), Some(pace.lasts).filter(|lasts| *lasts > 0.0))?;
    }
    Ok(())
}

/// The values that a person gave the faceplate go on under the labels they had; what still is as the old number has it
/// becomes as the new one has it.
fn keep_values(setup: &Setup, old: &ToolUse, new: &ToolUse, rows: &mut [StageEntry]) {
    for was in &old.faceplate {
        let value = setup.stage(was.stage).and_then(|row| setup.setting(row, &was.control));
        let is = new.faceplate.iter().find(|entry| entry.label == was.label);
        let (Some(value), Some(is)) = (value.filter(|value| Some(*value) != was.default.as_ref()), is) else {
            continue;
        };
        let Some(inner) = rows.iter_mut().find(|row| row.id == is.stage) else { continue };
        let type_of = |row: Option<&StageEntry>, control: &str| {
            row.and_then(|row| shape::control(row, control)).map(|spec| std::mem::discriminant(&spec.kind))
        };
        if type_of(setup.stage(was.stage), &was.control) == type_of(Some(inner), &is.control) {
            inner.controls.insert(is.control.clone(), value.clone());
        }
    }
}

/// Copies of rows that go keep the values they have from them.
fn leave_behind(setup: &mut Setup, gone: &BTreeSet<StageId>) -> Result<(), CommandError> {
    let orphan =
        |row: &&StageEntry| !gone.contains(&row.id) && row.copy_of.is_some_and(|of| gone.contains(&of));
    for id in setup.stages.iter().filter(orphan).map(|row| row.id).collect::<Vec<_>>() {
        stand_alone(setup, id)?;
    }
    Ok(())
}

/// Every row inside a tool's row, however deep.
pub(in crate::setup) fn inside(setup: &Setup, id: StageId) -> BTreeSet<StageId> {
    let mut found = BTreeSet::from([id]);
    // A tool's row stands below the rows inside of it.
    for row in setup.stages.iter().rev() {
        if row.inside.is_some_and(|outer| found.contains(&outer)) {
            found.insert(row.id);
        }
    }
    found.remove(&id);
    found
}

/// Marks the tools' rows whose insides an edit has changed, values of the faceplate aside: they are copies of their own.
pub(in crate::setup) fn mark_own(old: &Setup, new: &mut Setup) {
    let changed: Vec<StageId> = new
        .stages
        .iter()
        .filter(|row| {
            let was = old.stage(row.id).and_then(|was| was.tool.as_ref());
            // What took another number, or was put back to its own, is what the rack has.
            was.zip(row.tool.as_ref()).is_some_and(|(was, is)| was.number == is.number && was.own == is.own)
                && made_of(old, row.id) != made_of(new, row.id)
        })
        .map(|row| row.id)
        .collect();
    for row in new.stages.iter_mut().filter(|row| changed.contains(&row.id)) {
        if let Some(tool) = &mut row.tool {
            tool.own = true;
        }
    }
}

/// What counts of a tool's insides: its rows without what its faceplate shows.
fn made_of(setup: &Setup, id: StageId) -> Vec<StageEntry> {
    let rows = inside(setup, id);
    let faceplate = setup.stage(id).and_then(|row| row.tool.as_ref()).map(|tool| tool.faceplate.clone());
    let mut made: Vec<StageEntry> =
        setup.stages.iter().filter(|row| rows.contains(&row.id)).cloned().collect();
    for entry in faceplate.unwrap_or_default() {
        for row in made.iter_mut().filter(|row| row.id == entry.stage) {
            row.controls.remove(&entry.control);
        }
    }
    // A tool within is compared by its rows, which are among these.
    for row in &mut made {
        row.bake = None;
        if let Some(tool) = &mut row.tool {
            tool.own = false;
        }
    }
    made
}
