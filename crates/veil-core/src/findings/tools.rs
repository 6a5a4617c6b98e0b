//! What is told of tools: of one that is as the rack has it, only what follows from how it is used.

use std::collections::{BTreeMap, BTreeSet};

use super::{FaultKind, Finding, Told};
use crate::feed::Feed;
use crate::setup::{Link, Setting, Setup, Source, StageEntry, StageId};

/// The innermost tool that a row is inside of and that is as the rack has it.
pub(super) fn unchanged_tool_about<'s>(setup: &'s Setup, entry: &StageEntry) -> Option<&'s StageEntry> {
    let about = |entry: &StageEntry| entry.inside.and_then(|id| setup.stage(id));
    std::iter::successors(about(entry), |row| about(row))
        .take(setup.stages.len())
        .find(|row| row.tool.as_ref().is_some_and(|tool| !tool.own))
}

/// Whether an input of a tool has nothing, nor anything that stands in for it.
pub(super) fn has_empty_input(setup: &Setup, row: &StageEntry) -> bool {
    let count = row.tool.as_ref().map_or(0, |tool| tool.inputs.len());
    let link = |number| Link { from: Source::Input(number), take: None };
    (0..count).any(|number| setup.outer_source(link(number), Some(row.id)).is_none())
}

/// Keys outside of the shot, inside a tool that is as the rack has it: what it does begins or ends there.
pub(super) fn goes_on_outside(setup: &Setup, row: &StageEntry) -> Option<Told> {
    row.tool.as_ref().filter(|tool| !tool.own)?;
    let inside = |entry: &&StageEntry| {
        let about = |id: &StageId| setup.stage(*id).and_then(|row| row.inside);
        std::iter::successors(entry.inside, about).take(setup.stages.len()).any(|id| id == row.id)
    };
    let frames: Vec<f64> = setup.stages.iter().filter(inside).flat_map(key_frames).collect();
    let (first, last) = (f64::from(setup.picture.frames.first), f64::from(setup.picture.frames.last));
    let (begins, ends) = (
        frames.iter().copied().fold(f64::INFINITY, f64::min),
        frames.iter().copied().fold(f64::NEG_INFINITY, f64::max),
    );
    let message = format!("what it does goes from {begins} to {ends}, and the shot from {first} to {last}");
    (begins < first || ends > last).then_some((FaultKind::KeyOutside, message, None))
}

/// The frames of all keys of a row.
fn key_frames(entry: &StageEntry) -> Vec<f64> {
    let feeds = entry.controls.values().flat_map(Setting::feeds);
    let keys = feeds.filter_map(|feed| if let Feed::Keys(keys) = feed { Some(keys) } else { None });
    keys.flat_map(|keys| keys.iter()).map(|key| key.frame).collect()
}

/// In place of rows that change nothing since an input of their tool is empty: that input, once.
pub(super) fn told_by_their_cause(setup: &Setup, found: &mut Vec<Finding>) {
    let is_idle = |finding: &Finding| finding.fault == FaultKind::Idle;
    let mut starved: BTreeMap<(StageId, usize), Vec<StageId>> = BTreeMap::new();
    for finding in found.iter().filter(|finding| is_idle(finding)) {
        if let Some(cause) = empty_input_above(setup, finding.stage) {
            starved.entry(cause).or_default().push(finding.stage);
        }
    }
    for ((tool, number), rows) in starved {
        // A tool all of whose work waits for that input changes nothing, either.
        found
            .retain(|finding| !is_idle(finding) || !(rows.contains(&finding.stage) || finding.stage == tool));
        let input = setup.stage(tool).and_then(|row| row.tool.as_ref()?.inputs.get(number));
        let name = input.map_or("an input", |input| input.name.as_str());
        let message = format!("nothing is plugged into `{name}`, so that part of it changes nothing");
        found.push(Finding { stage: tool, fault: FaultKind::EmptyInput, message, mend: None });
    }
}

/// The tool's row and the number of its input that a row inside wants something from, by what it takes or by what that
/// takes in turn, and that is empty.
fn empty_input_above(setup: &Setup, row: StageId) -> Option<(StageId, usize)> {
    let (mut open, mut seen) = (vec![row], BTreeSet::new());
    while let Some(id) = open.pop() {
        let Some(entry) = setup.stage(id).filter(|_| seen.insert(id)) else { continue };
        for link in entry.links.values() {
            match link.from {
                Source::Stage(id) => open.push(id),
                Source::Input(number) => {
                    if setup.outer_source(*link, entry.inside).is_none() {
                        return entry.inside.map(|tool| (tool, number));
                    }
                }
            }
        }
    }
    None
}
