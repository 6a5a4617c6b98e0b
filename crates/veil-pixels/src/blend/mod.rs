//! One picture laid on another.
//!
//! - Shape: premultiplied pixels. Modes that mix colours follow the W3C general formula
//!   `(1 − αb)·Cs + (1 − αs)·Cb + αs·αb·B(Cb, Cs)`, written for premultiplied colour.
//! - Range: any. Values above 1 and below 0 go through the same arithmetic; where a standard stops at 0 and 1, what
//!   already lies beyond is not brought back.
//! - Opacity: weakens the layer; in the modes in which no layer would mean no picture, it mixes from what lies below
//!   to the result.
//! - Sources: Porter and Duff, "Compositing Digital Images", 1984; W3C Compositing and Blending Level 1.

pub mod mix;
mod over;

use wide::f32x4;

use crate::Rgba;
use crate::colour::bare::{OnColour, bare};
use crate::colour::{linear_from_srgb, srgb_from_linear};

/// How a layer meets what lies below it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Mode {
    /// The layer covers by its alpha.
    #[default]
    Over,
    /// The layer alone.
    Copy,
    /// Nothing at all.
    Clear,
    /// The layer, where there is something below.
    In,
    /// The layer, where there is nothing below.
    Out,
    /// The layer covers, and stays within what lies below.
    Atop,
    /// Each where the other is not.
    Xor,
    /// What lies below covers the layer.
    DestinationOver,
    /// What lies below, where the layer is.
    DestinationIn,
    /// What lies below, where the layer is not.
    DestinationOut,
    /// What lies below covers, and stays within the layer.
    DestinationAtop,
    /// Light is added, alpha too, to at most 1.
    Plus,
    /// The layer is taken from what lies below.
    Minus,
    /// What lies below is taken from the layer.
    MinusFrom,
    /// Where both are, the product.
    Multiply,
    /// Where both are, the inverse of the product of the inverses; the greater of both where one is above 1.
    Screen,
    /// Multiply where it is dark below, screen where it is light.
    Overlay,
    /// The lesser of both.
    Darken,
    /// The greater of both.
    Lighten,
    /// What lies below is brightened by the layer.
    ColourDodge,
    /// What lies below is darkened by the layer.
    ColourBurn,
    /// Multiply where the layer is dark, screen where it is light.
    HardLight,
    /// A gentle hard light.
    SoftLight,
    /// How far apart they are.
    Difference,
    /// A difference of low contrast.
    Exclusion,
    /// The layer's hue.
    Hue,
    /// The layer's saturation.
    Saturation,
    /// The layer's hue and saturation.
    Colour,
    /// The layer's luminosity.
    Luminosity,
}

/// `layer` on `below`, the layer weakened to `opacity`.
#[inline(always)]
pub fn blend(mode: Mode, below: Rgba, layer: Rgba, opacity: f32) -> Rgba {
    let source: Rgba = (f32x4::from(layer) * f32x4::splat(opacity)).into();
    match mode {
        Mode::Over => composed(below, source, 1.0, 1.0 - source[3]),
        Mode::Copy => mixed(below, layer, opacity),
        Mode::Clear => mixed(below, [0.0; 4], opacity),
        Mode::In => mixed(below, composed(below, layer, below[3], 0.0), opacity),
        Mode::Out => mixed(below, composed(below, layer, 1.0 - below[3], 0.0), opacity),
        Mode::Atop => composed(below, source, below[3], 1.0 - source[3]),
        Mode::Xor => composed(below, source, 1.0 - below[3], 1.0 - source[3]),
        Mode::DestinationOver => composed(below, source, 1.0 - below[3], 1.0),
        Mode::DestinationIn => mixed(below, composed(below, layer, 0.0, layer[3]), opacity),
        Mode::DestinationOut => composed(below, source, 0.0, 1.0 - source[3]),
        Mode::DestinationAtop => mixed(below, composed(below, layer, 1.0 - below[3], layer[3]), opacity),
        Mode::Plus => {
            let [r, g, b, a] = composed(below, source, 1.0, 1.0);
            [r, g, b, a.min(1.0)]
        }
        Mode::Minus => taken(below, source, |b, s| b - s),
        Mode::MinusFrom => taken(below, source, |b, s| s - b),
        Mode::Multiply => {
            let both = |b: f32, s: f32| (1.0 - below[3]) * s + (1.0 - source[3]) * b + s * b;
            taken(below, source, both)
        }
        Mode::Screen => taken(below, source, |b, s| {
            let both = if s > source[3] || b > below[3] { (s * below[3]).min(b * source[3]) } else { s * b };
            s + b - both
        }),
        Mode::Darken => taken(below, source, |b, s| s + b - (s * below[3]).max(b * source[3])),
        Mode::Lighten => taken(below, source, |b, s| s + b - (s * below[3]).min(b * source[3])),
        Mode::Difference => taken(below, source, |b, s| s + b - 2.0 * (s * below[3]).min(b * source[3])),
        Mode::Exclusion => taken(below, source, |b, s| s + b - 2.0 * s * b),
        Mode::Overlay => by_colour(below, source, |b, s| hard_light(s, b)),
        Mode::ColourDodge => by_colour(below, source, colour_dodge),
        Mode::ColourBurn => by_colour(below, source, colour_burn),
        Mode::HardLight => by_colour(below, source, hard_light),
        Mode::SoftLight => by_colour(below, source, soft_light),
        Mode::Hue => by_colours(below, source, |b, s| with_luminosity(with_saturation(s, saturation(b)), b)),
        Mode::Saturation => {
            by_colours(below, source, |b, s| with_luminosity(with_saturation(b, saturation(s)), b))
        }
        Mode::Colour => by_colours(below, source, with_luminosity_of_below),
        Mode::Luminosity => by_colours(below, source, with_luminosity),
    }
}

/// A row of [`blend`]; the opacity of each pixel is `opacity` times its share, where there are any.
pub fn blend_row(
    mode: Mode,
    below: &[Rgba],
    layer: &[Rgba],
    opacity: f32,
    shares: Option<&[f32]>,
    out: &mut [Rgba],
) {
    // The mode is a constant in each arm, so that the choice is made once a row.
    macro_rules! by_mode {
        ($($mode:ident)+) => {
            match mode {
                Mode::Over if shares.is_none() => over::over_row(below, layer, opacity, out),
                $(Mode::$mode => {
                    for (index, (out, (below, layer))) in out.iter_mut().zip(below.iter().zip(layer)).enumerate() {
                        let opacity = shares.map_or(opacity, |shares| opacity * shares[index]);
                        *out = blend(Mode::$mode, *below, *layer, opacity);
                    }
                })+
            }
        };
    }
    by_mode!(
        Over Copy Clear In Out Atop Xor DestinationOver DestinationIn DestinationOut DestinationAtop Plus Minus MinusFrom
        Multiply Screen Overlay Darken Lighten ColourDodge ColourBurn HardLight SoftLight Difference Exclusion
        Hue Saturation Colour Luminosity
    );
}

/// The light that two pixels are blended in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default)]
pub enum Encoding {
    /// Scene-linear, as pictures are.
    #[default]
    Linear,
    /// As a display encodes it, by the sRGB curve, mirrored below 0 and going on above 1: for modes that are made for 0–1.
    Display,
}

/// A premultiplied pixel whose colour goes through a curve.
#[inline(always)]
fn through(curve: fn(f32) -> f32, pixel: Rgba) -> Rgba {
    OnColour::new(|colour: [f32; 3]| colour.map(curve)).at(pixel)
}

/// As [`blend_row`], in the display's encoding.
pub fn blend_row_encoded(
    mode: Mode,
    below: &[Rgba],
    layer: &[Rgba],
    opacity: f32,
    shares: Option<&[f32]>,
    out: &mut [Rgba],
) {
    const RUN: usize = 64;
    let mut encoded = [[[0.0f32; 4]; RUN]; 2];
    for start in (0..out.len()).step_by(RUN) {
        let run = start..(start + RUN).min(out.len());
        let [under, over] = &mut encoded;
        let (under, over) = (&mut under[..run.len()], &mut over[..run.len()]);
        under
            .iter_mut()
            .zip(&below[run.clone()])
            .for_each(|(to, from)| *to = through(srgb_from_linear, *from));
        over.iter_mut()
            .zip(&layer[run.clone()])
            .for_each(|(to, from)| *to = through(srgb_from_linear, *from));
        let shares = shares.map(|shares| &shares[run.clone()]);
        let made = &mut out[run.clone()];
        blend_row(mode, under, over, opacity, shares, made);
        for (at, made) in made.iter_mut().enumerate() {
            // What nothing was laid on keeps its bits.
            let untouched =
                opacity * shares.map_or(1.0, |shares| shares[at]) == 0.0 || layer[start + at] == [0.0; 4];
            *made = if untouched && *made == under[at] {
                below[start + at]
            } else {
                through(linear_from_srgb, *made)
            };
        }
    }
}

/// Porter and Duff: the layer by its share and what lies below by its own.
#[inline(always)]
fn composed(below: Rgba, source: Rgba, of_source: f32, of_below: f32) -> Rgba {
    (f32x4::from(source) * f32x4::splat(of_source) + f32x4::from(below) * f32x4::splat(of_below)).into()
}

#[inline(always)]
fn mixed(from: Rgba, to: Rgba, share: f32) -> Rgba {
    composed(from, to, share, 1.0 - share)
}

#[inline(always)]
fn union(below: f32, source: f32) -> f32 {
    source + below - source * below
}

/// Premultiplied colours by `f`, under the alpha of both.
#[inline(always)]
fn taken(below: Rgba, source: Rgba, f: impl Fn(f32, f32) -> f32) -> Rgba {
    let colour = |at: usize| f(below[at], source[at]);
    [colour(0), colour(1), colour(2), union(below[3], source[3])]
}

/// The general formula, with the colours where both are by `f`, channel by channel.
#[inline(always)]
fn by_colour(below: Rgba, source: Rgba, f: impl Fn(f32, f32) -> f32) -> Rgba {
    by_colours(below, source, |b, s| std::array::from_fn(|at| f(b[at], s[at])))
}

/// The general formula, with the colours where both are by `f`.
#[inline(always)]
fn by_colours(below: Rgba, source: Rgba, f: impl Fn([f32; 3], [f32; 3]) -> [f32; 3]) -> Rgba {
    let both = below[3] * source[3];
    if both == 0.0 {
        return taken(below, source, |b, s| (1.0 - below[3]) * s + (1.0 - source[3]) * b);
    }
    let met = f(bare(below), bare(source));
    let colour = |at: usize| (1.0 - below[3]) * source[at] + (1.0 - source[3]) * below[at] + both * met[at];
    [colour(0), colour(1), colour(2), union(below[3], source[3])]
}

#[inline(always)]
fn hard_light(b: f32, s: f32) -> f32 {
    if s <= 0.5 { 2.0 * b * s } else { b + (2.0 * s - 1.0) - b * (2.0 * s - 1.0) }
}

/// Soft light of a layer `s` over `b`, as the W3C's Compositing and Blending Level 1 has it within 0 to 1. The
/// standard's curves go on straight below 0 and above 1: their squares and cubes would soon be larger than any number.
#[inline(always)]
pub fn soft_light(b: f32, s: f32) -> f32 {
    let inside = b.clamp(0.0, 1.0);
    let beyond = b - inside;
    if s <= 0.5 {
        let steepness = 1.0 - (1.0 - 2.0 * s) * (1.0 - 2.0 * inside);
        return inside - (1.0 - 2.0 * s) * inside * (1.0 - inside) + beyond * steepness;
    }
    let raised = if b <= 0.0 {
        4.0 * b
    } else if b <= 0.25 {
        ((16.0 * b - 12.0) * b + 4.0) * b
    } else {
        b.sqrt()
    };
    b + (2.0 * s - 1.0) * (raised - b)
}

#[inline(always)]
fn colour_dodge(b: f32, s: f32) -> f32 {
    // Beyond 0 and 1 the layer does what it does there, so that nothing jumps.
    let s = s.clamp(0.0, 1.0);
    if b <= 0.0 || b >= 1.0 {
        b
    } else if s >= 1.0 {
        1.0
    } else {
        (b / (1.0 - s)).min(1.0)
    }
}

#[inline(always)]
fn colour_burn(b: f32, s: f32) -> f32 {
    let s = s.clamp(0.0, 1.0);
    if b <= 0.0 || b >= 1.0 {
        b
    } else if s <= 0.0 {
        0.0
    } else {
        1.0 - ((1.0 - b) / s).min(1.0)
    }
}

/// The standard's luminosity, which is not BT.709's.
#[inline(always)]
fn luminosity([r, g, b]: [f32; 3]) -> f32 {
    0.3 * r + 0.59 * g + 0.11 * b
}

#[inline(always)]
fn least([r, g, b]: [f32; 3]) -> f32 {
    r.min(g).min(b)
}

#[inline(always)]
fn most([r, g, b]: [f32; 3]) -> f32 {
    r.max(g).max(b)
}

#[inline(always)]
fn saturation(colour: [f32; 3]) -> f32 {
    most(colour) - least(colour)
}

/// `colour` with another saturation, its least channel at 0.
#[inline(always)]
fn with_saturation(colour: [f32; 3], wanted: f32) -> [f32; 3] {
    let (low, spread) = (least(colour), saturation(colour));
    if spread <= 0.0 { [0.0; 3] } else { colour.map(|value| (value - low) * wanted / spread) }
}

#[inline(always)]
fn with_luminosity_of_below(below: [f32; 3], source: [f32; 3]) -> [f32; 3] {
    with_luminosity(source, below)
}

/// `colour` with the luminosity of `of`, drawn together where it would leave 0–1 and neither did before.
#[inline(always)]
fn with_luminosity(colour: [f32; 3], of: [f32; 3]) -> [f32; 3] {
    let wanted = luminosity(of);
    let shift = wanted - luminosity(colour);
    let shifted = colour.map(|value| value + shift);
    let (low, high) = (least(shifted), most(shifted));
    let (floor, ceiling) = (least(of).min(0.0), most(of).max(1.0));
    let drawn = |room: f32, reach: f32| shifted.map(|value| wanted + (value - wanted) * room / reach);
    if low < floor {
        drawn(wanted - floor, wanted - low)
    } else if high > ceiling {
        drawn(ceiling - wanted, high - wanted)
    } else {
        shifted
    }
}
