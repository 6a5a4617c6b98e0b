//! What is done to each shot of the demo.

mod bell;
mod crest;
mod ember;
mod haze;
mod lantern;
mod masts;
mod porthole;
mod reflection;
mod signal_glass;

use veil_core::feed::{ControlAxis, Ease, Feed, FollowFeed, KeyShape, Keys, TrackFeed};
use veil_core::setup::{
    ColourSpace, Command, FaceplateEntry, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId,
};
use veil_core::tracks::{Track, TrackAxis, TrackId, TrackSample};
use veil_demo::{CREST, Element, Shot, ShotPlan, truth};

use super::Subject;

/// A setup, and what is done to it then.
pub(super) struct Made {
    pub(super) setup: Setup,
    pub(super) steps: Vec<Step>,
}

/// One step, before which a version is kept; no name keeps none.
pub(super) struct Step {
    pub(super) version: &'static str,
    pub(super) commands: Vec<Command>,
}

/// The rows of a shot, and what is done to them then.
struct Parts {
    rows: Vec<StageEntry>,
    steps: Vec<Step>,
}

impl Parts {
    /// Rows of which tools are made.
    fn then(rows: Vec<StageEntry>, tools: Vec<Command>) -> Self {
        Self { rows, steps: vec![Step { version: "", commands: tools }] }
    }
}

const PLATE: StageId = StageId(2);
/// A plate of another shot.
const OTHER: MediaId = MediaId(2);

pub(super) fn made(subject: Subject, plan: &ShotPlan) -> Made {
    let picture = PictureFormat {
        width: plan.width,
        height: plan.height,
        fps: 24.0,
        frames: plan.frames,
        working: Default::default(),
    };
    let mut setup = Setup::empty(plan.title, picture);
    let Parts { rows, steps } = match subject {
        Subject::Plate(shot) => {
            setup.media.push(medium(MediaId(1), plan));
            of_plate(shot, plan, &mut setup)
        }
        Subject::Element(Element::Ember) => ember::burst(),
        Subject::Element(Element::Crest) => {
            setup.media.push(Media { path: CREST.into(), frames: None, ..medium(MediaId(1), plan) });
            crest::crackle()
        }
    };
    let before_final = rows.last().map(|row| row.id);
    setup.stages.splice(0..0, rows);
    if let (Some(last), Some(from)) = (setup.stages.last_mut(), before_final) {
        *last = last.clone().taking("main", from);
    }
    Made { setup, steps }
}

fn of_plate(shot: Shot, plan: &ShotPlan, setup: &mut Setup) -> Parts {
    match shot {
        Shot::KilnYard => haze::above_the_kiln(),
        Shot::LanternBarge => {
            setup.tracks = vec![placed(1, "lantern", shot, plan), placed(2, "lantern's mirror", shot, plan)];
            lantern::glow()
        }
        Shot::Masts => {
            setup.tracks = mast_heads(plan, (1.0, [0.0; 2]));
            masts::between_the_masts()
        }
        Shot::LookOut => {
            setup.media.push(medium(OTHER, &Shot::Masts.plan()));
            setup.tracks = mast_heads(plan, masts::BEHIND);
            masts::behind_the_caretaker()
        }
        Shot::Bell => {
            setup.tracks = vec![placed(1, "bell", shot, plan)];
            bell::pressure_ring()
        }
        Shot::Float => {
            setup.media.push(medium(OTHER, &Shot::LookOut.plan()));
            setup.tracks = vec![placed(1, "float", shot, plan)];
            reflection::in_the_float()
        }
        Shot::SignalGlass => signal_glass::glitches(),
        Shot::Porthole => porthole::through_the_glass(),
    }
}

/// Both heads as they lie on a plate that is scaled and then moved.
fn mast_heads(plan: &ShotPlan, (scale, moved): (f64, [f64; 2])) -> Vec<Track> {
    let on_plate = [(1, "left mast head"), (2, "right mast head")];
    let mut tracks = on_plate.map(|(id, name)| placed(id, name, Shot::Masts, plan));
    let lies = |[x, y]: [f64; 2]| [x * scale + moved[0], y * scale + moved[1]];
    for track in &mut tracks {
        track.at = lies(track.at);
        track.samples.values_mut().for_each(|sample| sample.at = lies(sample.at));
    }
    tracks.into()
}

fn medium(id: MediaId, plan: &ShotPlan) -> Media {
    Media {
        id,
        name: plan.title.into(),
        path: plan.pattern(),
        frames: Some(plan.frames),
        colour: ColourSpace::Linear,
        content: None,
    }
}

/// A named place of a shot as a track of the plate.
fn placed(id: u32, name: &str, shot: Shot, plan: &ShotPlan) -> Track {
    let round = |value: f64| (value * 100.0).round() / 100.0;
    let at = |frame: i32| {
        let known = truth(shot, frame).places.into_iter().find(|(known, _)| *known == name);
        known.map(|(_, place)| place.map(round)).unwrap_or_default()
    };
    let sample =
        |frame: i32| TrackSample { at: at(frame), scale: 1.0, turn: 0.0, likeness: 1.0, corners: None };
    Track {
        at: at(plan.frames.first),
        samples: (plan.frames.first..=plan.frames.last).map(|frame| (frame, sample(frame))).collect(),
        ..Track::new(TrackId(id), name, PLATE, plan.frames.first)
    }
}

fn number(value: f64) -> Setting {
    Setting::number(value)
}

fn choice(id: &str) -> Setting {
    Setting::Choice(id.into())
}

fn switch(on: bool) -> Setting {
    Setting::Switch(on)
}

fn pair(x: f64, y: f64) -> Setting {
    Setting::numbers(&[x, y])
}

fn colour(values: [f64; 3]) -> Setting {
    Setting::numbers(&values)
}

/// The place of a track.
fn with(track: u32) -> Setting {
    let axis = |axis| Feed::Track(TrackFeed::new(TrackId(track), axis));
    Setting::Axes { axes: vec![axis(TrackAxis::X), axis(TrackAxis::Y)] }
}

/// How far a track has gone since a frame, and so much more.
fn gone_with(track: u32, axis: TrackAxis, since: f64, more: f64) -> Setting {
    let feed = TrackFeed::new(TrackId(track), axis);
    Setting::Feed(Feed::Track(TrackFeed { since: Some(since), offset: more.into(), ..feed }))
}

fn plate(id: StageId, name: &str, media: MediaId) -> StageEntry {
    StageEntry::new(id, "plate", name).with("media", Setting::Media { media })
}

fn shown(label: &str, stage: StageId, control: &str) -> FaceplateEntry {
    FaceplateEntry { label: label.into(), stage, control: control.into(), range: None, default: None }
}

/// Keys, all with one ease.
fn key_feed(ease: Ease, values: &[(f64, f64)]) -> Feed {
    let Some(((frame, value), rest)) = values.split_first() else { return Feed::Fixed(0.0) };
    let keys =
        rest.iter().fold(Keys::one(*frame, *value), |keys, (frame, value)| keys.with_value(*frame, *value));
    let frames: Vec<f64> = values.iter().map(|(frame, _)| *frame).collect();
    Feed::Keys(keys.shaped(&frames, KeyShape::Ease(ease)))
}

fn keys(ease: Ease, values: &[(f64, f64)]) -> Setting {
    Setting::Feed(key_feed(ease, values))
}

/// A number of a control, linked.
fn like(stage: StageId, control: &str, axis: usize) -> Feed {
    let follow = ControlAxis { stage, control: control.into(), axis };
    Feed::Follow(FollowFeed { follow, scale: 1.0, offset: Default::default() })
}

/// The place of another row.
fn follows(stage: StageId, control: &str) -> Setting {
    Setting::Axes { axes: vec![like(stage, control, 0), like(stage, control, 1)] }
}

fn tool(name: &str, rows: &[StageId], inputs: &[&str], faceplate: Vec<FaceplateEntry>) -> Command {
    Command::MakeTool {
        rows: rows.to_vec(),
        name: name.into(),
        inputs: inputs.iter().copied().map(String::from).collect(),
        faceplate,
    }
}
