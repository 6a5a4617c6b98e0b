//! Lays a signal between four points.

use veil_pixels::Edge;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::perspective::Homography;

use crate::controls;
use crate::controls::Setting;
use crate::controls::{ControlSet, ControlSpec, Grip, PointSpec};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Aligned, Bend, Context, Placing, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::shutter;

use super::rings;

const fn corner(name: &'static str, share: [f64; 2]) -> ControlSpec<PointSpec> {
    ControlSpec::point(name, share).grip(Grip::Corner).help("Where this corner comes to lie.")
}

const fn from(name: &'static str, share: [f64; 2]) -> ControlSpec<PointSpec> {
    ControlSpec::point(name, share).under("from").help("The place of the input that is laid on that corner.")
}

controls! {
    struct CornerPinControls {
        top_left: [f64; 2] = corner("top left", [0.0, 0.0]),
        top_right: [f64; 2] = corner("top right", [1.0, 0.0]),
        bottom_right: [f64; 2] = corner("bottom right", [1.0, 1.0]),
        bottom_left: [f64; 2] = corner("bottom left", [0.0, 1.0]),
        from_top_left: [f64; 2] = from("from top left", [0.0, 0.0]),
        from_top_right: [f64; 2] = from("from top right", [1.0, 0.0]),
        from_bottom_right: [f64; 2] = from("from bottom right", [1.0, 1.0]),
        from_bottom_left: [f64; 2] = from("from bottom left", [0.0, 1.0]),
        inverse: bool = ControlSpec::switch("inverse", false).under("reading")
            .help("Goes the way back: what lies at the corners comes to lie where they are from, which holds a moving plane still."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels; made smaller, it is read as softly as it needs."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

impl CornerPinControls {
    fn forth(&self) -> Option<Homography> {
        let to = [self.top_left, self.top_right, self.bottom_right, self.bottom_left];
        let from = [self.from_top_left, self.from_top_right, self.from_bottom_right, self.from_bottom_left];
        if self.inverse { Homography::between(to, from) } else { Homography::between(from, to) }
    }
}

pub(super) struct CornerPin {
    spec: StageSpec,
}

impl CornerPin {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "corner_pin",
                name: "Corner pin",
                family: Family::Warp,
                help: "Lays what comes in between four corners, as a plane in space is seen; each may go with a track.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Moves,
                controls: CornerPinControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for CornerPin {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: CornerPinControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }

    fn as_placing(&self) -> Option<&dyn Placing> {
        Some(self)
    }
}

/// From the top left one on, clockwise.
const CORNERS: [(&str, &str); 4] = [
    ("from_top_left", "top_left"),
    ("from_top_right", "top_right"),
    ("from_bottom_right", "bottom_right"),
    ("from_bottom_left", "bottom_left"),
];

impl Placing for CornerPin {
    fn laid(&self, from: Aligned, to: Aligned) -> Vec<(&'static str, Setting)> {
        let (from, to) = (from.corners(), to.corners());
        let pairs = CORNERS.iter().enumerate().flat_map(|(at, (source, corner))| {
            [(*source, Setting::numbers(&from[at])), (*corner, Setting::numbers(&to[at]))]
        });
        pairs.collect()
    }
}

impl WarpStage for CornerPin {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: CornerPinControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let controls: CornerPinControls = context.controls()?;
        let forth = controls.forth().ok_or_else(|| context.fault("has three corners in a line"))?;
        Ok(Bend::Matrix(context.at_scale(forth)))
    }
}
