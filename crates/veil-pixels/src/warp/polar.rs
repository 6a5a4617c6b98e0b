//! Straight pictures wound round a centre, and unwound.
//!
//! - Shape: any pixel; the result covers the window asked for.
//! - Units: the centre and the radius in pixels of the raster; the angle that the left border lies at in radians, counter-
//!   clockwise as seen.
//! - Wound: the frame's columns become rays, from the left border counter-clockwise once round; its lower border becomes the
//!   centre and its upper one the circle of the radius, so that level lines become rings. Unwound is the way back.
//! - Reading: the share of the other picture that a pixel stands for is a piece of a ring, or a sector; as many places of it
//!   are averaged as it is pixels long and high, up to a bound along each side. Only about the centre are there many.
//! - Edges: round the circle the picture repeats; beyond the radius, or beyond the border when it is unwound, as the
//!   [`Edge`] says.

use crate::buffer::raster::{Pixel, Wide};
use crate::sample::resample::{Filter, Sampler};
use crate::{Cancel, Cancelled, Edge, Raster, Window};

/// No more places are read round and outward of a pixel's share, wound and unwound.
const MOST_WOUND: [usize; 2] = [64, 12];
const MOST_UNWOUND: [usize; 2] = [12, 8];

/// Which way.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum PolarWay {
    /// Level lines become rings.
    #[default]
    Wound,
    /// Rings become level lines.
    Unwound,
}

/// A picture wound round a centre.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Polar {
    /// The straight picture's frame.
    pub frame: Window,
    /// What it is wound round.
    pub centre: [f32; 2],
    /// Where its upper border comes to lie.
    pub radius: f32,
    /// Where its left and right border meet.
    pub seam: f32,
}

/// The part of the straight picture that is read for a pixel: its middle and its size, in turns and radii.
struct Part {
    turn: f32,
    out: f32,
    size: [f32; 2],
}

impl Part {
    /// The middles of so many parts of it by so many.
    fn middles(&self, [along, across]: [usize; 2]) -> impl Iterator<Item = [f32; 2]> {
        let step = [self.size[0] / along as f32, self.size[1] / across as f32];
        let first = [self.turn - self.size[0] / 2.0, self.out - self.size[1] / 2.0];
        (0..across).flat_map(move |j| {
            (0..along)
                .map(move |i| [first[0] + (i as f32 + 0.5) * step[0], first[1] + (j as f32 + 0.5) * step[1]])
        })
    }
}

/// How many places a share of so many pixels round and outward is read at.
fn places(pixels: [f32; 2], most: [usize; 2]) -> [usize; 2] {
    [0, 1].map(|side| (pixels[side].ceil() as usize).clamp(1, most[side]))
}

impl Polar {
    fn size(&self) -> [f32; 2] {
        [self.frame.width() as f32, self.frame.height() as f32]
    }

    /// The result over a window; `source` holds the signal within `data`.
    pub fn apply<P: Pixel>(
        &self,
        way: PolarWay,
        edge: Edge,
        source: &Raster<P>,
        data: Window,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        if self.radius <= 0.0 || self.frame.is_empty() || data.is_empty() {
            return Ok(Raster::clear(wanted));
        }
        match way {
            PolarWay::Wound => {
                let straight = source.extended(self.frame, data, Edge::Clear);
                self.wound(&straight, edge, wanted, cancel)
            }
            PolarWay::Unwound => self.unwound(&Sampler::new(source, data, edge), wanted, cancel),
        }
    }

    fn wound<P: Pixel>(
        &self,
        straight: &Raster<P>,
        edge: Edge,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        // Columns go round; rows are brought back before they are read.
        let sampler = Sampler::new(straight, self.frame, Edge::Repeat);
        let [wide, high] = self.size();
        let (top, bottom) = (self.frame.y0 as f32, self.frame.y1 as f32);
        let read = |[turn, out]: [f32; 2]| {
            let x = self.frame.x0 as f32 + turn * wide;
            let y = edge.place(bottom - out * high, top, bottom, 0.0);
            y.map_or_else(P::Wide::default, |y| {
                sampler.wide_at(Filter::Linear, x, y.clamp(top + 0.5, bottom - 0.5))
            })
        };
        Raster::written(wanted, cancel, |y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            for (x, out) in (wanted.x0..).zip(row) {
                let right = x as f32 + 0.5 - self.centre[0];
                let away = right.hypot(down).max(1e-3);
                let turn = ((-down).atan2(right) - self.seam) / std::f32::consts::TAU;
                let size = [1.0 / (std::f32::consts::TAU * away).max(1.0), 1.0 / self.radius];
                let part = Part { turn, out: away / self.radius, size };
                *out = mean(&part, places([size[0] * wide, size[1] * high], MOST_WOUND), read);
            }
        })
    }

    fn unwound<P: Pixel>(
        &self,
        sampler: &Sampler<'_, P>,
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let [wide, high] = self.size();
        let read = |[turn, out]: [f32; 2]| {
            let (sin, cos) = (turn * std::f32::consts::TAU + self.seam).sin_cos();
            let away = out * self.radius;
            sampler.wide_at(Filter::Linear, self.centre[0] + away * cos, self.centre[1] - away * sin)
        };
        Raster::written(wanted, cancel, |y, row| {
            let out_here = (self.frame.y1 as f32 - (y as f32 + 0.5)) / high;
            let size = [1.0 / wide, 1.0 / high];
            let along = std::f32::consts::TAU * out_here.abs() * self.radius / wide;
            let counts = places([along, self.radius / high], MOST_UNWOUND);
            for (x, out) in (wanted.x0..).zip(row) {
                let turn = (x as f32 + 0.5 - self.frame.x0 as f32) / wide;
                *out = mean(&Part { turn, out: out_here, size }, counts, read);
            }
        })
    }
}

fn mean<P: Pixel>(part: &Part, counts: [usize; 2], read: impl Fn([f32; 2]) -> P::Wide) -> P {
    let share = 1.0 / (counts[0] * counts[1]) as f32;
    P::narrow(part.middles(counts).fold(P::Wide::default(), |sum, place| sum.plus(read(place), share)))
}
