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

#[cfg(test)]
mod tests {
    use super::*;

    fn bulge(law: BulgeLaw, strength: f32) -> Bulge {
        Bulge { centre: [50.0, 40.0], radii: [40.0, 30.0], strength, law }
    }

    const LAWS: [BulgeLaw; 5] = [
        BulgeLaw::Swell,
        BulgeLaw::Equidistant,
        BulgeLaw::Equisolid,
        BulgeLaw::Stereographic,
        BulgeLaw::Orthographic,
    ];

    /// Common practice: a bulge of strength 0 changes nothing.
    #[test]
    fn strength_nought_moves_nothing_and_none_folds() {
        for law in LAWS {
            let window = Window::sized(100, 80);
            let still = bulge(law, 0.0).over(window, &Cancel::new()).unwrap();
            assert!(still.pixels().iter().all(|moved| *moved == [0.0; 2]));
            for strength in [-1.0, -0.4, 0.3, 1.0] {
                let bulge = bulge(law, strength);
                let shares: Vec<f32> = (0..=1000).map(|step| bulge.from(step as f32 / 1000.0)).collect();
                assert!(shares.windows(2).all(|pair| pair[1] > pair[0] - 1e-6), "{law:?} {strength}");
                assert!(shares[0].abs() < 1e-6 && (shares[1000] - 1.0).abs() < 1e-5);
                assert_eq!(shares[500] < 0.5, strength > 0.0, "{law:?} {strength}: the middle grows above 0");
            }
        }
    }

    /// Kannala and Brandt 2006, equations 2 to 5, at 50°: θ = 0.8727, 2 sin 25° = 0.8452, 2 tan 25° = 0.9326, sin 50° = 0.7660.
    #[test]
    fn each_law_shows_an_angle_where_the_source_says_and_reads_it_from_the_plane() {
        let fifty = 50.0f32.to_radians();
        let listed = [(1, 0.872_7), (2, 0.845_2), (3, 0.932_6), (4, 0.766_0)];
        for (law, wanted) in listed {
            assert!((LAWS[law].shows(fifty) - wanted).abs() < 1e-4, "{:?}", LAWS[law]);
            // Strength 1 shows out to 80°: 50° is seen at this share of the rim, and stands at tan 50° of the plane.
            let share = LAWS[law].shows(fifty) / LAWS[law].shows(80.0f32.to_radians());
            let from = bulge(LAWS[law], 1.0).from(share);
            assert!((from - fifty.tan() / 80.0f32.to_radians().tan()).abs() < 1e-4);
            let undone = bulge(LAWS[law], -1.0).from(from);
            assert!((undone - share).abs() < 1e-4);
        }
    }

    /// By hand: at r = 0.5 and strength 0.8 the share is 0.5·(1 − 0.8·0.5625) = 0.275, so the pixel 20 to the right of the
    /// centre is read from 11.
    #[test]
    fn a_pixel_is_read_from_nearer_the_centre() {
        let map = bulge(BulgeLaw::Swell, 0.8).over(Window::new(69, 39, 71, 40), &Cancel::new()).unwrap();
        let [x, _] = map.get(69, 39).unwrap();
        assert!((x - 9.0).abs() < 0.3, "{x}");
        assert!((bulge(BulgeLaw::Swell, 0.8).from(0.5) - 0.275).abs() < 1e-6);
    }
}
