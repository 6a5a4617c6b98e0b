//! A row's list of mattes as a row of its own.

use super::command::entry;
use super::refused::CommandError;
use super::{Link, Setting, Setup, StageEntry, StageId};
use crate::mattes::{MORE, taken};
use crate::shape::common;
use crate::spec::{MAIN, MATTE};
use crate::stages::combine_fields::LIST;

/// Puts a Combine fields row above a row, and a Soften row for each matte that is softened, so that the row takes one
/// matte which is the same.
pub(super) fn mattes_to_row(setup: &mut Setup, id: StageId) -> Result<StageId, CommandError> {
    let row = setup.stage(id).ok_or(CommandError::NoStage(id))?.clone();
    let more: Vec<usize> = taken(&row).collect();
    let first = row.links.get(MATTE).filter(|_| !more.is_empty());
    let Some(first) = first else {
        return Err(CommandError::NothingTaken { stage: row.name, slot: MORE[0].into() });
    };
    let next = setup.free_id();
    let mut making = Making { setup, inside: row.inside, next, rows: Vec::new() };
    let mut combine = making.row("combine_fields", "Combine fields");
    let from = making.softened(*first, row.controls.get(common::MATTE_SOFTEN));
    combine.links.insert(MAIN.into(), from);
    if let Some(invert) = row.controls.get(common::MATTE_INVERT) {
        combine.controls.insert("invert".into(), invert.clone());
    }
    for (place, number) in more.into_iter().enumerate() {
        let (slot, of) = (LIST[place], |end: &str| row.controls.get(&format!("{}_{end}", MORE[number])));
        combine.links.insert(slot.into(), making.softened(row.links[MORE[number]], of("soften")));
        let cut = of("way") == Some(&Setting::Choice("cut".into()));
        let inverted = (of("invert") == Some(&Setting::Switch(true))) != cut;
        let meets = match of("way") {
            Some(Setting::Choice(way)) if way != "add" => "multiply",
            _ => "maximum",
        };
        let counts = of("counts") != Some(&Setting::Switch(false));
        for (end, setting) in [
            ("meet", Setting::Choice(meets.into())),
            ("invert", Setting::Switch(inverted)),
            ("amount", Setting::number(if counts { 1.0 } else { 0.0 })),
        ] {
            combine.controls.insert(format!("{slot}_{end}"), setting);
        }
    }
    let made = combine.id;
    let mut rows = making.rows;
    rows.push(combine);
    let at = setup.row(id).unwrap_or(0);
    setup.stages.splice(at..at, rows);
    let taker = entry(setup, id)?;
    let of_list = |name: &str| name.starts_with(MATTE) && name != MATTE;
    taker.links.retain(|slot, _| !of_list(slot));
    taker.controls.retain(|control, _| !of_list(control));
    taker.links.insert(MATTE.into(), Link::stage(made));
    Ok(made)
}

/// Rows that are made before they are put in.
struct Making<'a> {
    setup: &'a Setup,
    inside: Option<StageId>,
    next: StageId,
    rows: Vec<StageEntry>,
}

impl Making<'_> {
    fn row(&mut self, kind: &str, name: &str) -> StageEntry {
        let mut named = self.setup.clone();
        named.stages.extend(self.rows.iter().cloned());
        let mut row = StageEntry::new(self.next, kind, named.free_name(name));
        self.next = StageId(self.next.0 + 1);
        row.inside = self.inside;
        row
    }

    /// What a matte takes, behind a row that softens it where it is softened.
    fn softened(&mut self, link: Link, length: Option<&Setting>) -> Link {
        let Some(length) = length else { return link };
        let mut soften = self.row("soften", "Soften");
        soften.links.insert(MAIN.into(), link);
        soften.controls.insert("length".into(), length.clone());
        let id = soften.id;
        self.rows.push(soften);
        Link::stage(id)
    }
}
