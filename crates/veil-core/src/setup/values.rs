//! Controls set, and their feeds and drawn points changed.

use super::applied::entry;
use super::command::HandOnKeys;
use super::own::{pixel_with_names, with_names};
use super::{CommandError, Setting, Setup, StageId};
use crate::control::ControlKind;
use crate::drawn::ShapePoint;
use crate::feed::{ControlAxis, Feed};
use crate::shape;

/// Sets a control, dropping a setting that is the default.
pub(super) fn put(
    setup: &mut Setup,
    id: StageId,
    control: &str,
    setting: Setting,
) -> Result<(), CommandError> {
    let picture = setup.picture;
    let stage = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let unknown = || CommandError::NoControl { stage: stage.name.clone(), control: control.into() };
    let spec = shape::control(stage, control).ok_or_else(unknown)?;
    let setting = match spec.kind {
        ControlKind::Formula { .. } => pixel_with_names(setup, id, setting)?,
        _ => with_names(setup, id, setting)?,
    };
    // Places and sizes depend on the picture's size, so they are always written out.
    let relative = spec.kind.axes() == 2;
    // A copy keeps a default of its own, since without it it would follow.
    let is_default =
        !relative && stage.copy_of.is_none() && shape::default_setting(&spec.kind, picture) == setting;
    let controls = &mut entry(setup, id)?.controls;
    if is_default {
        controls.remove(control);
    } else {
        controls.insert(control.into(), setting);
    }
    Ok(())
}

/// Changes the points of a drawn outline at a frame.
pub(super) fn put_shape(
    setup: &mut Setup,
    id: StageId,
    control: &str,
    shape: usize,
    points: &[ShapePoint],
    frame: f64,
    keys: HandOnKeys,
) -> Result<(), CommandError> {
    let stage = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let unknown = || CommandError::NoControl { stage: stage.name.clone(), control: control.into() };
    let Some(Setting::Shapes { shapes }) = setup.setting(stage, control) else { return Err(unknown()) };
    let mut shapes = shapes.clone();
    let drawn = shapes.get_mut(shape).ok_or_else(unknown)?;
    *drawn = match keys {
        HandOnKeys::Key => drawn.with_key(frame, points.to_vec()),
        HandOnKeys::MovesAll => drawn.moved_as_a_whole(frame, points),
    };
    put(setup, id, control, Setting::Shapes { shapes })
}

/// Gives one axis of a control another feed.
pub(super) fn feed_axis(setup: &mut Setup, of: &ControlAxis, feed: Feed) -> Result<(), CommandError> {
    feed_each(setup, of.stage, &of.control, |axis, _| (axis == of.axis).then(|| feed.clone()))
}

/// Changes the feeds of a control; `change` gives none for an axis that stays.
pub(super) fn feed_each(
    setup: &mut Setup,
    id: StageId,
    control: &str,
    change: impl Fn(usize, &Feed) -> Option<Feed>,
) -> Result<(), CommandError> {
    if let Some(own) = setup.own_mut(id, control) {
        for axis in 0..own.kind.axes().len() {
            if let Some(feed) = own.setting.feeds().get(axis).and_then(|feed| change(axis, feed)) {
                own.setting = own.setting.with_feed(axis, feed);
            }
        }
        return Ok(());
    }
    let stage = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let unknown = || CommandError::NoControl { stage: stage.name.clone(), control: control.into() };
    let spec = shape::control(stage, control).ok_or_else(unknown)?;
    if spec.kind.axes() == 0 {
        return Err(CommandError::NotKeyed(spec.name.into()));
    }
    let current = setup.setting(stage, control).cloned();
    let mut setting = current.unwrap_or_else(|| shape::default_setting(&spec.kind, setup.picture));
    for axis in 0..spec.kind.axes() {
        if let Some(feed) = setting.feeds().get(axis).and_then(|feed| change(axis, feed)) {
            setting = setting.with_feed(axis, feed);
        }
    }
    put(setup, id, control, setting)
}
