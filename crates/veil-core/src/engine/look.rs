//! One request, and what it looks at on its way through a setup.
//!
//! What is planned and what went wrong is shared by all that the request looks at; an [`Evaluation`] looks at one moment
//! at one scale. A row that cannot work is planned as its bypass; where that is only found while it renders, the request
//! is planned once more, so that nothing that was made of a bypass passes for anything else.

use std::cell::{Cell, RefCell};
use std::collections::HashMap;
use std::ops::Deref;
use std::sync::Arc;

use veil_pixels::{Cancel, Window};

use super::clock::{Clock, Spent};
use super::machine::Engine;
use super::node::Node;
use super::request::{Holding, OnFault, Request};
use crate::bakes::UseOfBakes;
use crate::feed::Moment;
use crate::key::ContentHash;
use crate::plates::Plates;
use crate::setup::{Setup, StageEntry, StageId};
use crate::signal::{Domain, Scale, Signal};
use crate::stage::{EngineError, StageError};

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
        let Request { frame, scale, on_fault, bakes, holding, .. } = request;
        Evaluation { shared: self, frame, scale, on_fault, use_of_bakes: bakes, holding }
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
    holding: Holding,
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

    /// A row as it was planned for this look.
    pub(super) fn planned(&self, row: StageId) -> Option<Node> {
        self.nodes.borrow().get(&self.spot(row)).cloned()
    }

    /// Why rows could not work, at this moment and at others that were looked at with it.
    pub(super) fn faults_at_any_moment(&self) -> Vec<(f64, StageId, Arc<str>)> {
        let nodes = self.nodes.borrow();
        let same = |spot: &Spot| Spot { frame: spot.frame, ..self.spot(spot.row) } == *spot;
        let faulty = nodes.iter().filter(|(spot, _)| same(spot)).filter_map(|(spot, node)| {
            Some((f64::from_bits(spot.frame), spot.row, Arc::clone(node.fault.as_ref()?)))
        });
        faulty.collect()
    }

    /// Remembers it.
    pub(super) fn note_planned(&self, row: StageId, node: &Node) {
        self.nodes.borrow_mut().insert(self.spot(row), node.clone());
    }

    /// Why a row could not be rendered.
    pub(super) fn why_failed(&self, row: StageId) -> Option<Arc<str>> {
        self.failed.borrow().get(&self.spot(row)).cloned()
    }

    /// Whether a row that does not work fails the request.
    pub(super) fn fails(&self) -> bool {
        self.on_fault == OnFault::Fail
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

    /// What a row gives all over the shot is found by, where it is known already.
    pub(super) fn print_of(&self, row: StageId) -> Option<ContentHash> {
        self.prints.borrow().get(&(row, self.use_of_bakes)).copied()
    }

    /// Remembers it.
    pub(super) fn note_print(&self, row: StageId, print: ContentHash) {
        self.prints.borrow_mut().insert((row, self.use_of_bakes), print);
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
        self.engine.cache().get(hash, wanted, self.holding)
    }

    pub(super) fn hold(&self, hash: ContentHash, signal: &Arc<Signal>) {
        self.engine.cache().put(hash, signal, self.holding);
    }

    /// The frame of the shot, at this scale.
    pub(super) fn display(&self) -> Window {
        let picture = self.setup.picture;
        Window::sized(picture.width, picture.height).scaled_down(self.scale.divisor())
    }

    pub(super) fn domain(&self, id: StageId) -> Result<Domain, EngineError> {
        Ok(self.node(id)?.domain)
    }

    /// Nothing, shown in the shot's frame.
    pub(super) fn nowhere(&self) -> Domain {
        Domain { display: self.display(), data: Window::EMPTY }
    }

    /// The moment that is looked at.
    pub(super) fn moment(&self) -> Moment {
        self.setup.moment(self.frame)
    }
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

/// A row's own fault.
pub(super) fn of_row(entry: &StageEntry, message: String) -> EngineError {
    EngineError::Stage { stage: entry.id, name: entry.name.clone(), message }
}
