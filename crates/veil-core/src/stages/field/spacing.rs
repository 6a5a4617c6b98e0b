//! What stages of even lines share.

use veil_pixels::shape::stripes::Stripes;

use crate::choice;
use crate::controls::{ChoiceSpec, ControlSpec, NumberSpec, Unit};
use crate::stage::Context;

/// How the way from one line to the next is told.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Spacing {
    Length,
    Count,
}

choice! {
    Spacing {
        Length = "length", "by length";
        Count = "count", "by number";
    }
}

impl Spacing {
    /// From one line to the next, in full-resolution pixels.
    pub(super) fn period(self, length: f64, count: f64, context: &Context<'_>) -> f64 {
        let wide = context.everywhere().display.width() as f64 * f64::from(context.scale().divisor());
        match self {
            Self::Length => length,
            Self::Count => wide / count,
        }
    }
}

pub(super) fn spacing() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("spaced", Spacing::Length)
        .help("By the length from line to line, or by how many go across the frame.")
}

pub(super) const fn period() -> ControlSpec<NumberSpec> {
    ControlSpec::number("period", 60.0, (2.0, 400.0))
        .within(0.5, 10_000.0)
        .unit(Unit::Px)
        .when("spacing", &["length"])
        .help("From one line to the next.")
}

pub(super) const fn count() -> ControlSpec<NumberSpec> {
    ControlSpec::number("number", 16.0, (1.0, 100.0))
        .within(0.1, 4000.0)
        .when("spacing", &["count"])
        .help("How many go across the width of the frame.")
}

/// Even lines, in full-resolution pixels and degrees.
pub(super) struct Even {
    pub(super) period: f64,
    pub(super) width: f64,
    pub(super) softness: f64,
    pub(super) through: [f64; 2],
    pub(super) angle: f64,
    pub(super) phase: f64,
}

impl Even {
    /// The same at the proxy scale.
    pub(super) fn at(&self, context: &Context<'_>) -> Stripes {
        let scale = context.scale();
        Stripes {
            origin: self.through.map(|at| scale.length(at)),
            period: scale.length(self.period),
            width: scale.length(self.width),
            softness: scale.length(self.softness),
            angle: self.angle.to_radians() as f32,
            phase: self.phase as f32,
        }
    }
}
