//! What each deed makes of a setup.

use crate::bakes::Bake;
use crate::feed::{Feed, Keys};
use crate::setup::commands::Command;
use crate::setup::commands::curves::{PickedKeys, copy_timing, move_keys, remove_keys, shape_keys};
use crate::setup::commands::entries::swap_entries;
use crate::setup::commands::entry::entry;
use crate::setup::commands::grade_match::match_grade;
use crate::setup::commands::matte_row::mattes_to_row;
use crate::setup::commands::order::put_in_order;
use crate::setup::commands::own_deeds::{add_own, remove_own, rename_own, with_names};
use crate::setup::commands::rows::{Values, duplicate, group, replace_kind, split_off};
use crate::setup::commands::strand::{link, put_in, remove, stand_alone};
use crate::setup::commands::track::{cut_surface, free_shape, put_track, remove_track};
use crate::setup::commands::values::{ShapePut, alter, feed_each, put, put_shape};
use crate::setup::commands::wording::HandOnKeys;
use crate::setup::tools::making::make_tool;
use crate::setup::tools::pace::{set_pace, within_shot};
use crate::setup::tools::taking::take_tool;
use crate::setup::{CommandError, Media, Setup, StageEntry, StageId, StageKind, Tool, ToolError};
use crate::stages;

impl Command {
    pub(in crate::setup) fn apply(&self, setup: &mut Setup) -> Result<Option<StageId>, CommandError> {
        match self {
            Self::Add { kind, place } => {
                let stage = stages::find(&StageKind(kind.clone()))
                    .ok_or_else(|| CommandError::NoKind(kind.clone()))?;
                if kind == StageKind::FINAL {
                    return Err(CommandError::Final);
                }
                let entry = StageEntry::new(setup.free_id(), kind, setup.free_name(stage.spec().name));
                let id = entry.id;
                put_in(setup, vec![entry], id, place)?;
                Ok(Some(id))
            }
            Self::Remove { stage } => {
                let above = remove(setup, *stage)?;
                Ok(above)
            }
            Self::Duplicate { rows, linked } => duplicate(setup, rows, *linked).map(Some),
            Self::StandAlone { stage } => stand_alone(setup, *stage).map(|()| Some(*stage)),
            Self::Paste { copied, place } => copied.put_in(setup, place, Values::Own).map(Some),
            Self::SplitOff { stage, slot } => split_off(setup, *stage, slot).map(Some),
            Self::ReplaceKind { stage, kind } => replace_kind(setup, *stage, kind).map(|()| Some(*stage)),
            Self::Note { stage, text } => {
                entry(setup, *stage)?.note = text.trim().to_owned();
                Ok(Some(*stage))
            }
            Self::Mark { rows, tab } => {
                for row in rows {
                    entry(setup, *row)?.tab = *tab;
                }
                Ok(rows.last().copied())
            }
            Self::Group { rows, name } => group(setup, rows, name.trim()).map(|()| rows.last().copied()),
            Self::GoOnFrom { setup: once, .. } => {
                // The colours that pictures are worked on in belong to the show.
                let working = setup.picture.working;
                *setup = (**once).clone();
                setup.picture.working = working;
                Ok(setup.final_id())
            }
            Self::Together { commands } => {
                let mut row = None;
                for command in commands {
                    row = command.apply(setup)?;
                    put_in_order(setup);
                }
                Ok(row)
            }
            Self::Move { stage, to } => {
                let from = setup.row(*stage).ok_or(CommandError::NoStage(*stage))?;
                let last = setup.stages.len() - 1;
                if from == last || *to >= last {
                    return Err(CommandError::Final);
                }
                let entry = setup.stages.remove(from);
                setup.stages.insert(*to, entry);
                Ok(Some(*stage))
            }
            Self::Switch { stage, on } => {
                entry(setup, *stage)?.on = *on;
                Ok(Some(*stage))
            }
            Self::Bake { stage, frames } => {
                entry(setup, *stage)?.bake = frames.map(|frames| Bake { frames });
                Ok(Some(*stage))
            }
            Self::Rename { stage, name } => {
                entry(setup, *stage)?.name = name.trim().to_owned();
                Ok(Some(*stage))
            }
            Self::Link { stage, slot, from, take } => {
                link(setup, *stage, slot, *from, *take)?;
                Ok(Some(*stage))
            }
            Self::AddOwn { stage, name, kind } => add_own(setup, *stage, name, *kind).map(|()| Some(*stage)),
            Self::RemoveOwn { stage, control } => remove_own(setup, *stage, control).map(|()| Some(*stage)),
            Self::RenameOwn { stage, control, name } => {
                rename_own(setup, *stage, control, name).map(|()| Some(*stage))
            }
            Self::SwapEntries { stage, slot, with } => {
                swap_entries(setup, *stage, slot, with).map(|()| Some(*stage))
            }
            Self::MattesToRow { stage } => mattes_to_row(setup, *stage).map(Some),
            Self::Set { stage, control, setting: Some(setting) }
                if setup.own_mut(*stage, control).is_some() =>
            {
                let setting = with_names(setup, *stage, setting.clone())?;
                if let Some(own) = setup.own_mut(*stage, control) {
                    own.setting = setting;
                }
                Ok(Some(*stage))
            }
            Self::Set { stage, control, setting } => {
                entry(setup, *stage)?;
                match setting {
                    Some(setting) => put(setup, *stage, control, setting.clone())?,
                    None => {
                        entry(setup, *stage)?.controls.remove(control);
                    }
                }
                Ok(Some(*stage))
            }
            Self::Put { stage, control, values, frame, keys } => {
                let moment = setup.moment(*frame);
                let before = setup.clone();
                feed_each(setup, *stage, control, |axis, feed| {
                    let value = values.get(axis).copied().flatten()?;
                    Some(match (feed, keys) {
                        (Feed::Keys(_), HandOnKeys::MovesAll) => {
                            feed.shifted(value - feed.at(moment, &before))
                        }
                        _ => feed.set_at(moment, value, &before),
                    })
                })?;
                Ok(Some(*stage))
            }
            Self::Alter { stage, control, deed } => {
                alter(setup, *stage, control, deed)?;
                Ok(Some(*stage))
            }
            Self::PutShape { stage, control, shape, points, stand, frame, keys } => {
                let put = ShapePut { shape: *shape, points, stand: *stand, frame: *frame, keys: *keys };
                put_shape(setup, *stage, control, put).map(|()| Some(*stage))
            }
            Self::Key { stage, control, frame, axis } => {
                let (moment, before) = (setup.moment(*frame), setup.clone());
                feed_each(setup, *stage, control, |number, feed| {
                    let value = feed.at(moment, &before);
                    is_meant(*axis, number).then(|| match feed {
                        Feed::Keys(keys) => Feed::Keys(keys.with_value(*frame, value)),
                        _ => Feed::Keys(Keys::one(*frame, value)),
                    })
                })?;
                Ok(Some(*stage))
            }
            Self::Unkey { stage, control, frame, axis } => {
                feed_each(setup, *stage, control, |number, feed| {
                    feed.keys()
                        .filter(|_| is_meant(*axis, number))
                        .map(|keys| feed.with_keys(keys.without(&[*frame]), *frame))
                })?;
                Ok(Some(*stage))
            }
            Self::MoveKeys { picked, by } => move_keys(setup, picked, *by).map(|()| row_of(picked)),
            Self::Pace { stage, starts, lasts } => {
                set_pace(setup, *stage, *starts, *lasts).map(|()| Some(*stage))
            }
            Self::MatchGrade { stage, element, plate } => {
                match_grade(setup, *stage, element, plate).map(|()| Some(*stage))
            }
            Self::ShapeKeys { picked, shape } => shape_keys(setup, picked, *shape).map(|()| row_of(picked)),
            Self::RemoveKeys { picked } => remove_keys(setup, picked).map(|()| row_of(picked)),
            Self::CopyTiming { from, to } => {
                copy_timing(setup, from, to).map(|()| to.first().map(|of| of.stage))
            }
            Self::PutTrack { track } => put_track(setup, track).map(|()| None),
            Self::CutSurface { track, rows, columns } => {
                cut_surface(setup, *track, [*rows, *columns]).map(|()| None)
            }
            Self::RemoveTrack { track } => remove_track(setup, *track).map(|()| None),
            Self::FreeShape { stage, control, shape } => {
                free_shape(setup, *stage, control, *shape).map(|()| Some(*stage))
            }
            Self::UseMedia { media } => {
                let media = Media { id: setup.free_media_id(), ..media.clone() };
                setup.media.push(media);
                Ok(None)
            }
            Self::ChangeMedia { media } => {
                for known in setup.media.iter_mut().filter(|known| known.id == media.id) {
                    *known = media.clone();
                }
                Ok(None)
            }
            Self::About { name, picture } => {
                setup.name = name.clone();
                setup.picture = *picture;
                Ok(None)
            }
            Self::MakeTool { rows, name, inputs, otherwise, faceplate } => {
                make_tool(setup, rows, name, inputs, otherwise, faceplate).map(Some)
            }
            Self::PlaceTool { tool, place, scale_lengths } => {
                tool.check()?;
                let factor = lengths_of(tool, setup, *scale_lengths);
                let mut rows = tool.rows_for(setup, factor);
                within_shot(&mut rows, setup);
                let id = rows.last().map(|row| row.id).ok_or(ToolError::NoRows)?;
                put_in(setup, rows, id, place)?;
                Ok(Some(id))
            }
            Self::TakeTool { stage, tool, scale_lengths } => {
                let factor = lengths_of(tool, setup, *scale_lengths);
                take_tool(setup, *stage, tool, factor).map(|()| Some(*stage))
            }
            Self::KeptAs { stage, number } => {
                let row = entry(setup, *stage)?;
                let name = row.name.clone();
                let tool = row.tool.as_mut().ok_or(CommandError::NoTool(name))?;
                (tool.number, tool.own) = (*number, false);
                Ok(Some(*stage))
            }
        }
    }
}

/// How a tool's lengths are scaled to a setup's picture.
fn lengths_of(tool: &Tool, setup: &Setup, scaled: bool) -> f64 {
    if scaled { f64::from(setup.picture.height) / f64::from(tool.made_at_height.max(1)) } else { 1.0 }
}

fn row_of(picked: &[PickedKeys]) -> Option<StageId> {
    picked.first().map(|keys| keys.of.stage)
}

/// Whether a command that names one of a control's numbers, or none, is about a number.
fn is_meant(axis: Option<usize>, number: usize) -> bool {
    axis.is_none_or(|axis| axis == number)
}
