//! A picture before a screen, and what is told of a screen's colour.

use crate::{Cancel, Cancelled, Field, Picture, Raster, Rgba};

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
    pub(super) const fn channel(self) -> usize {
        match self {
            Self::Green => 1,
            Self::Blue => 2,
        }
    }

    /// The screen's channel and the two others.
    pub(super) fn apart(self, [r, g, b, _]: Rgba) -> (f32, f32, f32) {
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
    pub(super) fn above(self, colour: Rgba, to_mean: f32) -> f32 {
        let (own, a, b) = self.apart(colour);
        own - (a.max(b) - (a - b).abs() / 2.0 * to_mean)
    }
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

impl Before<'_> {
    /// A field from each pixel and what is behind it.
    pub(super) fn each(
        &self,
        cancel: &Cancel,
        f: impl Fn(Rgba, Rgba) -> f32 + Sync,
    ) -> Result<Field, Cancelled> {
        Raster::written(self.picture.window(), cancel, |y, row| {
            for ((seen, behind), out) in self.picture.row(y).iter().zip(self.behind.row(y)).zip(row) {
                *out = f(*seen, *behind);
            }
        })
    }
}

pub(super) fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

pub(super) fn colour([r, g, b, _]: Rgba) -> [f32; 3] {
    [r, g, b]
}

pub(super) fn less(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    std::array::from_fn(|axis| a[axis] - b[axis])
}

/// From 0 at `from` to 1 at `to`, level at both.
pub(super) fn eased(value: f32, from: f32, to: f32) -> f32 {
    let share = ((value - from) / (to - from)).clamp(0.0, 1.0);
    share * share * (3.0 - 2.0 * share)
}
