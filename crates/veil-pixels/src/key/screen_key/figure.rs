//! The figure's own light.

use crate::{Cancel, Cancelled, Field, Picture, Raster, Rgba};

use super::before::Before;
use super::places::Places;

/// What becomes of the screen's light on the figure.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Despill {
    /// How much of it is taken off, 0–1.
    pub amount: f32,
    /// How much of the light taken off comes back, in the colour that takes its place, 0–1.
    pub back: f32,
    /// How far along the edge all that lies above the mean of the other two channels counts as the screen's, not only what
    /// lies above the larger of them, 0–1. What is warm and blurred by its motion would be left as green as it is red.
    pub tight: f32,
    /// How far that reaches into the figure, in pixels; over as much again it fades.
    pub width: f32,
}

/// The figure alone, premultiplied by its coverage. `toward` gives the colour that takes the place of the screen's light.
/// What `held` covers is the figure's own, green as it may be, and keeps all its light.
pub fn figure(
    before: Before<'_>,
    matte: &Field,
    places: &Places,
    despill: Despill,
    held: Option<&Field>,
    toward: impl Fn(i32, i32) -> [f32; 3] + Sync,
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    let Before { picture, behind, screen } = before;
    let window = picture.window();
    let width = despill.width.max(1.0);
    Raster::written(window, cancel, |y, row| {
        let colours = picture.row(y).iter().zip(behind.row(y));
        let edge = matte.row(y).iter().zip(places.distances.row(y));
        for (x, ((seen, behind), ((alpha, places), out))) in (window.x0..).zip(colours.zip(edge.zip(row))) {
            if *alpha <= 0.0 {
                *out = [0.0; 4];
                continue;
            }
            let edge = (2.0 - places[1] / width).clamp(0.0, 1.0);
            // Of a plate that is cut out itself, only what it covers shows the screen.
            let screens = (seen[3].clamp(0.0, 1.0) - alpha).max(0.0);
            let mut own: Rgba = std::array::from_fn(|at| (seen[at] - screens * behind[at]).max(0.0));
            own[3] = *alpha;
            let held = held.and_then(|held| held.get(x, y)).unwrap_or(0.0).clamp(0.0, 1.0);
            let spill = screen.above(own, edge * despill.tight).max(0.0) * despill.amount * (1.0 - held);
            own[screen.channel()] -= spill;
            let light = toward(x, y);
            for (channel, light) in light.into_iter().enumerate() {
                own[channel] += spill * despill.back * light;
            }
            *out = own;
        }
    })
}
