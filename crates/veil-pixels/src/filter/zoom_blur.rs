//! Blur along the rays from a centre, or around it.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: the centre in pixels of the raster. Along the rays, the natural logarithm of the scale from one end of a smeared
//!   dot to the other; around, the angle in radians.
//! - Every pixel is the even mean of itself at 2ⁿ scales or turns, until neighbouring places lie within a pixel of each
//!   other: in passes that take the mean of four each, or of two, every one closer together than those before it.
//! - Edges: as the [`Edge`] says, outside the data window.
//! - Range: about a centre outside of the frame the extent is held so that no smear is much longer than the frame.

use multiversion::multiversion;

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

/// The places of a smear are not doubled more often: neighbours of any picture lie closer by then.
const MOST_DOUBLINGS: u32 = 11;
/// The logarithm of the scale from one end of the longest smear along the rays to the other, about a centre in the frame.
const LONGEST_ZOOM: f32 = 1.1;

/// A step about the centre: what an offset from it becomes.
#[derive(Clone, Copy)]
struct Step([f32; 2]);

impl Step {
    const NONE: Self = Self([1.0, 0.0]);

    #[inline(always)]
    fn of(self, [x, y]: [f32; 2]) -> [f32; 2] {
        let Self([a, b]) = self;
        [x * a - y * b, x * b + y * a]
    }

    /// One after the other.
    fn then(self, Self(next): Self) -> Self {
        Self(self.of(next))
    }
}

impl ZoomBlur {
    fn step(&self, extent: f32) -> Step {
        match self.smear {
            Smear::Along => Step([extent.exp(), 0.0]),
            Smear::Around => Step([extent.cos(), extent.sin()]),
        }
    }

    /// The steps that each pass takes the mean of, the longest first: so many that they bring neighbours within a pixel.
    fn steps(&self, frame: Window) -> Vec<Vec<Step>> {
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
        let doublings = (pixels.log2().ceil() as u32).min(MOST_DOUBLINGS);
        let two = |doubling: u32| {
            let apart = extent / (2u32 << doubling) as f32 / 2.0;
            [self.step(apart), self.step(-apart)]
        };
        let of_pass = |first: u32| {
            let then: Vec<Step> =
                if first + 1 < doublings { two(first + 1).into() } else { vec![Step::NONE] };
            two(first).into_iter().flat_map(|step| then.iter().map(move |then| step.then(*then))).collect()
        };
        (0..doublings).step_by(2).map(of_pass).collect()
    }

    /// Where the places of a window come to lie after a step, with what reading between pixels touches.
    fn before(&self, window: Window, steps: &[Step]) -> Window {
        let corners =
            [(window.x0, window.y0), (window.x1, window.y0), (window.x0, window.y1), (window.x1, window.y1)];
        let mut all = Window::EMPTY;
        for step in steps {
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
        let first = self.steps(frame).iter().rev().fold(wanted, |window, steps| self.before(window, steps));
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
        for steps in steps.iter().rev() {
            windows.push(self.before(windows[windows.len() - 1], steps));
        }
        let first = windows.pop().unwrap_or(wanted);
        let mut smeared = source.extended(first, data, edge);
        for steps in steps {
            let window = windows.pop().unwrap_or(wanted);
            smeared = self.pass(&smeared, &steps, window, cancel)?;
        }
        Ok(smeared)
    }

    fn pass<P: Pixel>(
        &self,
        from: &Raster<P>,
        steps: &[Step],
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        if self.smear == Smear::Along {
            return self.pass_along(from, steps, window, cancel);
        }
        let sampler = Sampler::new(from, from.window(), Edge::Hold);
        let begin = || vec![P::default(); window.width()];
        Raster::written_with(window, cancel, begin, |read, y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            row.fill(P::default());
            for step in steps {
                let places = |start: usize, to_x: &mut [f32], to_y: &mut [f32]| {
                    for (index, (to_x, to_y)) in to_x.iter_mut().zip(to_y).enumerate() {
                        let right = (window.x0 + (start + index) as i32) as f32 + 0.5 - self.centre[0];
                        let [x, y] = step.of([right, down]);
                        (*to_x, *to_y) = (x + self.centre[0], y + self.centre[1]);
                    }
                };
                sampler.read_run(Filter::Linear, places, read);
                add_share(P::floats(read), steps.len(), P::floats_mut(row));
            }
        })
    }

    /// As [`Self::pass`] along the rays, where each row is made of the same two rows all along it.
    fn pass_along<P: Pixel>(
        &self,
        from: &Raster<P>,
        steps: &[Step],
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let columns_of = |step: &Step| {
            let right = (window.x0..window.x1).map(|x| x as f32 + 0.5 - self.centre[0]);
            let places = right.map(|right| step.of([right, 0.0])[0] + self.centre[0]);
            places.map(|x| between(x, from.window().x0, from.window().x1)).collect()
        };
        let columns: Vec<Vec<(usize, f32)>> = steps.iter().map(columns_of).collect();
        let begin = || vec![P::default(); from.window().width()];
        Raster::written_with(window, cancel, begin, |mixed, y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            let share_of_each = 1.0 / steps.len() as f32;
            row.fill(P::default());
            for (step, columns) in steps.iter().zip(&columns) {
                let place = step.of([0.0, down])[1] + self.centre[1];
                let (above, share) = between(place, from.window().y0, from.window().y1);
                let top = from.window().y0 + above as i32;
                let below = (top + 1).min(from.window().y1 - 1);
                mix_rows(P::floats(from.row(top)), P::floats(from.row(below)), share, P::floats_mut(mixed));
                for (out, (left, share)) in row.iter_mut().zip(columns) {
                    let right = (left + 1).min(mixed.len() - 1);
                    let (left, right) = (mixed[*left].widen(), mixed[right].widen());
                    let read = left.plus(right.plus(left, -1.0), *share);
                    *out = P::narrow(out.widen().plus(read, share_of_each));
                }
            }
        })
    }
}

/// Adds one of so many to a mean.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn add_share(one: &[f32], of: usize, mean: &mut [f32]) {
    let share = 1.0 / of as f32;
    for (mean, one) in mean.iter_mut().zip(one) {
        *mean += one * share;
    }
}

/// The pixel before a place along an axis, counted from the first, and how far the place is beyond its middle; held within
/// the pixels from one to before another.
fn between(place: f32, first: i32, end: i32) -> (usize, f32) {
    let before = (place - 0.5).floor();
    let number = before as i32 - first;
    match usize::try_from(number) {
        Ok(number) if number < (end - first) as usize => (number, place - 0.5 - before),
        Ok(_) => ((end - first - 1).max(0) as usize, 0.0),
        Err(_) => (0, 0.0),
    }
}

/// From one row to another.
#[multiversion(targets("x86_64+avx512f+avx512vl", "x86_64+avx2+fma", "aarch64+neon"))]
fn mix_rows(above: &[f32], below: &[f32], share: f32, out: &mut [f32]) {
    for ((out, above), below) in out.iter_mut().zip(above).zip(below) {
        *out = above + (below - above) * share;
    }
}
