//! A row as its stage sees it.

use std::sync::Arc;

use veil_pixels::{Cancel, Field, Window};

use super::look::{Evaluation, stage_error};
use super::node::StageWork;
use crate::controls::MediaSort;
use crate::controls::Value;
use crate::feed::Moment;
use crate::key::{ContentHash, Key};
use crate::plates::Plates;
use crate::setup::{Media, MediaId, PictureFormat, StageEntry};
use crate::shape;
use crate::signal::{Domain, Pixels, Scale, Signal, SignalKind, Take};
use crate::stage::StageError;
use crate::stage::{Asked, Context, Faulty, Ride};

/// A look at a row that works.
pub(super) struct Asking<'a> {
    look: Evaluation<'a>,
    entry: &'a StageEntry,
    work: &'a Arc<StageWork>,
}

impl<'a> Asking<'a> {
    pub(super) const fn new(look: &Evaluation<'a>, entry: &'a StageEntry, work: &'a Arc<StageWork>) -> Self {
        Self { look: *look, entry, work }
    }

    /// What its stage may ask.
    pub(super) fn context(&self) -> Context<'_> {
        Context::new(self.work.stage, self)
    }

    fn own_print(&self) -> Option<u64> {
        self.look.node(self.entry.id).ok().map(|node| node.hash.short())
    }
}

impl Asked for Asking<'_> {
    fn name(&self) -> &str {
        &self.entry.name
    }

    fn values(&self) -> &[Value] {
        &self.work.values
    }

    fn values_at(&self, frame: f64) -> Vec<Value> {
        let moment = self.look.at_frame(frame).moment();
        shape::values(self.look.setup, self.entry, moment).split_off(shape::common_count(self.entry))
    }

    fn over_shutter(&self, see: &mut dyn FnMut(&[Value])) {
        let works = self.look.over_shutter(self.entry, self.work);
        works.iter().for_each(|work| see(&work.values));
    }

    fn is_set(&self, control: &str) -> bool {
        self.look.setup.setting(self.entry, control).is_some()
    }

    fn moment(&self) -> Moment {
        self.look.moment()
    }

    fn scale(&self) -> Scale {
        self.look.scale
    }

    fn shot(&self) -> &PictureFormat {
        &self.look.setup.picture
    }

    fn cancel(&self) -> &Cancel {
        self.look.cancel
    }

    fn display(&self) -> Window {
        self.look.display()
    }

    fn plugged(&self, slot: &str) -> Option<Option<Take>> {
        self.work.inputs.get(slot).map(|(_, take)| *take)
    }

    fn kind_in(&self, slot: &str) -> Option<SignalKind> {
        let link = self.entry.links.get(slot)?;
        Some(shape::linked_kind(self.look.setup, *link, self.entry.inside))
    }

    fn domain(&self, slot: &str, frame: f64) -> Option<Domain> {
        let (id, _) = self.work.inputs.get(slot)?;
        self.look.at_frame(frame).domain(*id).ok()
    }

    fn signal(&self, slot: &str, frame: f64, window: Window) -> Result<Option<Arc<Signal>>, StageError> {
        let Some((id, _)) = self.work.inputs.get(slot) else { return Ok(None) };
        self.look.at_frame(frame).signal(*id, window).map(Some).map_err(stage_error)
    }

    fn ride(
        &self,
        slot: &str,
        frame: f64,
        ride: &Ride,
        window: Window,
    ) -> Result<Option<Pixels>, StageError> {
        let Some((from, _)) = self.work.inputs.get(slot) else { return Ok(None) };
        Ok(Some(self.look.at_frame(frame).ride(*from, ride, window)?.over(window)))
    }

    fn amount(&self) -> f64 {
        self.work.mixing.amount
    }

    fn matte(&self, window: Window) -> Result<Option<Field>, StageError> {
        self.look.matte(&self.work.mixing, window)
    }

    fn print_at(&self, slot: &str, frame: f64) -> Result<Option<ContentHash>, StageError> {
        let Some((id, take)) = self.work.inputs.get(slot) else { return Ok(None) };
        let node = self.look.at_frame(frame).node(*id).map_err(stage_error)?;
        Ok(Some(Key::of("taken").with(&node.hash).with(take).hash()))
    }

    fn print_of_shot(&self, slot: &str) -> Result<Option<ContentHash>, StageError> {
        let Some((id, _)) = self.work.inputs.get(slot) else { return Ok(None) };
        self.look.print_over_shot(*id).map(Some)
    }

    fn mean_over_shot(&self, slot: &str) -> Result<Option<[f32; 2]>, StageError> {
        let Some((id, _)) = self.work.inputs.get(slot) else { return Ok(None) };
        self.look.mean_over_shot(*id).map(Some)
    }

    fn medium(&self, id: MediaId) -> Option<&Media> {
        self.look.setup.medium(id)
    }

    fn camera(&self) -> Option<&Media> {
        self.look.setup.media.iter().find(|media| MediaSort::of(&media.path) == MediaSort::Camera)
    }

    fn plates(&self) -> &dyn Plates {
        self.look.plates
    }

    fn kept(
        &self,
        key: Key,
        domain: Domain,
        read: &mut dyn FnMut() -> Result<Pixels, StageError>,
    ) -> Result<Arc<Signal>, StageError> {
        self.look.once(key.hash(), domain.data, || Ok(Arc::new(Signal { domain, pixels: read()? })))
    }

    fn note_flaws_of(&self, print: u64, found: Faulty) {
        if found != Faulty::default() {
            self.look.flaws().note(print, found);
        }
    }

    fn flaws_of(&self, print: u64) -> Faulty {
        self.look.flaws().of(print)
    }

    fn note_flaws(&self, count: usize) {
        if let Some(print) = self.own_print() {
            let known = self.look.flaws().of(print).none;
            self.look.flaws().note(print, Faulty { none: known.max(count), infinite: 0 });
        }
    }

    fn noted_flaws(&self) -> usize {
        self.own_print().map_or(0, |print| self.look.flaws().of(print).none)
    }
}
