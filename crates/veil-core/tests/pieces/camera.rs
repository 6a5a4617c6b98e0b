//! Checks of `camera`.

use veil_core::camera::*;

/// By hand: a camera at the origin that looks along −z; 50 mm before a sensor 36 mm wide, on 1800 pixels, gives
/// 2500 pixels for a unit of slope.
#[test]
fn a_place_lands_where_the_lens_throws_it() {
    let camera = CameraAt {
        frame: 1,
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
