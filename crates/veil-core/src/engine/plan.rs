//! One request on its way through a setup.
//!
//! What is planned and what went wrong is shared by all that the request looks at; an [`Evaluation`] looks at one moment
//! at one scale. A row that cannot work is planned as its bypass; where that is only found while it renders, the request
//! is planned once more, so that nothing that was made of a bypass passes for anything else.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::ops::Deref;
use std::sync::Arc;

use veil_pixels::{Cancel, Cancelled, Edge, Field, Raster, Window, measure, mix};

use super::clock::{Clock, Spent};
use super::mixing::Mixing;
use super::{Context, Engine, EngineError, Fault, OnFault, Request, StageError};
use crate::bakes::UseOfBakes;
use crate::bracket;
use crate::control::Value;
use crate::deep::deep;
use crate::each_kind;
use crate::feed::Moment;
use crate::key::{ContentHash, Key};
use crate::mattes;
use crate::plates::Plates;
use crate::setup::{Setup, StageEntry, StageId};
use crate::shape;
use crate::signal::{Domain, Pixels, Scale, Signal, SignalKind, Take};
use crate::spec::{AmountRule, MAIN, MATTE};
use crate::stage::Stage;
use crate::stages;

/// Part of every hash of a row: raised when what all rows go through gives other pixels than before.
const ENGINE_REVISION: u32 = 1;

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
    /// Why it is only its bypass.
    pub(super) fault: Option<Arc<str>>,
    /// Where its signal would exist, if that were not more than anybody could use.
    pub(super) cut_from: Option<Window>,
}

/// More pixels at full scale than this a row's signal has only where they are in the frame or near it: a picture of 16,384
/// by 16,384 with four floats a pixel takes 4 GB.
const MOST_PIXELS: u64 = 1 << 28;

impl Node {
    const fn new(work: Work, hash: ContentHash, domain: Domain) -> Self {
        Self { work, hash, domain, baked: None, fault: None, cut_from: None }
    }
}

/// A row at a moment and a scale, with or without bakes.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
struct Spot {
    row: StageId,
    frame: u64,
    scale: Scale,
    bakes: UseOfBakes,
}

/// What all that a request looks at have in common. Each row is planned once at each moment and scale.
pub(super) struct Shared<'a> {
    engine: &'a Engine,
    pub(super) setup: &'a Setup,
    pub(super) plates: &'a dyn Plates,
    pub(super) cancel: &'a Cancel,
    nodes: RefCell<HashMap<Spot, Node>>,
    /// What could not be rendered, and why.
    failed: RefCell<HashMap<Spot, Arc<str>>>,
    /// Set once something could not, so that all is to be planned anew.
    again: Cell<bool>,
    /// What rows give all over the shot is found by.
    prints: RefCell<HashMap<(StageId, UseOfBakes), ContentHash>>,
    clock: Clock,
}

impl<'a> Shared<'a> {
    pub(super) fn new(
        engine: &'a Engine,
        setup: &'a Setup,
        plates: &'a dyn Plates,
        cancel: &'a Cancel,
    ) -> Self {
        Self {
            engine,
            setup,
            plates,
            cancel,
            nodes: RefCell::default(),
            failed: RefCell::default(),
            again: Cell::new(false),
            prints: RefCell::default(),
            clock: Clock::default(),
        }
    }

    /// Does what a request asks for, once more with its bypass for each row that turns out not to work.
    pub(super) fn answer<T>(
        &'a self,
        request: Request,
        work: impl Fn(Evaluation<'a>) -> Result<T, EngineError>,
    ) -> Result<T, EngineError> {
        loop {
            let done = work(self.at(request));
            if !self.again.take() {
                return done;
            }
            self.nodes.borrow_mut().clear();
            self.prints.borrow_mut().clear();
            self.clock.clear();
        }
    }

    /// What a request looks at.
    pub(super) const fn at(&'a self, request: Request) -> Evaluation<'a> {
        let Request { frame, scale, on_fault, bakes, .. } = request;
        Evaluation { shared: self, frame, scale, on_fault, use_of_bakes: bakes }
    }

    /// What went wrong on the way of a request and what is to be known of it.
    pub(super) fn told(&'a self, request: Request) -> Vec<Fault> {
        let looks = self.at(request);
        let of_row = |entry: &'a StageEntry| {
            let node = self.nodes.borrow().get(&looks.spot(entry.id)).cloned()?;
            let fault = node.fault.as_ref().map(|message| message.to_string());
            let message = fault.or_else(|| looks.cut(&node)).or_else(|| looks.mark(entry, &node))?;
            Some(Fault { stage: entry.id, message })
        };
        self.setup.stages.iter().filter_map(of_row).collect()
    }

    /// What each row cost.
    pub(super) fn spent(&self) -> Vec<Spent> {
        self.clock.spent()
    }
}

/// A request's look at one moment, at one scale.
#[derive(Clone, Copy)]
pub(super) struct Evaluation<'a> {
    shared: &'a Shared<'a>,
    pub(super) frame: f64,
    pub(super) scale: Scale,
    on_fault: OnFault,
    use_of_bakes: UseOfBakes,
}

impl<'a> Deref for Evaluation<'a> {
    type Target = Shared<'a>;

    fn deref(&self) -> &Shared<'a> {
        self.shared
    }
}

impl<'a> Evaluation<'a> {
    /// A look at another moment.
    pub(super) const fn at_frame(self, frame: f64) -> Self {
        Self { frame, ..self }
    }

    /// A look at another scale.
    pub(super) const fn at_scale(self, scale: Scale) -> Self {
        Self { scale, ..self }
    }

    /// A look that takes the bypass of a row that does not work, whatever was asked for.
    pub(super) const fn by_bypass(self) -> Self {
        Self { on_fault: OnFault::Bypass, ..self }
    }

    /// A look at everything worked out anew.
    pub(super) const fn without_bakes(self) -> Self {
        Self { use_of_bakes: UseOfBakes::Ignored, ..self }
    }

    pub(super) const fn uses_bakes(&self) -> bool {
        matches!(self.use_of_bakes, UseOfBakes::Used)
    }

    const fn spot(&self, row: StageId) -> Spot {
        Spot { row, frame: self.frame.to_bits(), scale: self.scale, bakes: self.use_of_bakes }
    }

    /// What a row gives all over the shot is found by, where it is known already.
    pub(super) fn print_of(&self, row: StageId) -> Option<ContentHash> {
        self.prints.borrow().get(&(row, self.use_of_bakes)).copied()
    }

    /// Remembers it.
    pub(super) fn note_print(&self, row: StageId, print: ContentHash) {
        self.prints.borrow_mut().insert((row, self.use_of_bakes), print);
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
        work.stage.mark(&Context::new(self, entry, work))
    }

    pub(super) fn entry(&self, id: StageId) -> Result<&'a StageEntry, EngineError> {
        self.setup.stage(id).ok_or(EngineError::NoStage(id))
    }

    pub(super) const fn engine(&self) -> &'a Engine {
        self.shared.engine
    }

    pub(super) const fn clock(&self) -> &'a Clock {
        &self.shared.clock
    }

    pub(super) const fn flaws(&self) -> &'a super::flaws::Flaws {
        self.shared.engine.flaws()
    }

    pub(super) fn held(&self, hash: ContentHash, wanted: Window) -> Option<Arc<Signal>> {
        self.engine.cache().get(hash, wanted)
    }

    pub(super) fn hold(&self, hash: ContentHash, signal: &Arc<Signal>) {
        self.engine.cache().put(hash, signal);
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
        let spot = self.spot(id);
        let known = self.nodes.borrow().get(&spot).cloned();
        let node = match known {
            Some(node) => node,
            None => {
                self.cancel.check().map_err(|_| EngineError::Cancelled)?;
                let node = deep(|| self.plan(self.entry(id)?))?;
                self.nodes.borrow_mut().insert(spot, node.clone());
                node
            }
        };
        match (&node.fault, self.on_fault) {
            (Some(message), OnFault::Fail) => Err(of_row(self.entry(id)?, message.to_string())),
            _ => Ok(node),
        }
    }

    fn plan(&self, entry: &'a StageEntry) -> Result<Node, EngineError> {
        if let Some(message) = self.failed.borrow().get(&self.spot(entry.id)).cloned() {
            return self.without(entry, message);
        }
        match self.finish(entry, self.work(entry)) {
            Ok(node) => self.with_bake(entry, node),
            Err(StageError::Fault(message)) => self.without(entry, message.into()),
            Err(error) => Err(failure(entry, error)),
        }
    }

    /// The bypass of a row that cannot work.
    fn without(&self, entry: &'a StageEntry, message: Arc<str>) -> Result<Node, EngineError> {
        if self.on_fault == OnFault::Fail {
            return Err(of_row(entry, message.to_string()));
        }
        let node = self.finish(entry, self.bypass(entry)).map_err(|error| failure(entry, error))?;
        Ok(Node { fault: Some(message), ..node })
    }

    /// A row's own fault while it works fails the request, or has it planned anew with the row's bypass.
    pub(super) fn gave_up(&self, entry: &StageEntry, error: StageError) -> EngineError {
        match (error, self.on_fault) {
            (StageError::Fault(message), OnFault::Bypass) => {
                self.failed.borrow_mut().insert(self.spot(entry.id), message.into());
                self.again.set(true);
                EngineError::Cancelled
            }
            (error, _) => failure(entry, error),
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
        if !entry.on || entry.kind.is_final() {
            return self.bypass(entry);
        }
        if let Some(tool) = &entry.tool {
            let mixing = self.mixing(entry, &shape::values(self.setup, entry, self.moment()));
            if mixing.amount == 0.0 {
                return self.bypass(entry);
            }
            let main = tool.main_input().and_then(|_| self.source(entry, MAIN));
            return Work::Tool(Arc::new(ToolWork { main, result: tool.result, mixing }));
        }
        match self.stage_work(entry) {
            Some(work) if work.mixing.amount > 0.0 => Work::Stage(Arc::new(work)),
            _ => self.bypass(entry),
        }
    }

    pub(super) fn moment(&self) -> Moment {
        self.setup.moment(self.frame)
    }

    /// What a row's stage does, whatever its amount; none for a tool and for an unknown kind.
    pub(super) fn stage_work(&self, entry: &StageEntry) -> Option<StageWork> {
        let stage = stages::find(&entry.kind)?;
        let mut values = shape::values(self.setup, entry, self.moment());
        let own = values.split_off(shape::common_count(entry));
        let inputs = shape::slots(entry)
            .iter()
            .filter(|slot| slot.id != MATTE && !mattes::MORE.contains(&slot.id))
            .filter_map(|slot| Some((slot.id, self.source(entry, slot.id)?)))
            .collect();
        let (mixing, rule) = (self.mixing(entry, &values), shape::amount_rule(entry));
        Some(StageWork { stage, values: own, inputs, mixing, rule })
    }

    /// What a stage does at each moment that it is seen in, about the middle of the frame; only what it does at the frame
    /// where it is seen sharp or does not change meanwhile.
    pub(super) fn over_shutter(&self, entry: &StageEntry, work: &Arc<StageWork>) -> Vec<Arc<StageWork>> {
        let shutter = work.stage.shutter(&Context::new(self, entry, work)).ok().flatten();
        let moments = shutter.map_or_else(Vec::new, |shutter| shutter.moments(self.frame));
        let works =
            moments.into_iter().filter_map(|moment| self.at_frame(moment).stage_work(entry).map(Arc::new));
        let works: Vec<_> = works.collect();
        let changes = works.iter().any(|other| other.values != work.values || other.mixing != work.mixing);
        if changes && works.len() > 1 { works } else { vec![Arc::clone(work)] }
    }

    fn finish(&self, entry: &'a StageEntry, work: Work) -> Result<Node, StageError> {
        match &work {
            Work::Pass(None, kind) => {
                let domain = self.nowhere();
                let hash = Key::of("nothing").with(kind).with(&domain).hash();
                Ok(Node::new(work, hash, domain))
            }
            Work::Pass(Some((from, take)), _) => {
                let Node { hash, domain, .. } = self.node(*from).map_err(stage_error)?;
                let hash = match take {
                    None => hash,
                    Some(take) => {
                        Key::of("one float").with(&hash).with(take).with(&self.setup.picture.working).hash()
                    }
                };
                Ok(Node::new(work, hash, domain))
            }
            Work::Tool(tool) => {
                let mut key = Key::of("tool");
                let main = self.add_input(&mut key, tool.main)?;
                let result = self.node(tool.result).map_err(stage_error)?;
                key.add(&result.hash);
                self.add_mixing(&mut key, &tool.mixing)?;
                let domain = main.map_or(result.domain, |main| union(main, result.domain));
                Ok(Node::new(work, key.hash(), domain))
            }
            Work::Stage(stage) => {
                let stage = Arc::clone(stage);
                self.finish_stage(entry, work, &stage)
            }
        }
    }

    fn finish_stage(
        &self,
        entry: &'a StageEntry,
        work: Work,
        stage: &Arc<StageWork>,
    ) -> Result<Node, StageError> {
        let context = Context::new(self, entry, stage);
        let mut key = Key::of("stage").with(&ENGINE_REVISION);
        key.add(stage.stage.spec().id);
        key.add(&stage.stage.revision());
        key.add(&shape::kind_of(self.setup, entry.id));
        // Sampled together with the row above, it gives other pixels than alone.
        key.add(&bracket::above(self.setup, entry).is_some());
        key.add(&self.scale);
        key.add(&self.setup.picture);
        let seen = self.over_shutter(entry, stage);
        key.add(&seen.len());
        for work in &seen {
            work.values.iter().for_each(|value| self.add_value(&mut key, value));
            key.add(&work.mixing);
        }
        let mut slots: Vec<_> = stage.inputs.iter().collect();
        slots.sort_by_key(|(slot, _)| **slot);
        key.add(&slots.len());
        for (slot, from) in slots {
            key.add(*slot);
            self.add_input(&mut key, Some(*from))?;
        }
        self.add_mixing(&mut key, &stage.mixing)?;
        stage.stage.key(&context, &mut key)?;
        let own = self.own_domain(entry, stage)?;
        let mixes = stage.rule != AmountRule::Opacity && stage.share().is_some();
        let domain = match stage.inputs.get(MAIN).filter(|_| mixes) {
            Some((id, _)) => union(own, self.domain(*id).map_err(stage_error)?),
            None => own,
        };
        let bounded = self.bounded(domain);
        let cut_from = (bounded != domain).then_some(domain.data);
        Ok(Node { cut_from, ..Node::new(work, key.hash(), bounded) })
    }

    /// Where a signal exists, cut to the frame and as much again on each side where it would have more pixels than can be
    /// used. The same at every scale.
    fn bounded(&self, domain: Domain) -> Domain {
        let full = u64::from(self.scale.divisor()).pow(2);
        let area = domain.data.width() as u64 * domain.data.height() as u64;
        if area.saturating_mul(full) <= MOST_PIXELS {
            return domain;
        }
        let frame = domain.display;
        let near = frame.grow(frame.width() as i32, frame.height() as i32);
        Domain { data: domain.data.intersect(near), ..domain }
    }

    /// What a row takes, as it counts for the row's hash; where it exists.
    fn add_input(
        &self,
        key: &mut Key,
        source: Option<(StageId, Option<Take>)>,
    ) -> Result<Option<Domain>, StageError> {
        key.add(&source.is_some());
        let Some((id, take)) = source else { return Ok(None) };
        let node = self.node(id).map_err(stage_error)?;
        key.add(&node.hash);
        key.add(&take);
        key.add(&node.domain);
        Ok(Some(node.domain))
    }

    fn add_mixing(&self, key: &mut Key, mixing: &Mixing) -> Result<(), StageError> {
        key.add(mixing);
        for from in mixing.mattes() {
            self.add_input(key, Some(from))?;
        }
        Ok(())
    }

    /// A value, as it counts for the hash of the row that it is of. Media are named by numbers that mean something else in
    /// another setup: which file it is the stage that reads it says, and what its colours mean counts here.
    fn add_value(&self, key: &mut Key, value: &Value) {
        match value {
            Value::Media(id) => key.add(&id.and_then(|id| self.setup.medium(id)).map(|media| media.colour)),
            value => key.add(value),
        }
    }

    fn nowhere(&self) -> Domain {
        Domain { display: self.display(), data: Window::EMPTY }
    }

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
                self.clock.measure(id, wanted.area(), || match self.baked_signal(&node, id, wanted)? {
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
            self.engine().cache().put(hash, &signal);
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
    fn own_domain(&self, entry: &'a StageEntry, work: &Arc<StageWork>) -> Result<Domain, StageError> {
        match work.stage.as_warp() {
            Some(_) => self.warped_domain(entry, work),
            None => work.stage.domain(&Context::new(self, entry, work)),
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
        let context = Context::new(self, entry, work);
        match work.stage.each_pixel(&context, shape::kind_of(self.setup, entry.id))? {
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

    /// Full-resolution pixels of a file, kept under what they are known by.
    pub(super) fn kept_file(
        &self,
        key: Key,
        domain: Domain,
        read: impl FnOnce() -> Result<Pixels, StageError>,
    ) -> Result<Arc<Signal>, StageError> {
        self.once(key.hash(), domain.data, || Ok(Arc::new(Signal { domain, pixels: read()? })))
    }
}

fn union(a: Domain, b: Domain) -> Domain {
    Domain { display: a.display, data: a.data.union(b.data) }
}

/// What a taker hands on of an input that failed: the fault stays that one's.
pub(super) fn stage_error(error: EngineError) -> StageError {
    match error {
        EngineError::Cancelled => StageError::Cancelled,
        other => StageError::Above(Box::new(other)),
    }
}

/// Why a request gives nothing, when a row does not.
pub(super) fn failure(entry: &StageEntry, error: StageError) -> EngineError {
    match error {
        StageError::Cancelled => EngineError::Cancelled,
        StageError::Fault(message) => of_row(entry, message),
        StageError::Above(error) => *error,
    }
}

fn of_row(entry: &StageEntry, message: String) -> EngineError {
    EngineError::Stage { stage: entry.id, name: entry.name.clone(), message }
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
