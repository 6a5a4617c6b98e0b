//! What the numbers of a picture stand for: transfer curves and primaries.
//!
//! - Units: linear light with 0.18 for a grey card and 1 for a white one; encoded values 0–1 for what a screen shows.
//! - Range: any; a curve made for 0–1 goes on above 1 and is mirrored below 0, so that no value is lost.
//! - Sources: IEC 61966-2-1 (sRGB); ITU-R BT.709 and BT.2020; ITU-R BT.1886 with a black of 0; SMPTE ST 2065-1
//!   (ACES2065-1); Academy S-2014-004 (ACEScg) and S-2016-001 (ACEScct). Matrices are worked out from the primaries;
//!   whites are brought together by the Bradford transform, Lam 1985.

use crate::{Cancel, Cancelled, Picture, Rgba};

use super::bare::OnColour;
use super::{linear_from_srgb, srgb_from_linear};

/// How light becomes a number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Curve {
    /// As it is.
    Linear,
    /// Of sRGB.
    Srgb,
    /// Of a BT.709 camera.
    Bt709,
    /// Of a BT.1886 screen: a power of 2.4.
    Bt1886,
    /// A power of 2.2.
    Gamma22,
    /// Of ACEScct: logarithmic, with a straight toe.
    AcesCct,
}

const CCT_CUT_LINEAR: f32 = 0.007_812_5;
const CCT_CUT: f32 = 0.155_251_14;
const CCT_SLOPE: f32 = 10.540_238;
const CCT_OFFSET: f32 = 0.072_905_53;

impl Curve {
    /// The number for an amount of light.
    pub fn encode(self, linear: f32) -> f32 {
        let mirrored = |f: fn(f32) -> f32| f(linear.abs()).copysign(linear);
        match self {
            Self::Linear => linear,
            Self::Srgb => srgb_from_linear(linear),
            Self::Bt709 => {
                mirrored(|light| if light < 0.018 { 4.5 * light } else { 1.099 * light.powf(0.45) - 0.099 })
            }
            Self::Bt1886 => mirrored(|light| light.powf(1.0 / 2.4)),
            Self::Gamma22 => mirrored(|light| light.powf(1.0 / 2.2)),
            Self::AcesCct if linear <= CCT_CUT_LINEAR => CCT_SLOPE * linear + CCT_OFFSET,
            Self::AcesCct => (linear.log2() + 9.72) / 17.52,
        }
    }

    /// The light that a number stands for.
    pub fn decode(self, encoded: f32) -> f32 {
        let mirrored = |f: fn(f32) -> f32| f(encoded.abs()).copysign(encoded);
        match self {
            Self::Linear => encoded,
            Self::Srgb => linear_from_srgb(encoded),
            Self::Bt709 => {
                mirrored(
                    |value| {
                        if value < 0.081 { value / 4.5 } else { ((value + 0.099) / 1.099).powf(1.0 / 0.45) }
                    },
                )
            }
            Self::Bt1886 => mirrored(|value| value.powf(2.4)),
            Self::Gamma22 => mirrored(|value| value.powf(2.2)),
            Self::AcesCct if encoded <= CCT_CUT => (encoded - CCT_OFFSET) / CCT_SLOPE,
            // The standard ends at the greatest half float.
            Self::AcesCct => (encoded * 17.52 - 9.72).exp2().min(65_504.0),
        }
    }
}

/// Chromaticities of red, green, blue and white.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Primaries {
    /// `x, y` of each.
    pub red: [f64; 2],
    /// See red.
    pub green: [f64; 2],
    /// See red.
    pub blue: [f64; 2],
    /// See red.
    pub white: [f64; 2],
}

const D65: [f64; 2] = [0.3127, 0.3290];
const ACES_WHITE: [f64; 2] = [0.32168, 0.33767];

/// Of sRGB and BT.709.
pub const BT709: Primaries =
    Primaries { red: [0.64, 0.33], green: [0.30, 0.60], blue: [0.15, 0.06], white: D65 };
/// Of BT.2020.
pub const BT2020: Primaries =
    Primaries { red: [0.708, 0.292], green: [0.170, 0.797], blue: [0.131, 0.046], white: D65 };
/// Of ACES2065-1.
pub const AP0: Primaries =
    Primaries { red: [0.7347, 0.2653], green: [0.0, 1.0], blue: [0.0001, -0.0770], white: ACES_WHITE };
/// Of ACEScg and ACEScct.
pub const AP1: Primaries =
    Primaries { red: [0.713, 0.293], green: [0.165, 0.830], blue: [0.128, 0.044], white: ACES_WHITE };

/// Acts on columns.
pub type Matrix = [[f64; 3]; 3];

fn times(a: Matrix, b: Matrix) -> Matrix {
    std::array::from_fn(|row| std::array::from_fn(|column| (0..3).map(|k| a[row][k] * b[k][column]).sum()))
}

fn applied(m: Matrix, v: [f64; 3]) -> [f64; 3] {
    m.map(|row| row[0] * v[0] + row[1] * v[1] + row[2] * v[2])
}

/// The adjugate over the determinant; primaries that span no colours are never asked for.
fn inverse(m: Matrix) -> Matrix {
    let minor = |row: usize, column: usize| {
        let (a, b, c, d) = ((row + 1) % 3, (row + 2) % 3, (column + 1) % 3, (column + 2) % 3);
        m[a][c] * m[b][d] - m[a][d] * m[b][c]
    };
    let determinant: f64 = (0..3).map(|column| m[0][column] * minor(0, column)).sum();
    std::array::from_fn(|row| std::array::from_fn(|column| minor(column, row) / determinant))
}

impl Primaries {
    /// To CIE XYZ with a luminance of 1 for white. SMPTE RP 177.
    pub fn to_xyz(self) -> Matrix {
        let column = |[x, y]: [f64; 2]| [x / y, 1.0, (1.0 - x - y) / y];
        let columns = [self.red, self.green, self.blue].map(|[x, y]| [x, y, 1.0 - x - y]);
        let matrix: Matrix = std::array::from_fn(|row| columns.map(|column| column[row]));
        let scales = applied(inverse(matrix), column(self.white));
        matrix.map(|row| std::array::from_fn(|at| row[at] * scales[at]))
    }

    /// From CIE XYZ.
    pub fn of_xyz(self, xyz: [f64; 3]) -> [f64; 3] {
        applied(inverse(self.to_xyz()), xyz)
    }

    /// Weights of red, green and blue in luminance.
    pub fn luma(self) -> [f32; 3] {
        self.to_xyz()[1].map(|weight| weight as f32)
    }

    /// To the colours of other primaries; their whites become each other.
    pub fn to(self, other: Self) -> Matrix {
        const BRADFORD: Matrix =
            [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]];
        let cone = |[x, y]: [f64; 2]| applied(BRADFORD, [x / y, 1.0, (1.0 - x - y) / y]);
        let (from, to) = (cone(self.white), cone(other.white));
        let scaled: Matrix =
            std::array::from_fn(|row| BRADFORD[row].map(|value| value * to[row] / from[row]));
        let adapted = if self.white == other.white {
            self.to_xyz()
        } else {
            times(times(inverse(BRADFORD), scaled), self.to_xyz())
        };
        times(inverse(other.to_xyz()), adapted)
    }
}

/// What the numbers of a picture stand for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Space {
    /// How light becomes a number.
    pub curve: Curve,
    /// Which colours the channels are.
    pub primaries: Primaries,
}

impl Space {
    /// The same colours in linear light.
    pub const fn linear(primaries: Primaries) -> Self {
        Self { curve: Curve::Linear, primaries }
    }

    /// What brings red, green and blue, without alpha in them, into another space.
    pub fn change(self, to: Self) -> impl Fn([f32; 3]) -> [f32; 3] {
        let same = self.primaries == to.primaries;
        let matrix = self.primaries.to(to.primaries).map(|row| row.map(|value| value as f32));
        move |colour| {
            let light = colour.map(|value| self.curve.decode(value));
            let turned = if same {
                light
            } else {
                matrix.map(|row| row[0] * light[0] + row[1] * light[1] + row[2] * light[2])
            };
            turned.map(|value| to.curve.encode(value))
        }
    }

    /// A premultiplied picture in another space; its colours are changed as they are without their alpha.
    pub fn converted(self, to: Self, picture: &Picture, cancel: &Cancel) -> Result<Picture, Cancelled> {
        if self == to {
            return Ok(picture.clone());
        }
        Picture::written(picture.window(), cancel, |y, row| {
            row.copy_from_slice(picture.row(y));
            self.converted_in(to, row);
        })
    }

    /// As [`Self::converted`], of a run of pixels in place.
    pub fn converted_in(self, to: Self, pixels: &mut [Rgba]) {
        if self == to {
            return;
        }
        let change = self.change(to);
        if self.curve == Curve::Linear && to.curve == Curve::Linear {
            // Linear changes are the same with alpha in them or not.
            for [r, g, b, _] in pixels {
                [*r, *g, *b] = change([*r, *g, *b]);
            }
            return;
        }
        let changed = OnColour::between(change, self.curve.encode(0.0), self.curve.encode(1.0));
        for pixel in pixels {
            *pixel = changed.at(*pixel);
        }
    }
}
