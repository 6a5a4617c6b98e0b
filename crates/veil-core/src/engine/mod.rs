//! From a setup and a frame to pixels.
//!
//! A request is planned from the asked row upwards: each row's controls are resolved at the frame and
//! its content hash is made of its kind, those values and the hashes of what it takes. Rendering then
//! pulls: a stage asks its inputs for just the window it needs, at whichever moment, and every result is kept in one
//! cache under its hash, so that rows, frames and users that need the same pixels share them.

mod asking;
mod bake;
mod cache;
mod clock;
mod flaws;
mod flight;
mod look;
mod machine;
mod mixing;
mod node;
mod over_shot;
mod pixels;
mod places;
mod plan;
mod request;
mod ride;
mod run;
mod telling;
mod times;
mod warp;

use veil_pixels::Cancel;

pub use cache::Cache;
pub use clock::Spent;
pub use machine::Engine;
pub use places::WayTo;
pub use request::{Answer, Fault, Holding, OnFault, Request, Trial};
pub use ride::Travelled;

pub use crate::key::ContentHash;
pub use crate::stage::{EngineError, Ride};

use crate::plates::Plates;
use crate::setup::Setup;
use look::{Shared, failure};

impl Engine {
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
}
