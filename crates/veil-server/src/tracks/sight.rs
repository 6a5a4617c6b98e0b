//! Where the frames are seen that something is followed through.

use veil_core::engine::{Answer, EngineError, OnFault, Request};
use veil_core::plates::Plates;
use veil_core::setup::StageId;
use veil_core::signal::Pixels;
use veil_core::tracks::image;
use veil_pixels::{Cancel, Field};
use veil_store::ShotRecord;

use crate::App;

/// In which row's picture, without what, and from which frame on.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Begin {
    pub(super) stage: StageId,
    pub(super) without: Option<StageId>,
    pub(super) frame: i32,
}

/// An image, and the coverage of what does not count in it.
pub(super) type Looked = (Field, Option<Field>);

/// Sees frames of a shot.
#[derive(Clone, Copy)]
pub(super) struct Sight<'a> {
    app: &'a App,
    shot: &'a ShotRecord,
    plates: &'a dyn Plates,
    cancel: &'a Cancel,
}

impl<'a> Sight<'a> {
    pub(super) const fn new(
        app: &'a App,
        shot: &'a ShotRecord,
        plates: &'a dyn Plates,
        cancel: &'a Cancel,
    ) -> Self {
        Self { app, shot, plates, cancel }
    }

    fn answer(&self, stage: StageId, frame: i32) -> Result<Answer, EngineError> {
        let request = Request { on_fault: OnFault::Bypass, ..Request::whole(stage, f64::from(frame)) };
        self.app.engine.answer(&self.shot.setup, self.plates, request, self.cancel)
    }

    /// What is followed of a row.
    pub(super) fn image(&self, stage: StageId, frame: i32) -> Result<Field, EngineError> {
        self.image_of(&self.answer(stage, frame)?)
    }

    fn image_of(&self, answer: &Answer) -> Result<Field, EngineError> {
        let working = self.shot.setup.picture.working;
        let pixels = answer.signal.over(answer.window);
        image(&pixels, working, self.cancel).map_err(|_| EngineError::Cancelled)
    }

    /// What a row that takes nothing says where it has no picture of a frame: its file is missing, or cannot be read.
    fn absent(&self, answer: &Answer) -> Option<String> {
        let takes_nothing =
            |stage: StageId| self.shot.setup.stage(stage).is_some_and(|row| row.links.is_empty());
        answer.faults.iter().find(|fault| takes_nothing(fault.stage)).map(|fault| fault.message.clone())
    }

    /// A frame as it is followed, or why it is not there.
    pub(super) fn seen(&self, begin: Begin, frame: i32) -> Result<Result<Looked, String>, EngineError> {
        let answer = self.answer(begin.stage, frame)?;
        if let Some(why) = self.absent(&answer) {
            return Ok(Err(why));
        }
        let image = self.image_of(&answer)?;
        let Some(row) = begin.without else { return Ok(Ok((image, None))) };
        let answer = self.answer(row, frame)?;
        let without = match answer.signal.over(answer.window) {
            Pixels::Field(field) => field,
            _ => self.image_of(&answer)?,
        };
        Ok(Ok((image, Some(without))))
    }
}
