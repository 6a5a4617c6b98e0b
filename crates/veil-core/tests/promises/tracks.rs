//! Tracks in a setup, and what goes with them.

use veil_core::feed::{ControlAxis, Feed, Offset, Others, TrackFeed};
use veil_core::setup::{Command, Edit, Setting, Setup, StageId};
use veil_core::tracks::{Track, TrackAxis, TrackId, TrackMotion, TrackSample};

use crate::support::{PLATE, SHAPE, setup_with};

fn track() -> Track {
    let sample = |step: i32| TrackSample {
        at: [40.0 + f64::from(step) * 3.0, 30.0 - f64::from(step * step) * 0.5],
        scale: 1.0 + f64::from(step) * 0.1,
        turn: f64::from(step) * -4.0,
        likeness: 0.9,
        corners: None,
    };
    Track {
        at: [40.0, 30.0],
        motion: TrackMotion::Similarity,
        samples: (0..10).filter(|step| *step != 5).map(|step| (1001 + step, sample(step))).collect(),
        ..Track::new(TrackId(0), "lantern", PLATE, 1001)
    }
}

fn done(setup: &Setup, command: &Command) -> (Setup, Edit) {
    Edit::of(command, setup).unwrap()
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
