//! Light and lenses in space: shafts, what is out of focus, and a camera that is solved.

use std::hint::black_box;

use veil_pixels::light::aperture::Opening;
use veil_pixels::light::defocus::defocused;
use veil_pixels::light::rays::Rays;
use veil_pixels::solve::{Focal, Going, Sight, solve};
use veil_pixels::{Cancel, Field, Picture, Raster};

use crate::timed::{WIDTH, median};

/// The largest radius out of focus, in pixels.
const RADIUS: f32 = 20.0;

/// What a camera is solved from: frames, points, and its focal length in pixels.
const SOLVED: [usize; 2] = [120, 100];
const FOCAL: f64 = 1600.0;

/// What a camera that walks past points in a room sees of them, a fifth of a pixel off.
fn walk() -> Vec<Sight> {
    let wave = |seed: f64| (seed * 12.9898).sin() * 43_758.545 % 1.0;
    let mut sights = Vec::new();
    for frame in 0..SOLVED[0] {
        let share = frame as f64 / SOLVED[0] as f64;
        let (place, (sin, cos)) =
            ([3.0 * share - 1.5, 0.2 * (5.0 * share).sin()], (0.12 - 0.3 * share).sin_cos());
        for point in 0..SOLVED[1] {
            let own = |axis: usize| wave((point * 3 + axis) as f64 + 0.5);
            let (x, y, z) = (5.0 * own(0) - place[0], 2.5 * own(1) - place[1], 7.5 + 3.5 * own(2));
            let (x, z) = (x * cos + z * sin, z * cos - x * sin);
            let off = |axis: usize| 0.28 * wave((frame * 977 + point * 2 + axis) as f64 + 0.25);
            let at = [x / z * FOCAL + off(0), y / z * FOCAL + off(1)];
            if at[0].abs() < 960.0 && at[1].abs() < 540.0 {
                sights.push(Sight { point, frame, at });
            }
        }
    }
    sights
}

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
    let sights = walk();
    for (name, focal) in
        [("solve_focal_known", Focal::Known(FOCAL)), ("solve_focal_found", Focal::Of(1920.0))]
    {
        note(name, &mut || {
            black_box(solve(SOLVED, &sights, focal, Going::Moves, &cancel).is_ok());
        });
    }
    measured
}
