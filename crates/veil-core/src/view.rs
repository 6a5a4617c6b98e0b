//! From a signal to bytes for the eye. Nothing here touches the signal.

use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use veil_pixels::colour::space::{BT709, Curve, Space};
use veil_pixels::colour::{self, ScreenBytes};
use veil_pixels::sample::resize::shrunk;
use veil_pixels::{Cancel, Cancelled, Field, Map, Move, Picture, Rgba};

use crate::colour::Working;
use crate::dull;
use crate::signal::{Pixels, Scale};

/// How far two signals of a kind differ, channel by channel, over the window of the first; none where their kinds do.
///
/// What one of them lacks is zero there. A map's difference keeps its direction.
pub fn difference(one: &Pixels, other: &Pixels) -> Option<Pixels> {
    let apart = |a: f32, b: f32| (a - b).abs();
    match (one, other) {
        (Pixels::Picture(one), Pixels::Picture(other)) => {
            Some(Pixels::Picture(Picture::from_fn(one.window(), |x, y| {
                let (a, b) = (one.get(x, y).unwrap_or_default(), other.get(x, y).unwrap_or_default());
                std::array::from_fn(|channel| apart(a[channel], b[channel]))
            })))
        }
        (Pixels::Field(one), Pixels::Field(other)) => {
            Some(Pixels::Field(Field::from_fn(one.window(), |x, y| {
                apart(one.get(x, y).unwrap_or_default(), other.get(x, y).unwrap_or_default())
            })))
        }
        (Pixels::Map(one), Pixels::Map(other)) => Some(Pixels::Map(Map::from_fn(one.window(), |x, y| {
            let (a, b) = (one.get(x, y).unwrap_or_default(), other.get(x, y).unwrap_or_default());
            std::array::from_fn(|axis| a[axis] - b[axis])
        }))),
        _ => None,
    }
}

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
    /// A field's value or a picture's luma by hue, 0 to 1; below and above it in colours of their own.
    False,
    /// Coverage as a tint to lay over another picture: a field, a picture's alpha, how far a map moves.
    Cover,
    /// A picture's colour, half of it, to be seen over another picture while it is placed.
    Ghost,
}

/// What lies behind a picture where it covers nothing.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Backing {
    /// Nothing.
    #[default]
    Black,
    /// A middle grey.
    Grey,
    /// White.
    White,
    /// A green that pictures seldom have.
    Green,
    /// Squares of two greys.
    Checks,
}

/// Side of a square of the checks, in full-resolution pixels.
const CHECK: i32 = 16;

impl Backing {
    /// The light behind a full-resolution pixel.
    fn at(self, x: i32, y: i32) -> [f32; 3] {
        match self {
            Self::Black => [0.0; 3],
            Self::Grey => [0.18; 3],
            Self::White => [1.0; 3],
            Self::Green => [0.05, 0.4, 0.08],
            Self::Checks => {
                let odd = (x.div_euclid(CHECK) + y.div_euclid(CHECK)) & 1 == 1;
                [if odd { 0.3 } else { 0.13 }; 3]
            }
        }
    }

    /// A picture of a proxy scale laid on it.
    pub fn behind(self, picture: &Picture, scale: Scale) -> Picture {
        let divisor = scale.divisor() as i32;
        if self == Self::Black {
            return picture.clone();
        }
        Picture::from_fn(picture.window(), |x, y| {
            laid_on(picture.get(x, y).unwrap_or_default(), self.at(x * divisor, y * divisor))
        })
    }
}

/// A picture laid on another.
pub fn laid_on_picture(picture: &Picture, behind: &Picture) -> Picture {
    Picture::from_fn(picture.window(), |x, y| {
        let [red, green, blue, _] = behind.get(x, y).unwrap_or_default();
        laid_on(picture.get(x, y).unwrap_or_default(), [red, green, blue])
    })
}

/// Porter and Duff's over, on what is opaque.
fn laid_on([red, green, blue, alpha]: Rgba, behind: [f32; 3]) -> Rgba {
    let seen = 1.0 - alpha;
    [behind[0].mul_add(seen, red), behind[1].mul_add(seen, green), behind[2].mul_add(seen, blue), 1.0]
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
///
/// False colour and coverage are no light and go through no transform.
pub fn bytes(pixels: &Pixels, view: View, screens: &Screens) -> Vec<u8> {
    let (light, table) = (view.exposure.exp2(), screens.of(view.screen));
    match view.look {
        Look::False => return marked(pixels, view, |value| false_colour(value * light), 1.0),
        Look::Cover => return marked(pixels, view, |_| COVER, COVER_AT_MOST),
        Look::Ghost => return ghost(pixels, view, screens),
        _ => {}
    }
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

/// The tint of coverage, in bytes of the screen.
const COVER: [u8; 3] = [87, 179, 160];
/// How much of the picture below full coverage hides.
const COVER_AT_MOST: f32 = 0.7;

/// How much of a picture is seen as its ghost.
const GHOST: f32 = 0.55;

/// Colour that is not premultiplied, with part of the coverage.
fn ghost(pixels: &Pixels, view: View, screens: &Screens) -> Vec<u8> {
    let mut made = bytes(pixels, View { look: Look::Colour, ..view }, screens);
    let Pixels::Picture(picture) = pixels else { return made };
    let straight = picture.map(&Cancel::new(), |[red, green, blue, alpha]: Rgba| {
        if alpha > 0.0 { [red / alpha, green / alpha, blue / alpha, 1.0] } else { [red, green, blue, 1.0] }
    });
    // Nobody calls this off.
    if let Ok(straight) = straight {
        made = bytes(&Pixels::Picture(straight), View { look: Look::Colour, ..view }, screens);
    }
    for (out, pixel) in made.chunks_exact_mut(4).zip(picture.pixels()) {
        out[3] = (pixel[3].clamp(0.0, 1.0) * GHOST * 255.0).round() as u8;
    }
    made
}

/// One number of each pixel as a colour; where it stands for coverage, as that much of it.
fn marked(pixels: &Pixels, view: View, colour: impl Fn(f32) -> [u8; 3] + Sync, most: f32) -> Vec<u8> {
    let covers = view.look == Look::Cover;
    let luma = view.working.luma();
    let painted = |value: f32| {
        let alpha = if covers { value.clamp(0.0, 1.0) * most } else { 1.0 };
        let [red, green, blue] = colour(value);
        [red, green, blue, (alpha * 255.0).round() as u8]
    };
    let of = |pixel: &Rgba| painted(if covers { pixel[3] } else { colour::luma(*pixel, luma) });
    let rgba: Vec<[u8; 4]> = match pixels {
        Pixels::Picture(raster) => raster.pixels().par_iter().map(of).collect(),
        Pixels::Field(raster) => raster.pixels().par_iter().map(|value| painted(*value)).collect(),
        Pixels::Map(raster) => {
            raster.pixels().par_iter().map(|[x, y]| painted(x.hypot(*y) / WHEEL_REACH)).collect()
        }
    };
    rgba.into_flattened()
}

/// Places on an even grid, as bytes: pairs of floats, times so much.
pub fn places_on_grid(
    places: &Map,
    [across, down]: [u32; 2],
    times: f32,
    cancel: &Cancel,
) -> Result<Vec<u8>, Cancelled> {
    let small = shrunk(places, across, down, cancel)?;
    Ok(small.pixels().iter().flatten().flat_map(|place| (place * times).to_le_bytes()).collect())
}

/// A tint where a field is above 0, as bytes of red, green, blue and alpha; in stripes, so that it can be told without
/// colour.
pub fn striped(field: &Field, [red, green, blue]: [u8; 3]) -> Vec<u8> {
    let window = field.window();
    let rows = (window.y0..window.y1).flat_map(|y| (window.x0..).zip(field.row(y)).map(move |at| (y, at)));
    let shown = |x: i32, y: i32| (x - window.x0 + y - window.y0) % 8 < 5;
    let alpha = |(y, (x, value)): (i32, (i32, &f32))| if *value > 0.0 && shown(x, y) { 210 } else { 0 };
    rows.flat_map(|at| [red, green, blue, alpha(at)]).collect()
}

/// Lays bytes by their own alpha on those of as many pixels below.
pub fn laid_over(below: &mut [u8], above: &[u8]) {
    for (below, above) in below.chunks_exact_mut(4).zip(above.chunks_exact(4)) {
        let alpha = u32::from(above[3]);
        for (below, above) in below.iter_mut().zip(&above[..3]) {
            *below = ((u32::from(*below) * (255 - alpha) + u32::from(*above) * alpha) / 255) as u8;
        }
    }
}

/// A field in false colour, its largest value as the brightest, as bytes of red, green, blue and alpha; and that value.
pub fn in_false_colour(field: &Field) -> (Vec<u8>, f32) {
    let largest = field.pixels().iter().copied().fold(0.0f32, f32::max);
    let share = |value: &f32| if largest > 0.0 { value / largest } else { 0.0 };
    let coloured = field.pixels().iter().map(|value| false_colour(share(value)));
    (coloured.flat_map(|[red, green, blue]| [red, green, blue, 255]).collect(), largest)
}

/// 1 where ways, in pixels, are less than a fifth of their median, else 0; nowhere where next to nothing moves.
pub fn dull(travelled: &Field, cancel: &Cancel) -> Result<Field, Cancelled> {
    let least = dull::least(&mut travelled.pixels().to_vec());
    travelled.map(cancel, |way: f32| if least.is_some_and(|least| way < least) { 1.0 } else { 0.0 })
}

/// The mean of a field; 0 where it holds nothing.
pub fn mean(field: &Field) -> f64 {
    let sum: f64 = field.pixels().iter().map(|value| f64::from(*value)).sum();
    sum / field.pixels().len().max(1) as f64
}

/// What a value below 0 looks like.
pub const BELOW: [u8; 3] = [122, 63, 143];
/// What a value above 1 looks like.
pub const ABOVE: [u8; 3] = [255, 255, 255];
/// From 0 to 1, evenly apart: each brighter than the one before, so that order shows without hue.
const RAMP: [[u8; 3]; 6] =
    [[10, 14, 34], [28, 58, 96], [38, 112, 124], [96, 160, 104], [204, 176, 92], [250, 232, 180]];

/// A value by hue.
pub fn false_colour(value: f32) -> [u8; 3] {
    if value.is_nan() || value < 0.0 {
        return BELOW;
    }
    if value > 1.0 {
        return ABOVE;
    }
    let along = value * (RAMP.len() - 1) as f32;
    let from = (along as usize).min(RAMP.len() - 2);
    let share = along - from as f32;
    [0, 1, 2].map(|at| {
        let (low, high) = (f32::from(RAMP[from][at]), f32::from(RAMP[from + 1][at]));
        (high - low).mul_add(share, low).round() as u8
    })
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
        Look::Luma | Look::False | Look::Cover | Look::Ghost => [colour::luma(pixel, luma) * light; 3],
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
