//! A row's list of mattes as a row of its own.

use crate::choice::Choice;
use crate::matte_way::MatteWay;
use crate::mattes::MORE;
use crate::setup::commands::entry::entry;
use crate::setup::commands::refused::CommandError;
use crate::setup::{Link, Setting, Setup, StageEntry, StageId};
use crate::spec::{MAIN, MATTE};
use crate::stages::field::combine_fields::LIST;

/// Puts a Combine fields row above a row, and a Soften row for each matte that is softened, so that the row takes one
/// matte which is the same.
pub(in crate::setup) fn mattes_to_row(setup: &mut Setup, id: StageId) -> Result<StageId, CommandError> {
    let row = setup.stage(id).ok_or(CommandError::NoStage(id))?.clone();
    let nothing = || CommandError::NothingTaken { stage: row.name.clone(), slot: MORE[0].into() };
    let mut entries: Vec<Entry<'_>> =
        std::iter::once(MATTE).chain(MORE).filter_map(|slot| Entry::of(&row, slot)).collect();
    // The first of the fields always counts, and what is cut out of nothing before it leaves all else.
    entries.sort_by_key(|entry| !entry.counts);
    let (first, more) =
        entries.split_first().filter(|(first, more)| first.counts && !more.is_empty()).ok_or_else(nothing)?;
    let mut making = Making { setup, inside: row.inside, next: setup.free_id(), rows: Vec::new() };
    let mut combine = making.row("combine_fields", "Combine fields");
    combine.links.insert(MAIN.into(), making.softened(first.link, first.soften));
    if first.invert != (first.way == MatteWay::Cut) {
        combine.controls.insert("invert".into(), Setting::Switch(true));
    }
    for (slot, entry) in LIST.iter().zip(more) {
        combine.links.insert((*slot).into(), making.softened(entry.link, entry.soften));
        let meets = if entry.way == MatteWay::Add { "maximum" } else { "multiply" };
        let inverted = entry.invert != (entry.way == MatteWay::Cut);
        for (end, setting) in [
            ("meet", Setting::Choice(meets.into())),
            ("invert", Setting::Switch(inverted)),
            ("counts", Setting::Switch(entry.counts)),
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

/// One matte of the list, as it is set.
struct Entry<'a> {
    link: Link,
    way: MatteWay,
    invert: bool,
    soften: Option<&'a Setting>,
    counts: bool,
}

impl<'a> Entry<'a> {
    fn of(row: &'a StageEntry, slot: &str) -> Option<Self> {
        let set = |end: &str| row.controls.get(&format!("{slot}_{end}"));
        let way = match set("way") {
            Some(Setting::Choice(id)) => MatteWay::OPTIONS
                .iter()
                .position(|option| option.id == id)
                .and_then(|at| MatteWay::ALL.get(at)),
            _ => None,
        };
        Some(Self {
            link: *row.links.get(slot)?,
            way: way.copied().unwrap_or_default(),
            invert: set("invert") == Some(&Setting::Switch(true)),
            soften: set("soften"),
            counts: set("counts") != Some(&Setting::Switch(false)),
        })
    }
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
