//! What a row takes, laid on a box: the frame, or where a matte is.

use serde::Deserialize;
use veil_pixels::{Field, Window};

use crate::setup::{Command, Setting, Setup, StageId};
use crate::stage::Aligned;
use crate::stages;

/// How it is laid on the box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FitWay {
    /// As large as it can be with all of it inside.
    Inside,
    /// As small as it can be with all of the box covered.
    Over,
    /// Width and height each as the box has them.
    Stretch,
}

/// Why a row lays nothing on a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum FitError {
    /// The row is not one that lays what it takes somewhere.
    #[error("only a stage that places what it takes, as Transform and Corner pin do, lays it on a box")]
    NotPlacing,
    /// What it takes is nowhere.
    #[error("what it takes has no pixels at this frame")]
    Nothing,
    /// The matte is nowhere.
    #[error("the matte covers nothing at this frame")]
    NoBox,
}

/// Coverage from which on a place belongs to a matte's box.
const COVERED: f32 = 0.5;

/// The smallest window that holds what a matte covers by half and more.
pub fn box_of(matte: &Field) -> Window {
    let window = matte.window();
    let mut found = Window::EMPTY;
    for y in window.y0..window.y1 {
        let row = matte.row(y);
        let covered = |value: &f32| *value >= COVERED;
        if let (Some(first), Some(last)) = (row.iter().position(covered), row.iter().rposition(covered)) {
            found = found.union(Window::new(window.x0 + first as i32, y, window.x0 + last as i32 + 1, y + 1));
        }
    }
    found
}

/// The edit that lays what a row takes, which lies in `from`, on a box.
pub fn fit(setup: &Setup, row: StageId, from: Window, to: Window, way: FitWay) -> Result<Command, FitError> {
    let stage = setup.stage(row).and_then(|row| stages::find(&row.kind));
    let placing = stage.and_then(|stage| stage.as_placing()).ok_or(FitError::NotPlacing)?;
    if from.is_empty() {
        return Err(FitError::Nothing);
    }
    if to.is_empty() {
        return Err(FitError::NoBox);
    }
    let set = |(control, setting): (&str, Setting)| Command::Set {
        stage: row,
        control: control.to_owned(),
        setting: Some(setting),
    };
    let laid = placing.laid(from.into(), goal(from.into(), to.into(), way));
    Ok(Command::Together { commands: laid.into_iter().map(set).collect() })
}

/// Where it comes to lie: about the middle of the box.
fn goal(from: Aligned, to: Aligned, way: FitWay) -> Aligned {
    let ([wide, high], [to_wide, to_high]) = (from.size(), to.size());
    let (x, y) = (to_wide / wide, to_high / high);
    let factors = match way {
        FitWay::Inside => [x.min(y); 2],
        FitWay::Over => [x.max(y); 2],
        FitWay::Stretch => [x, y],
    };
    let half = [wide * factors[0] / 2.0, high * factors[1] / 2.0];
    let side = |sign: f64| [0, 1].map(|axis| to.middle()[axis] + sign * half[axis]);
    Aligned { first: side(-1.0), last: side(1.0) }
}
