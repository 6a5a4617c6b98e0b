//! The controls of stages that move what they take and can be seen while they do.

use crate::controls::{ControlSpec, NumberSpec, Unit};

pub(super) const fn open() -> ControlSpec<NumberSpec> {
    ControlSpec::number("shutter", 0.0, (0.0, 360.0))
        .within(0.0, 720.0)
        .unit(Unit::Degrees)
        .under("motion blur")
        .help("How long it is seen while it moves; 360 is a whole frame, 0 none.")
}

pub(super) const fn samples() -> ControlSpec<NumberSpec> {
    ControlSpec::whole("samples", 12, 1, 64)
        .under("motion blur")
        .help("In how many steps it moves while it is seen.")
}
