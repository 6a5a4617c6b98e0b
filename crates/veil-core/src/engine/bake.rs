//! Bakes: made, looked up, and used in place of what they were made of.

use std::sync::Arc;

use veil_pixels::{Cancel, Window};

use super::look::{Evaluation, Shared, failure};
use super::machine::Engine;
use super::node::{Node, Work};
use super::request::Request;
use crate::bakes::{BakeState, Baked, Bakes, UseOfBakes, kept_window};
use crate::key::{ContentHash, Key};
use crate::plates::{PlateError, Plates};
use crate::setup::{Setup, StageEntry, StageId};
use crate::signal::{Domain, Pixels, Scale, Signal};
use crate::stage::Ride;
use crate::stage::{EngineError, StageError};

fn anew(stage: StageId, frame: f64) -> Request {
    Request { bakes: UseOfBakes::Ignored, ..Request::whole(stage, frame) }
}

impl Engine {
    /// Writes a row's result at a frame, worked out anew, unless it is kept already. A stage in error fails it.
    pub fn bake(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        stage: StageId,
        frame: i32,
        cancel: &Cancel,
    ) -> Result<(), EngineError> {
        let Some(bakes) = self.bakes() else { return Ok(()) };
        let request = anew(stage, f64::from(frame));
        let shared = Shared::new(self, setup, plates, cancel);
        let looks = shared.at(request);
        let Node { hash, domain, .. } = looks.node(stage)?;
        if bakes.has(hash) {
            return Ok(());
        }
        let data = kept_window(domain.display, domain.data);
        let over =
            |signal: Arc<Signal>| Signal { domain: Domain { data, ..domain }, pixels: signal.over(data) };
        let entry = looks.entry(stage)?;
        let failed = |error: StageError| failure(entry, error);
        let result = over(looks.signal(stage, data)?);
        let travelled = looks.travelled(stage).map_err(failed)?;
        let roles = travelled.filter(|travelled| travelled.dropped_by.is_none());
        let mut passes = Vec::new();
        for role in roles.map(|travelled| travelled.roles).unwrap_or_default() {
            let pass = looks.ride(stage, &Ride::Pass(role), data).map_err(failed)?;
            passes.push((role, over(pass)));
        }
        bakes.keep(hash, &result, &passes).map_err(|error| failed(error.into()))
    }

    /// How much of a row's bake still fits; none for a row without one.
    pub fn bake_state(&self, setup: &Setup, plates: &dyn Plates, stage: StageId) -> Option<BakeState> {
        let frames = setup.stage(stage)?.bake?.frames;
        let fits = |frame: i32| {
            let cancel = Cancel::new();
            let shared = Shared::new(self, setup, plates, &cancel);
            let hash = shared.at(anew(stage, f64::from(frame))).node(stage).ok()?.hash;
            self.bakes()?.has(hash).then_some(())
        };
        let fresh = (frames.first..=frames.last).filter_map(fits).count();
        Some(BakeState { frames: frames.count(), fresh })
    }
}

impl Evaluation<'_> {
    /// A planned row, whose bake stands in for it where there is one that fits.
    pub(super) fn with_bake(&self, entry: &StageEntry, node: Node) -> Result<Node, EngineError> {
        let works = matches!(node.work, Work::Stage(_) | Work::Tool(_));
        let (Some(bakes), true) = (self.bakes(), works && entry.bake.is_some() && self.frame.fract() == 0.0)
        else {
            return Ok(node);
        };
        let file = self.at_scale(Scale::FULL).without_bakes().by_bypass().node(entry.id)?.hash;
        if !bakes.has(file) {
            return Ok(node);
        }
        // Half floats are not quite what was worked out; what is made of them must not pass for it.
        Ok(Node { hash: Key::of("baked").with(&node.hash).hash(), baked: Some(file), ..node })
    }

    /// A window of what a bake holds; none where it holds less than the window, or lacks what is asked for.
    pub(super) fn read_bake(
        &self,
        file: ContentHash,
        what: Baked,
        wanted: Window,
    ) -> Result<Option<Pixels>, StageError> {
        let Some(bakes) = self.bakes() else { return Ok(None) };
        let key = Key::of("bake").with(&file).with(&what).hash();
        let everything = Window::new(i32::MIN, i32::MIN, i32::MAX, i32::MAX);
        let full = match self.held(key, everything) {
            Some(held) => held,
            None => match bakes.read(file, what, self.cancel) {
                Ok(signal) => {
                    let signal = Arc::new(signal);
                    self.hold(key, &signal);
                    signal
                }
                Err(PlateError::Cancelled) => return Err(StageError::Cancelled),
                // A file that was taken away is made up for by working it out.
                Err(PlateError::File(_)) => return Ok(None),
            },
        };
        if !full.domain.data.scaled_down(self.scale.divisor()).contains(wanted) {
            return Ok(None);
        }
        let averages = match what {
            Baked::Result(_) => true,
            Baked::Pass(role) => role.averages(),
        };
        Ok(Some(full.pixels.at_scale(wanted, self.scale, averages, self.cancel)?))
    }

    fn bakes(&self) -> Option<&dyn Bakes> {
        if self.uses_bakes() { self.engine().bakes() } else { None }
    }

    /// A window of a row's own result, where its bake stands in for it.
    pub(super) fn baked_signal(
        &self,
        node: &Node,
        stage: StageId,
        wanted: Window,
    ) -> Result<Option<Pixels>, StageError> {
        let Some(file) = node.baked else { return Ok(None) };
        let kind = crate::shape::kind_of(self.setup, stage);
        self.read_bake(file, Baked::Result(kind), wanted)
    }
}
