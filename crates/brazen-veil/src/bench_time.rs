//! What is made of several frames.

use std::hint::black_box;

use veil_pixels::clean::Stack;
use veil_pixels::flow::midway::Motion;
use veil_pixels::frames::median as median_of;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::Warp;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancel, Cancelled, Edge, Field, Map, Picture, Raster, Window};

use crate::timed::median;

/// Frames that a median is taken of.
const FRAMES: i32 = 9;

/// Median milliseconds of each whose name has a part.
pub(crate) fn measure(times: usize, picture: &Picture, only: &str) -> Vec<(String, f64)> {
    let (window, cancel) = (picture.window(), Cancel::new());
    let mut measured = Vec::new();
    let mut note = |name: &str, make: &mut dyn FnMut() -> Box<dyn FnMut()>| {
        if name.contains(only) {
            measured.push((name.to_owned(), median(times, &mut *make())));
        }
    };
    note("median_9_frames", &mut || {
        // Each is the picture, a few pixels further on.
        let frame = |number: i32| {
            Raster::from_fn(window, |x, y| {
                picture.get((x + 7 * number) % window.x1, (y + 3 * number) % window.y1).unwrap_or_default()
            })
        };
        let frames: Vec<Picture> = (0..FRAMES).map(frame).collect();
        let cancel = cancel.clone();
        Box::new(move || {
            black_box(median_of(&frames, &cancel).is_ok());
        })
    });
    note("between_frames", &mut || {
        let way =
            |[x, y]: [f32; 2]| [14.0 * (x / 310.0 + y / 170.0).sin(), 9.0 * (x / 230.0 - y / 290.0).cos()];
        let forth = Map::from_fn(window, |x, y| way([x as f32, y as f32]));
        // Back from each place to where what lies there came from.
        let back = Map::from_fn(window, |x, y| {
            let (x, y) = (x as f32, y as f32);
            let from = (0..8).fold([x, y], |from, _| {
                let [right, down] = way(from);
                [x - right, y - down]
            });
            [from[0] - x, from[1] - y]
        });
        // Memory of its own, as two frames have.
        let other = Raster::from_fn(window, |x, y| picture.get(x, y).unwrap_or_default());
        let (both, cancel) = ([picture.clone(), other], cancel.clone());
        Box::new(move || {
            let motion = Motion { forth: &forth, back: &back };
            black_box(motion.midway([&both[0], &both[1]], 0.4, Filter::Linear, window, &cancel).is_ok());
        })
    });
    note("clean_plate_48", &mut || {
        let (frame, cancel) = (Window::sized(960, 540), cancel.clone());
        let plate = picture.cropped(frame);
        // A third is covered, elsewhere in each frame.
        let covered = |number: i32| {
            Field::from_fn(frame, |x, _| if (x + number * 397).rem_euclid(960) < 320 { 1.0 } else { 0.0 })
        };
        let frames: Vec<(Field, Homography)> =
            (0..CLEANED).map(|number| (covered(number), swaying(f64::from(number)))).collect();
        Box::new(move || {
            black_box(cleaned(&plate, &frames, &cancel).is_ok());
        })
    });
    measured
}

/// Frames that a clean plate is made of.
const CLEANED: i32 = 48;

/// How a camera by hand sees a plane at a frame.
fn swaying(t: f64) -> Homography {
    let tilt = Homography::from_rows([
        [1.0, 0.0, 0.0],
        [0.0, 1.0, 0.0],
        [2e-5 * (t / 9.0).sin(), 1e-5 * (t / 7.0).cos(), 1.0],
    ]);
    let turn = Homography::turn(0.03 * (t / 11.0).sin());
    turn.then(Homography::shift(30.0 * (t / 13.0).sin(), 20.0 * (t / 8.0).cos())).then(tilt)
}

/// All frames laid on the first, made as bright, and their median.
fn cleaned(plate: &Picture, frames: &[(Field, Homography)], cancel: &Cancel) -> Result<Picture, Cancelled> {
    let canvas = plate.window().grow(40, 30);
    let mut stack = Stack::new(canvas);
    for (left_out, forth) in frames {
        let window = forth.window(plate.window()).grow(1, 1).intersect(canvas);
        let along = |filter: Filter| {
            let mut warp = Warp::new(window, filter, Edge::Clear);
            warp.carry(forth.inverse().unwrap_or(Homography::IDENTITY));
            warp
        };
        let laid = along(Filter::Cubic).apply(plate, plate.window(), cancel)?;
        let left_out = along(Filter::Linear).apply(left_out, plate.window(), cancel)?;
        stack.lay(&laid, Some(&left_out), cancel)?;
    }
    stack.median(&stack.levels(0, cancel)?, cancel)
}
