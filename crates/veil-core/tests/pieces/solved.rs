//! Checks of `solved`: a world that is set down, and what cannot be solved.

use veil_core::camera::{Camera, CameraAt, CameraFrame, Lens};
use veil_core::colour::Working;
use veil_core::setup::{Frames, PictureFormat, StageId};
use veil_core::solved::{CameraGoes, SolveError, SolveTask, SolvedCamera, SolvedPoint};
use veil_core::tracks::{Track, TrackId};
use veil_pixels::Cancel;

const SIZE: [f64; 2] = [1920.0, 1080.0];

fn solved() -> SolvedCamera {
    let lens = Lens::Focal { focal_mm: 30.0, sensor_width_mm: 36.0 };
    let frame = |frame: i32| CameraFrame {
        frame,
        camera: CameraAt::standing([0.3 * f64::from(frame), 1.0, 0.2], [3.0, -12.0, 5.0], lens),
    };
    let point =
        |(name, place): (&str, [f64; 3])| SolvedPoint { name: name.into(), place, error: 0.2, fits: 1.0 };
    let points = [
        ("a", [1.0, -2.0, -8.0]),
        ("b", [2.5, -1.6, -9.0]),
        ("c", [-1.0, -2.2, -7.0]),
        ("d", [0.2, 1.0, -8.0]),
    ];
    SolvedCamera {
        camera: Camera { name: "solved".into(), frames: (1..=3).map(frame).collect() },
        frame_errors: vec![0.2; 3],
        points: points.map(point).to_vec(),
    }
}

/// All that a camera sees stays where it is on the picture, however the world is turned and measured.
#[test]
fn a_world_that_is_set_down_looks_the_same_and_lies_on_its_ground() {
    let before = solved();
    let mut after = before.clone();
    after.set_down(["a", "b", "c"]).unwrap();
    after.measured(["a", "d"], 1.5).unwrap();
    let place = |name: &str| after.points.iter().find(|point| point.name == name).unwrap().place;
    let near = |a: f64, b: f64| (a - b).abs() < 1e-9;
    assert!(place("a").iter().all(|part| near(*part, 0.0)), "{:?}", place("a"));
    assert!(near(place("b")[1], 0.0) && near(place("b")[2], 0.0) && place("b")[0] > 0.0, "{:?}", place("b"));
    assert!(near(place("c")[1], 0.0), "{:?}", place("c"));
    assert!(near(place("d").iter().map(|part| part * part).sum::<f64>().sqrt(), 1.5));
    assert!(after.camera.frames[0].camera.place[1] > 0.0, "the camera is above the ground");
    for (own, set) in before.camera.frames.iter().zip(&after.camera.frames) {
        for (first, second) in before.points.iter().zip(&after.points) {
            let [a, b] = [(own, first), (set, second)]
                .map(|(frame, point)| frame.camera.project(point.place, SIZE).unwrap().0);
            assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 1e-6, "{}: {a:?} {b:?}", first.name);
        }
    }
}

#[test]
fn what_cannot_be_set_down_is_told_and_changes_nothing() {
    let mut camera = solved();
    assert_eq!(camera.set_down(["a", "b", "e"]), Err(SolveError::NoPoint("e".into())));
    assert!(matches!(camera.set_down(["a", "b", "a"]), Err(SolveError::Points(_))));
    assert!(matches!(camera.measured(["a", "a"], 1.0), Err(SolveError::Points(_))));
    assert!(matches!(camera.measured(["a", "b"], -1.0), Err(SolveError::Points(_))));
    assert!(matches!(camera.measured(["a", "b"], f64::NAN), Err(SolveError::Points(_))));
    assert_eq!(camera, solved());
}

#[test]
fn too_few_tracks_and_a_lens_of_nothing_are_told() {
    let picture = PictureFormat {
        width: 1920,
        height: 1080,
        fps: 24.0,
        aspect: 1.0,
        frames: Frames { first: 1, last: 40 },
        working: Working::default(),
    };
    let task = SolveTask { goes: CameraGoes::Moves, focal_mm: Some(30.0), sensor_width_mm: 36.0 };
    let tracks = [Track::new(TrackId(1), "sill", StageId(1), 1)];
    let told = |task: SolveTask| task.solve(&tracks, &picture, &Cancel::new()).unwrap_err();
    assert_eq!(told(task), SolveError::TooFew(8));
    assert_eq!(told(SolveTask { goes: CameraGoes::Turns, ..task }), SolveError::TooFew(4));
    assert_eq!(told(SolveTask { focal_mm: Some(0.0), ..task }), SolveError::Lens("focal length"));
    let narrow = SolveTask { sensor_width_mm: f64::NAN, ..task };
    assert_eq!(told(narrow), SolveError::Lens("width of the sensor"));
}
