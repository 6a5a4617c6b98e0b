//! Blur along the rays from a centre, or around it.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: the centre in pixels of the raster. Along the rays, the natural logarithm of the scale from one end of a smeared
//!   dot to the other; around, the angle in radians.
//! - Every pixel is the even mean of itself at 2ⁿ scales or turns, in n passes that each take the mean of two: halves of
//!   the way apart, then quarters, and so on, until neighbouring places lie within a pixel of each other.
//! - Edges: as the [`Edge`] says, outside the data window.
//! - Range: about a centre outside of the frame the extent is held so that no smear is much longer than the frame.

use crate::buffer::raster::{Pixel, Wide};
use crate::sample::resample::{Filter, Sampler};
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// Which way a dot is smeared.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Smear {
    /// Along its ray.
    #[default]
    Along,
    /// Around the centre.
    Around,
}

/// A blur about a centre.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ZoomBlur {
    /// What it is about.
    pub centre: [f32; 2],
    /// From one end of a smeared dot to the other.
    pub extent: f32,
    /// Which way.
    pub smear: Smear,
}

/// No more passes are made: neighbours of a smear of any picture lie closer by then.
const MOST_PASSES: u32 = 11;
/// The logarithm of the scale from one end of the longest smear along the rays to the other, about a centre in the frame.
const LONGEST_ZOOM: f32 = 1.1;

/// A step about the centre: what an offset from it becomes.
#[derive(Clone, Copy)]
struct Step([f32; 2]);

impl Step {
    #[inline(always)]
    fn of(self, [x, y]: [f32; 2]) -> [f32; 2] {
        let Self([a, b]) = self;
        [x * a - y * b, x * b + y * a]
    }
}

impl ZoomBlur {
    fn step(&self, extent: f32) -> Step {
        match self.smear {
            Smear::Along => Step([extent.exp(), 0.0]),
            Smear::Around => Step([extent.cos(), extent.sin()]),
        }
    }

    /// The two steps of each pass, the longest first: so many that they bring neighbours within a pixel.
    fn steps(&self, frame: Window) -> Vec<[Step; 2]> {
        let farthest =
            [(frame.x0, frame.y0), (frame.x1, frame.y0), (frame.x0, frame.y1), (frame.x1, frame.y1)]
                .map(|(x, y)| (x as f32 - self.centre[0]).hypot(y as f32 - self.centre[1]))
                .into_iter()
                .fold(0.0, f32::max);
        let near = ((frame.width() as f32).hypot(frame.height() as f32) / farthest.max(1.0)).min(1.0);
        let most = match self.smear {
            Smear::Along => LONGEST_ZOOM * near,
            Smear::Around => std::f32::consts::TAU * near.powi(4),
        };
        let extent = self.extent.clamp(-most, most);
        let pixels = (extent.abs() * farthest).max(1.0);
        let apart = |pass: u32| extent / (2u32 << pass) as f32 / 2.0;
        let passes = (pixels.log2().ceil() as u32).min(MOST_PASSES);
        (0..passes).map(|pass| [self.step(apart(pass)), self.step(-apart(pass))]).collect()
    }

    /// Where the places of a window come to lie after a step, with what reading between pixels touches.
    fn before(&self, window: Window, step: [Step; 2]) -> Window {
        let corners =
            [(window.x0, window.y0), (window.x1, window.y0), (window.x0, window.y1), (window.x1, window.y1)];
        let mut all = Window::EMPTY;
        for step in step {
            let to = corners.map(|(x, y)| step.of([x as f32 - self.centre[0], y as f32 - self.centre[1]]));
            let span = |axis: usize| {
                let of = || to.iter().map(|place| place[axis] + self.centre[axis]);
                let whole = |value: f32| value.clamp(-1.0e6, 1.0e6) as i32;
                (
                    whole(of().fold(f32::INFINITY, f32::min).floor()),
                    whole(of().fold(f32::NEG_INFINITY, f32::max).ceil()),
                )
            };
            let ((x0, x1), (y0, y1)) = (span(0), span(1));
            all = all.union(Window::new(x0, y0, x1, y1).grow(2, 2));
        }
        all
    }

    /// What is read of a signal within `data` for a window; `frame` is all that is ever shown.
    pub fn reads(&self, wanted: Window, frame: Window, edge: Edge, data: Window) -> Window {
        let first =
            self.steps(frame).into_iter().rev().fold(wanted, |window, step| self.before(window, step));
        edge.reads_window(first, data)
    }

    /// The pixels of `wanted`. `source` must hold what [`Self::reads`] names.
    pub fn apply<P: Pixel>(
        &self,
        source: &Raster<P>,
        data: Window,
        frame: Window,
        edge: Edge,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let steps = self.steps(frame);
        let mut windows = vec![wanted];
        for step in steps.iter().rev() {
            windows.push(self.before(windows[windows.len() - 1], *step));
        }
        let first = windows.pop().unwrap_or(wanted);
        let mut smeared = source.extended(first, data, edge);
        for step in steps {
            let window = windows.pop().unwrap_or(wanted);
            smeared = self.pass(&smeared, step, window, cancel)?;
        }
        Ok(smeared)
    }

    fn pass<P: Pixel>(
        &self,
        from: &Raster<P>,
        [one, other]: [Step; 2],
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let sampler = Sampler::new(from, from.window(), Edge::Hold);
        let begin = || vec![P::default(); window.width()];
        Raster::written_with(window, cancel, begin, |second, y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            let places = |step: Step| {
                move |start: usize, to_x: &mut [f32], to_y: &mut [f32]| {
                    for (index, (to_x, to_y)) in to_x.iter_mut().zip(to_y).enumerate() {
                        let right = (window.x0 + (start + index) as i32) as f32 + 0.5 - self.centre[0];
                        let [x, y] = step.of([right, down]);
                        (*to_x, *to_y) = (x + self.centre[0], y + self.centre[1]);
                    }
                }
            };
            sampler.read_run(Filter::Linear, places(one), row);
            sampler.read_run(Filter::Linear, places(other), second);
            for (out, second) in row.iter_mut().zip(second.iter()) {
                *out = P::narrow(out.widen().plus(second.widen(), 1.0).times(0.5));
            }
        })
    }
}
