//! Light and lenses in space: shafts, and what is out of focus.

use std::hint::black_box;

use veil_pixels::light::aperture::Opening;
use veil_pixels::light::defocus::defocused;
use veil_pixels::light::rays::Rays;
use veil_pixels::{Cancel, Field, Picture, Raster};

use crate::timed::{WIDTH, median};

/// The largest radius out of focus, in pixels.
const RADIUS: f32 = 20.0;

/// Median milliseconds of each whose name has a part.
pub(crate) fn measure(times: usize, picture: &Picture, only: &str) -> Vec<(String, f64)> {
    let (window, cancel) = (picture.window(), Cancel::new());
    let mut measured = Vec::new();
    let mut note = |name: &str, work: &mut dyn FnMut()| {
        if name.contains(only) {
            measured.push((name.to_owned(), median(times, work)));
        }
    };
    let rays = Rays { centre: [900.0, 500.0], length: 600.0, fade: 1.0 };
    note("rays_600", &mut || {
        black_box(rays.apply(picture, window, window, window, &cancel).is_ok());
    });
    // From sharp at the left border to the largest at the right one; and the same with something near before it.
    let slanted = |x: i32| RADIUS * x as f32 / WIDTH as f32;
    let far: Field = Raster::from_fn(window, |x, _| slanted(x));
    let near: Field = Raster::from_fn(window, |x, y| {
        if f64::from(x - 960).hypot(f64::from(y - 540)) < 300.0 { -12.0 } else { slanted(x) }
    });
    for (name, radii) in [("defocus_20_far", &far), ("defocus_20_near_and_far", &near)] {
        note(name, &mut || {
            let made = defocused(picture, radii, window, (Opening::Disc, RADIUS), window, &cancel);
            black_box(made.is_ok());
        });
    }
    measured
}
