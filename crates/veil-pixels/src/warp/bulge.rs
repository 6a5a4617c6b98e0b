//! A swelling, a pinch, or a fisheye's view, within an ellipse.
//!
//! - Shape: moves for each pixel.
//! - Units: the centre and the two radii in pixels of the raster; the strength −1 to 1, 0 changes nothing.
//! - A pixel at a share `r` of the way from the centre to the rim takes its colour from the share `f(r)`. Beyond the rim,
//!   and at the rim itself, nothing moves.
//! - Swelling: `f(r) = r·(1 − s·(1 − r²)²)`, whose slope is that of the plane at the rim; it never folds for |s| ≤ 1.
//! - Fisheye: the plane seen straight, `r = f·tan θ`, is shown as by a lens of another law, out to the angle `s·80°`:
//!   equidistant `r = f·θ`, equisolid `r = 2f·sin(θ/2)`, stereographic `r = 2f·tan(θ/2)`, orthographic `r = f·sin θ`.
//!   Below 0 it is undone. Source: Kannala and Brandt, "A Generic Camera Model and Calibration Method for Conventional,
//!   Wide-Angle, and Fish-Eye Lenses", 2006, equations 1 to 5.

use crate::{Cancel, Cancelled, Map, Raster, Window};

/// How what is within the rim is bent.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum BulgeLaw {
    /// As on a soft hill, without an edge at the rim.
    #[default]
    Swell,
    /// By the angle.
    Equidistant,
    /// By the solid angle.
    Equisolid,
    /// Shapes kept.
    Stereographic,
    /// As from very far.
    Orthographic,
}

/// The widest angle from the middle to the rim, at full strength.
const WIDEST: f32 = 80.0;

impl BulgeLaw {
    /// How far out a lens of focal length 1 shows an angle.
    pub fn shows(self, angle: f32) -> f32 {
        match self {
            Self::Swell => angle.tan(),
            Self::Equidistant => angle,
            Self::Equisolid => 2.0 * (angle / 2.0).sin(),
            Self::Stereographic => 2.0 * (angle / 2.0).tan(),
            Self::Orthographic => angle.sin(),
        }
    }

    /// The angle that is shown so far out.
    fn seen(self, out: f32) -> f32 {
        match self {
            Self::Swell => out.atan(),
            Self::Equidistant => out,
            Self::Equisolid => 2.0 * (out / 2.0).clamp(-1.0, 1.0).asin(),
            Self::Stereographic => 2.0 * (out / 2.0).atan(),
            Self::Orthographic => out.clamp(-1.0, 1.0).asin(),
        }
    }
}

/// An ellipse within which the picture swells.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Bulge {
    /// Its centre.
    pub centre: [f32; 2],
    /// Half its width and half its height; where either is 0 nothing moves.
    pub radii: [f32; 2],
    /// −1 to 1: above 0 the middle grows, below it shrinks.
    pub strength: f32,
    /// How.
    pub law: BulgeLaw,
}

impl Bulge {
    /// From which share of the way to the rim a place at the share `r` is read.
    pub fn from(&self, r: f32) -> f32 {
        let strength = self.strength.clamp(-1.0, 1.0);
        if strength == 0.0 || r >= 1.0 {
            return r;
        }
        if self.law == BulgeLaw::Swell {
            let hill = 1.0 - r * r;
            return r * (1.0 - strength * hill * hill);
        }
        let widest = strength.abs() * WIDEST.to_radians();
        let (rim, plane) = (self.law.shows(widest), widest.tan());
        if strength > 0.0 {
            self.law.seen(r * rim).tan() / plane
        } else {
            self.law.shows((r * plane).atan()) / rim
        }
    }

    /// The moves over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Map, Cancelled> {
        let [a, b] = self.radii;
        let nothing = self.strength == 0.0 || a <= 0.0 || b <= 0.0;
        Raster::written(window, cancel, |y, row| {
            let down = y as f32 + 0.5 - self.centre[1];
            for (x, out) in (window.x0..).zip(row) {
                let right = x as f32 + 0.5 - self.centre[0];
                let r = if nothing { 1.0 } else { (right / a).hypot(down / b) };
                *out = if r < 1.0 {
                    let kept = if r > 0.0 { self.from(r) / r } else { 1.0 };
                    [right * (1.0 - kept), down * (1.0 - kept)]
                } else {
                    [0.0; 2]
                };
            }
        })
    }

    /// Outside of it nothing moves.
    pub fn window(&self) -> Window {
        let whole = |value: f32| value.clamp(-1.0e9, 1.0e9) as i32;
        let ([x, y], [a, b]) = (self.centre, self.radii.map(|radius| radius.max(0.0)));
        Window::new(
            whole((x - a).floor()),
            whole((y - b).floor()),
            whole((x + a).ceil()),
            whole((y + b).ceil()),
        )
    }
}
