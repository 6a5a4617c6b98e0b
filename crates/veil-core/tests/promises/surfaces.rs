//! Surfaces that are followed, and what goes with them.

use proptest::prelude::*;
use veil_core::controls::{CarriedBy, KeyedPoints, ShapePoint};
use veil_core::setup::{Command, Edit, HandOnKeys, Setting, Setup, Stand};
use veil_core::tracks::{
    Along, Sights, SurfaceSample, Track, TrackId, TrackSample, TrackSurface, follow_surface,
};
use veil_pixels::{Cancel, Cancelled, Field, Raster, Window};

use crate::support::{PLATE, TESTED, detail, done, setup_with};

type Place = [f64; 2];

const ROWS: usize = 3;
const COLUMNS: usize = 4;

fn corners() -> Vec<Place> {
    (0..=ROWS)
        .flat_map(|row| {
            (0..=COLUMNS).map(move |column| [40.0 + 22.0 * column as f64, 30.0 + 22.0 * row as f64])
        })
        .collect()
}

fn laid(corners: Vec<Place>, by_hand: bool) -> TrackSample {
    let surface = Some(SurfaceSample { corners, likeness: vec![1.0; ROWS * COLUMNS], by_hand });
    TrackSample { at: [84.0, 63.0], scale: 1.0, turn: 0.0, likeness: 1.0, corners: None, surface }
}

/// A surface with what was found of it at frames.
fn surface(found: impl IntoIterator<Item = (i32, TrackSample)>) -> Track {
    let surface = TrackSurface { rows: ROWS, columns: COLUMNS, corners: corners(), stiffness: 0.3 };
    Track {
        at: [84.0, 63.0],
        surface: Some(surface),
        least_likeness: 0.3,
        samples: found.into_iter().collect(),
        ..Track::new(TrackId(0), "sail", PLATE, 1001)
    }
}

fn apart(a: Place, b: Place) -> f64 {
    (a[0] - b[0]).hypot(a[1] - b[1])
}

fn outline(setup: &Setup) -> KeyedPoints {
    let Some(Setting::Shapes { shapes }) = setup.setting(setup.stage(TESTED).unwrap(), "shapes") else {
        panic!("no shapes");
    };
    shapes[0].points.clone()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// An outline at the corners of a surface goes with them; what it is seen as can be put back; other rows and columns leave
    /// it where it is; and it stands where it stood once it goes with nothing.
    #[test]
    fn an_outline_goes_as_a_surface_bends(
        ways in prop::collection::vec(prop::array::uniform2(-5.0f64..5.0), (ROWS + 1) * (COLUMNS + 1)),
        since in 1001i32..1004,
    ) {
        let at = |step: i32| -> Vec<Place> {
            let share = f64::from(step);
            corners().iter().zip(&ways).map(|(at, by)| [at[0] + share * (by[0] / 2.0 + 3.0), at[1] + share * by[1] / 2.0]).collect()
        };
        let track = surface((0..4).map(|step| (1001 + step, laid(at(step), step == 0))));
        let (tracked, _) = done(&setup_with("outline", PLATE), &Command::PutTrack { track: Box::new(track) });
        let points: Vec<ShapePoint> = at(since - 1001).into_iter().map(ShapePoint::corner).collect();
        let mut drawn = KeyedPoints::still(f64::from(since), points);
        drawn.carried = Some(CarriedBy { track: TrackId(1), since: f64::from(since), along: Along::Whole });
        let shape = serde_json::json!({ "name": "one", "keys": drawn.keys, "carried": drawn.carried });
        let setting = Setting::Shapes { shapes: vec![serde_json::from_value(shape).unwrap()] };
        let (with, _) = done(&tracked, &Command::Set { stage: TESTED, control: "shapes".into(), setting: Some(setting) });
        for step in 0..4 {
            let seen = outline(&with).placed(f64::from(1001 + step), &with);
            for (point, corner) in seen.iter().zip(at(step)) {
                prop_assert!(apart(point.at, corner) < 1e-5, "{step}: {:?}, not {corner:?}", point.at);
            }
        }

        let mut pulled = outline(&with).seen(1004.0, &with);
        pulled[7].at[0] += 1.5;
        let put = Command::PutShape {
            stage: TESTED,
            control: "shapes".into(),
            shape: 0,
            points: pulled.clone(),
            stand: Stand::Seen,
            frame: 1004.0,
            keys: HandOnKeys::Key,
        };
        let (moved, _) = done(&with, &put);
        for (a, b) in outline(&moved).seen(1004.0, &moved).iter().zip(&pulled) {
            prop_assert!(apart(a.at, b.at) < 1e-4);
        }

        let cut = Command::CutSurface { track: TrackId(1), rows: ROWS * 2, columns: COLUMNS * 3 };
        let (finer, edit) = done(&with, &cut);
        for frame in [1001.0, 1002.5, 1004.0] {
            for (a, b) in outline(&finer).placed(frame, &finer).iter().zip(outline(&with).placed(frame, &with)) {
                prop_assert!(apart(a.at, b.at) < 1e-3);
            }
        }
        prop_assert_eq!(Edit::apply(&edit.backward, &finer).unwrap(), with.clone());

        let (without, _) = done(&with, &Command::RemoveTrack { track: TrackId(1) });
        for frame in [1001.0, 1002.0, 1003.0, 1004.0] {
            for (a, b) in outline(&without).placed(frame, &without).iter().zip(outline(&with).placed(frame, &with)) {
                prop_assert!(apart(a.at, b.at) < 1e-6);
            }
        }
    }
}

/// How far all of it has moved in a frame.
fn shift(frame: i32) -> Place {
    let step = f64::from(frame - 1001);
    [step * 1.7, -step * 0.6]
}

/// Shows it on its way, with something else over all of it in some frames, and some frames missing.
struct Shown {
    covered: std::ops::Range<i32>,
    missing: std::ops::Range<i32>,
    steps: usize,
}

impl Sights for Shown {
    type Error = Cancelled;

    fn seen(&mut self, frame: i32) -> Result<Option<(Field, Option<Field>)>, Cancelled> {
        let by = shift(frame);
        let covered = self.covered.contains(&frame);
        let value = |x: i32, y: i32| {
            let at = [f64::from(x) + 0.5, f64::from(y) + 0.5];
            let seen = if covered { [at[1] * 1.3 + 900.0, at[0]] } else { [at[0] - by[0], at[1] - by[1]] };
            detail(seen) as f32
        };
        let image = Raster::from_fn(Window::sized(200, 140), value);
        Ok((!self.missing.contains(&frame)).then_some((image, None)))
    }

    fn gone(&mut self) {
        self.steps += 1;
    }
}

fn off(sample: &TrackSample, frame: i32) -> f64 {
    let [right, down] = shift(frame);
    let found = &sample.surface.as_ref().unwrap().corners;
    found
        .iter()
        .zip(corners())
        .map(|(at, was)| apart(*at, [was[0] + right, was[1] + down]))
        .fold(0.0, f64::max)
}

/// It is not found where frames are missing or it is hidden, and is found again behind that; nothing else is lost.
#[test]
fn a_surface_is_found_again_behind_frames_that_are_missing_or_show_something_else() {
    let mut shown = Shown { covered: 1009..1011, missing: 1004..1006, steps: 0 };
    let frames: Vec<i32> = (1002..=1016).collect();
    let found = follow_surface(&surface([]), 1001, &frames, &mut shown, &Cancel::new()).unwrap();
    let track = surface([]).with_found(&found, |_| true);
    assert_eq!(shown.steps, frames.len());
    for frame in 1001..=1016 {
        match track.samples.get(&frame) {
            None => {
                assert!((1004..1006).contains(&frame) || (1009..1011).contains(&frame), "{frame} is lost")
            }
            Some(sample) => assert!(off(sample, frame) < 0.2, "{frame}: {} px", off(sample, frame)),
        }
    }
    let between = track.sample(1004.5).unwrap();
    assert!(apart(between.at, [84.0 + 3.5 * 1.7, 63.0 - 3.5 * 0.6]) < 0.05, "evenly over what is missing");
}

/// What was put right by hand stays as it is, the frames between two such frames are gone through from both, and what is hidden on
/// the way to one is what was found from the other.
#[test]
fn between_frames_laid_by_hand_a_surface_is_followed_from_both() {
    let right: Vec<Place> =
        corners().iter().map(|at| [at[0] + shift(1012)[0], at[1] + shift(1012)[1]]).collect();
    // Hidden right after it was laid: from there on nothing is known until the frame that was put right.
    let mut shown = Shown { covered: 1002..1005, missing: 0..0, steps: 0 };
    let far = surface([(1012, laid(right.clone(), true))]);
    let frames: Vec<i32> = (1002..=1016).collect();
    let found = follow_surface(&far, 1001, &frames, &mut shown, &Cancel::new()).unwrap();
    assert!(!found.iter().any(|(frame, _)| *frame == 1012));
    let track = far.with_found(&found, |frame| frame <= 1001);
    assert_eq!(shown.steps, 2 * 10 + 4);
    assert_eq!(track.samples[&1012].surface.as_ref().unwrap().corners, right);
    for frame in 1005..=1016 {
        let off = off(&track.samples[&frame], frame);
        assert!(off < 0.2, "{frame}: {off} px");
    }
}

#[test]
fn a_surface_that_cannot_be_is_refused_with_a_sentence() {
    let plain = setup_with("outline", PLATE);
    let put = |change: &dyn Fn(&mut Track)| {
        let mut track = surface([(1001, laid(corners(), true))]);
        change(&mut track);
        let edit = Edit::of(&Command::PutTrack { track: Box::new(track) }, &plain);
        edit.map(|_| String::new()).unwrap_or_else(|error| error.to_string())
    };
    let lattice =
        |track: &mut Track, change: &dyn Fn(&mut TrackSurface)| change(track.surface.as_mut().unwrap());
    assert_eq!(put(&|_| ()), "");
    let refused = |change: &dyn Fn(&mut Track), words: &str| {
        assert!(put(change).contains(words), "{}, not {words}", put(change));
    };
    refused(&|track| lattice(track, &|surface| surface.rows = 0), "1 to 40 rows");
    refused(
        &|track| lattice(track, &|surface| surface.corners.truncate(1)),
        "a corner of its surface for each",
    );
    refused(
        &|track| lattice(track, &|surface| surface.corners[3] = [f64::NAN, 0.0]),
        "a corner of its surface",
    );
    refused(&|track| lattice(track, &|surface| surface.stiffness = 2.0), "stiffness of 0 to 1");
    refused(&|track| track.region = Some([[0.0; 2], [1.0, 0.0], [1.0; 2], [0.0, 1.0]]), "at once");
    let (tracked, _) = done(&plain, &Command::PutTrack { track: Box::new(surface([])) });
    let cut = Edit::of(&Command::CutSurface { track: TrackId(1), rows: 41, columns: 2 }, &tracked);
    assert!(cut.unwrap_err().to_string().contains("1 to 40 rows"));
}
