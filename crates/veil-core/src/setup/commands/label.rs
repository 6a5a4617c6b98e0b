//! What a command is called beside undo.

use crate::feed::ControlAxis;
use crate::setup::{Command, Earlier, PickedKeys, Setup, StageId, StageKind};
use crate::{shape, stages};

impl Command {
    /// As shown: `strength x of Displace`.
    pub(in crate::setup) fn label(&self, setup: &Setup) -> String {
        let name =
            |id: &StageId| setup.stage(*id).map_or_else(|| "a stage".to_owned(), |stage| stage.name.clone());
        let control_of = |id: &StageId, control: &str| {
            let of = ControlAxis { stage: *id, control: control.to_owned(), axis: 0 };
            if let Some(own) = setup.own(&of) {
                return own.name.clone();
            }
            let spec = setup.stage(*id).and_then(|entry| shape::control(entry, control));
            format!("{} of {}", spec.map_or(control, |spec| spec.name), name(id))
        };
        let keys_of = |picked: &[PickedKeys]| match picked {
            [one] if one.frames.len() == 1 => {
                format!("a key of {}", control_of(&one.of.stage, &one.of.control))
            }
            _ => format!("{} keys", picked.iter().map(|keys| keys.frames.len()).sum::<usize>()),
        };
        match self {
            Self::Add { kind, .. } => {
                let stage = stages::find(&StageKind(kind.clone()));
                format!("add {}", stage.map_or(kind.as_str(), |stage| stage.spec().name))
            }
            Self::Remove { stage } => format!("remove {}", name(stage)),
            Self::Duplicate { rows, .. } => match rows.as_slice() {
                [one] => format!("copy {}", name(one)),
                _ => format!("copy {} rows", rows.len()),
            },
            Self::StandAlone { stage } => format!("let {} stand alone", name(stage)),
            Self::Paste { copied, .. } => match copied.rows.as_slice() {
                [one] => format!("put in {}", one.name),
                rows => format!("put in {} rows", rows.len()),
            },
            Self::SplitOff { stage, slot } => format!("split off {slot} of {}", name(stage)),
            Self::ReplaceKind { stage, kind } => {
                let becomes = stages::find(&StageKind(kind.clone())).map_or(kind.as_str(), |s| s.spec().name);
                format!("{} becomes {becomes}", name(stage))
            }
            Self::Note { stage, .. } => format!("note beside {}", name(stage)),
            Self::Mark { .. } => "colour of rows".to_owned(),
            Self::Group { name, .. } if name.trim().is_empty() => "take rows out of a group".to_owned(),
            Self::Group { name, .. } => format!("group {}", name.trim()),
            Self::GoOnFrom { once: Earlier::Version(number), .. } => format!("go on from version {number}"),
            Self::GoOnFrom { once: Earlier::Still(number), .. } => format!("go on from still {number}"),
            Self::Together { commands } => match commands.as_slice() {
                [] => "nothing".to_owned(),
                [one] => one.label(setup),
                [first, rest @ ..] => format!("{} and {} more", first.label(setup), rest.len()),
            },
            Self::Move { stage, .. } => format!("move {}", name(stage)),
            Self::Switch { stage, on } => format!("{} {}", name(stage), if *on { "on" } else { "off" }),
            Self::Bake { stage, frames: Some(_) } => format!("bake {}", name(stage)),
            Self::Bake { stage, frames: None } => format!("give up the bake of {}", name(stage)),
            Self::Rename { stage, name: new } => format!("rename {} to {new}", name(stage)),
            Self::SwapEntries { stage, slot, .. } => format!("place of {slot} in {}", name(stage)),
            Self::MattesToRow { stage } => format!("mattes of {} as a row", name(stage)),
            Self::Link { stage, slot, .. } => format!("{slot} of {}", name(stage)),
            Self::AddOwn { name, .. } => format!("add {}", name.trim()),
            Self::RemoveOwn { stage, control } => format!("remove {}", control_of(stage, control)),
            Self::RenameOwn { name, .. } => format!("rename to {}", name.trim()),
            Self::Set { stage, control, .. }
            | Self::Put { stage, control, .. }
            | Self::Alter { stage, control, .. }
            | Self::PutShape { stage, control, .. } => control_of(stage, control),
            Self::Key { stage, control, .. } => format!("key {}", control_of(stage, control)),
            Self::Unkey { stage, control, .. } => format!("remove key of {}", control_of(stage, control)),
            Self::MoveKeys { picked, .. } => format!("move {}", keys_of(picked)),
            Self::MatchGrade { stage, .. } => format!("match of {}", name(stage)),
            Self::Pace { stage, .. } => format!("pace of {}", name(stage)),
            Self::ShapeKeys { picked, .. } => format!("shape {}", keys_of(picked)),
            Self::RemoveKeys { picked } => format!("remove {}", keys_of(picked)),
            Self::CopyTiming { from, .. } => format!("timing of {}", control_of(&from.stage, &from.control)),
            Self::PutTrack { track } => format!("track {}", track.name.trim()),
            Self::CutSurface { .. } => "rows and columns of a surface".to_owned(),
            Self::RemoveTrack { .. } => "remove a track".to_owned(),
            Self::FreeShape { .. } => "an outline goes with no track".to_owned(),
            Self::UseMedia { media } => format!("use {}", media.name),
            Self::ChangeMedia { media } => format!("change {}", media.name),
            Self::About { .. } => "change the shot".to_owned(),
            Self::MakeTool { name, .. } => format!("make the tool {name}"),
            Self::TakeTool { stage, tool, .. } => {
                format!("{} takes {} {}", name(stage), tool.about.name, tool.about.number)
            }
            Self::KeptAs { stage, number } => format!("keep {} as {number}", name(stage)),
            Self::PlaceTool { tool, .. } => format!("put in {}", tool.about.name),
        }
    }
}
