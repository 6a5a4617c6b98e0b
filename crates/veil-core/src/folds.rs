//! Which rows the braid shows, and which stand for those it does not.
//!
//! - A tool's row hides what is inside of it until it is opened.
//! - A group that is shut shows its last row only.
//! - A side strand that is shut shows its last row only; what feeds nothing but that strand is hidden with it.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use serde::{Deserialize, Serialize};

use crate::setup::{Setup, StageEntry, StageId};
use crate::spec::MAIN;

/// What a person has opened and shut.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Folds {
    /// Tools' rows whose insides are shown.
    pub open: BTreeSet<StageId>,
    /// Last rows of side strands that are shut.
    pub shut: BTreeSet<StageId>,
    /// Names of groups that are shut.
    pub groups: BTreeSet<String>,
    /// The lanes that rows had, which they keep where they can.
    pub lanes: BTreeMap<StageId, usize>,
}

/// Something that folds to the row it is said of.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Fold {
    /// The group's name; none for a side strand.
    pub group: Option<String>,
    /// How many rows it has, with this one.
    pub rows: usize,
    /// Whether they are hidden.
    pub shut: bool,
}

/// The rows of the braid.
pub(crate) struct Shown<'a> {
    /// From the top down.
    pub(crate) rows: Vec<&'a StageEntry>,
    /// Where each of them is, from the top.
    places: HashMap<StageId, usize>,
    /// The row that each hidden one is drawn at.
    stands_for: BTreeMap<StageId, StageId>,
    folds: BTreeMap<StageId, Fold>,
}

impl<'a> Shown<'a> {
    pub(crate) fn of(setup: &'a Setup, folds: &Folds) -> Self {
        let mut rows: Vec<&StageEntry> =
            setup.stages.iter().filter(|entry| is_open(setup, entry, &folds.open)).collect();
        let mut shown = Self {
            rows: rows.clone(),
            places: HashMap::new(),
            stands_for: BTreeMap::new(),
            folds: BTreeMap::new(),
        };
        for (name, members) in groups(&rows) {
            let last = members[members.len() - 1];
            let shut = folds.groups.contains(name);
            shown.fold(last, Fold { group: Some(name.to_owned()), rows: members.len(), shut }, &members);
        }
        rows.retain(|row| !shown.stands_for.contains_key(&row.id));
        for row in &rows {
            let strand = strand(setup, row, &rows);
            if strand.len() > 1 && !shown.folds.contains_key(&row.id) {
                let shut = folds.shut.contains(&row.id);
                shown.fold(row.id, Fold { group: None, rows: strand.len(), shut }, &strand);
            }
        }
        shown.rows.retain(|row| !shown.stands_for.contains_key(&row.id));
        shown.places = shown.rows.iter().enumerate().map(|(at, row)| (row.id, at)).collect();
        shown
    }

    fn fold(&mut self, at: StageId, fold: Fold, rows: &[StageId]) {
        if fold.shut {
            self.stands_for.extend(rows.iter().filter(|id| **id != at).map(|id| (*id, at)));
        }
        self.folds.insert(at, fold);
    }

    /// Where a row is drawn, from the top; none where it is inside a tool that is not open.
    pub(crate) fn place(&self, id: StageId) -> Option<usize> {
        // What stands for a row may itself be hidden in a larger fold.
        let mut at = id;
        for _ in 0..=self.stands_for.len() {
            match self.stands_for.get(&at) {
                Some(next) => at = *next,
                None => break,
            }
        }
        self.places.get(&at).copied()
    }

    pub(crate) fn fold_at(&self, id: StageId) -> Option<Fold> {
        self.folds.get(&id).cloned()
    }

    /// The rows that are drawn and those that others stand for.
    pub(crate) fn drawn<'s>(&'s self, setup: &'s Setup) -> impl Iterator<Item = &'s StageEntry> {
        setup.stages.iter().filter(|entry| self.place(entry.id).is_some())
    }
}

fn is_open(setup: &Setup, entry: &StageEntry, open: &BTreeSet<StageId>) -> bool {
    let mut inside = entry.inside;
    while let Some(tool) = inside {
        if !open.contains(&tool) {
            return false;
        }
        inside = setup.stage(tool).and_then(|row| row.inside);
    }
    true
}

/// Every group of more than one row, its rows from the top down.
fn groups<'a>(rows: &[&'a StageEntry]) -> BTreeMap<&'a str, Vec<StageId>> {
    let mut groups: BTreeMap<&str, Vec<StageId>> = BTreeMap::new();
    for row in rows.iter().filter(|row| !row.group.is_empty() && !row.kind.is_final()) {
        groups.entry(&row.group).or_default().push(row.id);
    }
    groups.retain(|_, members| members.len() > 1);
    groups
}

/// The rows of the side strand that ends in a row, and of those that feed nothing else; none for a row that a strand
/// goes on from.
fn strand(setup: &Setup, last: &StageEntry, rows: &[&StageEntry]) -> Vec<StageId> {
    let takers = setup.takers(last.id);
    let ends = !takers.is_empty() && takers.iter().all(|(_, slot)| *slot != MAIN);
    if last.kind.is_final() || !ends {
        return Vec::new();
    }
    let mut strand = BTreeSet::from([last.id]);
    // A row stands below what it takes, so each is met after all of its takers.
    let above = rows.iter().rev().skip_while(|row| row.id != last.id).skip(1);
    for row in above.filter(|row| row.inside == last.inside) {
        let takers = setup.takers(row.id);
        if !takers.is_empty() && takers.iter().all(|(taker, _)| strand.contains(taker)) {
            strand.insert(row.id);
        }
    }
    strand.into_iter().collect()
}

/// A line from a row to another, by the rows they are drawn at.
pub(crate) struct Drawn {
    /// The giver's row.
    pub(crate) from: usize,
    /// The taker's.
    pub(crate) to: usize,
    /// Whether it is a main input.
    pub(crate) main: bool,
    /// The row and slot that it ends in.
    pub(crate) join: (StageId, String),
}

/// What the rows take; one line from a row to another, however many it stands for.
pub(crate) fn links(setup: &Setup, shown: &Shown<'_>, open: &BTreeSet<StageId>) -> Vec<Drawn> {
    let mut links: Vec<Drawn> = Vec::new();
    let mut between: HashMap<(usize, usize), Vec<usize>> = HashMap::new();
    let mut add = |from: Option<usize>, to: Option<usize>, join: (StageId, String)| {
        let (Some(from), Some(to)) = (from, to) else { return };
        let main = join.1 == MAIN;
        let known = between.entry((from, to)).or_default();
        match known.iter().find(|at| links[**at].join.0 != join.0) {
            Some(at) => links[*at].main |= main,
            None if from < to => {
                known.push(links.len());
                links.push(Drawn { from, to, main, join });
            }
            None => {}
        }
    };
    for entry in shown.drawn(setup) {
        let to = shown.place(entry.id);
        let open_tool = entry.tool.as_ref().filter(|_| open.contains(&entry.id));
        if let Some(tool) = open_tool {
            add(shown.place(tool.result), to, (entry.id, MAIN.to_owned()));
        }
        for (slot, link) in &entry.links {
            // An open tool's inputs are drawn to the rows inside that take them.
            if open_tool.is_some() && !slot.starts_with(crate::spec::MATTE) {
                continue;
            }
            let source = setup.outer_source(*link, entry.inside).map(|(id, _)| id);
            add(source.and_then(|id| shown.place(id)), to, (entry.id, slot.clone()));
        }
    }
    links
}
