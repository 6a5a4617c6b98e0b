//! Checks of `view`.

use veil_core::signal::{Pixels, Scale};
use veil_core::view::*;
use veil_pixels::{Raster, Window};

#[test]
fn one_stop_brightens_what_is_seen_and_a_channel_shows_alone() {
    let screens = Screens::new();
    let picture = Pixels::Picture(Raster::flat(Window::sized(1, 1), [0.25, 0.5, 0.0, 1.0]));
    let see = |look, exposure| bytes(&picture, View { look, exposure, ..View::default() }, &screens);
    // IEC 61966-2-1: 0.25 is byte 137, 0.5 is byte 188.
    assert_eq!(see(Look::Colour, 0.0), [137, 188, 0, 255]);
    assert_eq!(see(Look::Red, 1.0), [188, 188, 188, 255]);
    assert_eq!(see(Look::Alpha, 3.0), [255, 255, 255, 255]);
}

/// Porter and Duff 1984: half covered, half of what is behind is seen; squares of the checks stay the same
/// size at a proxy scale.
#[test]
fn a_backing_is_seen_where_nothing_covers_it() {
    let window = Window::sized(64, 2);
    let picture = Raster::flat(window, [0.25, 0.0, 0.0, 0.5]);
    let white = Backing::White.behind(&picture, Scale::FULL);
    assert_eq!(white.get(3, 1), Some([0.75, 0.5, 0.5, 1.0]));
    let checks = |scale: u32, x: i32| {
        let on = Backing::Checks.behind(&Raster::clear(window), Scale::one_to(scale).unwrap());
        on.get(x, 0).unwrap()[0]
    };
    assert_eq!(checks(1, 20), checks(4, 5));
    assert!(checks(1, 20) > checks(1, 10));
}

#[test]
fn false_colour_grows_brighter_and_tells_what_lies_outside() {
    let brightness = |value: f32| false_colour(value).iter().map(|byte| u32::from(*byte)).sum::<u32>();
    assert!((0..20).all(|at| brightness(at as f32 / 20.0) < brightness((at + 1) as f32 / 20.0)));
    assert_eq!([false_colour(-0.1), false_colour(1.1)], [BELOW, ABOVE]);
}

/// Two highlights that a screen shows alike still differ, and a map's difference keeps its direction.
#[test]
fn signals_differ_in_what_they_are_and_not_in_what_a_screen_shows() {
    let window = Window::sized(2, 1);
    let lit = |red: f32| Pixels::Picture(Raster::flat(window, [red, 0.5, 0.0, 1.0]));
    assert_eq!(difference(&lit(6.0), &lit(2.0)).map(|apart| apart.first()), Some(vec![4.0, 0.0, 0.0, 0.0]));
    let moved = |x: f32| Pixels::Map(Raster::flat(window, [x, 1.0]));
    assert_eq!(difference(&moved(1.0), &moved(3.5)).map(|apart| apart.first()), Some(vec![-2.5, 0.0]));
    assert_eq!(difference(&lit(1.0), &moved(1.0)), None);
    // A smaller picture is nothing where it does not reach.
    let small = Pixels::Picture(Raster::flat(Window::sized(1, 1), [1.0; 4]));
    let Some(Pixels::Picture(apart)) = difference(&lit(1.0), &small) else { panic!("two pictures") };
    assert_eq!(apart.get(1, 0), Some([1.0, 0.5, 0.0, 1.0]));
}
