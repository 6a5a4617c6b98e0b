//! What two setups of a shot differ in, row by row.

use std::collections::BTreeSet;

use serde::Serialize;

use crate::setup::{Link, Setup, StageEntry, StageId};
use crate::shape;

/// A row that is not the same in both.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct RowDifference {
    /// Which stage.
    pub id: StageId,
    /// Its name in the newer setup, or in the older one where it is gone.
    pub row: String,
    /// What differs, each in a few words: `strength x: 2, then 20`.
    pub what: Vec<String>,
}

impl Setup {
    /// The rows that differ from those of an older setup, in working order, those that are gone last.
    pub fn difference(&self, older: &Self) -> Vec<RowDifference> {
        let of = |entry: &StageEntry, what: Vec<String>| RowDifference {
            id: entry.id,
            row: entry.name.clone(),
            what,
        };
        let mut found = Vec::new();
        for entry in &self.stages {
            match older.stage(entry.id) {
                None => found.push(of(entry, vec!["is new".into()])),
                Some(before) => {
                    let what = row_difference([older, self], [before, entry]);
                    if !what.is_empty() {
                        found.push(of(entry, what));
                    }
                }
            }
        }
        if self.own != older.own {
            let what = vec!["are not the same".to_owned()];
            found.insert(
                0,
                RowDifference { id: StageId::WHOLE, row: "the setup's own controls".into(), what },
            );
        }
        let gone = older.stages.iter().filter(|entry| self.stage(entry.id).is_none());
        found.extend(gone.map(|entry| of(entry, vec!["is gone".into()])));
        found
    }
}

fn row_difference(setups: [&Setup; 2], [before, now]: [&StageEntry; 2]) -> Vec<String> {
    let mut what = Vec::new();
    if before.name != now.name {
        what.push(format!("was called {}", before.name));
    }
    if before.kind != now.kind {
        what.push(format!("was of the kind {}", before.kind.0));
    }
    if before.on != now.on {
        what.push(if now.on { "is on" } else { "is off" }.into());
    }
    for spec in shape::all_controls(now) {
        let settings = [setups[0].setting(before, spec.id), setups[1].setting(now, spec.id)];
        if settings[0] != settings[1] {
            let of = [before, now];
            let [old, new] = [0, 1].map(|side| shape::setting(setups[side], of[side], spec).words());
            what.push(format!("{}: {old}, then {new}", spec.name));
        }
    }
    let slots: BTreeSet<&String> = before.links.keys().chain(now.links.keys()).collect();
    for slot in slots {
        let taken = [(setups[0], before), (setups[1], now)].map(|(setup, entry)| {
            let link: Option<&Link> = entry.links.get(slot);
            link.map(|link| (*link, setup.link_name(*link, entry).unwrap_or_default()))
        });
        if taken[0].as_ref().map(|(link, _)| link) != taken[1].as_ref().map(|(link, _)| link) {
            let [old, new] = taken.map(|taken| taken.map_or_else(|| "nothing".to_owned(), |(_, name)| name));
            what.push(format!("{slot} takes {old}, then {new}"));
        }
    }
    let rest = |entry: &StageEntry| {
        (entry.inside, entry.tool.clone(), entry.note.clone(), entry.tab, entry.group.clone(), entry.copy_of)
    };
    if rest(before) != rest(now) {
        what.push("its tool, note, colour, group or the row it follows".into());
    }
    what
}
