//! Checks of `polar`.

use veil_pixels::warp::polar::*;
use veil_pixels::{Cancel, Edge, Raster, Window};

fn polar() -> Polar {
    Polar { frame: Window::sized(640, 240), centre: [320.0, 120.0], radius: 115.0, seam: 0.3 }
}

#[test]
fn there_and_back_is_the_picture() {
    let (polar, cancel) = (polar(), Cancel::new());
    let frame = polar.frame;
    let wave = |x: i32, y: i32| {
        let turn = (x as f32 + 0.5) / 640.0 * std::f32::consts::TAU;
        0.5 + 0.3 * (3.0 * turn).sin() + 0.2 * (y as f32 / 22.0).cos()
    };
    let straight = Raster::from_fn(frame, wave);
    let wound = polar.apply(PolarWay::Wound, Edge::Clear, &straight, frame, frame, &cancel).unwrap();
    let back = polar.apply(PolarWay::Unwound, Edge::Hold, &wound, frame, frame, &cancel).unwrap();
    for y in 12..190 {
        for x in 0..640 {
            let (got, wanted) = (back.get(x, y).unwrap(), wave(x, y));
            assert!((got - wanted).abs() < 0.01, "{x}, {y}: {got} not {wanted}");
        }
    }
}

/// Level lines become rings: what is on a row is at one distance from the centre, and nothing lies beyond the radius.
#[test]
fn a_level_line_becomes_a_ring() {
    let (polar, cancel) = (polar(), Cancel::new());
    let frame = polar.frame;
    let line = Raster::from_fn(frame, |_, y| if (118..122).contains(&y) { 1.0f32 } else { 0.0 });
    let wound = polar.apply(PolarWay::Wound, Edge::Clear, &line, frame, frame, &cancel).unwrap();
    for y in 0..240 {
        for x in 0..640 {
            let away = (x as f32 + 0.5 - 320.0).hypot(y as f32 + 0.5 - 120.0);
            let value = wound.get(x, y).unwrap();
            let inside = (away - 57.5).abs();
            assert!(
                if inside < 0.3 { value > 0.9 } else { inside < 2.5 || value < 1e-6 },
                "{x}, {y}: {value}"
            );
        }
    }
}
