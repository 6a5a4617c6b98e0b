//! A signal read between its pixels.
//!
//! - Units: places in pixels of the raster, pixel centres at halves.
//! - Filters: [`Filter::Nearest`]; [`Filter::Linear`], two taps an axis; [`Filter::Cubic`], four.
//! - Edges: a tap outside the data window is read as the [`Edge`] says.
//! - Source of the cubic: Keys, "Cubic Convolution Interpolation for Digital Image Processing",
//!   1981, with a = −1/2 (the Catmull-Rom spline).

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
        let room = |length: i32| length.saturating_sub(N as i32 - 1).max(0) as u32;
        let inside = (right as u32) < room(self.window.x1.wrapping_sub(self.window.x0))
            && (down as u32) < room(self.window.y1.wrapping_sub(self.window.y0));
        if !inside {
            return Err(Taps { first, weights });
        }
        let start = down as usize * self.width + right as usize;
        let mut sum = P::Wide::default();
        for (line, weight) in weights[1].into_iter().enumerate() {
            let taps = &self.pixels[start + line * self.width..][..N];
            sum = sum.plus(across(taps, &weights[0]), weight);
        }
        Ok(sum)
    }

    /// Taps of which some lie outside the raster.
    #[cold]
    #[inline(never)]
    fn beyond<const N: usize>(&self, Taps { first, weights }: Taps<N>) -> P::Wide {
        let mut sum = P::Wide::default();
        for (line, weight) in weights[1].into_iter().enumerate() {
            let taps: [P; N] = std::array::from_fn(|column| {
                self.pixel(first[0].saturating_add(column as i32), first[1].saturating_add(line as i32))
            });
            sum = sum.plus(across(&taps, &weights[0]), weight);
        }
        sum
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
    let weighed = taps.iter().zip(weights);
    weighed.fold(P::Wide::default(), |sum, (tap, weight)| sum.plus(tap.widen(), *weight))
}

#[inline(always)]
fn linear_weights(t: f32) -> [f32; 2] {
    [1.0 - t, t]
}

/// One, unless the place is no number.
#[inline(always)]
fn nearest_weights(t: f32) -> [f32; 1] {
    [1.0 + 0.0 * t]
}

/// Keys' cubic at the four taps, as four polynomials of the distance beyond the second.
#[inline(always)]
fn cubic_weights(t: f32) -> [f32; 4] {
    const CUBE: [f32; 4] = [-0.5, 1.5, -1.5, 0.5];
    const SQUARE: [f32; 4] = [1.0, -2.5, 2.0, -0.5];
    const RISE: [f32; 4] = [-0.5, 0.0, 0.5, 0.0];
    const LEVEL: [f32; 4] = [0.0, 1.0, 0.0, 0.0];
    std::array::from_fn(|tap| ((CUBE[tap] * t + SQUARE[tap]) * t + RISE[tap]) * t + LEVEL[tap])
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
