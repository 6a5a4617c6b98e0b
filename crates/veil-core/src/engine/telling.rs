//! What is told of the rows on the way of a request.

use std::collections::HashMap;

use super::asking::Asking;
use super::look::{Evaluation, Shared};
use super::node::{Node, Work};
use super::request::{Fault, Request};
use crate::setup::{StageEntry, StageId};

impl<'a> Shared<'a> {
    /// What went wrong on the way of a request and what is to be known of it.
    pub(super) fn told(&'a self, request: Request) -> Vec<Fault> {
        let looks = self.at(request);
        let mut elsewhere = looks.faults_elsewhere();
        let of_row = |entry: &'a StageEntry| {
            let here = looks.planned(entry.id);
            let fault = here.as_ref().and_then(|node| node.fault.as_ref()).map(|message| message.to_string());
            let told = fault.or_else(|| elsewhere.remove(&entry.id)).or_else(|| {
                let node = here?;
                looks.cut(&node).or_else(|| looks.mark(entry, &node))
            });
            Some(Fault { stage: entry.id, message: told? })
        };
        self.setup.stages.iter().filter_map(of_row).collect()
    }
}

impl<'a> Evaluation<'a> {
    /// Why rows that were looked at from another moment could not work there: at the first of those moments.
    fn faults_elsewhere(&self) -> HashMap<StageId, String> {
        let mut faults = self.faults_at_any_moment();
        faults.sort_by(|(a, ..), (b, ..)| b.total_cmp(a));
        faults.into_iter().map(|(frame, row, fault)| (row, format!("at frame {frame}: {fault}"))).collect()
    }

    /// What tells that a row's signal was cut.
    fn cut(&self, node: &Node) -> Option<String> {
        let from = node.cut_from?;
        let divisor = i64::from(self.scale.divisor());
        let [wide, high] = [from.width(), from.height()].map(|side| side as i64 * divisor);
        Some(format!("reaches over {wide} by {high} pixels; only the frame and as much about it is kept"))
    }

    /// What a planned stage has to say of its result.
    fn mark(&self, entry: &'a StageEntry, node: &Node) -> Option<String> {
        let Work::Stage(work) = &node.work else { return None };
        work.stage.mark(&Asking::new(self, entry, work).context())
    }
}
