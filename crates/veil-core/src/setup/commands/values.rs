//! Controls set, and their feeds and drawn points changed.

use crate::controls::{ControlKind, ShapePoint};
use crate::feed::{ControlAxis, Feed};
use crate::setup::commands::entry::entry;
use crate::setup::commands::own_deeds::{pixel_with_names, with_names};
use crate::setup::commands::wording::{HandOnKeys, Stand};
use crate::setup::{CommandError, Setting, Setup, SetupError, StageId};
use crate::shape;
use serde_json::Value as Json;

/// Sets a control, dropping a setting that is the default.
pub(in crate::setup) fn put(
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
        ControlKind::Formula(_) => pixel_with_names(setup, id, setting)?,
        _ => with_names(setup, id, setting)?,
    };
    // What depends on the picture's size is always written out. A copy keeps a default of its own, since without it it would follow.
    let is_default =
        !spec.kind.is_relative() && stage.copy_of.is_none() && spec.kind.start_setting(picture) == setting;
    let controls = &mut entry(setup, id)?.controls;
    if is_default {
        controls.remove(control);
    } else {
        controls.insert(control.into(), setting);
    }
    Ok(())
}

/// Does what only the control's own type knows.
pub(in crate::setup) fn alter(
    setup: &mut Setup,
    id: StageId,
    control: &str,
    deed: &Json,
) -> Result<(), CommandError> {
    let stage = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let unknown = || CommandError::NoControl { stage: stage.name.clone(), control: control.into() };
    let spec = shape::control(stage, control).ok_or_else(unknown)?;
    let altered = spec.kind.altered(&shape::setting(setup, stage, spec), deed);
    let refused = |why| SetupError::Value { stage: stage.name.clone(), control: spec.name.into(), why };
    let setting = altered.map_err(refused)?;
    put(setup, id, control, setting)
}

/// Points put where those of something drawn are at a frame.
pub(in crate::setup) struct ShapePut<'a> {
    pub(in crate::setup) shape: usize,
    pub(in crate::setup) points: &'a [ShapePoint],
    pub(in crate::setup) stand: Stand,
    pub(in crate::setup) frame: f64,
    pub(in crate::setup) keys: HandOnKeys,
}

/// Changes the points of something drawn at a frame.
pub(in crate::setup) fn put_shape(
    setup: &mut Setup,
    id: StageId,
    control: &str,
    ShapePut { shape, points, stand, frame, keys }: ShapePut<'_>,
) -> Result<(), CommandError> {
    let stage = setup.stage(id).ok_or(CommandError::NoStage(id))?;
    let unknown = || CommandError::NoControl { stage: stage.name.clone(), control: control.into() };
    let spec = shape::control(stage, control).ok_or_else(unknown)?;
    let mut setting = shape::setting(setup, stage, spec);
    let mut all = setting.drawn_mut();
    let drawn = all.get_mut(shape).ok_or_else(unknown)?;
    let points = match stand {
        Stand::Drawn => points.to_vec(),
        Stand::Seen => drawn.seen_back(points.to_vec(), frame, setup),
    };
    **drawn = match keys {
        HandOnKeys::Key => drawn.with_key(frame, points),
        HandOnKeys::MovesAll => drawn.moved_as_a_whole(frame, &points),
    };
    put(setup, id, control, setting)
}

/// Gives one axis of a control another feed.
pub(in crate::setup) fn feed_axis(
    setup: &mut Setup,
    of: &ControlAxis,
    feed: Feed,
) -> Result<(), CommandError> {
    feed_each(setup, of.stage, &of.control, |axis, _| (axis == of.axis).then(|| feed.clone()))
}

/// Changes the feeds of a control; `change` gives none for an axis that stays.
pub(in crate::setup) fn feed_each(
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
    let mut setting = shape::setting(setup, stage, spec);
    if setting.feeds().is_empty() {
        return Err(CommandError::NotKeyed(spec.name.into()));
    }
    for axis in 0..setting.feeds().len() {
        if let Some(feed) = setting.feeds().get(axis).and_then(|feed| change(axis, feed)) {
            setting = setting.with_feed(axis, feed);
        }
    }
    put(setup, id, control, setting)
}
