//! What is made of several frames.

use std::hint::black_box;

use veil_pixels::flow::midway::Motion;
use veil_pixels::frames::median as median_of;
use veil_pixels::sample::resample::Filter;
use veil_pixels::{Cancel, Map, Picture, Raster};

use crate::bench::median;

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
        let (both, cancel) = ([picture.clone(), picture.clone()], cancel.clone());
        Box::new(move || {
            let motion = Motion { forth: &forth, back: &back };
            black_box(motion.midway([&both[0], &both[1]], 0.4, Filter::Linear, window, &cancel).is_ok());
        })
    });
    measured
}
