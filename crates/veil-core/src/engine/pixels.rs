//! The pixels of a planned row.

use std::sync::Arc;

use veil_pixels::{Cancelled, Edge, Field, Window, blend::mix, measure};

use super::asking::Asking;
use super::look::{Evaluation, stage_error};
use super::node::{Node, StageWork, ToolWork, Work};
use crate::deep::deep;
use crate::each_kind;
use crate::key::ContentHash;
use crate::setup::{StageEntry, StageId};
use crate::shape;
use crate::signal::{Domain, Pixels, Signal, Take};
use crate::spec::{AmountRule, MAIN};
use crate::stage::{EngineError, StageError};

impl<'a> Evaluation<'a> {
    /// The pixels of a row, for at least the window as far as it exists.
    pub(super) fn signal(&self, id: StageId, window: Window) -> Result<Arc<Signal>, EngineError> {
        let node = self.node(id)?;
        let wanted = window.intersect(node.domain.data);
        let entry = self.entry(id)?;
        if let Work::Pass(Some((from, None)), _) = &node.work {
            return deep(|| self.signal(*from, wanted));
        }
        self.once(node.hash, wanted, || {
            let made =
                self.clock().measure(id, wanted.area(), || match self.baked_signal(&node, id, wanted)? {
                    Some(baked) => Ok(baked),
                    None => deep(|| self.made(entry, &node, wanted)),
                });
            let pixels = made.map_err(|error| self.gave_up(entry, error))?;
            Ok(Arc::new(Signal { domain: node.domain, pixels }))
        })
    }

    /// A window of what is known by a hash: as it is held, as another request makes it, or made and held from then on.
    pub(super) fn once<E: From<Cancelled>>(
        &self,
        hash: ContentHash,
        wanted: Window,
        make: impl FnOnce() -> Result<Arc<Signal>, E>,
    ) -> Result<Arc<Signal>, E> {
        loop {
            if let Some(held) = self.held(hash, wanted) {
                return Ok(held);
            }
            let Some(flight) = self.engine().flights().take_on(hash, wanted, self.cancel)? else { continue };
            // It may have landed between the look at what is held and this.
            if let Some(held) = self.held(hash, wanted) {
                return Ok(held);
            }
            let signal = make()?;
            self.hold(hash, &signal);
            drop(flight);
            return Ok(signal);
        }
    }

    /// The pixels of a row, worked out.
    fn made(&self, entry: &'a StageEntry, node: &Node, wanted: Window) -> Result<Pixels, StageError> {
        match &node.work {
            Work::Pass(Some((from, take)), _) => self.taken(*from, *take, wanted),
            Work::Pass(None, kind) => Ok(Pixels::clear(*kind, wanted)),
            Work::Tool(tool) => self.tool_pixels(tool, wanted),
            Work::Stage(stage) => self.stage_pixels(entry, stage, wanted),
        }
    }

    /// A row's signal over a window, or one float of it.
    pub(super) fn taken(
        &self,
        from: StageId,
        take: Option<Take>,
        window: Window,
    ) -> Result<Pixels, StageError> {
        let pixels = self.signal(from, window).map_err(stage_error)?.over(window);
        let Some(take) = take else { return Ok(pixels) };
        match pixels {
            Pixels::Picture(picture) => {
                Ok(Pixels::Field(take.apply(&picture, self.setup.picture.working, self.cancel)?))
            }
            field @ Pixels::Field(_) => Ok(field),
            Pixels::Map(_) => Err(StageError::Fault("a map has no single float to take".into())),
        }
    }

    fn tool_pixels(&self, tool: &ToolWork, wanted: Window) -> Result<Pixels, StageError> {
        let result = self.signal(tool.result, wanted).map_err(stage_error)?;
        if tool.mixing.is_full() {
            return Ok(result.over(wanted));
        }
        let matte = self.matte(&tool.mixing, wanted)?;
        let to = result.over(wanted);
        match tool.main {
            Some(main) => self.mixed(main, to, tool.mixing.amount, matte.as_ref(), wanted),
            None => Ok(self.weakened(to, tool.mixing.amount, matte.as_ref())?),
        }
    }

    fn stage_pixels(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        wanted: Window,
    ) -> Result<Pixels, StageError> {
        if let Some(pixels) = self.run(entry, work, wanted)? {
            return Ok(pixels);
        }
        let Some(share) = work.share() else { return self.rendered(entry, work, wanted) };
        let own = self.own_domain(entry, work)?.data;
        let matte = self.matte(&work.mixing, wanted)?;
        let matte = matte.as_ref();
        let part = wanted.intersect(own);
        let rendered = self.rendered(entry, work, part)?;
        let to = if part == wanted {
            rendered
        } else {
            each_kind!(&rendered, raster => raster.extended(wanted, part, Edge::Clear))
        };
        match (work.rule, work.inputs.get(MAIN)) {
            (AmountRule::Opacity, _) | (_, None) => Ok(self.weakened(to, share, matte)?),
            (_, Some(main)) => self.mixed(*main, to, share, matte, wanted),
        }
    }

    /// Where a stage's own result exists, before amount and matte.
    pub(super) fn own_domain(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
    ) -> Result<Domain, StageError> {
        match work.stage.as_warp() {
            Some(_) => self.warped_domain(entry, work),
            None => work.stage.domain(&Asking::new(self, entry, work).context()),
        }
    }

    /// A stage's own result, before amount and matte.
    fn rendered(
        &self,
        entry: &'a StageEntry,
        work: &Arc<StageWork>,
        wanted: Window,
    ) -> Result<Pixels, StageError> {
        if work.stage.as_warp().is_some() {
            return self.warped(entry, work, wanted, None);
        }
        let asking = Asking::new(self, entry, work);
        let context = asking.context();
        match work.stage.each_pixel(&context, shape::kind_of(self.setup, entry.id), wanted)? {
            Some(each) => Ok(each.over(&context.main(wanted)?.over(wanted), self.cancel)?),
            None => work.stage.render(&context, wanted),
        }
    }

    /// From the main input to `to`. A picture counts as its luma where a field is given; any other input of another
    /// kind as an empty signal of `to`'s kind.
    fn mixed(
        &self,
        (main, take): (StageId, Option<Take>),
        to: Pixels,
        amount: f64,
        matte: Option<&Field>,
        wanted: Window,
    ) -> Result<Pixels, StageError> {
        let from = self.taken(main, take, wanted)?;
        let (amount, cancel) = (amount as f32, self.cancel);
        Ok(match (&from, &to) {
            (Pixels::Picture(a), Pixels::Picture(b)) => {
                Pixels::Picture(mix::mix(a, b, amount, matte, cancel)?)
            }
            (Pixels::Field(a), Pixels::Field(b)) => Pixels::Field(mix::mix(a, b, amount, matte, cancel)?),
            (Pixels::Map(a), Pixels::Map(b)) => Pixels::Map(mix::mix(a, b, amount, matte, cancel)?),
            (Pixels::Picture(a), Pixels::Field(b)) => {
                let a = Take::Luma.apply(a, self.setup.picture.working, cancel)?;
                Pixels::Field(mix::mix(&a, b, amount, matte, cancel)?)
            }
            _ => self.weakened(to, f64::from(amount), matte)?,
        })
    }

    fn weakened(&self, pixels: Pixels, amount: f64, matte: Option<&Field>) -> Result<Pixels, StageError> {
        Ok(each_kind!(&pixels, raster => mix::weaken(raster, amount as f32, matte, self.cancel)?))
    }

    pub(super) fn is_held(&self, id: StageId) -> bool {
        self.node(id).is_ok_and(|node| match node.work {
            Work::Pass(Some((from, None)), _) => deep(|| self.is_held(from)),
            _ => self.held(node.hash, node.domain.display).is_some(),
        })
    }

    pub(super) fn effect(&self, id: StageId) -> Result<Option<f64>, EngineError> {
        let entry = self.setup.stage(id).ok_or(EngineError::NoStage(id))?;
        let Some((main, take)) = self.source(entry, MAIN) else { return Ok(None) };
        let window = self.display();
        let (before, after) = (self.signal(main, window)?, self.signal(id, window)?);
        if take.is_some() {
            return Ok(None);
        }
        let difference = |a: Pixels, b: Pixels| match (a, b) {
            (Pixels::Picture(a), Pixels::Picture(b)) => Some(measure::mean_difference(&a, &b)),
            (Pixels::Field(a), Pixels::Field(b)) => Some(measure::mean_difference(&a, &b)),
            (Pixels::Map(a), Pixels::Map(b)) => Some(measure::mean_difference(&a, &b)),
            _ => None,
        };
        Ok(difference(before.over(window), after.over(window)))
    }
}
