//! Checks of `track::slide`.

use veil_pixels::track::slide::Slide;
use veil_pixels::track::{Motion, Outliers, Pattern};
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Raster, Window};

/// The plain way is [`Pattern`]'s.
#[test]
fn it_finds_what_a_pattern_that_only_moves_finds() {
    let value = |x: f64, y: f64| {
        (0.5 + 0.2 * (x * 0.31).sin() * (y * 0.23).cos() + 0.15 * (x * 0.11 + y * 0.37).sin()) as f32
    };
    let window = Window::sized(90, 70);
    let first = Raster::from_fn(window, |x, y| value(f64::from(x), f64::from(y)));
    let second = Raster::from_fn(window, |x, y| 0.8 * value(f64::from(x) - 1.37, f64::from(y) + 0.81) + 0.05);
    for (centre, half) in [([40.3, 33.8], [15.0, 15.0]), ([38.5, 30.5], [9.0, 12.0])] {
        let plain = Pattern::new(&first, centre, half, Motion::Shift, |_, _| true).unwrap();
        let plain = plain.fit(&second, Homography::IDENTITY, Outliers::Count).unwrap();
        let quick = Slide::new(&first, centre, half).unwrap().fit(&second, centre).unwrap();
        let (a, b) = (plain.placed.at(centre).unwrap(), quick.placed.at(centre).unwrap());
        assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 3e-3, "{a:?} {b:?}");
        let again = Slide::new(&first, centre, half).unwrap().pattern();
        let again = again.fit(&second, Homography::IDENTITY, Outliers::Count).unwrap();
        let c = again.placed.at(centre).unwrap();
        assert!((a[0] - c[0]).hypot(a[1] - c[1]) < 3e-3, "{a:?} {c:?}");
        assert!((plain.likeness - quick.likeness).abs() < 1e-4, "{} {}", plain.likeness, quick.likeness);
    }
    assert!(Slide::new(&first, [12.0, 30.0], [15.0; 2]).is_none());
    assert!(Slide::new(&Raster::flat(window, 0.3), [40.0, 30.0], [15.0; 2]).is_none());
}
