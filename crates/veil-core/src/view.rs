//! From a signal to bytes for the eye. Nothing here touches the signal.

use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use veil_pixels::colour::space::{BT709, Curve, Space};
use veil_pixels::colour::{self, ScreenBytes};
use veil_pixels::{Move, Rgba};

use crate::colour::Working;
use crate::signal::Pixels;

/// Which part of a signal is looked at.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Look {
    /// All of it: a picture's colour, a field as grey, a map as a colour wheel.
    #[default]
    Colour,
    /// One channel as grey; of a map, red is x and green is y, grey where nothing moves.
    Red,
    /// See red.
    Green,
    /// See red.
    Blue,
    /// Coverage as grey.
    Alpha,
    /// Luma as grey.
    Luma,
}

/// How a signal is looked at.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct View {
    /// Which part.
    pub look: Look,
    /// In stops; raises what is dark, for looking only.
    pub exposure: f32,
    /// On which screen.
    pub screen: Screen,
    /// What the colours of pictures are.
    pub working: Working,
}

/// What light becomes on its way to the eye.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Screen {
    /// The sRGB curve.
    #[default]
    Srgb,
    /// A power of 2.4, as a screen of a grading room.
    Bt1886,
    /// A power of 2.2.
    Gamma22,
    /// Light as it is; for data.
    Straight,
}

/// The tables of every screen.
pub struct Screens([ScreenBytes; 4]);

impl Screens {
    /// Makes them.
    #[expect(clippy::new_without_default, reason = "making tables is work, not a default")]
    pub fn new() -> Self {
        Self([Curve::Srgb, Curve::Bt1886, Curve::Gamma22, Curve::Linear].map(ScreenBytes::new))
    }

    const fn of(&self, screen: Screen) -> &ScreenBytes {
        &self.0[screen as usize]
    }
}

/// A move of this many pixels is shown at full brightness on the colour wheel.
pub const WHEEL_REACH: f32 = 8.0;

/// Opaque RGBA bytes, row by row, through the screen's transform. Fields and single channels go
/// through it too, so that a value of 0.5 looks the same in either.
pub fn bytes(pixels: &Pixels, view: View, screens: &Screens) -> Vec<u8> {
    let (light, table) = (view.exposure.exp2(), screens.of(view.screen));
    match pixels {
        Pixels::Picture(raster) => {
            let luma = view.working.luma();
            let seen = |pixel: &Rgba| seen_picture(*pixel, view.look, light, luma);
            if view.working.is_usual() || view.look != Look::Colour {
                return shown(raster.pixels(), seen, table);
            }
            let to_screen = view.working.space().change(Space::linear(BT709));
            shown(raster.pixels(), |pixel| to_screen(seen(pixel)), table)
        }
        Pixels::Field(raster) => shown(raster.pixels(), |value| [value * light; 3], table),
        Pixels::Map(raster) => shown(raster.pixels(), |m| seen_map(*m, view.look, light), table),
    }
}

fn shown<P: Sync>(pixels: &[P], seen: impl Fn(&P) -> [f32; 3] + Sync, table: &ScreenBytes) -> Vec<u8> {
    const AT_ONCE: usize = 1 << 14;
    let mut bytes = vec![0; pixels.len() * 4];
    bytes.par_chunks_mut(4 * AT_ONCE).zip(pixels.par_chunks(AT_ONCE)).for_each(|(out, run)| {
        for (out, pixel) in out.chunks_exact_mut(4).zip(run) {
            let [red, green, blue] = seen(pixel).map(|value| table.encode(value));
            out.copy_from_slice(&[red, green, blue, 255]);
        }
    });
    bytes
}

fn seen_picture(pixel: Rgba, look: Look, light: f32, luma: [f32; 3]) -> [f32; 3] {
    match look {
        Look::Colour => [pixel[0] * light, pixel[1] * light, pixel[2] * light],
        Look::Red => [pixel[0] * light; 3],
        Look::Green => [pixel[1] * light; 3],
        Look::Blue => [pixel[2] * light; 3],
        Look::Alpha => [pixel[3]; 3],
        Look::Luma => [colour::luma(pixel, luma) * light; 3],
    }
}

/// Direction as hue, distance as brightness; or one axis as grey about the middle.
fn seen_map([x, y]: Move, look: Look, light: f32) -> [f32; 3] {
    let axis = |value: f32| [0.18 + value / WHEEL_REACH * light * 0.18; 3];
    match look {
        Look::Red => axis(x),
        Look::Green => axis(y),
        _ => {
            let distance = (x.hypot(y) / WHEEL_REACH * light).min(1.0);
            let turn = (-y).atan2(x);
            let third = std::f32::consts::TAU / 3.0;
            let channel = |at: f32| (0.5 + 0.5 * (turn - at).cos()).powi(2) * distance;
            [channel(0.0), channel(third), channel(2.0 * third)]
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use veil_pixels::{Raster, Window};

    #[test]
    fn one_stop_brightens_what_is_seen_and_a_channel_shows_alone() {
        let screens = Screens::new();
        let picture = Pixels::Picture(Raster::flat(Window::sized(1, 1), [0.25, 0.5, 0.0, 1.0]));
        let see = |look, exposure| bytes(&picture, View { look, exposure, ..View::default() }, &screens);
        // IEC 61966-2-1: 0.25 is byte 137, 0.5 is byte 188.
        assert_eq!(see(Look::Colour, 0.0), [137, 188, 0, 255]);
        assert_eq!(see(Look::Red, 1.0), [188, 188, 188, 255]);
        assert_eq!(see(Look::Alpha, 3.0), [255, 255, 255, 255]);
    }
}
