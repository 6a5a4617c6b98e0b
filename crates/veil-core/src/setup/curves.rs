//! Keys of several controls changed together.

use serde::{Deserialize, Serialize};

use super::values::feed_axis;
use super::{CommandError, Setup};
use crate::feed::{ControlAxis, Feed, KeyMove, KeyShape, Keys, RetimeError};
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

pub(super) fn move_keys(setup: &mut Setup, picked: &[PickedKeys], by: KeyMove) -> Result<(), CommandError> {
    for PickedKeys { of, frames } in picked {
        let keys = keys_of(setup, of)?.moved(frames, by).map_err(|why| refused(setup, of, why))?;
        feed_axis(setup, of, Feed::Keys(keys))?;
    }
    Ok(())
}

pub(super) fn shape_keys(
    setup: &mut Setup,
    picked: &[PickedKeys],
    shape: KeyShape,
) -> Result<(), CommandError> {
    for PickedKeys { of, frames } in picked {
        let keys = keys_of(setup, of)?.shaped(frames, shape);
        feed_axis(setup, of, Feed::Keys(keys))?;
    }
    Ok(())
}

/// With its last key a control keeps the value it had there.
pub(super) fn remove_keys(setup: &mut Setup, picked: &[PickedKeys]) -> Result<(), CommandError> {
    for PickedKeys { of, frames } in picked {
        let keys = keys_of(setup, of)?;
        let first = frames.first().copied().unwrap_or(0.0);
        let left = keys.without(frames).map_or_else(|| Feed::Fixed(keys.at(first)), Feed::Keys);
        feed_axis(setup, of, left)?;
    }
    Ok(())
}

pub(super) fn copy_timing(
    setup: &mut Setup,
    from: &ControlAxis,
    to: &[ControlAxis],
) -> Result<(), CommandError> {
    let theirs = keys_of(setup, from)?;
    for of in to {
        let paced = keys_of(setup, of)?.paced_like(&theirs).map_err(|why| refused(setup, of, why))?;
        feed_axis(setup, of, Feed::Keys(paced))?;
    }
    Ok(())
}

fn keys_of(setup: &Setup, of: &ControlAxis) -> Result<Keys, CommandError> {
    if let Some(own) = setup.own(of) {
        return match own.setting.feeds().get(of.axis) {
            Some(Feed::Keys(keys)) => Ok(keys.clone()),
            _ => Err(CommandError::NoKeys { stage: "the setup".into(), control: own.name.clone() }),
        };
    }
    let stage = setup.stage(of.stage).ok_or(CommandError::NoStage(of.stage))?;
    match setup.setting(stage, &of.control).and_then(|setting| setting.feeds().get(of.axis)) {
        Some(Feed::Keys(keys)) => Ok(keys.clone()),
        _ => Err(CommandError::NoKeys { stage: stage.name.clone(), control: control_name(setup, of) }),
    }
}

fn refused(setup: &Setup, of: &ControlAxis, why: RetimeError) -> CommandError {
    let stage = setup.stage(of.stage).map(|stage| stage.name.clone()).unwrap_or_default();
    CommandError::Retime { stage, control: control_name(setup, of), why }
}

fn control_name(setup: &Setup, of: &ControlAxis) -> String {
    let spec = setup.stage(of.stage).and_then(|stage| shape::control(stage, &of.control));
    let Some(spec) = spec else { return of.control.clone() };
    match spec.kind.axis_names().get(of.axis) {
        Some(axis) if !axis.is_empty() => format!("{} {axis}", spec.name),
        _ => spec.name.to_owned(),
    }
}
