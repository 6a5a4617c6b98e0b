//! A signal read between its pixels.
//!
//! - Units: places in pixels of the raster, pixel centres at halves.
//! - Filters: [`Filter::Nearest`]; [`Filter::Linear`], two taps an axis; [`Filter::Cubic`], four.
//! - Edges: a tap outside the data window is read as the [`Edge`] says.
//! - Source of the cubic: Keys, "Cubic Convolution Interpolation for Digital Image Processing",
//!   1981, with a = −1/2 (the Catmull-Rom spline).

use crate::raster::Pixel;
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
    data: Window,
    edge: Edge,
}

impl<'a, P: Pixel> Sampler<'a, P> {
    /// `data` is where the signal exists; what lies in it but not in `source` reads as zero.
    pub fn new(source: &'a Raster<P>, data: Window, edge: Edge) -> Self {
        Self { source, data, edge }
    }

    /// The value at a place. A place that is not a number reads as zero.
    #[inline(always)]
    pub fn at(&self, filter: Filter, x: f32, y: f32) -> P {
        match filter {
            Filter::Nearest => self.pixel(whole(x), whole(y)),
            Filter::Linear => self.taps(x, y, |t| [1.0 - t, t]),
            Filter::Cubic => self.taps(x, y, cubic_weights),
        }
    }

    #[inline(always)]
    fn taps<const N: usize>(&self, x: f32, y: f32, weights: impl Fn(f32) -> [f32; N]) -> P {
        let (left, top) = (x - 0.5, y - 0.5);
        let (column, row) = (whole(left), whole(top));
        let weights_x = weights(left - column as f32);
        let weights_y = weights(top - row as f32);
        let first_x = column.saturating_sub(N as i32 / 2 - 1);
        let first_y = row.saturating_sub(N as i32 / 2 - 1);
        let window = self.source.window();
        let inside = first_x >= window.x0
            && first_y >= window.y0
            && first_x < window.x1 - N as i32 + 1
            && first_y < window.y1 - N as i32 + 1;
        let mut sum = P::default();
        if inside {
            let width = window.width();
            let start = (first_y - window.y0) as usize * width + (first_x - window.x0) as usize;
            for (line, weight_y) in weights_y.into_iter().enumerate() {
                let taps = &self.source.pixels()[start + line * width..][..N];
                let across = across(taps, &weights_x);
                sum = sum.plus(across, weight_y);
            }
        } else {
            for (line, weight_y) in weights_y.into_iter().enumerate() {
                let taps: [P; N] = std::array::from_fn(|column| {
                    self.pixel(first_x.saturating_add(column as i32), first_y.saturating_add(line as i32))
                });
                sum = sum.plus(across(&taps, &weights_x), weight_y);
            }
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

#[inline(always)]
fn across<P: Pixel, const N: usize>(taps: &[P], weights: &[f32; N]) -> P {
    taps.iter().zip(weights).fold(P::default(), |sum, (tap, weight)| sum.plus(*tap, *weight))
}

/// The whole number below, saturating far outside any window.
#[inline(always)]
fn whole(place: f32) -> i32 {
    const FAR: f32 = 1.0e9;
    let cut = place as i32;
    if !(-FAR..FAR).contains(&place) {
        return if place > 0.0 { FAR as i32 } else { -(FAR as i32) };
    }
    cut - i32::from((cut as f32) > place)
}

#[inline(always)]
fn cubic_weights(t: f32) -> [f32; 4] {
    let (t2, t3) = (t * t, t * t * t);
    [
        0.5 * (-t3 + 2.0 * t2 - t),
        0.5 * (3.0 * t3 - 5.0 * t2 + 2.0),
        0.5 * (-3.0 * t3 + 4.0 * t2 + t),
        0.5 * (t3 - t2),
    ]
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
