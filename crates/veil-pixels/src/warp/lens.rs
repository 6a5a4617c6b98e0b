//! The bend of a lens, put on or taken off.
//!
//! - Shape: moves for each pixel.
//! - Units: the centre and the focal length in pixels of the raster; the coefficients have none.
//! - A place `(x, y)` of the straight picture, from the centre in focal lengths, is shown by the lens at
//!   `x·(1 + k1·r² + k2·r⁴ + k3·r⁶) + 2·p1·x·y + p2·(r² + 2x²)`, and alike for y with p1 and p2 changing places. Here y
//!   runs down, as in pictures.
//! - Range: where the formula folds the picture back on itself, places that no straight one is shown at are read from far
//!   outside.
//! - Sources: Brown, "Decentering Distortion of Lenses", 1966, and "Close-Range Camera Calibration", 1971; the letters are
//!   those of OpenCV's documentation of its camera model.

use crate::{Cancel, Cancelled, Map, Raster, Window};

/// A lens.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Lens {
    /// Where its axis meets the picture.
    pub centre: [f64; 2],
    /// Its focal length; at 0 nothing moves.
    pub focal: f64,
    /// k1, k2 and k3.
    pub radial: [f64; 3],
    /// p1 and p2.
    pub tangential: [f64; 2],
}

/// Whether a straight picture is bent, or a bent one made straight.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum LensWay {
    /// As if taken through the lens.
    #[default]
    On,
    /// As if taken without it.
    Off,
}

/// The way back is worked out to this many focal lengths.
const CLOSE: f64 = 1e-9;
const MOST_STEPS: usize = 20;
/// So many pixels away nothing is left of any picture.
pub const FAR: f32 = 65_536.0;

impl Lens {
    /// Where a straight place is shown, both in focal lengths, with how that changes along x and along y.
    fn shown(&self, [x, y]: [f64; 2]) -> ([f64; 2], [[f64; 2]; 2]) {
        let ([k1, k2, k3], [p1, p2]) = (self.radial, self.tangential);
        let r2 = x * x + y * y;
        let radial = 1.0 + r2 * (k1 + r2 * (k2 + r2 * k3));
        // How the factor grows with r².
        let grows = k1 + r2 * (2.0 * k2 + 3.0 * r2 * k3);
        let place = [
            x * radial + 2.0 * p1 * x * y + p2 * (r2 + 2.0 * x * x),
            y * radial + p1 * (r2 + 2.0 * y * y) + 2.0 * p2 * x * y,
        ];
        let mixed = 2.0 * x * y * grows + 2.0 * p1 * x + 2.0 * p2 * y;
        let slopes = [
            [radial + 2.0 * x * x * grows + 2.0 * p1 * y + 6.0 * p2 * x, mixed],
            [mixed, radial + 2.0 * y * y * grows + 6.0 * p1 * y + 2.0 * p2 * x],
        ];
        (place, slopes)
    }

    /// The straight place that is shown at a place, by Newton's steps from there; none where there is none.
    fn straightened(&self, wanted: [f64; 2]) -> Option<[f64; 2]> {
        let mut place = wanted;
        for _ in 0..MOST_STEPS {
            let (shown, [[a, b], [c, d]]) = self.shown(place);
            let off = [shown[0] - wanted[0], shown[1] - wanted[1]];
            let whole = a * d - b * c;
            // Beyond the fold the picture is turned inside out.
            if whole <= 0.0 {
                return None;
            }
            place =
                [place[0] - (d * off[0] - b * off[1]) / whole, place[1] - (a * off[1] - c * off[0]) / whole];
            if off[0].abs().max(off[1].abs()) < CLOSE {
                return Some(place);
            }
        }
        None
    }

    fn in_focal_lengths(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        [(x - self.centre[0]) / self.focal, (y - self.centre[1]) / self.focal]
    }

    /// Where the lens shows a place of the straight picture, in pixels.
    pub fn bent(&self, place: [f64; 2]) -> [f64; 2] {
        let ([x, y], _) = self.shown(self.in_focal_lengths(place));
        [x * self.focal + self.centre[0], y * self.focal + self.centre[1]]
    }

    /// The place of the straight picture that the lens shows at a place, in pixels; none where there is none.
    pub fn straight(&self, place: [f64; 2]) -> Option<[f64; 2]> {
        let [x, y] = self.straightened(self.in_focal_lengths(place))?;
        Some([x * self.focal + self.centre[0], y * self.focal + self.centre[1]])
    }

    /// From where a pixel is read.
    fn from(&self, way: LensWay, place: [f64; 2]) -> Option<[f64; 2]> {
        match way {
            LensWay::Off => Some(self.bent(place)),
            LensWay::On => self.straight(place),
        }
    }

    /// The moves over a window.
    pub fn over(&self, way: LensWay, window: Window, cancel: &Cancel) -> Result<Map, Cancelled> {
        let nothing = self.focal <= 0.0 || self.radial.iter().chain(&self.tangential).all(|k| *k == 0.0);
        Raster::written(window, cancel, |y, row| {
            for (x, out) in (window.x0..).zip(row) {
                let here = [f64::from(x) + 0.5, f64::from(y) + 0.5];
                *out = match self.from(way, here) {
                    _ if nothing => [0.0; 2],
                    Some(from) => [0, 1].map(|axis| ((here[axis] - from[axis]) as f32).clamp(-FAR, FAR)),
                    None => [FAR; 2],
                };
            }
        })
    }
}
