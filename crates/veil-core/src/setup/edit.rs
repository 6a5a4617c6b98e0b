//! The changes that come of a command, done and undone.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use super::tool_taking::mark_own;
use super::{Change, ChangeError, Command, CommandError, Part, Setup, StageEntry, StageId};

/// A done command: what it is called, and how to do and undo it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Edit {
    /// As shown beside undo: `strength x of Displace`.
    pub label: String,
    /// The row it is about, as long as that is there.
    pub row: Option<StageId>,
    /// From the old setup to the new.
    pub forward: Vec<Change>,
    /// From the new setup to the old.
    pub backward: Vec<Change>,
}

impl Edit {
    /// Does the command: the new setup, and the edit that leads there.
    pub fn of(command: &Command, setup: &Setup) -> Result<(Setup, Self), CommandError> {
        let mut new = setup.clone();
        let row = command.apply(&mut new)?;
        put_in_order(&mut new);
        // How fast it goes is no matter of what a tool is.
        if !matches!(command, Command::Pace { .. }) {
            mark_own(setup, &mut new);
        }
        new.check()?;
        let forward = Change::between(setup, &new);
        let mut replayed = setup.clone();
        let mut backward = Vec::new();
        for change in forward.clone() {
            backward.push(change.apply(&mut replayed)?);
        }
        backward.reverse();
        debug_assert_eq!(replayed, new, "the changes lead to the new setup");
        Ok((new, Self { label: command.label(setup), row, forward, backward }))
    }

    /// The setup after some changes of an edit.
    pub fn apply(changes: &[Change], setup: &Setup) -> Result<Setup, ChangeError> {
        let mut made = setup.clone();
        for change in changes {
            change.clone().apply(&mut made)?;
        }
        Ok(made)
    }

    /// The parts of the setup that it changes; two edits made on the same setup meet where they share one.
    pub fn parts(&self) -> BTreeSet<Part> {
        self.forward.iter().map(Change::part).collect()
    }
}

/// Brings every row below what it needs, leaving all else in its order.
pub(super) fn put_in_order(setup: &mut Setup) {
    let rows = setup.stages.len();
    let needs = |at: usize| setup.needs(&setup.stages[at]).into_iter().filter_map(|id| setup.row(id));
    // How many of what a row needs are not placed yet, and which rows need it.
    let mut missing = vec![0; rows];
    let mut needed_by = vec![Vec::new(); rows];
    for (at, missing) in missing.iter_mut().enumerate() {
        for need in needs(at) {
            *missing += 1;
            needed_by[need].push(at);
        }
    }
    let mut ready: BTreeSet<usize> = (0..rows).filter(|at| missing[*at] == 0).collect();
    let mut left: BTreeSet<usize> = (0..rows).collect();
    let mut order = Vec::with_capacity(rows);
    // A loop leaves nothing ready; the check that follows names it.
    while let Some(next) = ready.pop_first().or_else(|| left.first().copied()) {
        left.remove(&next);
        order.push(next);
        for taker in std::mem::take(&mut needed_by[next]) {
            missing[taker] -= 1;
            if missing[taker] == 0 && left.contains(&taker) {
                ready.insert(taker);
            }
        }
    }
    if order.is_sorted() {
        return;
    }
    let mut old: Vec<Option<StageEntry>> = std::mem::take(&mut setup.stages).into_iter().map(Some).collect();
    setup.stages = order.into_iter().filter_map(|at| old[at].take()).collect::<Vec<_>>().into();
}
