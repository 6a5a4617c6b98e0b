//! What is told of what is drawn: from the setup alone.

use super::outlines;
use super::{FaultKind, Mend, Told};
use crate::controls::Lattice;
use crate::setup::{Command, Setting, Setup, StageEntry};
use crate::shape;
use crate::stages;
use crate::stages::warp::reshaping;

pub(super) fn of_row(setup: &Setup, entry: &StageEntry) -> Vec<Told> {
    let drawn = entry.controls.values().filter_map(|setting| match setting {
        Setting::Pairs { pairs } => outlines::of_pairs(pairs).map(|(fault, message)| (fault, message, None)),
        Setting::Lattice { lattice } => keyed_once(setup, lattice).or_else(|| dull(lattice)),
        _ => None,
    });
    drawn.chain(draft(entry)).collect()
}

/// What is pulled at one frame and keyed at no other stays so.
fn keyed_once(setup: &Setup, lattice: &Lattice) -> Option<Told> {
    let [key] = lattice.moved.keys.as_slice() else { return None };
    let pulled = key.points.iter().zip(&lattice.rest).any(|(point, rest)| point.at != *rest);
    let goes = lattice.moved.carried.is_some() || setup.picture.frames.first == setup.picture.frames.last;
    let message =
        format!("its lattice is keyed at frame {} only, so that what it pulls stands still", key.frame);
    (pulled && !goes).then_some((FaultKind::KeyedOnce, message, None))
}

/// A part that hardly moves beside the others gives an animated still away.
fn dull(lattice: &Lattice) -> Option<Told> {
    let cells = lattice.dull_cells();
    let first = cells.first()?;
    let (row, column) = (first / lattice.columns + 1, first % lattice.columns + 1);
    let all = lattice.rows * lattice.columns;
    let message = format!(
        "{} of {all} cells of its lattice move less than a fifth of what half of them do, the first in row {row}, column {column}: the view `motion` shows where",
        cells.len()
    );
    Some((FaultKind::Dull, message, None))
}

/// What is made quickly for dragging is rendered so.
fn draft(entry: &StageEntry) -> Option<Told> {
    let (control, quick, normal) = reshaping::DRAFT;
    let is_quick = |setting: &Setting| matches!(setting, Setting::Choice(chosen) if chosen == quick);
    stages::find(&entry.kind)?;
    entry.controls.get(control).filter(|setting| is_quick(setting))?;
    let name = shape::control(entry, control).map_or(control, |spec| spec.name);
    let setting = Setting::Choice(normal.into());
    let command = Command::Set { stage: entry.id, control: control.into(), setting: Some(setting) };
    let mend = Mend { name: "make it normal".into(), command };
    Some((FaultKind::Draft, format!("its {name} is for dragging, and will be so in a render"), Some(mend)))
}
