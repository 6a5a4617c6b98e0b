//! From a setup and a frame to pixels.
//!
//! A request is planned from the asked row upwards: each row's controls are resolved at the frame and
//! its content hash is made of its kind, those values and the hashes of what it takes. Rendering then
//! pulls: a stage asks its inputs for just the window it needs, at whichever moment, and every result is kept in one
//! cache under its hash, so that rows, frames and users that need the same pixels share them.

mod bake;
mod cache;
mod clock;
mod context;
mod flaws;
mod flight;
mod look;
mod mixing;
mod over_shot;
mod pixels;
mod places;
mod plan;
mod ride;
mod run;
mod warp;

use std::sync::Arc;

use veil_pixels::{Cancel, Cancelled, Window};

pub use cache::Cache;
pub use clock::Spent;
pub use context::Context;
pub use flaws::Faulty;
pub use places::WayTo;
pub use ride::{Ride, Travelled};

pub use crate::key::ContentHash;

use crate::bakes::{Bakes, UseOfBakes};
use crate::plates::{PlateError, Plates};
use crate::setup::{Setup, StageId};
use crate::signal::{Scale, Signal};
use flaws::Flaws;
use flight::Flights;
use look::{Shared, failure};

/// Why a stage gives nothing.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum StageError {
    /// The work was given up.
    #[error("cancelled")]
    Cancelled,
    /// It says what is missing or wrong.
    #[error("{0}")]
    Fault(String),
    /// What it takes failed, which is told of that row.
    #[error("{0}")]
    Above(Box<EngineError>),
}

impl From<Cancelled> for StageError {
    fn from(Cancelled: Cancelled) -> Self {
        Self::Cancelled
    }
}

impl From<PlateError> for StageError {
    fn from(error: PlateError) -> Self {
        match error {
            PlateError::Cancelled => Self::Cancelled,
            PlateError::File(message) => Self::Fault(message),
        }
    }
}

/// What is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Request {
    /// Whose result.
    pub stage: StageId,
    /// At which frame.
    pub frame: f64,
    /// At which proxy scale.
    pub scale: Scale,
    /// Which pixels, in pixels of that scale; none for the display window.
    pub window: Option<Window>,
    /// What a stage in error does.
    pub on_fault: OnFault,
    /// Whether bakes stand in for what they were made of.
    pub bakes: UseOfBakes,
}

impl Request {
    /// All that a frame shows of a row, at full scale, from bakes where they fit; a stage in error fails it.
    pub fn whole(stage: StageId, frame: f64) -> Self {
        let (on_fault, bakes) = (OnFault::Fail, UseOfBakes::default());
        Self { stage, frame, scale: Scale::FULL, window: None, on_fault, bakes }
    }
}

/// What becomes of a stage that cannot work.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum OnFault {
    /// It hands on its bypass, and the fault is told beside the result.
    Bypass,
    /// The request fails.
    Fail,
}

/// A stage's fault at a frame.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
pub struct Fault {
    /// Which stage.
    pub stage: StageId,
    /// One sentence.
    pub message: String,
}

/// Why a request gives nothing.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum EngineError {
    /// Nobody waits any more.
    #[error("cancelled")]
    Cancelled,
    /// The asked stage is not in the setup.
    #[error("there is no stage {}", .0.0)]
    NoStage(StageId),
    /// A row failed.
    #[error("`{name}`: {message}")]
    Stage {
        /// Which.
        stage: StageId,
        /// Its name.
        name: String,
        /// What it says.
        message: String,
    },
}

impl From<Cancelled> for EngineError {
    fn from(Cancelled: Cancelled) -> Self {
        Self::Cancelled
    }
}

/// A result with what went wrong on the way.
#[derive(Clone, Debug)]
pub struct Answer {
    /// The pixels, for at least the asked window within the data window.
    pub signal: Arc<Signal>,
    /// The asked window.
    pub window: Window,
    /// Faults of the stages on the way.
    pub faults: Vec<Fault>,
    /// What each row cost that was not held.
    pub spent: Vec<Spent>,
}

/// Evaluates setups. Cheap to clone; clones share the cache.
#[derive(Clone)]
pub struct Engine {
    cache: Cache,
    bakes: Option<Arc<dyn Bakes>>,
    flaws: Flaws,
    flights: Flights,
}

impl Engine {
    /// With a cache of at most this many bytes.
    pub fn new(cache_bytes: u64) -> Self {
        let (flaws, flights) = (Flaws::default(), Flights::default());
        Self { cache: Cache::new(cache_bytes), bakes: None, flaws, flights }
    }

    /// The same with a place for bakes.
    pub fn with_bakes(self, bakes: Arc<dyn Bakes>) -> Self {
        Self { bakes: Some(bakes), ..self }
    }

    /// With an empty cache of at most this many bytes, and the same bakes: to see what work costs.
    pub fn afresh(&self, cache_bytes: u64) -> Self {
        Self { cache: Cache::new(cache_bytes), flights: Flights::default(), ..self.clone() }
    }

    /// Answers a request.
    pub fn answer(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
        cancel: &Cancel,
    ) -> Result<Answer, EngineError> {
        let shared = Shared::new(self, setup, plates, cancel);
        let (signal, window) = shared.answer(request, |looks| {
            let window = request.window.unwrap_or(looks.domain(request.stage)?.display);
            Ok((looks.signal(request.stage, window)?, window))
        })?;
        Ok(Answer { signal, window, faults: shared.told(request), spent: shared.spent() })
    }

    /// Which passes come with a row's picture, and what became of them on the way; none where there are none.
    pub fn travelled(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
    ) -> Result<Option<Travelled>, EngineError> {
        let cancel = Cancel::new();
        let shared = Shared::new(self, setup, plates, &cancel);
        let travelled = shared.answer(request, |looks| {
            let entry = looks.entry(request.stage)?;
            looks.travelled(request.stage).map_err(|error| failure(entry, error))
        })?;
        Ok(travelled.filter(|travelled| !travelled.roles.is_empty()))
    }

    /// What the file of the plate at the head of a row's strand says of itself in words, by the name of the attribute.
    pub fn words(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
    ) -> Result<Vec<(String, String)>, EngineError> {
        let cancel = Cancel::new();
        Shared::new(self, setup, plates, &cancel).answer(request, |looks| {
            let entry = looks.entry(request.stage)?;
            looks.words(request.stage).map_err(|error| failure(entry, error))
        })
    }

    /// Whether the whole display window of a request is held, so that it costs nothing to answer.
    pub fn holds(&self, setup: &Setup, plates: &dyn Plates, request: Request) -> bool {
        let cancel = Cancel::new();
        Shared::new(self, setup, plates, &cancel).at(request).is_held(request.stage)
    }

    /// What a row's result at a frame is found by, without working it out.
    pub fn content(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
    ) -> Result<ContentHash, EngineError> {
        let cancel = Cancel::new();
        Ok(Shared::new(self, setup, plates, &cancel).at(request).node(request.stage)?.hash)
    }

    /// How much of its main input a row changes: the mean absolute difference, for rows whose main input
    /// is of the kind they give; none for others.
    pub fn effect(
        &self,
        setup: &Setup,
        plates: &dyn Plates,
        request: Request,
        cancel: &Cancel,
    ) -> Result<Option<f64>, EngineError> {
        Shared::new(self, setup, plates, cancel).answer(request, |looks| looks.effect(request.stage))
    }

    pub(crate) const fn cache(&self) -> &Cache {
        &self.cache
    }

    pub(crate) fn bakes(&self) -> Option<&dyn Bakes> {
        self.bakes.as_deref()
    }

    const fn flights(&self) -> &Flights {
        &self.flights
    }

    pub(crate) const fn flaws(&self) -> &Flaws {
        &self.flaws
    }
}
