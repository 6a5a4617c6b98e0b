//! How a stage that moves pictures reads them.

use veil_pixels::Edge;
use veil_pixels::resample::Filter;

use crate::control::ControlSpec;

/// How a picture is read where it is moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Reading {
    /// Between its pixels.
    pub filter: Filter,
    /// Beyond its border.
    pub edge: Edge,
    /// Whether a sharp filter may take coverage below none and above the whole.
    pub rings: bool,
}

/// The control that lets a sharp filter ring.
pub(super) const fn rings() -> ControlSpec {
    ControlSpec::switch("coverage rings", false)
        .under("reading")
        .help("A sharp filter swings beyond an edge. Off, alpha stays within 0 and 1, and colour with it.")
}
