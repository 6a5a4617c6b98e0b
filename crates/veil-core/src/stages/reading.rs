//! The control of stages that move pictures, of how they read them.

use crate::controls::ControlSpec;

/// The control that lets a sharp filter ring.
pub(super) const fn rings() -> ControlSpec {
    ControlSpec::switch("coverage rings", false)
        .under("reading")
        .help("A sharp filter swings beyond an edge. Off, alpha stays within 0 and 1, and colour with it.")
}
