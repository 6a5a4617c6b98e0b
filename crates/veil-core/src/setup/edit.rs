//! The changes that come of a command, done and undone.

use serde::{Deserialize, Serialize};

use super::tool_taking::mark_own;
use super::{Change, ChangeError, Command, CommandError, Setup, StageEntry, StageId};

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

    /// Whether two edits, both made on the same setup, change the same stage or the order of rows.
    pub fn collides(&self, other: &Self) -> bool {
        let shared = |change: &Change| match change.stage() {
            Some(id) => other.forward.iter().any(|theirs| theirs.stage() == Some(id)),
            None => other
                .forward
                .iter()
                .any(|theirs| std::mem::discriminant(theirs) == std::mem::discriminant(change)),
        };
        self.forward.iter().any(shared)
    }
}

/// Brings every row below what it needs, leaving all else in its order.
pub(super) fn put_in_order(setup: &mut Setup) {
    let mut left: Vec<StageEntry> = std::mem::take(&mut setup.stages);
    let all = Setup { stages: left.clone(), ..setup.clone() };
    let mut placed: Vec<StageEntry> = Vec::with_capacity(left.len());
    while !left.is_empty() {
        let ready = left.iter().position(|entry| {
            all.needs(entry)
                .iter()
                .all(|need| all.stage(*need).is_none() || placed.iter().any(|done| done.id == *need))
        });
        // A loop leaves nothing ready; the check that follows names it.
        placed.push(left.remove(ready.unwrap_or(0)));
    }
    setup.stages = placed;
}
