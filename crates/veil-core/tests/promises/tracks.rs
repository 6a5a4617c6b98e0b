//! Tracks in a setup, and what goes with them.

use proptest::prelude::*;
use veil_core::controls::{CarriedBy, Drawn, ShapePoint};
use veil_core::feed::{ControlAxis, Feed, Keys, Offset, Others, TrackFeed};
use veil_core::setup::{Command, Edit, Setting, Setup, StageId};
use veil_core::tracks::{
    Along, Following, Seen, Track, TrackAxis, TrackId, TrackMotion, TrackSample, middle_of,
};
use veil_pixels::{Cancel, Field, Raster, Window};

use crate::support::{PLATE, SHAPE, TESTED, detail, done, setup_with};

fn track() -> Track {
    let sample = |step: i32| TrackSample {
        at: [40.0 + f64::from(step) * 3.0, 30.0 - f64::from(step * step) * 0.5],
        scale: 1.0 + f64::from(step) * 0.1,
        turn: f64::from(step) * -4.0,
        likeness: 0.9,
        corners: None,
        surface: None,
    };
    Track {
        at: [40.0, 30.0],
        motion: TrackMotion::Similarity,
        samples: (0..10).filter(|step| *step != 5).map(|step| (1001 + step, sample(step))).collect(),
        ..Track::new(TrackId(0), "lantern", PLATE, 1001)
    }
}

fn set(setup: &Setup, stage: StageId, control: &str, setting: Setting) -> Setup {
    done(setup, &Command::Set { stage, control: control.into(), setting: Some(setting) }).0
}

/// An ellipse that goes with a track stays as it is at the frame it was attached at, goes by as much as the track, and
/// keeps its values when the track goes; every step can be taken back.
#[test]
fn what_goes_with_a_track_goes_by_as_much_and_keeps_its_values_when_that_goes() {
    let plain = setup_with("ellipse", PLATE);
    let (tracked, put) = done(&plain, &Command::PutTrack { track: Box::new(track()) });
    assert_eq!((tracked.tracks[0].id, Edit::apply(&put.backward, &tracked).unwrap()), (TrackId(1), plain));

    // The page sends a track back with what was found of it.
    let sent = Command::PutTrack { track: Box::new(track()) };
    assert_eq!(Command::from_json(&sent.to_json().unwrap()).unwrap(), sent);

    let feed = |axis, times, offset: f64| {
        let plain = TrackFeed::new(TrackId(1), axis);
        Feed::Track(TrackFeed { since: Some(1003.0), times, offset: Offset::Fixed(offset), ..plain })
    };
    let centre = Setting::Axes { axes: vec![feed(TrackAxis::X, 1.0, 50.0), feed(TrackAxis::Y, 1.0, 20.0)] };
    let with = set(&tracked, SHAPE, "centre", centre);
    let with = set(&with, SHAPE, "softness", Setting::Feed(feed(TrackAxis::Scale, 12.0, 0.0)));
    let with = set(&with, SHAPE, "angle", Setting::Feed(feed(TrackAxis::Turn, 1.0, 5.0)));
    let numbers = |setup: &Setup, frame: f64| {
        let of = |control: &str, axis| ControlAxis { stage: SHAPE, control: control.into(), axis };
        let all = [of("centre", 0), of("centre", 1), of("softness", 0), of("angle", 0)];
        all.map(|of| setup.number(&of, setup.moment(frame)).unwrap())
    };
    let near = |a: [f64; 4], b: [f64; 4]| a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-9);
    assert!(near(numbers(&with, 1003.0), [50.0, 20.0, 12.0, 5.0]), "{:?}", numbers(&with, 1003.0));
    // Two frames on: by 6 right, by (16 - 4) / 2 up, grown from 1.2 to 1.4, turned by -8.
    assert!(near(numbers(&with, 1005.0), [56.0, 14.0, 14.0, -3.0]), "{:?}", numbers(&with, 1005.0));

    let (without, gone) = done(&with, &Command::RemoveTrack { track: TrackId(1) });
    assert!(without.tracks.is_empty());
    for frame in (1001..=1010).filter(|frame| *frame != 1006) {
        let frame = f64::from(frame);
        assert!(near(numbers(&without, frame), numbers(&with, frame)), "at {frame}");
    }
    assert_eq!(Edit::apply(&gone.backward, &without).unwrap(), with);
    assert!(Edit::of(&Command::RemoveTrack { track: TrackId(1) }, &without).is_err());
    let nameless = Command::PutTrack { track: Box::new(Track { name: " ".into(), ..track() }) };
    assert!(Edit::of(&nameless, &without).unwrap_err().to_string().contains("wants a name"));
}

/// A region whose corners go ways of their own, as a plane in space does.
fn region(moves: &[[f64; 2]]) -> Track {
    let corners = [[20.0, 12.0], [70.0, 14.0], [66.0, 52.0], [24.0, 50.0]];
    let at = |step: usize| {
        let mut moved = corners;
        for (number, corner) in moved.iter_mut().enumerate() {
            let by = moves[number];
            *corner = [0, 1].map(|axis| corner[axis] + by[axis] * step as f64 + step as f64 * 1.5);
        }
        TrackSample {
            at: veil_core::tracks::middle_of(moved),
            scale: 1.0 + step as f64 * 0.03,
            turn: step as f64 * 2.0,
            likeness: 0.9,
            corners: Some(moved),
            surface: None,
        }
    };
    Track {
        at: veil_core::tracks::middle_of(corners),
        region: Some(corners),
        motion: TrackMotion::Perspective,
        samples: (0..8).map(|step| (1001 + step as i32, at(step))).collect(),
        ..Track::new(TrackId(0), "wall", PLATE, 1001)
    }
}

fn drawn(points: &[[f64; 2]]) -> Drawn {
    let point = |at: &[f64; 2]| ShapePoint { at: *at, before: [0.0; 2], after: [3.0, 1.0], soft: 2.0 };
    serde_json::from_value(serde_json::json!({
        "name": "one",
        "keys": [{ "frame": 1001.0, "points": points.iter().map(point).collect::<Vec<_>>() }],
    }))
    .unwrap()
}

proptest! {
    /// Whatever an outline goes with, and from whichever frame on: it stands as it was drawn at that frame, its points go
    /// where the region carries them, and it stays where it stood at every frame once it goes with nothing.
    #[test]
    fn an_outline_that_goes_with_a_track_stands_where_it_stood_when_that_ends(
        moves in prop::collection::vec([-1.2f64..1.2, -1.2f64..1.2], 4),
        since in 1001i32..1008,
        along in prop::sample::select(vec![Along::Place, Along::Size, Along::Turn, Along::Whole]),
    ) {
        let plain = setup_with("outline", PLATE);
        let (tracked, _) = done(&plain, &Command::PutTrack { track: Box::new(region(&moves)) });
        let track = &tracked.tracks[0];
        let corners = track.samples[&since].corners.unwrap();
        let mut shape = drawn(&corners);
        shape.points.carried = Some(CarriedBy { track: track.id, since: f64::from(since), along });
        let with = set(&tracked, TESTED, "shapes", Setting::Shapes { shapes: vec![shape.clone()] });
        let stands = |setup: &Setup, frame: i32| {
            let Some(Setting::Shapes { shapes }) = setup.setting(setup.stage(TESTED).unwrap(), "shapes") else {
                panic!("no shapes");
            };
            shapes[0].points.placed(f64::from(frame), setup)
        };
        for (point, corner) in stands(&with, since).iter().zip(&corners) {
            prop_assert!(apart(point.at, *corner) < 1e-6);
        }
        if along == Along::Whole {
            for (frame, sample) in &track.samples {
                for (point, corner) in stands(&with, *frame).iter().zip(sample.corners.unwrap()) {
                    prop_assert!(apart(point.at, corner) < 1e-6, "{frame}: {:?}, not {corner:?}", point.at);
                }
            }
        }
        let ends = [
            Command::FreeShape { stage: TESTED, control: "shapes".into(), shape: 0 },
            Command::RemoveTrack { track: track.id },
        ];
        for end in ends {
            let (without, gone) = done(&with, &end);
            for frame in 1001..=1008 {
                for (a, b) in stands(&without, frame).iter().zip(stands(&with, frame)) {
                    prop_assert!(apart(a.at, b.at) < 1e-6 && apart(a.after, b.after) < 1e-6);
                    prop_assert!((a.soft - b.soft).abs() < 1e-6);
                }
            }
            prop_assert_eq!(Edit::apply(&gone.backward, &without).unwrap(), with.clone());
        }
    }
}

fn apart(a: [f64; 2], b: [f64; 2]) -> f64 {
    (a[0] - b[0]).hypot(a[1] - b[1])
}

/// A frame that is wrong is mended by hand: with keys on the offset a drag sets a key there and leaves the others.
#[test]
fn a_frame_of_a_track_is_mended_by_a_key_on_the_offset() {
    let (tracked, _) = done(&setup_with("ellipse", PLATE), &Command::PutTrack { track: Box::new(track()) });
    let keys = Keys::one(1003.0, 0.0).with_value(1005.0, 0.0);
    let offset = Offset::Keys(keys);
    let feed = |axis| Feed::Track(TrackFeed { offset: offset.clone(), ..TrackFeed::new(TrackId(1), axis) });
    let centre = Setting::Axes { axes: vec![feed(TrackAxis::X), feed(TrackAxis::Y)] };
    let with = set(&tracked, SHAPE, "centre", centre);
    let x = |setup: &Setup, frame: f64| {
        let of = ControlAxis { stage: SHAPE, control: "centre".into(), axis: 0 };
        setup.number(&of, setup.moment(frame)).unwrap()
    };
    let command = Command::Put {
        stage: SHAPE,
        control: "centre".into(),
        values: vec![Some(60.0), None],
        frame: 1004.0,
        keys: Default::default(),
    };
    let (mended, _) = done(&with, &command);
    assert!((x(&mended, 1004.0) - 60.0).abs() < 1e-9);
    for frame in [1001.0, 1003.0, 1005.0, 1009.0] {
        assert!((x(&mended, frame) - x(&with, frame)).abs() < 1e-9, "at {frame}");
    }
}

/// A frame mended by hand is a key on what is added to the track: it is moved, and taken away again, as any key is, and
/// the control goes on with the track.
#[test]
fn keys_that_mend_a_track_are_changed_as_keys_are() {
    let (tracked, _) = done(&setup_with("ellipse", PLATE), &Command::PutTrack { track: Box::new(track()) });
    let plain = TrackFeed::new(TrackId(1), TrackAxis::X);
    let mend = Offset::Keys(Keys::one(1003.0, 0.0).with_value(1006.0, 4.0).with_value(1008.0, 0.0));
    let feeds = [Feed::Track(TrackFeed { offset: mend, ..plain.clone() }), Feed::Fixed(20.0)];
    let with = set(&tracked, SHAPE, "centre", Setting::Axes { axes: feeds.into() });
    let of = ControlAxis { stage: SHAPE, control: "centre".into(), axis: 0 };
    let at = |setup: &Setup, frame: f64| setup.number(&of, setup.moment(frame)).unwrap();
    let track_at = |frame: f64| 40.0 + (frame - 1001.0) * 3.0;
    assert_eq!(at(&with, 1006.0), track_at(1006.0) + 4.0);
    let picked = |frames: &[f64]| serde_json::json!({ "of": { "stage": SHAPE, "control": "centre" }, "frames": frames });
    let command = |json| serde_json::from_value::<Command>(json).unwrap();
    let by = serde_json::json!({ "later": 1.0, "higher": 2.0, "snap": true });
    let moved = serde_json::json!({ "do": "move_keys", "picked": [picked(&[1006.0])], "by": by });
    let (moved, edit) = done(&with, &command(moved));
    assert_eq!(at(&moved, 1007.0), track_at(1007.0) + 6.0);
    assert_eq!(Edit::apply(&edit.backward, &moved).unwrap(), with);
    let remove = |frames| command(serde_json::json!({ "do": "remove_keys", "picked": [picked(frames)] }));
    let (less, _) = done(&with, &remove(&[1006.0]));
    assert_eq!(at(&less, 1006.0), track_at(1006.0));
    let (none, _) = done(&with, &remove(&[1006.0, 1003.0, 1008.0]));
    let Feed::Track(feed) = &none.stage(SHAPE).unwrap().controls["centre"].feeds()[0] else {
        panic!("a track")
    };
    assert_eq!(feed.offset, Offset::Fixed(4.0));
}

/// More than half of a region is passed by something with a way of its own: with that left out by a matte the region is
/// followed, and without the matte it is not, so that the matte is what does it.
#[test]
fn what_a_matte_leaves_out_does_not_lead_a_region_astray() {
    let window = Window::sized(160, 120);
    let shift = |frame: i32| [f64::from(frame) * 1.3, f64::from(frame) * -0.7];
    let is_cover = |x: i32, frame: i32| x >= 64 + frame * -2;
    let image = |frame: i32| -> Field {
        let [right, down] = shift(frame);
        Raster::from_fn(window, |x, y| {
            let at = [f64::from(x) + 0.5, f64::from(y) + 0.5];
            let value = if is_cover(x, frame) {
                detail([at[0] + f64::from(frame) * 2.0 + 500.0, at[1]])
            } else {
                detail([at[0] - right, at[1] - down])
            };
            value as f32
        })
    };
    let matte =
        |frame: i32| -> Field { Raster::from_fn(window, |x, _| f32::from(u8::from(is_cover(x, frame)))) };
    let corners = [[30.0, 30.0], [120.0, 30.0], [120.0, 90.0], [30.0, 90.0]];
    let region =
        Track { at: middle_of(corners), region: Some(corners), motion: TrackMotion::Shift, ..track() };
    let cancel = Cancel::new();
    let off = |left_out: bool| {
        let (first, mattes) = (image(0), (0..6).map(matte).collect::<Vec<_>>());
        let without = |frame: usize| left_out.then(|| &mattes[frame]);
        let seen = Seen { image: &first, without: without(0) };
        let mut following = Following::begin(&region, seen, &cancel).unwrap().unwrap();
        let mut last = f64::INFINITY;
        for frame in 1..6 {
            let image = image(frame);
            let seen = Seen { image: &image, without: without(frame as usize) };
            let found = following.step(seen, &cancel).unwrap().and_then(|sample| sample.corners);
            let [right, down] = shift(frame);
            last = found.map_or(f64::INFINITY, |found| {
                (found[0][0] - corners[0][0] - right).hypot(found[0][1] - corners[0][1] - down)
            });
        }
        last
    };
    assert!(off(true) < 0.1, "{} px off", off(true));
    assert!(off(false) > 1.0, "{} px off without the matte", off(false));
}
