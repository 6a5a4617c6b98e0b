//! A figure taken off a green or blue screen.
//!
//! - Shape: scene-linear pictures and coverage fields over one window.
//! - Model: what is seen is `α · figure + (1 − α) · screen`, which holds for light, so it is undone in light. One frame
//!   does not say both α and the figure's colour (Smith and Blinn, "Blue Screen Matting", 1996), so each step adds what is
//!   likely, and no more of it than what is seen allows.
//! - The screen's colour may change over the frame: it is given for every pixel, from a picture of the screen alone or
//!   [`fitted`] to what is surely screen.
//! - Colour difference: how much the screen's channel lies above the larger of the other two, as a share of what it does
//!   in the screen. Source: Vlahos, US patent 4,100,569, 1978; exact for figures whose two are alike.
//! - Colour distance: how far a colour lies from the screen's at its brightness.
//! - [`Places`]: how far each pixel is from screen and figure, and with it where an edge can be at all.
//! - [`unmixed`]: the coverage along edges, by what the figure looks like near each place.
//! - [`figure`]: the figure's own light.

mod figure;
mod moments;
mod places;
mod screen;
mod unmix;

use crate::{Cancel, Cancelled, Field, Picture, Raster, Rgba};

pub use figure::{Despill, figure};
pub use places::{Noise, Places, cleaned};
pub use screen::fitted;
pub use unmix::{Edges, unmixed};

/// The colour of a screen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Screen {
    /// Green.
    #[default]
    Green,
    /// Blue.
    Blue,
}

impl Screen {
    const fn channel(self) -> usize {
        match self {
            Self::Green => 1,
            Self::Blue => 2,
        }
    }

    /// The screen's channel and the two others.
    fn apart(self, [r, g, b, _]: Rgba) -> (f32, f32, f32) {
        match self {
            Self::Green => (g, r, b),
            Self::Blue => (b, r, g),
        }
    }

    /// How far the screen's channel lies above the larger of the other two.
    pub fn excess(self, colour: Rgba) -> f32 {
        let (own, a, b) = self.apart(colour);
        own - if a > b { a } else { b }
    }

    /// How far it lies above something from the larger of the other two, at 0, to their mean, at 1.
    fn above(self, colour: Rgba, to_mean: f32) -> f32 {
        let (own, a, b) = self.apart(colour);
        own - (a.max(b) - (a - b).abs() / 2.0 * to_mean)
    }
}

/// How a colour is told from the screen's.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Method {
    /// By the screen's channel against the others.
    Difference,
    /// By how far the colour lies from the screen's; full from this share of the screen's brightness on.
    Distance(f32),
}

fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn colour([r, g, b, _]: Rgba) -> [f32; 3] {
    [r, g, b]
}

fn less(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    std::array::from_fn(|axis| a[axis] - b[axis])
}

/// From 0 at `from` to 1 at `to`, level at both.
fn eased(value: f32, from: f32, to: f32) -> f32 {
    let share = ((value - from) / (to - from)).clamp(0.0, 1.0);
    share * share * (3.0 - 2.0 * share)
}

/// A picture before a screen.
#[derive(Clone, Copy)]
pub struct Before<'a> {
    /// What is seen.
    pub picture: &'a Picture,
    /// The screen's colour at every pixel, over the same window.
    pub behind: &'a Picture,
    /// Which colour that is.
    pub screen: Screen,
}

/// The coverage by how much of the screen's excess is seen.
fn by_difference(screen: Screen, seen: Rgba, behind: Rgba) -> f32 {
    let whole = screen.excess(behind);
    if whole <= 0.0 { 1.0 } else { (1.0 - screen.excess(seen) / whole).clamp(0.0, 1.0) }
}

/// The coverage by how far a colour is off the screen's at its own brightness.
fn by_distance(reach: f32, seen: Rgba, behind: Rgba) -> f32 {
    let (seen, behind) = (colour(seen), colour(behind));
    let strength = dot(behind, behind);
    if strength <= 0.0 || reach <= 0.0 {
        return 1.0;
    }
    let along = dot(seen, behind) / strength;
    let off = less(seen, behind.map(|value| value * along));
    (dot(off, off).sqrt() / (strength.sqrt() * reach)).clamp(0.0, 1.0)
}

/// The coverage of a figure, by each pixel alone.
pub fn matte(before: Before<'_>, method: Method, cancel: &Cancel) -> Result<Field, Cancelled> {
    match (method, before.screen) {
        (Method::Difference, Screen::Green) => {
            before.each(cancel, |seen, behind| by_difference(Screen::Green, seen, behind))
        }
        (Method::Difference, Screen::Blue) => {
            before.each(cancel, |seen, behind| by_difference(Screen::Blue, seen, behind))
        }
        (Method::Distance(reach), _) => before.each(cancel, |seen, behind| by_distance(reach, seen, behind)),
    }
}

impl Before<'_> {
    /// A field from each pixel and what is behind it.
    fn each(&self, cancel: &Cancel, f: impl Fn(Rgba, Rgba) -> f32 + Sync) -> Result<Field, Cancelled> {
        Raster::written(self.picture.window(), cancel, |y, row| {
            for ((seen, behind), out) in self.picture.row(y).iter().zip(self.behind.row(y)).zip(row) {
                *out = f(*seen, *behind);
            }
        })
    }
}
