//! Cameras solved from points that are found and followed in made shots, against those that they were made with.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use glam::{DMat3, DVec3};
use rayon::prelude::*;
use veil_core::camera::CameraAt;
use veil_core::colour::Working;
use veil_core::setup::{PictureFormat, StageId};
use veil_core::signal::Pixels;
use veil_core::solved::{CameraGoes, SolveTask, SolvedCamera};
use veil_core::tracks::{Following, Seen, Track, TrackId, TrackSample, image};
use veil_demo::{Shot, drawn_part, truth};
use veil_pixels::track::corners;
use veil_pixels::{Cancel, Field, Window};

/// Points that are looked for in a frame, and how far they are apart at least.
const POINTS: usize = 60;
const APART: f64 = 40.0;

fn seen(shot: Shot, frame: i32) -> Field {
    let plan = shot.plan();
    let window = Window::sized(plan.width, plan.height);
    let plate = Pixels::Picture(drawn_part(shot, frame, window).plate);
    image(&plate, Working::default(), &Cancel::new()).unwrap()
}

/// Points found in one frame and followed from there to both ends, as one does by hand.
fn followed(images: &[Field], first: i32, from: usize) -> Vec<Track> {
    let cancel = Cancel::new();
    let found = corners(&images[from], POINTS, APART, |_, _| true, &cancel).unwrap();
    let begins = first + from as i32;
    let begun = found.iter().enumerate().map(|(number, at)| {
        let name = format!("{begins}, {number}");
        Track { at: *at, ..Track::new(TrackId(1), &name, StageId(1), begins) }
    });
    let mut tracks: Vec<Track> = begun.collect();
    tracks.par_iter_mut().for_each(|track| {
        let on: Vec<usize> = (from + 1..images.len()).collect();
        let back: Vec<usize> = (0..from).rev().collect();
        let mut all = Vec::new();
        for way in [on, back] {
            let begin = Seen { image: &images[from], without: None };
            let Some(mut following) = Following::begin(track, begin, &cancel).unwrap() else { return };
            for number in way {
                let now = Seen { image: &images[number], without: None };
                all.push((first + number as i32, following.step(now, &cancel).unwrap()));
            }
        }
        *track = track.clone().with_found(&all, |_| false);
    });
    tracks
}

/// How far the camera's way is from the one it was made with at most, laid on it, as a share of that one's length.
///
/// Source: Umeyama, "Least-Squares Estimation of Transformation Parameters Between Two Point Patterns", 1991; here the turn is
/// known from the cameras' own axes.
fn way_off(solved: &SolvedCamera, truth: &[CameraAt], first: i32) -> f64 {
    let pairs: Vec<(CameraAt, CameraAt)> = solved
        .camera
        .frames
        .iter()
        .map(|frame| (frame.camera, truth[(frame.frame - first) as usize]))
        .collect();
    let axes = |at: &CameraAt| DMat3::from_cols(at.right.into(), at.up.into(), at.back.into());
    let sum = pairs.iter().fold(DMat3::ZERO, |sum, (own, truth)| sum + axes(truth) * axes(own).transpose());
    let turn = {
        // The turn nearest to a sum of turns that are nearly the same.
        let [x, y] = [sum.x_axis.normalize(), sum.y_axis.normalize()];
        let z = x.cross(y).normalize();
        DMat3::from_cols(x, z.cross(x), z)
    };
    let count = pairs.len() as f64;
    let place = |at: &CameraAt| DVec3::from(at.place);
    let middle = pairs.iter().fold([DVec3::ZERO; 2], |[own, true_one], (a, b)| {
        [own + place(a) / count, true_one + place(b) / count]
    });
    let laid: Vec<(DVec3, DVec3)> =
        pairs.iter().map(|(a, b)| (turn * (place(a) - middle[0]), place(b) - middle[1])).collect();
    let scale =
        laid.iter().map(|(a, b)| a.dot(*b)).sum::<f64>() / laid.iter().map(|(a, _)| a.dot(*a)).sum::<f64>();
    let length: f64 = truth.windows(2).map(|two| place(&two[1]).distance(place(&two[0]))).sum();
    laid.iter().map(|(a, b)| (*a * scale).distance(*b)).fold(0.0, f64::max) / length
}

/// Where each point was seen, by its name and the frame.
type Followed = BTreeMap<String, BTreeMap<i32, [f64; 2]>>;

fn file_of(shot: Shot) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/truth/followed/{}.json", shot.plan().code))
}

/// Finds and follows anew what the checks here solve cameras from: drawing the frames takes minutes.
#[test]
#[ignore = "writes files of the source tree"]
fn keep_what_is_followed() {
    for shot in [Shot::Masts, Shot::KilnYard] {
        let frames = shot.plan().frames;
        let all: Vec<i32> = (frames.first..=frames.last).collect();
        let images: Vec<Field> = all.par_iter().map(|frame| seen(shot, *frame)).collect();
        let begins = [images.len() / 2, images.len() / 8];
        let tracks = begins.iter().flat_map(|begin| followed(&images, frames.first, *begin));
        let places =
            |track: Track| track.samples.into_iter().map(|(frame, sample)| (frame, sample.at)).collect();
        let kept: Followed = tracks.map(|track| (track.name.clone(), places(track))).collect();
        std::fs::write(file_of(shot), serde_json::to_string(&kept).unwrap()).unwrap();
    }
}

fn assert_solved(shot: Shot, focal_mm: Option<f64>) {
    let plan = shot.plan();
    let frames = plan.frames;
    let kept: Followed = serde_json::from_slice(&std::fs::read(file_of(shot)).unwrap()).unwrap();
    let sample =
        |at: [f64; 2]| TrackSample { at, scale: 1.0, turn: 0.0, likeness: 1.0, corners: None, surface: None };
    let tracks = kept.into_iter().map(|(name, places)| Track {
        samples: places.into_iter().map(|(frame, at)| (frame, sample(at))).collect(),
        ..Track::new(TrackId(1), name, StageId(1), frames.first)
    });
    let tracks: Vec<Track> = tracks.collect();
    let picture = PictureFormat {
        width: plan.width,
        height: plan.height,
        fps: 24.0,
        aspect: 1.0,
        frames,
        working: Working::default(),
    };
    let task = SolveTask { goes: CameraGoes::Moves, focal_mm, sensor_width_mm: 36.0 };
    let solved = task.solve(&tracks, &picture, &Cancel::new()).unwrap();
    let known: Vec<CameraAt> = (frames.first..=frames.last).map(|frame| truth(shot, frame).camera).collect();
    let off = way_off(&solved, &known, frames.first);
    assert_eq!(solved.camera.frames.len(), frames.count());
    assert!(solved.error() < 0.5, "{}: {} px", plan.code, solved.error());
    assert!(off < 0.01, "{}: {off} of its way", plan.code);
}

#[test]
fn the_masts_camera_is_found() {
    assert_solved(Shot::Masts, Some(30.0));
}

#[test]
fn the_kiln_yards_camera_is_found() {
    assert_solved(Shot::KilnYard, Some(40.0));
}
