//! Maps as pictures of places, and back.
//!
//! - Shape: a picture whose red is u and green v; a map of moves.
//! - Units: u to the right and v up, 0–1 over the frame, at pixel centres: column `i` and row `j` of a frame of
//!   `width` × `height` hold `((i + 0.5)/width, 1 − (j + 0.5)/height)` where nothing moves. Moves in pixels of the raster.
//! - A picture of places says where each pixel is read; a map how far each moves: `map = p − place`.

use crate::{Cancel, Cancelled, Map, Picture, Raster, Window};

/// Which way v runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Upward {
    /// From the bottom of the frame up.
    #[default]
    Up,
    /// From its top down.
    Down,
}

/// A frame that places are counted over.
#[derive(Clone, Copy, Debug)]
pub struct Places {
    /// Its pixels.
    pub frame: Window,
    /// Which way v runs in it.
    pub upward: Upward,
}

impl Places {
    fn of(self, [u, v]: [f64; 2]) -> [f64; 2] {
        let v = if self.upward == Upward::Up { 1.0 - v } else { v };
        [
            f64::from(self.frame.x0) + u * self.frame.width() as f64,
            f64::from(self.frame.y0) + v * self.frame.height() as f64,
        ]
    }

    fn uv(self, [x, y]: [f64; 2]) -> [f64; 2] {
        let u = (x - f64::from(self.frame.x0)) / self.frame.width() as f64;
        let v = (y - f64::from(self.frame.y0)) / self.frame.height() as f64;
        [u, if self.upward == Upward::Up { 1.0 - v } else { v }]
    }

    /// The moves that a picture of places asks for, over its window. A place that is no number moves nothing.
    pub fn moves(self, picture: &Picture, cancel: &Cancel) -> Result<Map, Cancelled> {
        let window = picture.window();
        Raster::written(window, cancel, |y, row| {
            for ((x, out), pixel) in (window.x0..).zip(row).zip(picture.row(y)) {
                let here = [f64::from(x) + 0.5, f64::from(y) + 0.5];
                let from = self.of([f64::from(pixel[0]), f64::from(pixel[1])]);
                let moved = [(here[0] - from[0]) as f32, (here[1] - from[1]) as f32];
                *out = if moved[0].is_finite() && moved[1].is_finite() { moved } else { [0.0; 2] };
            }
        })
    }

    /// The picture of the places that moves ask for: opaque, blue 0.
    pub fn picture(self, moves: &Map, cancel: &Cancel) -> Result<Picture, Cancelled> {
        let window = moves.window();
        Raster::written(window, cancel, |y, row| {
            for ((x, out), moved) in (window.x0..).zip(row).zip(moves.row(y)) {
                let here =
                    [f64::from(x) + 0.5 - f64::from(moved[0]), f64::from(y) + 0.5 - f64::from(moved[1])];
                let [u, v] = self.uv(here);
                *out = [u as f32, v as f32, 0.0, 1.0];
            }
        })
    }
}
