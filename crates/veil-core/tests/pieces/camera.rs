//! Checks of `camera`.

use veil_core::camera::*;

/// By hand: a camera at the origin that looks along −z; 50 mm before a sensor 36 mm wide, on 1800 pixels, gives
/// 2500 pixels for a unit of slope.
#[test]
fn a_place_lands_where_the_lens_throws_it() {
    let camera = CameraAt {
        place: [0.0; 3],
        right: [1.0, 0.0, 0.0],
        up: [0.0, 1.0, 0.0],
        back: [0.0, 0.0, 1.0],
        lens: Lens::Focal { focal_mm: 50.0, sensor_width_mm: 36.0 },
    };
    let (at, depth) = camera.project([0.2, 0.1, -2.0], [1800.0, 1000.0]).unwrap();
    assert!((at[0] - 1150.0).abs() < 1e-9 && (at[1] - 375.0).abs() < 1e-9, "{at:?}");
    assert_eq!(depth, 2.0);
    assert_eq!(camera.project([0.0, 0.0, 1.0], [1800.0, 1000.0]), None);
    // 53.13° from the lower to the upper border: half of it rises by 1 over 2.
    let upright = CameraAt { lens: Lens::Upright { degrees: 2.0 * 0.5f64.atan().to_degrees() }, ..camera };
    let (at, _) = upright.project([0.0, 1.0, -2.0], [1800.0, 1000.0]).unwrap();
    assert!(at[1].abs() < 1e-9, "the upper border: {at:?}");
}

const LENS: Lens = Lens::Focal { focal_mm: 35.0, sensor_width_mm: 36.0 };

fn of_two(pans: [f64; 2]) -> Camera {
    let at = |frame: i32, x: f64, pan: f64| CameraFrame {
        frame,
        camera: CameraAt::standing([x, 0.0, 0.0], [pan, 0.0, 0.0], LENS),
    };
    Camera { name: "two".into(), frames: vec![at(10, 0.0, pans[0]), at(14, 2.0, pans[1])] }
}

/// By hand: between two frames a turn goes the shorter way at an even pace, also past 180°; beyond them nothing moves.
#[test]
fn between_frames_a_camera_turns_evenly() {
    for (pans, frame, pan, x) in [
        ([0.0, 90.0], 12.0, 45.0, 1.0),
        ([170.0, -170.0], 12.0, 180.0, 1.0),
        ([170.0, -170.0], 11.0, 175.0, 0.5),
        ([0.0, 90.0], 3.0, 0.0, 0.0),
        ([0.0, 90.0], 99.0, 90.0, 2.0),
    ] {
        let got = of_two(pans).at(frame).unwrap();
        let wanted = CameraAt::standing([x, 0.0, 0.0], [pan, 0.0, 0.0], LENS);
        let pairs = [(got.place, wanted.place), (got.back, wanted.back), (got.right, wanted.right)];
        let apart = pairs.iter().flat_map(|(a, b)| (0..3).map(|axis| (a[axis] - b[axis]).abs()));
        assert!(apart.fold(0.0, f64::max) < 1e-9, "{pans:?} at {frame}: {got:?}");
    }
}

/// A file that counts from 1 begins with a shot that does not; one that counts as the shot does is taken at its word.
#[test]
fn a_camera_that_counts_otherwise_begins_with_the_shot() {
    let camera = of_two([0.0, 90.0]);
    assert_eq!(camera.own_frame(1003.0, 1001, 1048), 12.0);
    assert_eq!(camera.own_frame(13.0, 5, 20), 13.0);
}

/// A ray through where a place is seen leads to that place.
#[test]
fn a_ray_leads_back_to_what_is_seen() {
    let camera = CameraAt::standing([1.0, 2.0, 3.0], [40.0, -20.0, 15.0], LENS);
    let size = [1920.0, 1080.0];
    let world = [0, 1, 2].map(|axis| camera.place[axis] - 4.0 * camera.back[axis] + 0.7 * camera.right[axis]);
    let (at, depth) = camera.project(world, size).unwrap();
    let ray = camera.ray(at, size);
    for axis in 0..3 {
        assert!((camera.place[axis] + ray[axis] * depth - world[axis]).abs() < 1e-9);
    }
}

/// The same places are seen at the same pixels as by OpenCV's `projectPoints`, and `solvePnP` finds the camera that was told
/// (`tests/reference/camera.py`).
#[test]
fn places_are_seen_where_opencv_sees_them() {
    let cases: Vec<serde_json::Value> =
        serde_json::from_str(include_str!("../reference/camera.json")).unwrap();
    for case in &cases {
        let number = |name: &str| case[name].as_f64().unwrap();
        let three = |value: &serde_json::Value| [0, 1, 2].map(|axis| value[axis].as_f64().unwrap());
        let lens = Lens::Focal { focal_mm: number("focal_mm"), sensor_width_mm: number("sensor_width_mm") };
        let camera = CameraAt::standing(three(&case["place"]), three(&case["turn"]), lens);
        let size = [number("width"), number("height")];
        for point in case["points"].as_array().unwrap() {
            let (at, depth) = camera.project(three(&point["world"]), size).unwrap();
            let seen = [0, 1].map(|axis| point["seen"][axis].as_f64().unwrap());
            assert!((at[0] - seen[0]).abs() < 1e-6 && (at[1] - seen[1]).abs() < 1e-6, "{at:?} {seen:?}");
            assert!((depth - point["depth"].as_f64().unwrap()).abs() < 1e-9);
        }
        let found = three(&case["solved_place"]);
        for axis in 0..3 {
            assert!((found[axis] - camera.place[axis]).abs() < 1e-6, "{found:?} {camera:?}");
        }
    }
}
