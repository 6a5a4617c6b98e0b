//! A range of frames into files.

use std::path::Path;

use veil_core::engine::{Engine, EngineError, Request};
use veil_core::plates::Plates;
use veil_core::setup::{Frames, Setup, StageId};
use veil_core::signal::{Domain, Scale, Signal};
use veil_pixels::Cancel;

use crate::MediaError;
use crate::write::{OutputPattern, Written, write_frame};

/// What is rendered, and where to.
#[derive(Clone, Debug)]
pub struct RenderJob {
    /// The setup.
    pub setup: Setup,
    /// Whose result.
    pub stage: StageId,
    /// At which scale.
    pub scale: Scale,
    /// Into which files.
    pub output: OutputPattern,
}

/// Why a frame is not there.
#[derive(Debug, thiserror::Error)]
pub enum RenderError {
    /// The setup gave no pixels.
    #[error(transparent)]
    Engine(#[from] EngineError),
    /// The file could not be written.
    #[error(transparent)]
    Media(#[from] MediaError),
}

impl RenderError {
    /// The same, with files named as they are called below a folder.
    pub fn below(self, folder: &Path) -> Self {
        match self {
            Self::Media(error) => Self::Media(error.below(folder)),
            engine @ Self::Engine(_) => engine,
        }
    }

    /// Whether nobody waits any more.
    pub const fn is_cancelled(&self) -> bool {
        matches!(self, Self::Engine(EngineError::Cancelled) | Self::Media(MediaError::Cancelled))
    }
}

impl RenderJob {
    /// What is left to do once the frames are there: a clip is made of them.
    pub fn finish(&self, frames: Frames, cancel: &Cancel) -> Result<(), MediaError> {
        self.output.finish(frames, self.setup.picture.fps, cancel)
    }

    fn request(&self, frame: i32) -> Request {
        Request { scale: self.scale, ..Request::whole(self.stage, f64::from(frame)) }
    }

    /// What tells a frame's pixels from any others.
    pub fn content(&self, engine: &Engine, plates: &dyn Plates, frame: i32) -> Result<String, EngineError> {
        Ok(engine.content(&self.setup, plates, self.request(frame))?.to_string())
    }

    /// Renders one frame; a stage in error fails it. What lies outside the frame is not written.
    pub fn frame(
        &self,
        engine: &Engine,
        plates: &dyn Plates,
        frame: i32,
        cancel: &Cancel,
    ) -> Result<Written, RenderError> {
        let request = self.request(frame);
        let answer = engine.answer(&self.setup, plates, request, cancel)?;
        let Domain { display, data } = answer.signal.domain;
        let data = data.intersect(display);
        let signal = Signal { domain: Domain { display, data }, pixels: answer.signal.over(data) };
        let words = engine.words(&self.setup, plates, request).unwrap_or_default();
        Ok(write_frame(&self.output, frame, &signal, &self.setup.picture, &words)?)
    }
}
