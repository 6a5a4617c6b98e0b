//! What is the matter with the frames of footage, and with grain that does not move.

use super::{FaultKind, Mend, Search, Told};
use crate::controls::Setting;
use crate::engine::EngineError;
use crate::feed::Feed;
use crate::setup::{Command, Media, NewRow, StageEntry, StageId};
use crate::signal::Pixels;
use crate::stages::light::grain;
use crate::stages::time::{clean_plate, still_frame};

/// More frames than this are not looked at one by one.
const MOST_FRAMES: i32 = 400;
/// As many frames are named.
const NAMED: usize = 3;

impl Search<'_> {
    /// Frames of a plate that are missing between others, or the same as the one before.
    pub(super) fn footage(&self, entry: &StageEntry) -> Result<Vec<Told>, EngineError> {
        let Some(media) = self.plays(entry) else { return Ok(Vec::new()) };
        let Some(has) = media.frames else { return Ok(Vec::new()) };
        let shot = self.setup.picture.frames;
        let frames: Vec<i32> =
            (shot.first..=shot.last.min(shot.first.saturating_add(MOST_FRAMES - 1))).collect();
        let is_there = |frame: i32| self.plates.fingerprint(media, frame, self.cancel).is_ok();
        let missing: Vec<i32> =
            frames.iter().copied().filter(|frame| has.holds(*frame) && !is_there(*frame)).collect();
        let (mut held, mut before) = (Vec::new(), None);
        for frame in frames.iter().copied().filter(|frame| has.holds(*frame) && !missing.contains(frame)) {
            self.cancel.check().map_err(|_| EngineError::Cancelled)?;
            let Some(answer) = self.answer(8, entry.id, f64::from(frame))? else { continue };
            let now: Pixels = answer.signal.over(answer.window);
            if before.as_ref().is_some_and(|(number, seen)| number + 1 == frame && *seen == now) {
                held.push(frame);
            }
            before = Some((frame, now));
        }
        // Of a still every frame is.
        if held.len() + 1 >= frames.len() {
            held.clear();
        }
        let mut found = Vec::new();
        if !missing.is_empty() {
            let message = format!(
                "has no {}: nothing is seen of it there, and what looks at it cannot be rendered",
                named(&missing)
            );
            found.push((FaultKind::FramesMissing, message, None));
        }
        if !held.is_empty() {
            let message = format!("is held: {} shows what the one before does", named(&held));
            found.push((FaultKind::FramesHeld, message, None));
        }
        Ok(found)
    }

    /// The footage of a plate's row that shows its frames where they are.
    fn plays(&self, entry: &StageEntry) -> Option<&Media> {
        let shift = match entry.controls.get("shift") {
            None => 0.0,
            Some(Setting::Feed(Feed::Fixed(shift))) => *shift,
            Some(_) => return None,
        };
        let Some(Setting::Media { media }) = entry.controls.get("media") else { return None };
        (entry.kind.0 == "plate" && shift == 0.0).then(|| self.setup.medium(*media))?
    }

    /// A still or a clean plate that is seen in the end, with no grain laid on anywhere below it.
    pub(super) fn grain_stands_still(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        let is_still = [still_frame::KIND, clean_plate::KIND].contains(&entry.kind.0.as_str());
        let is_seen = || self.setup.final_id().is_some_and(|last| self.is_seen_without_grain(entry.id, last));
        let frames = self.setup.picture.frames;
        if !is_still || frames.count() < 2 || !is_seen() {
            return Ok(None);
        }
        let shown = self.answer(8, entry.id, f64::from(frames.first))?;
        if !shown.is_some_and(|answer| matches!(answer.signal.pixels, Pixels::Picture(_))) {
            return Ok(None);
        }
        let what =
            if entry.kind.0 == clean_plate::KIND { "has lost its grain" } else { "its grain stands still" };
        let message = format!(
            "{what}: what moves beside it gives it away; a Grain row below it, taken from the plate, hides that"
        );
        let place = NewRow { after: Some(entry.id), ..NewRow::default() };
        let command = Command::Add { kind: grain::KIND.into(), place };
        Ok(Some((FaultKind::GrainStill, message, Some(Mend { name: "lay grain on it".into(), command }))))
    }

    /// Whether the result takes a row's pictures in some way that leads by no Grain row.
    fn is_seen_without_grain(&self, row: StageId, last: StageId) -> bool {
        let (mut known, mut open) = (vec![row], vec![row]);
        while let Some(row) = open.pop() {
            if row == last {
                return true;
            }
            let below = self.setup.stages.iter().filter(|taker| {
                taker.kind.0 != grain::KIND
                    && taker.links.values().any(|link| {
                        self.setup.outer_source(*link, taker.inside).is_some_and(|(from, _)| from == row)
                    })
            });
            // What is inside a tool is seen where the tool is.
            let around = self.setup.stage(row).and_then(|entry| entry.inside);
            for next in below.map(|taker| taker.id).chain(around) {
                if !known.contains(&next) {
                    known.push(next);
                    open.push(next);
                }
            }
        }
        false
    }
}

/// Frames by number: all of a few, the first of many.
fn named(frames: &[i32]) -> String {
    let numbers: Vec<String> = frames.iter().take(NAMED).map(i32::to_string).collect();
    let list = numbers.join(", ");
    match frames.len() {
        1 => format!("frame {list}"),
        2..=NAMED => format!("frames {list}"),
        count => format!("frames {list} and {} more", count - NAMED),
    }
}
