//! A place without what stands in front of it.

use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use serde_json::json;
use veil_core::engine::{Answer, Engine, Request};
use veil_core::figure::Figure;
use veil_core::findings::{FaultKind, find};
use veil_core::plates::{IdKind, PlateError, Plates, Role, Things};
use veil_core::setup::{
    ColourSpace, Frames, Link, Media, MediaId, PictureFormat, Setting, Setup, StageEntry, StageId,
};
use veil_core::signal::{Domain, Pixels, SignalKind, Take};
use veil_core::spec::MAIN;
use veil_core::tracks::{Track, TrackId, TrackSample};
use veil_pixels::colour::lut::Lut;
use veil_pixels::key::cryptomatte::Id;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancel, Field, Picture, Window};

use crate::support::{PLATE, TESTED, detail, done};

const SIZE: [u32; 2] = [200, 120];
const COUNT: i32 = 12;
const OUT: StageId = StageId(3);

/// How the camera looks at a frame.
type Camera = fn(i32) -> Homography;

fn still(_: i32) -> Homography {
    Homography::IDENTITY
}

/// Turned, moved, nearer and tilted.
fn swaying(frame: i32) -> Homography {
    let t = f64::from(frame - 1001) / f64::from(COUNT - 1);
    let tilt = Homography::from_rows([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [2e-4 * t, -1e-4 * t, 1.0]]);
    Homography::turn(0.05 * t)
        .then(Homography::scale(1.0 + 0.06 * t, 1.0 + 0.06 * t))
        .then(Homography::shift(9.0 * t, -6.0 * t))
        .then(tilt)
}

/// Moved by a little and no whole number of pixels.
fn drifting(frame: i32) -> Homography {
    let t = f64::from(frame - 1001);
    Homography::shift(1.3 * t, -0.7 * t)
}

/// A place that is seen by a camera, gets 5 % brighter over the shot, and has something bright in front of a third of it.
struct Covered {
    camera: Camera,
    drift: f64,
    read: AtomicUsize,
    footage: Footage,
}

/// What is the matter with its frames.
#[derive(Clone, Copy, PartialEq)]
enum Footage {
    Whole,
    /// 1005 shows 1004 once more, 1008 is not there.
    Faulty,
}

impl Covered {
    fn of(camera: Camera, drift: f64) -> Self {
        Self { camera, drift, read: AtomicUsize::new(0), footage: Footage::Whole }
    }

    fn light(&self, frame: i32) -> f64 {
        1.0 + self.drift * f64::from(frame - 1001) / f64::from(COUNT - 1)
    }

    /// What would be seen without what stands in front.
    fn place(&self, frame: i32, x: i32, y: i32) -> [f32; 4] {
        let back = (self.camera)(frame).inverse().unwrap();
        let [x, y] = back.at([f64::from(x) + 0.5, f64::from(y) + 0.5]).unwrap();
        let light = detail([x, y]) * self.light(frame);
        [light as f32, (light * 0.7) as f32, (0.3 * self.light(frame)) as f32, 1.0]
    }

    fn covers(frame: i32, x: i32) -> bool {
        let third = SIZE[0] as i32 / 3;
        (x + 40 - (frame - 1001) * 85).rem_euclid(SIZE[0] as i32) < third
    }
}

const FRAME: Window = Window::new(0, 0, SIZE[0] as i32, SIZE[1] as i32);

impl Plates for Covered {
    fn fingerprint(&self, media: &Media, frame: i32, _: &Cancel) -> Result<u64, PlateError> {
        if self.footage == Footage::Faulty && frame == 1008 {
            return Err(PlateError::File("it is not there".into()));
        }
        Ok(u64::from(media.id.0) << 32 | frame as u64)
    }

    fn domain(&self, _: &Media, _: i32, _: &Cancel) -> Result<Domain, PlateError> {
        Ok(Domain { display: FRAME, data: FRAME })
    }

    fn pass(&self, media: &Media, frame: i32, _: Role, _: &Cancel) -> Result<Pixels, PlateError> {
        if media.id == MediaId(2) {
            let cover = |x, _| [f32::from(Self::covers(frame, x)); 4];
            return Ok(Pixels::Picture(Picture::from_fn(FRAME, cover)));
        }
        if media.id == MediaId(3) {
            return Ok(Pixels::Picture(Picture::flat(FRAME, [1.0; 4])));
        }
        self.read.fetch_add(1, Ordering::Relaxed);
        let frame = if self.footage == Footage::Faulty && frame == 1005 { 1004 } else { frame };
        Ok(Pixels::Picture(Picture::from_fn(FRAME, |x, y| {
            if Self::covers(frame, x) { [1.6, 1.2, 0.4, 1.0] } else { self.place(frame, x, y) }
        })))
    }

    fn figure(&self, _: &Media) -> Result<Arc<Figure>, PlateError> {
        Err(PlateError::File("none".into()))
    }
    fn lut(&self, _: &Media) -> Result<Arc<Lut>, PlateError> {
        Err(PlateError::File("none".into()))
    }
    fn words(&self, _: &Media, _: i32) -> Result<Vec<(String, String)>, PlateError> {
        Ok(Vec::new())
    }
    fn roles(&self, _: &Media, _: i32) -> Result<Vec<Role>, PlateError> {
        Ok(Vec::new())
    }
    fn things(&self, _: &Media, _: i32, _: IdKind) -> Result<Things, PlateError> {
        Ok(Things(Vec::new()))
    }
    fn coverage(
        &self,
        _: &Media,
        _: i32,
        _: IdKind,
        _: &[Id],
        _: u32,
        _: &Cancel,
    ) -> Result<Field, PlateError> {
        Ok(Field::clear(FRAME))
    }
}

fn frames() -> Frames {
    Frames { first: 1001, last: 1000 + COUNT }
}

/// A clean plate, without what a medium covers.
fn setup(camera: Camera, without: Option<u32>, set: &[(&str, serde_json::Value)]) -> Setup {
    let picture = PictureFormat {
        width: SIZE[0],
        height: SIZE[1],
        fps: 24.0,
        aspect: 1.0,
        frames: frames(),
        working: Default::default(),
    };
    let mut setup = Setup::empty("test", picture);
    for id in 1..=3 {
        setup.media.push(Media {
            id: MediaId(id),
            name: format!("plate {id}"),
            path: format!("plate{id}.####.exr"),
            frames: Some(frames()),
            colour: ColourSpace::Linear,
            content: None,
        });
    }
    let plate = |id, media| {
        StageEntry::new(id, "plate", format!("Plate {media}"))
            .with("media", Setting::Media { media: MediaId(media) })
    };
    let mut tested = StageEntry::new(TESTED, "clean_plate", "Tested").taking(MAIN, PLATE);
    if without.is_some() {
        let link = Link { take: Some(Take::Red), ..Link::stage(OUT) };
        tested.links.insert("left_out".into(), link);
    }
    let corners = [[30.0, 20.0], [170.0, 25.0], [165.0, 100.0], [25.0, 95.0]];
    for (number, corner) in corners.into_iter().enumerate() {
        let axis = |axis: usize| {
            let key =
                |frame: i32| json!({ "frame": frame, "value": camera(frame).at(corner).unwrap()[axis] });
            json!({ "keys": (1001..=1000 + COUNT).map(key).collect::<Vec<_>>() })
        };
        let keyed = serde_json::from_value(json!({ "axes": [axis(0), axis(1)] })).unwrap();
        tested.controls.insert(format!("place_{}", number + 1), keyed);
    }
    for (control, value) in set {
        tested.controls.insert((*control).into(), serde_json::from_value(value.clone()).unwrap());
    }
    let at = setup.stages.len() - 1;
    setup.stages.splice(at..at, [plate(PLATE, 1), plate(OUT, without.unwrap_or(2)), tested]);
    setup.check().unwrap();
    setup
}

fn ask(engine: &Engine, plates: &Covered, setup: &Setup, frame: f64) -> (Picture, Answer) {
    let answer = engine.answer(setup, plates, Request::whole(TESTED, frame), &Cancel::new()).unwrap();
    match answer.signal.over(answer.window) {
        Pixels::Picture(picture) => (picture, answer),
        other => panic!("a clean plate is a picture, not {:?}", other.kind()),
    }
}

/// How far a window's pixels that are seen are off in the mean, and the share of them.
fn off(made: &Picture, window: Window, wanted: impl Fn(i32, i32) -> [f32; 4]) -> [f32; 2] {
    let (mut sum, mut count) = (0.0, 0.0);
    for y in window.rows() {
        for x in window.x0..window.x1 {
            let (own, wanted) = (made.get(x, y).unwrap(), wanted(x, y));
            if own[3] > 0.99 {
                sum += (0..3).map(|at| (own[at] - wanted[at]).abs()).sum::<f32>() / 3.0;
                count += 1.0;
            }
        }
    }
    [sum / count, count / window.area() as f32]
}

/// The bar: where it was seen off by no more than 0.01 in the mean, though a third is covered at any time, the camera moves and the
/// light drifts by 5 %; a still as the plate lies at a frame, and one that goes with the plate and is as bright.
#[test]
fn a_place_that_is_covered_by_a_third_is_found() {
    let plates = Covered::of(swaying, 0.05);
    let engine = Engine::new(1 << 30);
    // What few frames see may be covered in half of them, which only a matte tells.
    for (without, within) in [(Some(2), FRAME), (None, FRAME.grow(-20, -20))] {
        let goes = setup(swaying, without, &[("align", json!("four"))]);
        for frame in [1001, 1006, 1012] {
            let (made, _) = ask(&engine, &plates, &goes, f64::from(frame));
            let [mean, seen] = off(&made, within, |x, y| plates.place(frame, x, y));
            assert!(mean < 0.01 && seen > 0.85, "{without:?} at {frame}: {mean} of {seen}");
        }
        let stays = setup(
            swaying,
            without,
            &[
                ("align", json!("four")),
                ("goes", json!(false)),
                ("lies", json!("number")),
                ("like", json!(1006)),
            ],
        );
        let (made, _) = ask(&engine, &plates, &stays, 1010.0);
        let [mean, seen] = off(&made, within, |x, y| plates.place(1006, x, y));
        assert!(mean < 0.01 && seen > 0.85, "{without:?} still: {mean} of {seen}");
    }
}

/// Along the flow, with what is in front left out: nothing says how the camera moves.
#[test]
fn the_flow_lays_frames_over_each_other() {
    let within = FRAME;
    let plates = Covered::of(drifting, 0.0);
    let setup = setup(drifting, Some(2), &[("align", json!("flow"))]);
    let (made, _) = ask(&Engine::new(1 << 30), &plates, &setup, 1006.0);
    let [mean, seen] = off(&made, within, |x, y| plates.place(1006, x, y));
    assert!(mean < 0.02 && seen > 0.95, "{mean} of {seen}");
}

/// The nearest frame that sees a place: where this one does it is this one, bit for bit but for half floats.
#[test]
fn the_nearest_is_the_plate_itself_where_that_is_seen() {
    let within = FRAME;
    let plates = Covered::of(still, 0.0);
    let set = [
        ("seen", json!("nearest")),
        ("lies", json!("number")),
        ("like", json!(1004)),
        ("even", json!(false)),
    ];
    let (made, _) = ask(&Engine::new(1 << 30), &plates, &setup(still, Some(2), &set), 1009.0);
    let [mean, seen] = off(&made, within, |x, y| plates.place(1004, x, y));
    assert!(mean < 1e-3 && seen == 1.0, "{mean} of {seen}");
}

/// However many frames are looked at, each frame of the plate is read once.
#[test]
fn it_is_worked_out_once_for_all_frames() {
    for (camera, align) in [(still as Camera, "still"), (swaying, "four")] {
        let plates = Covered::of(camera, 0.02);
        let engine = Engine::new(1 << 30);
        let setup = setup(camera, Some(2), &[("align", json!(align))]);
        for frame in [1001.0, 1003.0, 1008.0, 1012.0] {
            ask(&engine, &plates, &setup, frame);
        }
        assert_eq!(plates.read.load(Ordering::Relaxed), COUNT as usize, "{align}");
    }
}

/// Nothing is seen at any frame: nothing is there, and nothing is made up; filled it stays nothing.
#[test]
fn what_is_covered_at_all_frames_is_a_hole() {
    let plates = Covered::of(still, 0.0);
    for holes in ["left", "smooth", "patches"] {
        let setup = setup(still, Some(3), &[("holes", json!(holes))]);
        let (made, _) = ask(&Engine::new(1 << 30), &plates, &setup, 1004.0);
        assert!(made.pixels().iter().all(|pixel| *pixel == [0.0; 4]), "{holes}");
    }
}

#[test]
fn nothing_plugged_in_gives_nothing() {
    let plates = Covered::of(still, 0.0);
    for takes in ["median", "nearest"] {
        let mut setup = setup(still, Some(2), &[("seen", json!(takes))]);
        setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap().links.remove(MAIN);
        let (made, _) = ask(&Engine::new(1 << 30), &plates, &setup, 1004.0);
        assert!(made.pixels().iter().all(|pixel| *pixel == [0.0; 4]), "{takes}");
    }
}

#[test]
fn one_frame_alone_is_told() {
    let plates = Covered::of(still, 0.0);
    let setup = setup(still, None, &[("most", json!(1)), ("over", json!("shot"))]);
    let (made, answer) = ask(&Engine::new(1 << 30), &plates, &setup, 1004.0);
    assert!(answer.faults.iter().any(|fault| fault.stage == TESTED && fault.message.contains("one frame")));
    assert_eq!(made.get(150, 60).unwrap()[3], 1.0);
}

/// What is told of holes names a frame and how much it is, and its mend fills them.
#[test]
fn holes_that_are_left_are_told_and_filled() {
    let plates = Covered::of(still, 0.0);
    let mut setup = setup(still, Some(2), &[("most", json!(1))]);
    let found = |setup: &Setup| {
        let all = find(&Engine::new(1 << 30), setup, &plates, &Cancel::new()).unwrap();
        all.into_iter().find(|one| one.stage == TESTED && one.fault == FaultKind::HolesLeft)
    };
    let told = found(&setup).unwrap();
    assert!(told.message.contains("frame 1001"), "{}", told.message);
    let (mended, _) = done(&setup, &told.mend.unwrap().command);
    assert!(found(&mended).is_none());
    setup
        .stages
        .iter_mut()
        .find(|row| row.id == TESTED)
        .unwrap()
        .controls
        .insert("most".into(), Setting::number(24.0));
    assert!(found(&setup).is_none());
}

/// What is laid by a track that ends early is told by its name and where it ends.
#[test]
fn a_track_that_ends_early_is_told() {
    let plates = Covered::of(still, 0.0);
    let told = |last: i32, set: &[(&str, serde_json::Value)]| {
        let mut setup = setup(still, None, set);
        let sample = TrackSample {
            at: [30.0, 20.0],
            scale: 1.0,
            turn: 0.0,
            likeness: 1.0,
            corners: None,
            surface: None,
        };
        let samples = (1001..=last).map(|frame| (frame, sample.clone())).collect();
        setup.tracks.push(Track { samples, ..Track::new(TrackId(1), "corner", PLATE, 1001) });
        let axis = |axis: &str| json!({ "track": 1, "axis": axis });
        let place = serde_json::from_value(json!({ "axes": [axis("x"), axis("y")] })).unwrap();
        let row = setup.stages.iter_mut().find(|row| row.id == TESTED).unwrap();
        row.controls.insert("place_1".into(), place);
        setup.check().unwrap();
        let all = find(&Engine::new(1 << 30), &setup, &plates, &Cancel::new()).unwrap();
        all.into_iter().find(|one| one.fault == FaultKind::TrackEnds).map(|one| one.message)
    };
    let by_four = ("align", json!("four"));
    let message = told(1005, std::slice::from_ref(&by_four)).unwrap();
    assert!(message.contains("`corner`") && message.contains("1001 to 1005"), "{message}");
    assert_eq!(told(1000 + COUNT, std::slice::from_ref(&by_four)), None);
    // Nor where no place counts, nor of frames that are not looked at.
    assert_eq!(told(1005, &[]), None);
    assert_eq!(told(1005, &[by_four, ("over", json!("some")), ("last", json!(1005))]), None);
}

/// Frames that are missing or held are told by number, and nothing is told of footage that is whole.
#[test]
fn frames_that_are_missing_or_held_are_told() {
    let told = |footage: Footage, fault: FaultKind| {
        let plates = Covered { footage, ..Covered::of(swaying, 0.05) };
        let setup = setup(swaying, None, &[]);
        let all = find(&Engine::new(1 << 30), &setup, &plates, &Cancel::new()).unwrap();
        all.into_iter().find(|one| one.stage == PLATE && one.fault == fault).map(|one| one.message)
    };
    for (fault, frame) in [(FaultKind::FramesMissing, "1008"), (FaultKind::FramesHeld, "1005")] {
        let message = told(Footage::Faulty, fault).unwrap();
        assert!(message.contains(frame), "{message}");
        assert_eq!(told(Footage::Whole, fault), None);
    }
}

/// A still gives itself away by its grain, until grain is laid on.
#[test]
fn grain_that_stands_still_is_told_and_laid_on() {
    let plates = Covered::of(still, 0.0);
    let mut setup = setup(still, None, &[]);
    let last = setup.final_id().unwrap();
    let row = setup.stages.iter_mut().find(|row| row.id == last).unwrap();
    row.links.insert(MAIN.into(), Link::stage(TESTED));
    let told = |setup: &Setup| {
        let all = find(&Engine::new(1 << 30), setup, &plates, &Cancel::new()).unwrap();
        all.into_iter().find(|one| one.fault == FaultKind::GrainStill)
    };
    let (mended, edit) = done(&setup, &told(&setup).unwrap().mend.unwrap().command);
    let grain = edit.row.unwrap();
    assert_eq!(mended.stage(last).unwrap().links[MAIN], Link::stage(grain));
    assert!(told(&mended).is_none());
}

/// A hole is filled, and nothing else is touched: by a field, and by what is transparent.
#[test]
fn a_hole_is_filled_and_what_is_about_it_stays() {
    let plates = Covered::of(still, 0.0);
    for (by, with) in [("hole", "smooth"), ("hole", "patches"), ("alpha", "smooth"), ("alpha", "patches")] {
        let mut setup = setup(still, Some(2), &[("most", json!(1))]);
        let (row, from) = if by == "hole" { (StageId(40), PLATE) } else { (StageId(40), TESTED) };
        let mut fill = StageEntry::new(row, "fill_hole", "Fill")
            .taking(MAIN, from)
            .with("with", Setting::Choice(with.into()));
        if by == "hole" {
            fill.links.insert("hole".into(), Link { take: Some(Take::Red), ..Link::stage(OUT) });
        }
        let at = setup.stages.len() - 1;
        setup.stages.insert(at, fill);
        setup.check().unwrap();
        let answer = Engine::new(1 << 30)
            .answer(&setup, &plates, Request::whole(row, 1001.0), &Cancel::new())
            .unwrap();
        let Pixels::Picture(made) = answer.signal.over(answer.window) else {
            panic!("no {:?}", SignalKind::Picture)
        };
        for (x, y) in [(40, 10), (100, 60), (150, 119)] {
            assert!(!Covered::covers(1001, x));
            let wanted = plates.place(1001, x, y);
            let own = made.get(x, y).unwrap();
            assert!((0..4).all(|at| (own[at] - wanted[at]).abs() < 1e-3), "{by} {with}: {own:?}");
        }
        let filled = made.get(5, 60).unwrap();
        assert!(Covered::covers(1001, 5) && filled[3] == 1.0 && filled[0] < 1.1, "{by} {with}: {filled:?}");
    }
}
