//! A signal read between its pixels.
//!
//! - Units: places in pixels of the raster, pixel centres at halves.
//! - Filters: [`Filter::Nearest`]; [`Filter::Linear`], two taps an axis; [`Filter::Cubic`], four.
//! - Edges: a tap outside the data window is read as the [`Edge`] says.
//! - Source of the cubic: Keys, "Cubic Convolution Interpolation for Digital Image Processing",
//!   1981, with a = −1/2 (the Catmull-Rom spline).

use multiversion::multiversion;

use crate::raster::{Pixel, Wide};
use crate::{Edge, Raster, Window};

/// How a place between pixels is made of the pixels around it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Filter {
    /// The pixel that holds the place.
    Nearest,
    /// Straight between the four nearest.
    Linear,
    /// Catmull-Rom over the sixteen nearest: sharper, may overshoot an edge slightly.
    #[default]
    Cubic,
}

impl Filter {
    /// How many pixels beyond the one that holds a place are read.
    pub const fn reach(self) -> i32 {
        match self {
            Self::Nearest => 0,
            Self::Linear => 1,
            Self::Cubic => 2,
        }
    }
}

/// A raster to read at any place.
#[derive(Clone, Copy)]
pub struct Sampler<'a, P: Pixel> {
    source: &'a Raster<P>,
    window: Window,
    pixels: &'a [P],
    width: usize,
    data: Window,
    edge: Edge,
}

impl<'a, P: Pixel> Sampler<'a, P> {
    /// `data` is where the signal exists; what lies in it but not in `source` reads as zero.
    pub fn new(source: &'a Raster<P>, data: Window, edge: Edge) -> Self {
        let window = source.window();
        Self { source, window, pixels: source.pixels(), width: window.width(), data, edge }
    }

    /// The value at a place. A place that is not a number, or lies beyond all reason, reads as zero or as no number.
    #[inline(always)]
    pub fn at(&self, filter: Filter, x: f32, y: f32) -> P {
        P::narrow(self.wide_at(filter, x, y))
    }

    /// As [`Self::at`], in a register.
    #[inline(always)]
    pub(crate) fn wide_at(&self, filter: Filter, x: f32, y: f32) -> P::Wide {
        match filter {
            Filter::Nearest => {
                self.taps(x + 0.5, y + 0.5, nearest_weights).unwrap_or_else(|taps| self.beyond(taps))
            }
            Filter::Linear => self.taps(x, y, linear_weights).unwrap_or_else(|taps| self.beyond(taps)),
            Filter::Cubic => self.taps(x, y, cubic_weights).unwrap_or_else(|taps| self.beyond(taps)),
        }
    }

    /// The value at a place; `None` where the raster does not hold all that it is made of.
    #[inline(always)]
    pub(crate) fn inside(&self, filter: Filter, x: f32, y: f32) -> Option<P::Wide> {
        match filter {
            Filter::Nearest => self.taps(x + 0.5, y + 0.5, nearest_weights).ok(),
            Filter::Linear => self.taps(x, y, linear_weights).ok(),
            Filter::Cubic => self.taps(x, y, cubic_weights).ok(),
        }
    }

    /// The weighed taps, or what is to be weighed where some lie outside of the raster.
    #[inline(always)]
    fn taps<const N: usize>(
        &self,
        x: f32,
        y: f32,
        weights: impl Fn(f32) -> [f32; N],
    ) -> Result<P::Wide, Taps<N>> {
        let (column, row) = ((x - 0.5).floor(), (y - 0.5).floor());
        let weights = [weights(x - 0.5 - column), weights(y - 0.5 - row)];
        let before = (N as i32 - 1) / 2;
        // Casting saturates, so that places far away stay far away.
        let first = [(column as i32).saturating_sub(before), (row as i32).saturating_sub(before)];
        let (right, down) = (first[0].wrapping_sub(self.window.x0), first[1].wrapping_sub(self.window.y0));
        let [room_x, room_y] = self.room::<N>();
        if (right as u32) < room_x && (down as u32) < room_y {
            Ok(self.weighed(down as usize * self.width + right as usize, weights))
        } else {
            Err(Taps { first, weights })
        }
    }

    /// How many columns and rows a first tap may stand in, so that the others are in the raster too.
    #[inline(always)]
    fn room<const N: usize>(&self) -> [u32; 2] {
        let room = |length: i32| length.saturating_sub(N as i32 - 1).max(0) as u32;
        [room(self.window.x1.wrapping_sub(self.window.x0)), room(self.window.y1.wrapping_sub(self.window.y0))]
    }

    /// The taps whose first is at an index of the pixels, weighed along the rows and then down.
    #[inline(always)]
    fn weighed<const N: usize>(&self, start: usize, weights: [[f32; N]; 2]) -> P::Wide {
        let line = |number: usize| {
            let taps = &self.pixels[start + number * self.width..][..N];
            across(taps, &weights[0])
        };
        weigh(line, &weights[1])
    }

    /// The values at a run of places, which are given by axis; as [`Self::at`] gives each of them, but faster.
    pub fn read_run(&self, filter: Filter, x: &[f32], y: &[f32], out: &mut [P]) {
        let places = x.chunks(RUN).zip(y.chunks(RUN));
        for (out, (x, y)) in out.chunks_mut(RUN).zip(places) {
            match filter {
                Filter::Nearest => {
                    for (out, (x, y)) in out.iter_mut().zip(x.iter().zip(y)) {
                        *out = self.at(Filter::Nearest, *x, *y);
                    }
                }
                Filter::Linear => read_block(self, x, y, Linear, out),
                Filter::Cubic => read_block(self, x, y, Cubic, out),
            }
        }
    }

    /// Taps of which some lie outside the raster.
    #[cold]
    #[inline(never)]
    fn beyond<const N: usize>(&self, Taps { first, weights }: Taps<N>) -> P::Wide {
        let touches = |first: i32, from: i32, to: i32| first < to && first.saturating_add(N as i32) > from;
        if self.edge == Edge::Clear
            && !(touches(first[0], self.data.x0, self.data.x1)
                && touches(first[1], self.data.y0, self.data.y1))
        {
            return P::Wide::default();
        }
        let line = |number: usize| {
            let taps: [P; N] = std::array::from_fn(|column| {
                self.pixel(first[0].saturating_add(column as i32), first[1].saturating_add(number as i32))
            });
            across(&taps, &weights[0])
        };
        weigh(line, &weights[1])
    }

    fn pixel(&self, x: i32, y: i32) -> P {
        if self.data.is_empty() {
            return P::default();
        }
        let at = |edge: Edge| {
            Some((edge.index(x, self.data.x0, self.data.x1)?, edge.index(y, self.data.y0, self.data.y1)?))
        };
        at(self.edge).and_then(|(x, y)| self.source.get(x, y)).unwrap_or_default()
    }
}

/// Pixels to be weighed: the first one's place, and the weights by axis.
struct Taps<const N: usize> {
    first: [i32; 2],
    weights: [[f32; N]; 2],
}

#[inline(always)]
fn across<P: Pixel, const N: usize>(taps: &[P], weights: &[f32; N]) -> P::Wide {
    weigh(|number| taps[number].widen(), weights)
}

/// The weighed sum of what `of` gives for each number.
#[inline(always)]
fn weigh<W: Wide, const N: usize>(of: impl Fn(usize) -> W, weights: &[f32; N]) -> W {
    let first = of(0).times(weights[0]);
    weights.iter().enumerate().skip(1).fold(first, |sum, (number, weight)| sum.plus(of(number), *weight))
}

/// Places that are worked out together.
const RUN: usize = 64;

/// A filter of a known number of taps.
trait Weights<const N: usize>: Copy {
    /// Weight of one of the taps for a place `t` beyond the pixel centre before it.
    fn of_tap(self, tap: usize, t: f32) -> f32;
}

#[derive(Clone, Copy)]
struct Linear;

impl Weights<2> for Linear {
    #[inline(always)]
    fn of_tap(self, tap: usize, t: f32) -> f32 {
        linear_weight(tap, t)
    }
}

#[derive(Clone, Copy)]
struct Cubic;

impl Weights<4> for Cubic {
    #[inline(always)]
    fn of_tap(self, tap: usize, t: f32) -> f32 {
        cubic_weight(tap, t)
    }
}

/// A float without a fraction as a whole number, many at a time, which a cast is not; what lies farther out than any
/// picture reaches, or is no number, comes to lie out there too.
#[inline(always)]
fn whole(value: f32) -> i32 {
    const FAR: f32 = 4_000_000.0;
    // Adding this leaves the whole number in the low bits.
    const SHIFT: f32 = 12_582_912.0;
    let near = value.clamp(-FAR, FAR) + SHIFT;
    (near.to_bits() as i32).wrapping_sub(SHIFT.to_bits() as i32)
}

/// Up to [`RUN`] places: first where all of them are and by what they are weighed, many at a time, and then one
/// after the other. A block that reaches over the border is read place by place.
#[multiversion(targets("x86_64+avx2+fma", "x86_64+sse4.1", "aarch64+neon"))]
fn read_block<P: Pixel, W: Weights<N>, const N: usize>(
    sampler: &Sampler<'_, P>,
    x: &[f32],
    y: &[f32],
    weights: W,
    out: &mut [P],
) {
    let before = (N as i32 - 1) / 2;
    let ([room_x, room_y], window) = (sampler.room::<N>(), sampler.window);
    let (skip_x, skip_y) = (before.wrapping_add(window.x0), before.wrapping_add(window.y0));
    let width = sampler.width as u32;
    let (mut starts, mut shares, mut inside) = ([0u32; RUN], [[0.0f32; RUN]; 2], true);
    for index in 0..out.len().min(RUN) {
        let (x, y) = (x[index] - 0.5, y[index] - 0.5);
        let (column, row) = (x.floor(), y.floor());
        let right = whole(column).wrapping_sub(skip_x) as u32;
        let down = whole(row).wrapping_sub(skip_y) as u32;
        inside &= (right < room_x) & (down < room_y);
        starts[index] = down.wrapping_mul(width).wrapping_add(right);
        shares[0][index] = x - column;
        shares[1][index] = y - row;
    }
    if !inside {
        let at = |t: f32| -> [f32; N] { std::array::from_fn(|tap| weights.of_tap(tap, t)) };
        for (out, (x, y)) in out.iter_mut().zip(x.iter().zip(y)) {
            *out = P::narrow(sampler.taps(*x, *y, at).unwrap_or_else(|taps| sampler.beyond(taps)));
        }
        return;
    }
    let mut weighed = [[[0.0f32; RUN]; N]; 2];
    for (weighed, shares) in weighed.iter_mut().zip(&shares) {
        for (tap, weighed) in weighed.iter_mut().enumerate() {
            for (weight, share) in weighed.iter_mut().zip(shares) {
                *weight = weights.of_tap(tap, *share);
            }
        }
    }
    for (index, out) in out.iter_mut().enumerate().take(RUN) {
        let weights = weighed.each_ref().map(|taps| taps.each_ref().map(|weights| weights[index]));
        *out = P::narrow(sampler.weighed(starts[index] as usize, weights));
    }
}

#[inline(always)]
fn linear_weight(tap: usize, t: f32) -> f32 {
    if tap == 0 { 1.0 - t } else { t }
}

#[inline(always)]
fn linear_weights(t: f32) -> [f32; 2] {
    std::array::from_fn(|tap| linear_weight(tap, t))
}

/// One, unless the place is no number.
#[inline(always)]
fn nearest_weights(t: f32) -> [f32; 1] {
    [1.0 + 0.0 * t]
}

#[inline(always)]
fn cubic_weights(t: f32) -> [f32; 4] {
    std::array::from_fn(|tap| cubic_weight(tap, t))
}

/// Keys' cubic at one of the four taps, as a polynomial of the distance beyond the second.
#[inline(always)]
fn cubic_weight(tap: usize, t: f32) -> f32 {
    const CUBE: [f32; 4] = [-0.5, 1.5, -1.5, 0.5];
    const SQUARE: [f32; 4] = [1.0, -2.5, 2.0, -0.5];
    const RISE: [f32; 4] = [-0.5, 0.0, 0.5, 0.0];
    const LEVEL: [f32; 4] = [0.0, 1.0, 0.0, 0.0];
    ((CUBE[tap] * t + SQUARE[tap]) * t + RISE[tap]) * t + LEVEL[tap]
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ramp(data: Window) -> Raster<f32> {
        Raster::from_fn(data, |x, y| 3.0 * (x as f32 + 0.5) - 2.0 * (y as f32 + 0.5))
    }

    /// Keys 1981: the weights sum to 1 and a linear ramp is reproduced.
    #[test]
    fn a_ramp_read_between_pixels_is_the_ramp() {
        let data = Window::sized(16, 16);
        let ramp = ramp(data);
        let sampler = Sampler::new(&ramp, data, Edge::Hold);
        for filter in [Filter::Linear, Filter::Cubic] {
            for step in 0..50 {
                let (x, y) = (4.0 + 0.13 * step as f32, 5.0 + 0.07 * step as f32);
                let got = sampler.at(filter, x, y);
                assert!((got - (3.0 * x - 2.0 * y)).abs() < 1e-4, "{filter:?} at {x}, {y}: {got}");
            }
        }
    }

    #[test]
    fn a_pixel_centre_reads_that_pixel_exactly() {
        let data = Window::new(-3, -3, 9, 9);
        let noisy = Raster::from_fn(data, |x, y| ((x * 31 + y * 17).rem_euclid(97)) as f32 / 7.0);
        let sampler = Sampler::new(&noisy, data, Edge::Mirror);
        for filter in [Filter::Nearest, Filter::Linear, Filter::Cubic] {
            for (x, y) in [(-3, -3), (0, 0), (8, 8), (4, -1)] {
                assert_eq!(Some(sampler.at(filter, x as f32 + 0.5, y as f32 + 0.5)), noisy.get(x, y));
            }
        }
    }

    #[test]
    fn places_that_are_no_place_read_without_a_crash() {
        let data = Window::sized(4, 4);
        let flat = Raster::flat(data, 1.0f32);
        let sampler = Sampler::new(&flat, data, Edge::Clear);
        for place in [f32::NAN, f32::INFINITY, -1e30, 3e9] {
            for filter in [Filter::Nearest, Filter::Linear, Filter::Cubic] {
                let got = sampler.at(filter, place, 1.5);
                assert!(got == 0.0 || got.is_nan(), "{got}");
            }
        }
    }
}
