//! What runs along a strand.

use crate::colour::Working;
use crate::key::{Key, Keyed, keyed_by_fields, keyed_by_number};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::measure::{Statistics, statistics};
use veil_pixels::{Cancel, Cancelled, Edge, Field, Map, Picture, Raster, Window, colour, sample::resize};

/// The three kinds of signal.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum SignalKind {
    /// RGBA, scene-linear, premultiplied.
    Picture,
    /// One float a pixel.
    Field,
    /// How far the picture moves, in full-resolution pixels.
    Map,
}

impl SignalKind {
    /// As it is called in messages.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Picture => "picture",
            Self::Field => "field",
            Self::Map => "map",
        }
    }
}

/// Where a signal is shown and where it exists, in pixels of its scale.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Domain {
    /// The frame: OpenEXR's display window.
    pub display: Window,
    /// Where there are pixels: OpenEXR's data window. Outside it the signal is zero.
    pub data: Window,
}

impl Domain {
    /// Of pixels so many times as large.
    pub fn scaled_down(self, divisor: u32) -> Self {
        Self { display: self.display.scaled_down(divisor), data: self.data.scaled_down(divisor) }
    }
}

/// The pixels of one of the three kinds.
#[derive(Clone, Debug, PartialEq)]
pub enum Pixels {
    /// Of a picture.
    Picture(Picture),
    /// Of a field.
    Field(Field),
    /// Of a map.
    Map(Map),
}

/// Runs the same expression on the raster of whichever kind, and wraps the result in that kind.
#[macro_export]
macro_rules! each_kind {
    ($pixels:expr, $raster:ident => $body:expr) => {
        match $pixels {
            $crate::signal::Pixels::Picture($raster) => $crate::signal::Pixels::Picture($body),
            $crate::signal::Pixels::Field($raster) => $crate::signal::Pixels::Field($body),
            $crate::signal::Pixels::Map($raster) => $crate::signal::Pixels::Map($body),
        }
    };
}

macro_rules! taken_out {
    ($($kind:ident)*) => {
        $(impl TryFrom<Pixels> for $kind {
            type Error = SignalKind;

            /// The raster itself; where it is of another kind, which.
            fn try_from(pixels: Pixels) -> Result<Self, SignalKind> {
                match pixels {
                    Pixels::$kind(raster) => Ok(raster),
                    other => Err(other.kind()),
                }
            }
        })*
    };
}

taken_out!(Picture Field Map);

impl Pixels {
    /// Nothing, of a kind, over a window.
    pub fn clear(kind: SignalKind, window: Window) -> Self {
        match kind {
            SignalKind::Picture => Self::Picture(Raster::clear(window)),
            SignalKind::Field => Self::Field(Raster::clear(window)),
            SignalKind::Map => Self::Map(Raster::clear(window)),
        }
    }

    /// Which kind.
    pub const fn kind(&self) -> SignalKind {
        match self {
            Self::Picture(_) => SignalKind::Picture,
            Self::Field(_) => SignalKind::Field,
            Self::Map(_) => SignalKind::Map,
        }
    }

    /// Which pixels are held.
    pub fn window(&self) -> Window {
        match self {
            Self::Picture(raster) => raster.window(),
            Self::Field(raster) => raster.window(),
            Self::Map(raster) => raster.window(),
        }
    }

    /// The means of what each of so many pixels covers.
    pub fn shrunk(&self, across: u32, down: u32, cancel: &Cancel) -> Result<Self, Cancelled> {
        Ok(each_kind!(self, raster => resize::shrunk(raster, across, down, cancel)?))
    }

    /// Least, mean and most over a window; none where it holds no pixel.
    pub fn statistics(&self, window: Window) -> Option<Statistics> {
        match self {
            Self::Picture(raster) => statistics(raster, window),
            Self::Field(raster) => statistics(raster, window),
            Self::Map(raster) => statistics(raster, window),
        }
    }

    /// Numbers of the first pixel, in the order of its channels.
    pub fn first(&self) -> Vec<f32> {
        match self {
            Self::Picture(raster) => raster.pixels().first().map(|pixel| pixel.to_vec()),
            Self::Field(raster) => raster.pixels().first().map(|value| vec![*value]),
            Self::Map(raster) => raster.pixels().first().map(|moved| moved.to_vec()),
        }
        .unwrap_or_default()
    }

    /// A window of these full-resolution pixels at a proxy scale; only what it covers is worked on. Blocks are averaged,
    /// or stand for their middle where an average means nothing. What is not held is zero.
    pub fn at_scale(
        &self,
        wanted: Window,
        scale: Scale,
        averages: bool,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let divisor = scale.divisor();
        let part = each_kind!(self, raster => raster.cropped(wanted.scaled_up(divisor)));
        let small = match (divisor, averages) {
            (1, _) => part,
            (_, true) => each_kind!(&part, raster => resize::block_means(raster, divisor, cancel)?),
            (_, false) => each_kind!(&part, raster => resize::block_middles(raster, divisor, cancel)?),
        };
        Ok(each_kind!(&small, raster => raster.extended(wanted, raster.window(), Edge::Clear)))
    }

    /// Where in memory they lie: the same for those who share them, and for nobody else meanwhile.
    pub fn place(&self) -> usize {
        match self {
            Self::Picture(raster) => raster.pixels().as_ptr().addr(),
            Self::Field(raster) => raster.pixels().as_ptr().addr(),
            Self::Map(raster) => raster.pixels().as_ptr().addr(),
        }
    }

    /// These and others of the same kind beside or over them, which together make a rectangle; none where they do not.
    pub fn with(&self, other: &Self) -> Option<Self> {
        match (self, other) {
            (Self::Picture(a), Self::Picture(b)) => a.with(b).map(Self::Picture),
            (Self::Field(a), Self::Field(b)) => a.with(b).map(Self::Field),
            (Self::Map(a), Self::Map(b)) => a.with(b).map(Self::Map),
            _ => None,
        }
    }

    /// Bytes held.
    pub fn bytes(&self) -> usize {
        match self {
            Self::Picture(raster) => raster.bytes(),
            Self::Field(raster) => raster.bytes(),
            Self::Map(raster) => raster.bytes(),
        }
    }
}

/// Pixels with where they are shown and where they exist.
#[derive(Clone, Debug, PartialEq)]
pub struct Signal {
    /// Its windows.
    pub domain: Domain,
    /// Held for some window within the data window.
    pub pixels: Pixels,
}

impl Signal {
    /// The pixels of a window; what is not held or does not exist is zero.
    pub fn over(&self, window: Window) -> Pixels {
        each_kind!(&self.pixels, raster => raster.extended(window, raster.window(), Edge::Clear))
    }
}

/// Which float of a picture a field is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Take {
    /// Luma, by the weights of the working space.
    Luma,
    /// Coverage.
    Alpha,
    /// One colour channel.
    Red,
    /// One colour channel.
    Green,
    /// One colour channel.
    Blue,
}

impl Take {
    /// All, in the order they are offered.
    pub const ALL: [Self; 5] = [Self::Luma, Self::Alpha, Self::Red, Self::Green, Self::Blue];

    /// The field of a picture in a working space.
    pub fn apply(self, picture: &Picture, working: Working, cancel: &Cancel) -> Result<Field, Cancelled> {
        let weights = working.luma();
        picture.map(cancel, |pixel| match self {
            Self::Luma => colour::luma(pixel, weights),
            Self::Alpha => pixel[3],
            Self::Red => pixel[0],
            Self::Green => pixel[1],
            Self::Blue => pixel[2],
        })
    }
}

/// One pixel of a proxy stands for a block of this many by this many pixels.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Scale(u32);

impl Scale {
    /// Every pixel.
    pub const FULL: Self = Self(1);

    /// One to `divisor`, which may be 1, 2, 3, 4 or 8; anything else is no proxy scale.
    pub const fn one_to(divisor: u32) -> Option<Self> {
        match divisor {
            1..=4 | 8 => Some(Self(divisor)),
            _ => None,
        }
    }

    /// Full-resolution pixels along the side of one pixel.
    pub const fn divisor(self) -> u32 {
        self.0
    }

    /// A length in full-resolution pixels, in pixels of this scale.
    pub fn length(self, full: f64) -> f32 {
        (full / f64::from(self.0)) as f32
    }
}

keyed_by_number!(SignalKind, Take);
keyed_by_fields! {
    Domain { display, data }
}

impl Keyed for Scale {
    fn key(&self, key: &mut Key) {
        key.add(&self.divisor());
    }
}
