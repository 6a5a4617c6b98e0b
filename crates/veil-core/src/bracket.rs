//! Which neighbouring warps are sampled together.
//!
//! A warp joins the one above it on its strand when that one moves all of what it gives, nothing else takes it, and it is
//! not baked.
//! Their moves are composed, and what the topmost takes is read once, with filter and edge mode of the lowest.

use std::collections::BTreeMap;

use crate::setup::{Setting, Setup, Source, StageEntry, StageId};
use crate::shape::{self, common::AMOUNT};
use crate::spec::{AmountRule, MAIN, MATTE};
use crate::stage::{HOLDOUT, HOLDOUT_DEPTH, SHUTTER};
use crate::stages;

/// Whether a row moves its input and does nothing else: what it gives is not mixed with what it took.
fn only_moves(setup: &Setup, entry: &StageEntry) -> bool {
    if stages::find(&entry.kind).is_none_or(|stage| stage.as_warp().is_none()) {
        return false;
    }
    let set_to = |control: &str, wanted: f64| {
        setup.setting(entry, control).is_none_or(|setting| *setting == Setting::number(wanted))
    };
    let is_whole = [HOLDOUT, HOLDOUT_DEPTH].iter().all(|slot| !entry.links.contains_key(*slot));
    // What is seen while it moves is a mean of pictures.
    is_whole
        && set_to(SHUTTER, 0.0)
        && match shape::amount_rule(entry) {
            AmountRule::OwnUse => true,
            AmountRule::OwnAmount => !entry.links.contains_key(MATTE),
            AmountRule::Mixes => !entry.links.contains_key(MATTE) && set_to(AMOUNT, 1.0),
            AmountRule::Opacity | AmountRule::None => false,
        }
}

/// The row that a row takes as its main input, where nothing else takes that one.
fn lone_main<'a>(setup: &'a Setup, entry: &StageEntry) -> Option<&'a StageEntry> {
    let link = entry.links.get(MAIN)?;
    let Source::Stage(id) = link.from else { return None };
    (link.take.is_none() && setup.takers(id).len() == 1).then(|| setup.stage(id)).flatten()
}

/// The warp above that is sampled together with this one; rows between them that are off do not count.
pub fn above<'a>(setup: &'a Setup, entry: &StageEntry) -> Option<&'a StageEntry> {
    if !only_moves(setup, entry) {
        return None;
    }
    let mut next = lone_main(setup, entry)?;
    while !next.on && next.tool.is_none() {
        next = lone_main(setup, next)?;
    }
    // What is written to files is sampled for them.
    (next.on && next.bake.is_none() && only_moves(setup, next)).then_some(next)
}

/// A warp and those above it that are sampled together with it, from the lowest up.
pub fn members<'a>(setup: &'a Setup, entry: &'a StageEntry) -> Vec<&'a StageEntry> {
    std::iter::successors(Some(entry), |entry| above(setup, entry)).collect()
}

/// The lowest row of the bracket of each row that is in one.
pub fn lowest_of_each(setup: &Setup) -> BTreeMap<StageId, StageId> {
    let mut lowest = BTreeMap::new();
    // A row stands below what it takes, so the lowest of a bracket is met first.
    for entry in setup.stages.iter().rev().filter(|entry| entry.on) {
        if let Some(above) = above(setup, entry) {
            let last = *lowest.entry(entry.id).or_insert(entry.id);
            lowest.insert(above.id, last);
        }
    }
    lowest
}
