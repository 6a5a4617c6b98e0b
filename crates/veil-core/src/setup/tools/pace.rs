//! When what is keyed inside a tool starts, and how long it lasts.

use std::collections::BTreeSet;

use serde::Serialize;

use crate::controls::KeyedPoints;
use crate::feed::{Feed, KeyMove, Keys, RetimeError};
use crate::setup::tools::taking::inside;
use crate::setup::{CommandError, Setting, Setup, StageEntry, StageId};

/// The first key inside a tool and the way to the last, in frames.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Pace {
    /// Frame of the first key.
    pub starts: f64,
    /// Frames from it to the last; 0 where all stand at one frame.
    pub lasts: f64,
}

impl Setup {
    /// When what is keyed inside a tool's row happens; none where nothing is.
    pub fn pace(&self, row: StageId) -> Option<Pace> {
        let rows = inside(self, row);
        let frames: Vec<f64> =
            self.stages.iter().filter(|stage| rows.contains(&stage.id)).flat_map(key_frames).collect();
        Pace::over(&frames)
    }
}

impl Pace {
    fn over(frames: &[f64]) -> Option<Self> {
        let first = frames.iter().copied().reduce(f64::min)?;
        let last = frames.iter().copied().reduce(f64::max)?;
        Some(Self { starts: first, lasts: last - first })
    }

    /// What brings keys from this pace to another.
    fn to(self, other: Self) -> Result<KeyMove, RetimeError> {
        let numbers = [other.starts, other.lasts];
        if numbers.iter().any(|number| !number.is_finite()) || (self.lasts > 0.0 && other.lasts <= 0.0) {
            return Err(RetimeError::NoMove);
        }
        let stretch = if self.lasts > 0.0 { other.lasts / self.lasts } else { 1.0 };
        Ok(KeyMove { about: self.starts, stretch, later: other.starts - self.starts, ..KeyMove::default() })
    }
}

/// Moves and stretches all keys inside a tool's row together. What is left out stays as it is.
pub(in crate::setup) fn set_pace(
    setup: &mut Setup,
    row: StageId,
    starts: Option<f64>,
    lasts: Option<f64>,
) -> Result<(), CommandError> {
    let name = setup.stage(row).ok_or(CommandError::NoStage(row))?.name.clone();
    let Some(old) = setup.pace(row) else { return Err(CommandError::NothingKeyed(name)) };
    let new = Pace { starts: starts.unwrap_or(old.starts), lasts: lasts.unwrap_or(old.lasts) };
    let refused = |why| CommandError::Pace { tool: name.clone(), why };
    let by = old.to(new).map_err(refused)?;
    let rows: BTreeSet<StageId> = inside(setup, row);
    for stage in setup.stages.iter_mut().filter(|stage| rows.contains(&stage.id)) {
        move_all(stage, by).map_err(refused)?;
    }
    Ok(())
}

/// Brings what is keyed in rows that are put in to a shot's first frame, where its first key lies outside of the shot.
pub(in crate::setup) fn within_shot(rows: &mut [StageEntry], setup: &Setup) {
    let frames: Vec<f64> = rows.iter().flat_map(key_frames).collect();
    let Some(pace) = Pace::over(&frames) else { return };
    let shot = setup.picture.frames;
    let first = f64::from(shot.first);
    if (first..=f64::from(shot.last)).contains(&pace.starts) {
        return;
    }
    if let Ok(by) = pace.to(Pace { starts: first, ..pace }) {
        for row in rows {
            // A move alone crowds no keys.
            let _ = move_all(row, by);
        }
    }
}

fn settings(stage: &StageEntry) -> impl Iterator<Item = &Setting> {
    let own = stage.tool.iter().flat_map(|tool| tool.controls.iter().map(|own| &own.setting));
    stage.controls.values().chain(own)
}

fn key_frames(stage: &StageEntry) -> Vec<f64> {
    let mut frames = Vec::new();
    for setting in settings(stage) {
        for keys in setting.feeds().iter().filter_map(Feed::keys) {
            frames.extend(keys.iter().map(|key| key.frame));
        }
        frames.extend(setting.drawn().into_iter().flat_map(KeyedPoints::animated));
    }
    frames
}

fn move_all(stage: &mut StageEntry, by: KeyMove) -> Result<(), RetimeError> {
    let own = stage.tool.iter_mut().flat_map(|tool| tool.controls.iter_mut().map(|own| &mut own.setting));
    for setting in stage.controls.values_mut().chain(own) {
        for feed in setting.feeds_mut() {
            let Some(keys) = feed.keys() else { continue };
            let moved = moved(keys, by)?;
            *feed = feed.with_keys(Some(moved), by.about);
        }
        setting.retime_drawn(by);
    }
    Ok(())
}

fn moved(keys: &Keys, by: KeyMove) -> Result<Keys, RetimeError> {
    let frames: Vec<f64> = keys.iter().map(|key| key.frame).collect();
    keys.moved(&frames, by)
}
