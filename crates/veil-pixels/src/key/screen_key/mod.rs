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

mod before;
mod figure;
mod moments;
mod places;
mod screen;
mod unmix;

use crate::{Cancel, Cancelled, Field, Rgba};
use before::{colour, dot, less};

pub use before::{Before, Screen};
pub use figure::{Despill, figure};
pub use places::{Noise, Places, cleaned};
pub use screen::fitted;
pub use unmix::{Edges, unmixed};

/// How a colour is told from the screen's.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Method {
    /// By the screen's channel against the others.
    Difference,
    /// By how far the colour lies from the screen's; full from this share of the screen's brightness on.
    Distance(f32),
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
