//! A place without what stands in front of it, from frames in which that stands elsewhere.
//!
//! - Shape: pictures of any windows, carried to where one of them has things; the result has the window of the stack.
//! - A pixel is seen in a layer where the picture covers it whole and nothing is left out. The result is opaque where any layer
//!   sees it and nothing, alpha 0, where none does.
//! - Units: scene-linear; colours are held as half floats, which tell 1/2048 of a value apart and end at ±65504.
//! - The median of an even number is the mean of both in the middle; each of red, green and blue goes by itself.
//! - Brightness: [`levels`].

mod levels;

pub use levels::Level;

use half::f16;
use half::slice::HalfFloatSliceExt;
use rayon::prelude::*;

use crate::{Cancel, Cancelled, Field, Picture, Raster, Window};

/// Coverage below this is a border.
const WHOLE: f32 = 0.99;
/// What is left out by more than this is not seen.
const LEFT_OUT: f32 = 0.01;

/// What a pixel is that a layer does not see.
const UNSEEN: [f16; 3] = [f16::NAN; 3];

/// Pictures laid over one another.
pub struct Stack {
    window: Window,
    layers: Vec<Layer>,
    /// Which pixels any picture covers whole, left out or not.
    reached: Vec<bool>,
}

struct Layer {
    window: Window,
    colours: Vec<[f16; 3]>,
}

impl Layer {
    /// What it sees of a row of the stack, from the first column on that it reaches to.
    fn row(&self, y: i32) -> (i32, &[[f16; 3]]) {
        if !self.window.rows().contains(&y) {
            return (self.window.x0, &[]);
        }
        let wide = self.window.width();
        let first = (y - self.window.y0) as usize * wide;
        (self.window.x0, &self.colours[first..first + wide])
    }

    fn at(&self, x: i32, y: i32) -> Option<[f32; 3]> {
        let (first, row) = self.row(y);
        let colour = row.get(usize::try_from(x - first).ok()?)?.map(f16::to_f32);
        (!colour[0].is_nan()).then_some(colour)
    }
}

impl Stack {
    /// Of nothing yet.
    pub fn new(window: Window) -> Self {
        Self { window, layers: Vec::new(), reached: vec![false; window.area()] }
    }

    /// How many layers it has.
    pub fn count(&self) -> usize {
        self.layers.len()
    }

    /// Lays a picture on top, without what `left_out` covers; that is a field of the picture's window.
    pub fn lay(
        &mut self,
        picture: &Picture,
        left_out: Option<&Field>,
        cancel: &Cancel,
    ) -> Result<(), Cancelled> {
        cancel.check()?;
        let window = picture.window().intersect(self.window);
        let mut colours = vec![UNSEEN; window.area()];
        colours.par_chunks_mut(window.width().max(1)).zip(window.y0..window.y1).for_each(|(row, y)| {
            let (mut room, mut floats) = (vec![0.0; window.width()], vec![[0.0f32; 3]; window.width()]);
            let own = &picture.row(y)[(window.x0 - picture.window().x0) as usize..][..window.width()];
            for (to, [red, green, blue, alpha]) in floats.iter_mut().zip(own) {
                let is_whole = *alpha >= WHOLE && [red, green, blue].iter().all(|value| value.is_finite());
                *to = if is_whole { [red, green, blue].map(|value| value / alpha) } else { [f32::NAN; 3] };
            }
            if let Some(left_out) = left_out {
                let left_out = left_out.run(window.x0, y, &mut room);
                for (to, _) in floats.iter_mut().zip(left_out).filter(|(_, share)| **share > LEFT_OUT) {
                    *to = [f32::NAN; 3];
                }
            }
            const MOST: f32 = 65504.0;
            let clamped: Vec<f32> =
                floats.as_flattened().iter().map(|value| value.clamp(-MOST, MOST)).collect();
            row.as_flattened_mut().convert_from_f32_slice(&clamped);
        });
        self.reach(picture, window);
        self.layers.push(Layer { window, colours });
        Ok(())
    }

    fn reach(&mut self, picture: &Picture, window: Window) {
        let (first, wide) = (self.window, self.window.width());
        for y in window.rows() {
            let start = (y - first.y0) as usize * wide;
            let own = &picture.row(y)[(window.x0 - picture.window().x0) as usize..];
            let to = &mut self.reached[start..start + wide][(window.x0 - first.x0) as usize..];
            to.iter_mut().zip(own).take(window.width()).for_each(|(to, own)| *to |= own[3] >= WHOLE);
        }
    }

    /// 1 where a picture reaches to and none is seen of what was made, 0 elsewhere.
    pub fn never_seen(&self, made: &Picture, cancel: &Cancel) -> Result<Field, Cancelled> {
        let (first, wide) = (self.window.y0, self.window.width());
        Raster::written(self.window, cancel, |y, row: &mut [f32]| {
            let reached = &self.reached[(y - first) as usize * wide..][..wide];
            for ((out, made), reached) in row.iter_mut().zip(made.row(y)).zip(reached) {
                *out = f32::from(*reached && made[3] == 0.0);
            }
        })
    }

    /// At each pixel the median of what is seen of it, each layer as bright as its level makes it.
    pub fn median(&self, levels: &[Level], cancel: &Cancel) -> Result<Picture, Cancelled> {
        let begin = || [const { Vec::new() }; 3];
        Raster::written_with(self.window, cancel, begin, |seen: &mut [Vec<f32>; 3], y, row| {
            let rows: Vec<_> = self.layers.iter().map(|layer| layer.row(y)).collect();
            for (out, x) in row.iter_mut().zip(self.window.x0..) {
                seen.iter_mut().for_each(Vec::clear);
                for ((first, own), level) in rows.iter().zip(levels) {
                    let Some(colour) = usize::try_from(x - first).ok().and_then(|at| own.get(at)) else {
                        continue;
                    };
                    let colour = level.apply(colour.map(f16::to_f32));
                    if !colour[0].is_nan() {
                        seen.iter_mut().zip(colour).for_each(|(seen, value)| seen.push(value));
                    }
                }
                let is_seen = !seen[0].is_empty();
                *out = pixel(is_seen.then(|| seen.each_mut().map(|seen| middle(seen))));
            }
        })
    }

    /// At each pixel what the first layer of an order sees that sees it, as bright as its level makes it.
    pub fn first_seen(
        &self,
        order: &[usize],
        levels: &[Level],
        cancel: &Cancel,
    ) -> Result<Picture, Cancelled> {
        Raster::written(self.window, cancel, |y, row| {
            for (out, x) in row.iter_mut().zip(self.window.x0..) {
                let seen =
                    order.iter().find_map(|layer| Some(levels[*layer].apply(self.layers[*layer].at(x, y)?)));
                *out = pixel(seen);
            }
        })
    }
}

/// What is seen, opaque, or nothing.
fn pixel(seen: Option<[f32; 3]>) -> [f32; 4] {
    seen.map_or([0.0; 4], |[red, green, blue]| [red, green, blue, 1.0])
}

/// The median of some values, which are put in another order; zero of none.
fn middle(values: &mut [f32]) -> f32 {
    let half = values.len() / 2;
    if values.is_empty() {
        return 0.0;
    }
    let is_even = values.len().is_multiple_of(2);
    let (below, upper, _) = values.select_nth_unstable_by(half, f32::total_cmp);
    let upper = *upper;
    if is_even { (below.iter().copied().fold(f32::MIN, f32::max) + upper) / 2.0 } else { upper }
}
