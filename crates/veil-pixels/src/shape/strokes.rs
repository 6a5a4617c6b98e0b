//! Lines of changing width and light, drawn without gaps.
//!
//! - Shape: a field of light.
//! - Units: places and widths in pixels of the raster; light is any number from 0 on.
//! - A stroke is the union of its pieces, each a line with round ends whose width and light go evenly from one end to the
//!   other; at every pixel the brightest piece counts, so that joints and crossings are no brighter than what meets there.
//! - Edge: a hard edge covers the share of a pixel's width across the line, however thin the line; a soft one is a
//!   smoothstep over its length, half of it outside.

use crate::shape::ellipse::SoftSide;
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// A place on a stroke.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Dot {
    /// Where.
    pub at: [f32; 2],
    /// How wide the stroke is here.
    pub width: f32,
    /// How bright.
    pub light: f32,
}

/// A line through places.
pub type Stroke = Vec<Dot>;

/// A piece between two places that follow each other.
#[derive(Clone, Copy)]
struct Piece {
    from: Dot,
    to: Dot,
}

impl Piece {
    fn reach(&self, softness: f32) -> f32 {
        self.from.width.max(self.to.width) / 2.0 + softness / 2.0 + 1.0
    }

    fn ends(&self, axis: usize, reach: f32) -> (i32, i32) {
        let (a, b) = (self.from.at[axis], self.to.at[axis]);
        let whole = |value: f32| value.clamp(-1.0e9, 1.0e9) as i32;
        (whole((a.min(b) - reach).floor()), whole((a.max(b) + reach).ceil()))
    }

    /// The columns that it can light in a row whose middle is at `y`.
    fn columns(&self, y: f32, reach: f32) -> (i32, i32) {
        let ([ax, ay], [bx, by]) = (self.from.at, self.to.at);
        let along = |y: f32| if by == ay { 0.0 } else { ((y - ay) / (by - ay)).clamp(0.0, 1.0) };
        // The part of its middle line that lies near the row; all of a level one.
        let (first, last) = if by == ay { (0.0, 1.0) } else { (along(y - reach), along(y + reach)) };
        let (near, far) = (ax + (bx - ax) * first, ax + (bx - ax) * last);
        let whole = |value: f32| value.clamp(-1.0e9, 1.0e9) as i32;
        (whole((near.min(far) - reach).floor()), whole((near.max(far) + reach).ceil()))
    }

    /// The light that it gives a place.
    #[inline(always)]
    fn light(&self, place: [f32; 2], softness: f32) -> f32 {
        let way = [self.to.at[0] - self.from.at[0], self.to.at[1] - self.from.at[1]];
        let off = [place[0] - self.from.at[0], place[1] - self.from.at[1]];
        let length = way[0] * way[0] + way[1] * way[1];
        let share =
            if length > 0.0 { ((off[0] * way[0] + off[1] * way[1]) / length).clamp(0.0, 1.0) } else { 0.0 };
        let (x, y) = (off[0] - share * way[0], off[1] - share * way[1]);
        let away = (x * x + y * y).sqrt();
        let between = |a: f32, b: f32| a + (b - a) * share;
        let half = between(self.from.width, self.to.width) / 2.0;
        let covered = if softness >= 1.0 {
            SoftSide::Both.fall_off(away - half, softness) * (2.0 * half).min(1.0)
        } else {
            ((away + 0.5).min(half) - (away - 0.5).max(-half)).clamp(0.0, 1.0)
        };
        covered * between(self.from.light, self.to.light)
    }
}

/// Strokes, ready to be drawn.
pub struct Strokes {
    pieces: Vec<Piece>,
    softness: f32,
}

impl Strokes {
    /// Of strokes whose edge is `softness` long.
    pub fn new(strokes: &[Stroke], softness: f32) -> Self {
        let piece = |pair: &[Dot]| Piece { from: pair[0], to: pair[1] };
        Self { pieces: strokes.iter().flat_map(|stroke| stroke.windows(2).map(piece)).collect(), softness }
    }

    /// How many straight pieces there are.
    pub fn count(&self) -> usize {
        self.pieces.len()
    }

    /// Where they give any light.
    pub fn window(&self) -> Window {
        self.pieces.iter().fold(Window::EMPTY, |all, piece| {
            let reach = piece.reach(self.softness);
            let ((x0, x1), (y0, y1)) = (piece.ends(0, reach), piece.ends(1, reach));
            all.union(Window::new(x0, y0, x1, y1))
        })
    }

    /// Their light over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        let mut rows: Vec<Vec<u32>> = vec![Vec::new(); window.height()];
        for (number, piece) in self.pieces.iter().enumerate() {
            let (first, last) = piece.ends(1, piece.reach(self.softness));
            let (first, last) = (first.max(window.y0), last.min(window.y1));
            for y in first..last {
                rows[(y - window.y0) as usize].push(number as u32);
            }
        }
        Raster::written(window, cancel, |y, row| {
            row.fill(0.0);
            let down = y as f32 + 0.5;
            for number in &rows[(y - window.y0) as usize] {
                let piece = &self.pieces[*number as usize];
                let (first, last) = piece.columns(down, piece.reach(self.softness));
                let (first, last) = (first.max(window.x0), last.min(window.x1));
                for x in first..last {
                    let out = &mut row[(x - window.x0) as usize];
                    *out = out.max(piece.light([x as f32 + 0.5, down], self.softness));
                }
            }
        })
    }
}
