//! What is done to each shot of the demo.

use veil_core::feed::{Feed, JitterFeed, JitterForm, Span, TrackFeed};
use veil_core::setup::{
    ColourSpace, Command, FaceplateEntry, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId,
};
use veil_core::tracks::{Track, TrackAxis, TrackId, TrackSample};
use veil_demo::{Shot, ShotPlan, truth};

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

const PLATE: StageId = StageId(2);
/// A plate of another shot.
const OTHER: MediaId = MediaId(2);

pub(super) fn made(shot: Shot, plan: &ShotPlan) -> Made {
    let picture = PictureFormat {
        width: plan.width,
        height: plan.height,
        fps: 24.0,
        frames: plan.frames,
        working: Default::default(),
    };
    let mut setup = Setup::empty(plan.title, picture);
    setup.media.push(medium(MediaId(1), plan));
    let (rows, steps) = match shot {
        Shot::KilnYard => (haze(), Vec::new()),
        Shot::LanternBarge => {
            setup.tracks = vec![placed(1, "lantern", shot, plan), placed(2, "lantern's mirror", shot, plan)];
            lantern_glow()
        }
        Shot::LookOut => {
            setup.media.push(medium(OTHER, &Shot::LanternBarge.plan()));
            keyed()
        }
        Shot::Float => {
            setup.media.push(medium(OTHER, &Shot::LookOut.plan()));
            setup.tracks = vec![placed(1, "float", shot, plan)];
            reflection()
        }
    };
    let before_final = rows.last().map(|row| row.id);
    setup.stages.splice(0..0, rows);
    if let (Some(last), Some(from)) = (setup.stages.last_mut(), before_final) {
        *last = last.clone().taking("main", from);
    }
    Made { setup, steps }
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

/// A gentle glow that goes with the lantern, and one with its mirror on the water; it trembles as a flame does.
fn lantern_glow() -> (Vec<StageEntry>, Vec<Step>) {
    let (lantern, glow, mirror, wide) = (StageId(3), StageId(4), StageId(5), StageId(6));
    let number = Setting::number;
    let flame = |low: f64, high: f64| {
        Setting::Feed(Feed::Jitter(JitterFeed {
            jitter: JitterForm::Smooth,
            every: 3.0,
            span: Span { low, high },
            seed: 20,
            offset: Default::default(),
        }))
    };
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(lantern, "ellipse", "lantern")
            .with("centre", with(1))
            .with("radii", pair(22.0, 22.0))
            .with("softness", number(14.0)),
        StageEntry::new(glow, "glow", "lantern's glow")
            .taking("main", PLATE)
            .taking("source", lantern)
            .with("threshold", number(0.9))
            .with("size", number(30.0))
            .with("strength", flame(0.6, 0.95))
            .with("tint", colour([1.0, 0.72, 0.42])),
        StageEntry::new(mirror, "ellipse", "mirror")
            .with("centre", with(2))
            .with("radii", pair(30.0, 70.0))
            .with("softness", number(50.0)),
        StageEntry::new(wide, "glow", "glow on the water")
            .taking("main", glow)
            .taking("source", mirror)
            .with("threshold", number(0.35))
            .with("size", number(22.0))
            .with("strength", flame(0.7, 1.1))
            .with("tint", colour([1.0, 0.7, 0.4])),
    ];
    let make = Command::MakeTool {
        rows: vec![lantern, glow, mirror, wide],
        name: "tracked lantern glow".into(),
        inputs: vec!["picture".into()],
        faceplate: vec![
            shown("lantern", lantern, "centre"),
            shown("mirror", mirror, "centre"),
            shown("size", glow, "size"),
            shown("strength", glow, "strength"),
            shown("tint", glow, "tint"),
            shown("size on the water", wide, "size"),
            shown("strength on the water", wide, "strength"),
        ],
    };
    (rows, vec![Step { version: "", commands: vec![make] }])
}

/// The caretaker taken off the green sheet and laid over the sea.
fn keyed() -> (Vec<StageEntry>, Vec<Step>) {
    let (sea, far, key, over) = (StageId(3), StageId(4), StageId(5), StageId(6));
    let number = Setting::number;
    let rows = vec![
        plate(sea, "sea", OTHER),
        StageEntry::new(far, "blur", "out of focus")
            .taking("main", sea)
            .with("size_x", number(2.5))
            .with("size_y", number(2.5)),
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(key, "screen_key", "caretaker")
            .taking("main", PLATE)
            .taking("background", far)
            .with("colour", colour([0.066, 0.46, 0.095]))
            // The sheet has deep folds, which would be seen against the sky.
            .with("clean", number(0.2))
            .with("toward", Setting::Choice("background".into())),
        StageEntry::new(over, "blend", "over the sea").taking("main", far).taking("layer", key),
    ];
    let make = Command::MakeTool {
        rows: vec![key, over],
        name: "figure before a screen".into(),
        inputs: Vec::new(),
        faceplate: vec![
            shown("screen colour", key, "colour"),
            shown("clean up", key, "clean"),
            shown("edge offset", key, "offset"),
            shown("edge blur", key, "blur"),
            shown("despill", key, "despill"),
        ],
    };
    (rows, vec![Step { version: "", commands: vec![make] }])
}

/// The caretaker, small, mirrored in the float. At first the figure's picture ends within the float; then it is larger and
/// lower, and ends outside.
fn reflection() -> (Vec<StageEntry>, Vec<Step>) {
    let (figure, key, place) = (StageId(3), StageId(4), StageId(5));
    let (soft, shape, mirrored, lit) = (StageId(6), StageId(7), StageId(8), StageId(9));
    let number = Setting::number;
    let since = 1001.0;
    let rows = vec![
        plate(PLATE, "Plate", MediaId(1)),
        plate(figure, "figure", OTHER),
        StageEntry::new(key, "screen_key", "caretaker")
            .taking("main", figure)
            .with("colour", colour([0.066, 0.46, 0.095]))
            .with("clean", number(0.2)),
        StageEntry::new(lit, "grade", "lit by the lamp").taking("main", key).with("exposure", number(2.6)),
        StageEntry::new(place, "transform", "in the float")
            .taking("main", lit)
            .with("pivot", pair(445.0, 300.0))
            .with("move_x", gone_with(1, TrackAxis::X, since, 24.0))
            .with("move_y", gone_with(1, TrackAxis::Y, since, -24.0))
            .with("scale_x", number(0.34))
            .with("scale_y", number(0.34)),
        StageEntry::new(soft, "blur", "soft")
            .taking("main", place)
            .with("size_x", number(1.5))
            .with("size_y", number(1.5)),
        StageEntry::new(shape, "ellipse", "float")
            .with("centre", with(1))
            .with("radii", pair(96.0, 96.0))
            .with("softness", number(34.0)),
        StageEntry::new(mirrored, "blend", "mirrored")
            .taking("main", PLATE)
            .taking("layer", soft)
            .taking("layer_matte", shape)
            .with("layer_mode", Setting::Choice("screen".into()))
            .with("layer_opacity", number(0.2)),
    ];
    let set = |control: &str, setting: Setting| Command::Set {
        stage: place,
        control: control.into(),
        setting: Some(setting),
    };
    let cure = vec![
        set("scale_x", number(0.52)),
        set("scale_y", number(0.52)),
        set("move_y", gone_with(1, TrackAxis::Y, since, 4.0)),
    ];
    let make = Command::MakeTool {
        rows: vec![key, lit, place, soft, shape, mirrored],
        name: "reflection inside a moving shape".into(),
        inputs: vec!["figure before a screen".into(), "picture".into()],
        faceplate: vec![
            shown("shape", shape, "centre"),
            shown("size of the shape", shape, "radii"),
            shown("soft edge", shape, "softness"),
            shown("figure, right", place, "move_x"),
            shown("figure, down", place, "move_y"),
            shown("width", place, "scale_x"),
            shown("height", place, "scale_y"),
            shown("brightness", lit, "exposure"),
            shown("strength", mirrored, "layer_opacity"),
        ],
    };
    (
        rows,
        vec![
            Step { version: "the figure's edge shows", commands: cure },
            Step { version: "", commands: vec![make] },
        ],
    )
}

/// Bent air over the kiln: how steeply a churning noise rises, raised until the eye can see it, within a soft
/// matte of kiln and chimney and an ellipse above the mouth.
fn haze() -> Vec<StageEntry> {
    let (noise, steep, strong) = (StageId(3), StageId(4), StageId(5));
    let (picked, shape, over) = (StageId(6), StageId(7), StageId(8));
    let number = Setting::number;
    let names = ["kiln", "chimney"].map(String::from).to_vec();
    vec![
        plate(PLATE, "Plate", MediaId(1)),
        StageEntry::new(noise, "noise", "Noise")
            .with("size", pair(46.0, 34.0))
            .with("churn", number(0.09))
            .with("octaves", number(3.0)),
        StageEntry::new(steep, "steepness_map", "Steepness map").taking("main", noise),
        StageEntry::new(strong, "strength", "Strength")
            .taking("main", steep)
            .with("x", number(60.0))
            .with("y", number(45.0)),
        StageEntry::new(picked, "id_pick", "ID pick")
            .with("media", Setting::Media { media: MediaId(1) })
            .with("names", Setting::Names(names)),
        StageEntry::new(shape, "ellipse", "Ellipse")
            .taking("matte", picked)
            .with("matte_soften", number(16.0))
            .with("centre", pair(620.0, 300.0))
            .with("radii", pair(200.0, 330.0))
            .with("softness", number(160.0)),
        StageEntry::new(over, "displace", "Displace")
            .taking("main", PLATE)
            .taking("map", strong)
            .taking("matte", shape)
            .with("strength_x", number(2.0))
            .with("strength_y", number(2.0))
            .with("softness", number(0.3)),
    ]
}
