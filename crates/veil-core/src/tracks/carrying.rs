//! What carries places along with a track.

use veil_pixels::warp::mesh::Places;
use veil_pixels::warp::perspective::Homography;

/// From the places of one frame to those of another.
pub enum Carrying {
    /// As a plane goes.
    Plane(Homography),
    /// As a surface bends; beyond its lattice a place goes as the border next to it.
    Surface(Box<Places>),
}

impl Carrying {
    /// Where a place comes to lie; none where that is behind the eye, or on no surface.
    pub fn at(&self, place: [f64; 2]) -> Option<[f64; 2]> {
        match self {
            Self::Plane(by) => by.at(place),
            Self::Surface(by) => by.carried(place),
        }
    }

    /// Which place comes to lie at a place.
    pub fn back(&self, place: [f64; 2]) -> Option<[f64; 2]> {
        match self {
            Self::Plane(by) => by.inverse()?.at(place),
            Self::Surface(by) => by.back(place),
        }
    }

    /// How much wider a length about a place comes to be, in the mean of both ways along the surface.
    pub fn width_at(&self, place: [f64; 2]) -> f64 {
        let Self::Plane(by) = self else { return self.growth(place).unwrap_or(1.0) };
        by.width_at(place)
    }

    /// The root of how much area there comes to be about a place.
    fn growth(&self, [x, y]: [f64; 2]) -> Option<f64> {
        let way = |a: [f64; 2], b: [f64; 2]| {
            let (from, to) = (self.at(a)?, self.at(b)?);
            Some([to[0] - from[0], to[1] - from[1]])
        };
        let right = way([x - 0.5, y], [x + 0.5, y])?;
        let down = way([x, y - 0.5], [x, y + 0.5])?;
        Some((right[0] * down[1] - right[1] * down[0]).abs().sqrt())
    }
}
