//! Rows that show other frames than their own.

use super::{FaultKind, Search, Told};
use crate::controls::Setting;
use crate::engine::{EngineError, WayTo};
use crate::feed::Feed;
use crate::setup::{Frames, StageEntry, StageId};
use crate::spec::{Family, MAIN};
use crate::stages;

impl Search<'_> {
    /// A row that shows frames which its plate does not have, though that has those of the shot.
    pub(super) fn beyond(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        let moves_time = stages::find(&entry.kind).is_some_and(|stage| stage.spec().family == Family::Time);
        let Some((plate, has)) = self.plate_above(entry).filter(|_| moves_time) else { return Ok(None) };
        let to = WayTo::Row(plate.id);
        let moments = self.engine.moments_of(self.setup, self.plates, entry.id, to, self.cancel)?;
        let Some(moments) = moments else { return Ok(None) };
        let [first, last] = [f64::min as fn(f64, f64) -> f64, f64::max]
            .map(|further| moments.iter().copied().reduce(further).unwrap_or_default());
        let shot = self.setup.picture.frames;
        let is_beyond = first.floor() < f64::from(has.first.min(shot.first))
            || last.floor() > f64::from(has.last.max(shot.last));
        let message = || {
            let (name, Frames { first: from, last: to }) = (&plate.name, has);
            format!("shows frames {} to {} of {name}, which has {from}–{to}", rounded(first), rounded(last))
        };
        Ok(is_beyond.then(|| (FaultKind::BeyondPlate, message(), None)))
    }

    /// The plate at the head of a row's strand, and the frames of the shot that it has.
    fn plate_above(&self, entry: &StageEntry) -> Option<(&StageEntry, Frames)> {
        let above = |entry: &StageEntry| -> Option<StageId> {
            Some(self.setup.outer_source(*entry.links.get(MAIN)?, entry.inside)?.0)
        };
        let row = |id: StageId| self.setup.stage(id);
        let plate =
            std::iter::successors(above(entry).and_then(row), |entry| above(entry).and_then(row)).last()?;
        let Some(Setting::Media { media }) = plate.controls.get("media") else { return None };
        let frames = self.setup.medium(*media)?.frames?;
        let shift = match plate.controls.get("shift") {
            Some(Setting::Feed(Feed::Fixed(shift))) => *shift as i32,
            _ => 0,
        };
        let shown = |frame: i32| frame.saturating_add(shift);
        Some((plate, Frames { first: shown(frames.first), last: shown(frames.last) }))
    }
}

/// A moment as it is read.
fn rounded(moment: f64) -> f64 {
    (moment * 100.0).round() / 100.0
}
