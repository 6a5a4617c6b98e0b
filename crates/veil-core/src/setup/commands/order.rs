//! Rows in working order.

use std::collections::BTreeSet;

use crate::setup::{Setup, StageEntry};

/// Brings every row below what it needs, leaving all else in its order.
pub(in crate::setup) fn put_in_order(setup: &mut Setup) {
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
