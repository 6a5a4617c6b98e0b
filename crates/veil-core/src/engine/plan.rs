//! One request on its way through a setup.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::sync::Arc;

use veil_pixels::{Cancel, Edge, Field, Raster, Window, measure, mix};

use super::clock::{Clock, Spent};
use super::mixing::Mixing;
use super::{Context, Engine, EngineError, Fault, OnFault, Request, StageError};
use crate::bakes::UseOfBakes;
use crate::bracket;
use crate::control::Value;
use crate::deep::deep;
use crate::each_kind;
use crate::mattes;
use crate::plates::Plates;
use crate::setup::{Setup, StageEntry, StageId};
use crate::shape;
use crate::signal::{Domain, Pixels, Scale, Signal, SignalKind, Take};
use crate::spec::{AmountRule, MAIN, MATTE};
use crate::stages::{self, Stage};

/// What a signal is found by: equal hashes mean equal pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ContentHash([u8; 16]);

impl ContentHash {
    /// Of anything that prints itself in full.
    pub fn of(parts: &impl std::fmt::Debug) -> Self {
        let hash = blake3::hash(format!("{parts:?}").as_bytes());
        let mut short = [0; 16];
        short.copy_from_slice(&hash.as_bytes()[..16]);
        Self(short)
    }

    /// Its first bits.
    pub(super) fn short(self) -> u64 {
        u64::from_le_bytes(self.0[..8].try_into().unwrap_or_default())
    }
}

impl std::fmt::Display for ContentHash {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.iter().try_for_each(|byte| write!(f, "{byte:02x}"))
    }
}

/// What a row does at the frame, once its controls are known.
#[derive(Clone)]
pub(super) enum Work {
    /// It hands on another row's signal, or nothing of its kind.
    Pass(Option<(StageId, Option<Take>)>, SignalKind),
    /// A stage works.
    Stage(Arc<StageWork>),
    /// A tool's row mixes from its main input to its result.
    Tool(Arc<ToolWork>),
}

pub(super) struct StageWork {
    pub(super) stage: &'static dyn Stage,
    pub(super) values: Vec<Value>,
    pub(super) inputs: HashMap<&'static str, (StageId, Option<Take>)>,
    pub(super) mixing: Mixing,
    pub(super) rule: AmountRule,
}

impl StageWork {
    /// How much of the result, besides its matte, is laid on the bypass; none where all of it is given as it is.
    pub(super) fn share(&self) -> Option<f64> {
        match self.rule {
            AmountRule::OwnUse | AmountRule::None => None,
            AmountRule::OwnAmount => self.mixing.matte.map(|_| 1.0),
            AmountRule::Mixes | AmountRule::Opacity => (!self.mixing.is_full()).then_some(self.mixing.amount),
        }
    }
}

pub(super) struct ToolWork {
    pub(super) main: Option<(StageId, Option<Take>)>,
    pub(super) result: StageId,
    pub(super) mixing: Mixing,
}

#[derive(Clone)]
pub(super) struct Node {
    pub(super) work: Work,
    pub(super) hash: ContentHash,
    pub(super) domain: Domain,
    /// Where a bake stands in for it: the file that it is found by.
    pub(super) baked: Option<ContentHash>,
}

/// One request being answered. Rows are planned once each.
pub(super) struct Evaluation<'a> {
    engine: &'a Engine,
    pub(super) setup: &'a Setup,
    pub(super) plates: &'a dyn Plates,
    pub(super) frame: f64,
    pub(super) scale: Scale,
    on_fault: OnFault,
    pub(super) use_of_bakes: UseOfBakes,
    pub(super) cancel: &'a Cancel,
    nodes: RefCell<HashMap<StageId, Node>>,
    faults: RefCell<Vec<Fault>>,
    /// Set once a stage failed while it rendered: what is made of its bypass must not be kept under the
    /// hash of what it should have been.
    tainted: Cell<bool>,
    clock: Clock,
}

impl<'a> Evaluation<'a> {
    pub(super) fn new(
        engine: &'a Engine,
        setup: &'a Setup,
        plates: &'a dyn Plates,
        request: Request,
        cancel: &'a Cancel,
    ) -> Self {
        Self {
            engine,
            setup,
            plates,
            frame: request.frame,
            scale: request.scale,
            on_fault: request.on_fault,
            use_of_bakes: request.bakes,
            cancel,
            nodes: RefCell::default(),
            faults: RefCell::default(),
            tainted: Cell::new(false),
            clock: Clock::default(),
        }
    }

    /// What went wrong on the way and what is to be known of it, and what each row cost.
    pub(super) fn into_told(self) -> (Vec<Fault>, Vec<Spent>) {
        let marks: Vec<Fault> = self.setup.stages.iter().filter_map(|entry| self.mark(entry)).collect();
        let mut faults = self.faults.into_inner();
        faults.extend(marks);
        (faults, self.clock.into_spent())
    }

    /// What a planned stage has to say of its result.
    fn mark(&self, entry: &'a StageEntry) -> Option<Fault> {
        let work = self.nodes.borrow().get(&entry.id).map(|node| node.work.clone());
        let Some(Work::Stage(work)) = work else { return None };
        let message = work.stage.mark(&Context::new(self, entry, &work))?;
        Some(Fault { stage: entry.id, message })
    }

    pub(super) fn entry(&self, id: StageId) -> Result<&'a StageEntry, EngineError> {
        self.setup.stage(id).ok_or(EngineError::NoStage(id))
    }

    /// Something failed while it rendered: what is made of it must not be kept.
    pub(super) fn taint(&self) {
        self.tainted.set(true);
    }

    pub(super) const fn engine(&self) -> &'a Engine {
        self.engine
    }

    pub(super) const fn flaws(&self) -> &super::flaws::Flaws {
        self.engine.flaws()
    }

    pub(super) fn held(&self, hash: ContentHash, wanted: Window) -> Option<Arc<Signal>> {
        self.engine.cache().get(hash, wanted)
    }

    pub(super) fn hold(&self, hash: ContentHash, signal: &Arc<Signal>) {
        if !self.tainted.get() {
            self.engine.cache().put(hash, signal);
        }
    }

    /// The frame of the shot, at this scale.
    pub(super) fn display(&self) -> Window {
        let picture = self.setup.picture;
        Window::sized(picture.width, picture.height).scaled_down(self.scale.divisor())
    }

    pub(super) fn domain(&self, id: StageId) -> Result<Domain, EngineError> {
        Ok(self.node(id)?.domain)
    }

    /// The planned row.
    pub(super) fn node(&self, id: StageId) -> Result<Node, EngineError> {
        if let Some(node) = self.nodes.borrow().get(&id) {
            return Ok(node.clone());
        }
        self.cancel.check().map_err(|_| EngineError::Cancelled)?;
        let entry = self.setup.stage(id).ok_or(EngineError::NoStage(id))?;
        let node = deep(|| self.plan(entry))?;
        self.nodes.borrow_mut().insert(id, node.clone());
        Ok(node)
    }

    fn plan(&self, entry: &StageEntry) -> Result<Node, EngineError> {
        let work = self.work(entry);
        match self.finish(entry, work) {
            Ok(node) => self.with_bake(entry, node),
            Err(error) => {
                self.fault(entry, error)?;
                self.finish(entry, self.bypass(entry)).map_err(|error| self.failure(entry, error))
            }
        }
    }

    /// The main input as it is, as a field where a field is given, or nothing where it is of another kind.
    fn bypass(&self, entry: &StageEntry) -> Work {
        let kind = shape::kind_of(self.setup, entry.id);
        let taken = self.source(entry, MAIN).and_then(|(id, take)| {
            let comes = if take.is_some() { SignalKind::Field } else { shape::kind_of(self.setup, id) };
            match (comes, kind) {
                (comes, kind) if comes == kind => Some((id, take)),
                (SignalKind::Picture, SignalKind::Field) => Some((id, Some(Take::Luma))),
                _ => None,
            }
        });
        Work::Pass(taken, kind)
    }

    /// What a slot takes, inputs of tools followed outwards.
    pub(super) fn source(&self, entry: &StageEntry, slot: &str) -> Option<(StageId, Option<Take>)> {
        let link = entry.links.get(slot)?;
        self.setup.outer_source(*link, entry.inside)
    }

    fn work(&self, entry: &StageEntry) -> Work {
        self.work_at(entry, self.frame)
    }

    /// The same with the controls as they are at another frame.
    pub(super) fn work_at(&self, entry: &StageEntry, frame: f64) -> Work {
        let rule = shape::amount_rule(entry);
        let moment = self.setup.moment(frame);
        let mut values = shape::values(self.setup, entry, moment);
        let own = values.split_off(shape::common_count(entry));
        let mixing = self.mixing(entry, &values);
        if !entry.on || mixing.amount == 0.0 || entry.kind.is_final() {
            return self.bypass(entry);
        }
        if let Some(tool) = &entry.tool {
            let main = tool.main_input().and_then(|_| self.source(entry, MAIN));
            return Work::Tool(Arc::new(ToolWork { main, result: tool.result, mixing }));
        }
        let Some(stage) = stages::find(&entry.kind) else { return self.bypass(entry) };
        let slots = shape::slots(entry);
        let inputs = slots
            .iter()
            .filter(|slot| slot.id != MATTE && !mattes::MORE.contains(&slot.id))
            .filter_map(|slot| Some((slot.id, self.source(entry, slot.id)?)))
            .collect();
        Work::Stage(Arc::new(StageWork { stage, values: own, inputs, mixing, rule }))
    }

    fn finish(&self, entry: &StageEntry, work: Work) -> Result<Node, StageError> {
        let input = |source: Option<(StageId, Option<Take>)>| match source {
            None => Ok(None),
            Some((id, take)) => {
                let node = self.node(id).map_err(stage_error)?;
                Ok::<_, StageError>(Some((node.hash, take, node.domain)))
            }
        };
        match &work {
            Work::Pass(source, kind) => {
                let from = input(*source)?;
                let domain = from.map_or_else(|| self.nowhere(), |(_, _, domain)| domain);
                let hash = match from {
                    Some((hash, None, _)) => hash,
                    Some((hash, take, _)) => ContentHash::of(&(hash, take)),
                    None => ContentHash::of(&("nothing", kind, domain)),
                };
                Ok(Node { work, hash, domain, baked: None })
            }
            Work::Tool(tool) => {
                let main = input(tool.main)?;
                let matte =
                    tool.mixing.mattes().map(|from| input(Some(from))).collect::<Result<Vec<_>, _>>()?;
                let result = self.node(tool.result).map_err(stage_error)?;
                let hash = ContentHash::of(&("tool", main, matte, result.hash, &tool.mixing.key()));
                let domain = main.map_or(result.domain, |(_, _, domain)| union(domain, result.domain));
                Ok(Node { work, hash, domain, baked: None })
            }
            Work::Stage(stage) => {
                let mut inputs = Vec::new();
                for (slot, source) in &stage.inputs {
                    inputs.push((*slot, input(Some(*source))?));
                }
                inputs.sort_by_key(|(slot, _)| *slot);
                let matte =
                    stage.mixing.mattes().map(|from| input(Some(from))).collect::<Result<Vec<_>, _>>()?;
                let context = Context::new(self, entry, stage);
                let time = stage.stage.time_key(&context)?;
                let own = stage.stage.domain(&context)?;
                let media = self.media_key(&stage.values);
                // Sampled together with the row above, it gives other pixels than alone.
                let joined = bracket::above(self.setup, entry).map(|above| above.id);
                let seen = self.over_shutter(entry, stage);
                let seen: Vec<_> =
                    seen.iter().skip(1).map(|work| (&work.values, work.mixing.key())).collect();
                let hash = ContentHash::of(&(
                    (stage.stage.spec().id, shape::kind_of(self.setup, entry.id), joined.is_some(), seen),
                    &stage.values,
                    (media, time),
                    inputs,
                    (matte, stage.mixing.key()),
                    (
                        self.scale,
                        self.setup.picture.width,
                        self.setup.picture.height,
                        self.setup.picture.working,
                    ),
                ));
                let mixes = stage.rule != AmountRule::Opacity && stage.share().is_some();
                let main = stage.inputs.get(MAIN).filter(|_| mixes);
                let domain = match main {
                    Some((id, _)) => union(own, self.node(*id).map_err(stage_error)?.domain),
                    None => own,
                };
                Ok(Node { work, hash, domain, baked: None })
            }
        }
    }

    /// Media are named by numbers that mean something else in another setup; the cache is shared by all.
    fn media_key(&self, values: &[Value]) -> Vec<Option<&crate::setup::Media>> {
        let medium = |value: &Value| match value {
            Value::Media(id) => Some(id.and_then(|id| self.setup.medium(id))),
            _ => None,
        };
        values.iter().filter_map(medium).collect()
    }

    fn nowhere(&self) -> Domain {
        Domain { display: self.display(), data: Window::EMPTY }
    }

    /// The pixels of a row, for at least the window as far as it exists.
    pub(super) fn signal(&self, id: StageId, window: Window) -> Result<Arc<Signal>, EngineError> {
        let node = self.node(id)?;
        let wanted = window.intersect(node.domain.data);
        if let Some(held) = self.held(node.hash, wanted) {
            return Ok(held);
        }
        let entry = self.entry(id)?;
        if let Work::Pass(Some((from, None)), _) = &node.work {
            return deep(|| self.signal(*from, wanted));
        }
        let made = self.clock.measure(id, wanted.area(), || match self.baked_signal(&node, id, wanted)? {
            Some(baked) => Ok(baked),
            None => deep(|| self.made(entry, &node, wanted)),
        });
        match made {
            Ok(pixels) => {
                let signal = Arc::new(Signal { domain: node.domain, pixels });
                self.hold(node.hash, &signal);
                Ok(signal)
            }
            Err(error) => {
                self.fault(entry, error)?;
                self.taint();
                let node =
                    self.finish(entry, self.bypass(entry)).map_err(|error| self.failure(entry, error))?;
                self.nodes.borrow_mut().insert(id, node);
                self.signal(id, window)
            }
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
        entry: &StageEntry,
        work: &Arc<StageWork>,
        wanted: Window,
    ) -> Result<Pixels, StageError> {
        let context = Context::new(self, entry, work);
        let Some(share) = work.share() else { return work.stage.render(&context, wanted) };
        let own = work.stage.domain(&context)?.data;
        let matte = self.matte(&work.mixing, wanted)?;
        let matte = matte.as_ref();
        let part = wanted.intersect(own);
        let rendered = work.stage.render(&context, part)?;
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

    /// Tells a fault, or fails where that is asked for.
    pub(super) fn fault(&self, entry: &StageEntry, error: StageError) -> Result<(), EngineError> {
        match (error, self.on_fault) {
            (StageError::Fault(message), OnFault::Bypass) => {
                self.faults.borrow_mut().push(Fault { stage: entry.id, message });
                Ok(())
            }
            (error, _) => Err(self.failure(entry, error)),
        }
    }

    pub(super) fn failure(&self, entry: &StageEntry, error: StageError) -> EngineError {
        match error {
            StageError::Cancelled => EngineError::Cancelled,
            StageError::Fault(message) => EngineError::Stage { stage: entry.name.clone(), message },
        }
    }

    pub(super) fn is_held(&self, id: StageId) -> bool {
        self.node(id).is_ok_and(|node| match node.work {
            Work::Pass(Some((from, None)), _) => deep(|| self.is_held(from)),
            _ => self.engine.cache().get(node.hash, node.domain.display).is_some(),
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

    /// Full-resolution pixels of a file, kept under the file's fingerprint.
    pub(super) fn kept_file(
        &self,
        key: &impl std::fmt::Debug,
        domain: Domain,
        read: impl FnOnce() -> Result<Pixels, StageError>,
    ) -> Result<Arc<Signal>, StageError> {
        let hash = ContentHash::of(&("file", key));
        if let Some(held) = self.engine.cache().get(hash, domain.data) {
            return Ok(held);
        }
        let signal = Arc::new(Signal { domain, pixels: read()? });
        self.engine.cache().put(hash, &signal);
        Ok(signal)
    }
}

fn union(a: Domain, b: Domain) -> Domain {
    Domain { display: a.display, data: a.data.union(b.data) }
}

/// An input that failed: its own fault has been told, so the taker only stops.
pub(super) fn stage_error(error: EngineError) -> StageError {
    match error {
        EngineError::Cancelled => StageError::Cancelled,
        other => StageError::Fault(other.to_string()),
    }
}

/// An empty signal of a kind, for a slot that takes nothing.
pub(super) fn empty(kind: SignalKind, domain: Domain) -> Arc<Signal> {
    let pixels = match kind {
        SignalKind::Picture => Pixels::Picture(Raster::clear(Window::EMPTY)),
        SignalKind::Field => Pixels::Field(Raster::clear(Window::EMPTY)),
        SignalKind::Map => Pixels::Map(Raster::clear(Window::EMPTY)),
    };
    Arc::new(Signal { domain, pixels })
}
