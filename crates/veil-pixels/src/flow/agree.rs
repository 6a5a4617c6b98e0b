//! How far two motions agree, there and back.

use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Field, Map, Raster};

/// What counts as no difference, in pixels², and for each pixel² that is moved.
const NO_DIFFERENCE: f32 = 0.5;
const NO_DIFFERENCE_A_MOVE: f32 = 0.01;

/// How sure each move of `forth` is: 1 where `back` leads from its end to where it began, 0 where it leads to somewhere else
/// or the end lies out of the picture, which is where something is covered.
///
/// Both have one window. Source of the bound: Sundaram, Brox and Keutzer, "Dense Point Trajectories by GPU-accelerated Large
/// Displacement Optical Flow", 2010.
pub fn agreement(forth: &Map, back: &Map, cancel: &Cancel) -> Result<Field, Cancelled> {
    let window = forth.window();
    let sampler = Sampler::new(back, back.window(), Edge::Hold);
    let begin = || (Scratch::default(), vec![[0.0f32; 2]; window.width()]);
    Raster::written_with(window, cancel, begin, |(scratch, ends), y, row: &mut [f32]| {
        let ways = forth.row(y);
        let at = |index: usize| {
            let [right, down] = ways[index];
            [window.x0 as f32 + index as f32 + 0.5 + right, y as f32 + 0.5 + down]
        };
        let places = |start: usize, x: &mut [f32], to_y: &mut [f32]| {
            for (number, (x, to_y)) in x.iter_mut().zip(to_y).enumerate() {
                [*x, *to_y] = at(start + number);
            }
        };
        sampler.read_run_with(scratch, Filter::Linear, places, ends);
        let inside = |place: f32, from: i32, to: i32| place >= from as f32 && place <= to as f32;
        for (index, (out, (there, back))) in row.iter_mut().zip(ways.iter().zip(&*ends)).enumerate() {
            let [x, y] = at(index);
            let within = inside(x, window.x0, window.x1) && inside(y, window.y0, window.y1);
            *out = if within { sureness(*there, *back) } else { 0.0 };
        }
    })
}

/// How well the way back from where a move ends agrees with it: 1 where it leads to where that began.
#[inline(always)]
pub(super) fn sureness(there: [f32; 2], back: [f32; 2]) -> f32 {
    let square = |[x, y]: [f32; 2]| x * x + y * y;
    let apart = square([there[0] + back[0], there[1] + back[1]]);
    let bound = NO_DIFFERENCE + NO_DIFFERENCE_A_MOVE * (square(there) + square(back));
    (1.0 - apart / bound).max(0.0)
}
