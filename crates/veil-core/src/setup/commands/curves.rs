//! Keys of several controls changed together.

use serde::{Deserialize, Serialize};

use crate::feed::{ControlAxis, Feed, KeyMove, KeyShape, Keys, RetimeError};
use crate::setup::commands::values::feed_axis;
use crate::setup::{CommandError, Setup};
use crate::shape;

/// Keys of one curve.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PickedKeys {
    /// Whose.
    pub of: ControlAxis,
    /// The frames that they stand at.
    pub frames: Vec<f64>,
}

pub(in crate::setup) fn move_keys(
    setup: &mut Setup,
    picked: &[PickedKeys],
    by: KeyMove,
) -> Result<(), CommandError> {
    for PickedKeys { of, frames } in picked {
        rekey(setup, of, 0.0, |keys| keys.moved(frames, by).map(Some))?;
    }
    Ok(())
}

pub(in crate::setup) fn shape_keys(
    setup: &mut Setup,
    picked: &[PickedKeys],
    shape: KeyShape,
) -> Result<(), CommandError> {
    for PickedKeys { of, frames } in picked {
        rekey(setup, of, 0.0, |keys| Ok(Some(keys.shaped(frames, shape))))?;
    }
    Ok(())
}

/// With its last key a control keeps the value it had there.
pub(in crate::setup) fn remove_keys(setup: &mut Setup, picked: &[PickedKeys]) -> Result<(), CommandError> {
    for PickedKeys { of, frames } in picked {
        let first = frames.first().copied().unwrap_or(0.0);
        rekey(setup, of, first, |keys| Ok(keys.without(frames)))?;
    }
    Ok(())
}

pub(in crate::setup) fn copy_timing(
    setup: &mut Setup,
    from: &ControlAxis,
    to: &[ControlAxis],
) -> Result<(), CommandError> {
    let theirs = feed_of(setup, from)?;
    let theirs = theirs.keys().ok_or_else(|| no_keys(setup, from))?;
    for of in to {
        rekey(setup, of, 0.0, |keys| keys.paced_like(theirs).map(Some))?;
    }
    Ok(())
}

/// Puts others in the place of a control's keys; where none are left, the value that they had at a frame.
fn rekey(
    setup: &mut Setup,
    of: &ControlAxis,
    frame: f64,
    change: impl FnOnce(&Keys) -> Result<Option<Keys>, RetimeError>,
) -> Result<(), CommandError> {
    let feed = feed_of(setup, of)?;
    let keys = feed.keys().ok_or_else(|| no_keys(setup, of))?;
    let made = change(keys).map_err(|why| refused(setup, of, why))?;
    feed_axis(setup, of, feed.with_keys(made, frame))
}

fn feed_of(setup: &Setup, of: &ControlAxis) -> Result<Feed, CommandError> {
    let setting = match setup.own(of) {
        Some(own) => Some(&own.setting),
        None => {
            let stage = setup.stage(of.stage).ok_or(CommandError::NoStage(of.stage))?;
            setup.setting(stage, &of.control)
        }
    };
    let feed = setting.and_then(|setting| setting.feeds().get(of.axis));
    feed.cloned().ok_or_else(|| no_keys(setup, of))
}

fn no_keys(setup: &Setup, of: &ControlAxis) -> CommandError {
    let (stage, control) = match setup.own(of) {
        Some(own) => ("the setup".to_owned(), own.name.clone()),
        None => {
            let stage = setup.stage(of.stage).map(|stage| stage.name.clone());
            (stage.unwrap_or_default(), control_name(setup, of))
        }
    };
    CommandError::NoKeys { stage, control }
}

fn refused(setup: &Setup, of: &ControlAxis, why: RetimeError) -> CommandError {
    let stage = setup.stage(of.stage).map(|stage| stage.name.clone()).unwrap_or_default();
    CommandError::Retime { stage, control: control_name(setup, of), why }
}

fn control_name(setup: &Setup, of: &ControlAxis) -> String {
    let spec = setup.stage(of.stage).and_then(|stage| shape::control(stage, &of.control));
    let Some(spec) = spec else { return of.control.clone() };
    let setting = setup.stage(of.stage).map(|stage| shape::setting(setup, stage, spec));
    match setting.and_then(|setting| spec.kind.axis_name(&setting, of.axis)) {
        Some(axis) if !axis.is_empty() => format!("{} {axis}", spec.name),
        _ => spec.name.to_owned(),
    }
}
