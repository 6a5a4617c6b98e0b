//! From chosen rows to a tool's row, and from that row to a tool for the rack.

use std::collections::BTreeSet;

use crate::setup::commands::entry::entry;
use crate::setup::commands::refused::CommandError;
use crate::setup::commands::track::{leave_all_tracks, stand_where_begun};
use crate::setup::tools::Outline;
use crate::setup::{
    FaceplateEntry, Link, Otherwise, Setting, Setup, Source, StageEntry, StageId, StageKind, TOOL_FORMAT,
    Tool, ToolError, ToolInput, ToolUse,
};
use crate::shape;

/// Puts chosen rows inside a new row that takes what they took and gives what they gave.
pub(in crate::setup) fn make_tool(
    setup: &mut Setup,
    chosen: &[StageId],
    name: &str,
    input_names: &[String],
    otherwise: &[Otherwise],
    faceplate: &[FaceplateEntry],
) -> Result<StageId, CommandError> {
    let outline = Outline::of(setup, chosen)?;
    let outer = setup.stage(outline.result).and_then(|row| row.inside);
    for entry in faceplate {
        let known = outline.rows.contains(&entry.stage)
            && setup.stage(entry.stage).is_some_and(|stage| shape::control(stage, &entry.control).is_some());
        if !known {
            return Err(ToolError::Faceplate(entry.label.clone()).into());
        }
    }
    let row_id = setup.free_id();
    let inputs = outline.taken.iter().enumerate().map(|(number, taken)| {
        let given = input_names.get(number).filter(|name| !name.trim().is_empty());
        let result = setup.stage(outline.result);
        let found = result.and_then(|row| setup.link_name(*taken, row));
        let kind = shape::linked_kind(setup, *taken, outer);
        let name = given.cloned().or(found).unwrap_or_else(|| format!("input {}", number + 1));
        ToolInput { name, kind, otherwise: otherwise.get(number).copied().unwrap_or_default() }
    });
    let about = ToolUse {
        name: name.trim().to_owned(),
        number: 1,
        inputs: inputs.collect(),
        gives: shape::kind_of(setup, outline.result),
        result: outline.result,
        faceplate: faceplate.to_vec(),
        own: false,
        controls: Vec::new(),
    };
    if let Some(why) = about.faulty_stand_in() {
        return Err(ToolError::Broken { name: about.name, why }.into());
    }
    let mut row = StageEntry::new(row_id, StageKind::TOOL, setup.free_name(&about.name));
    row.inside = outer;
    for (number, taken) in outline.taken.iter().enumerate() {
        row.links.insert(ToolUse::slot_id(number).into(), *taken);
    }
    row.tool = Some(about);
    let takers: Vec<(StageId, String)> = setup
        .takers(outline.result)
        .into_iter()
        .filter(|(taker, _)| !outline.rows.contains(taker))
        .map(|(taker, slot)| (taker, slot.to_owned()))
        .collect();
    for id in &outline.rows {
        let stage = entry(setup, *id)?;
        if stage.inside == outer {
            stage.inside = Some(row_id);
            for link in stage.links.values_mut() {
                let plain = Link { take: None, ..*link };
                if let Some(number) = outline.taken.iter().position(|taken| *taken == plain) {
                    link.from = Source::Input(number);
                }
            }
        }
    }
    let at = setup.row(outline.result).map_or(0, |row| row + 1);
    setup.stages.insert(at, row);
    for (taker, slot) in takers {
        if let Some(link) = entry(setup, taker)?.links.get_mut(&slot) {
            link.from = Source::Stage(row_id);
        }
    }
    Ok(row_id)
}

impl Tool {
    /// The tool that a tool's row stands for, to be kept on the rack. `None` where the row is no tool's.
    ///
    /// Media are not taken along: they belong to the shot.
    pub fn from_row(setup: &Setup, id: StageId) -> Option<Self> {
        let about = ToolUse { own: false, ..setup.stage(id)?.tool.clone()? };
        let mut inside = vec![id];
        let mut stages = Vec::new();
        for stage in setup.stages.iter().rev() {
            if stage.inside.is_some_and(|row| inside.contains(&row)) {
                if stage.tool.is_some() {
                    inside.push(stage.id);
                }
                let mut kept = stage.clone();
                kept.inside = kept.inside.filter(|row| *row != id);
                stages.push(kept);
            }
        }
        stages.reverse();
        // What a row has from rows that are not taken along becomes its own.
        let ids: BTreeSet<StageId> = stages.iter().map(|row| row.id).collect();
        for kept in &mut stages {
            if kept.copy_of.is_some_and(|of| !ids.contains(&of)) {
                kept.controls = setup.settings(kept);
                kept.copy_of = None;
            }
            setup.end_following(kept, |followed| !ids.contains(&followed) && followed != id);
            // Tracks are the shot's: what is shown of a tool stands where they begin, to be placed anew.
            for shown in about.faceplate.iter().filter(|shown| shown.stage == kept.id) {
                if let Some(setting) = kept.controls.get_mut(&shown.control) {
                    stand_where_begun(setting, setup);
                }
            }
            leave_all_tracks(kept, setup);
            // In a tool's file the tool itself has no number.
            kept.rename_followed(|followed| if followed == id { StageId::WHOLE } else { followed });
            kept.controls.retain(|_, setting| !matches!(setting, Setting::Media { .. }));
        }
        let mut own = StageEntry::new(id, StageKind::TOOL, "");
        own.tool = Some(about);
        setup.end_following(&mut own, |followed| !ids.contains(&followed) && followed != id);
        leave_all_tracks(&mut own, setup);
        own.rename_followed(|followed| if followed == id { StageId::WHOLE } else { followed });
        let mut about = own.tool?;
        about.rename_rows(|row| if row == id { StageId::WHOLE } else { row });
        Some(Self { format: TOOL_FORMAT, about, made_at_height: setup.picture.height, stages })
    }

    /// What the chosen rows would take from outside, by name, in the order of the tool's inputs.
    pub fn inputs_of(setup: &Setup, chosen: &[StageId]) -> Result<Vec<String>, ToolError> {
        let outline = Outline::of(setup, chosen)?;
        let Some(result) = setup.stage(outline.result) else { return Err(ToolError::NoRows) };
        Ok(outline.taken.iter().filter_map(|taken| setup.link_name(*taken, result)).collect())
    }
}
