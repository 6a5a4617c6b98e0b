//! The changes that come of a command, done and undone.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use crate::setup::commands::order::put_in_order;
use crate::setup::tools::taking::mark_own;
use crate::setup::{Change, ChangeError, Command, CommandError, Part, Setup, StageId};

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
