//! At which moment a row is seen where another is shown.

use std::collections::HashSet;

use veil_pixels::Cancel;

use super::asking::Asking;
use super::look::{Evaluation, Shared, failure};
use super::machine::Engine;
use super::node::Work;
use super::places::WayTo;
use super::request::{OnFault, Request};
use crate::deep::deep;
use crate::plates::Plates;
use crate::setup::{Frames, Setup, StageId};
use crate::spec::MAIN;
use crate::stage::EngineError;

impl Engine {
    /// The moment of what is further up that is seen in each frame of the shot where a row is shown; none where no way leads there.
    /// Of a row between them that looks at several moments the first counts, which is its own or the nearest.
    pub fn moments_of(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        shown: StageId,
        to: WayTo,
        cancel: &Cancel,
    ) -> Result<Option<Vec<f64>>, EngineError> {
        let shared = Shared::new(self, setup, plates, cancel);
        let Frames { first, last } = setup.picture.frames;
        let moment = |frame: i32| {
            let request = Request { on_fault: OnFault::Bypass, ..Request::whole(shown, f64::from(frame)) };
            shared.answer(request, |looks| looks.moment_of(shown, to, &mut HashSet::new()))
        };
        (first..=last).map(moment).collect()
    }
}

impl Evaluation<'_> {
    fn moment_of(
        &self,
        id: StageId,
        to: WayTo,
        met: &mut HashSet<StageId>,
    ) -> Result<Option<f64>, EngineError> {
        if WayTo::Row(id) == to {
            return Ok(Some(self.frame));
        }
        if !met.insert(id) {
            return Ok(None);
        }
        let taken = self.all_taken(id)?;
        if taken.is_empty() && to == WayTo::Head {
            return Ok(Some(self.frame));
        }
        for (from, frame) in taken {
            let found = deep(|| self.at_frame(frame).moment_of(from, to, met))?;
            if found.is_some() {
                return Ok(found);
            }
        }
        Ok(None)
    }

    /// What a row takes, each at the first moment that it is looked at; its main input first.
    pub(super) fn all_taken(&self, id: StageId) -> Result<Vec<(StageId, f64)>, EngineError> {
        let entry = self.entry(id)?;
        let node = self.node(id)?;
        Ok(match &node.work {
            Work::Pass(from, _) => from.iter().map(|(from, _)| (*from, self.frame)).collect(),
            Work::Tool(tool) => {
                let mattes = tool.mixing.mattes().map(|(from, _)| from);
                let all = std::iter::once(tool.result).chain(tool.main.map(|(from, _)| from)).chain(mattes);
                all.map(|from| (from, self.frame)).collect()
            }
            Work::Stage(work) => {
                let asking = Asking::new(self, entry, work);
                let mut slots: Vec<_> = work.inputs.iter().collect();
                slots.sort_by_key(|(slot, _)| (**slot != MAIN, **slot));
                let mut taken = Vec::new();
                for (slot, (from, _)) in slots {
                    let first =
                        asking.context().looks(slot).map_err(|error| failure(entry, error))?.first().copied();
                    taken.push((*from, first.unwrap_or(self.frame)));
                }
                taken.extend(work.mixing.mattes().map(|(from, _)| (from, self.frame)));
                taken
            }
        })
    }
}
