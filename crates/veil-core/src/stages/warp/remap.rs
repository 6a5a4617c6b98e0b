//! Moves a signal to where a picture of places says.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::uv::Upward;
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Bend, Context, Reading, Stage, StageError, WarpStage};
use crate::stages::map::uv_map_in::moves_of;

use super::moved;
use super::rings;

const PLACES: &str = "places";

controls! {
    struct RemapControls {
        upward: Upward = ControlSpec::choice("v runs", Upward::Up).help("Whether green grows up the frame or down it."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
    }
}

pub(super) struct Remap {
    spec: StageSpec,
}

impl Remap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "remap",
                name: "Remap",
                family: Family::Warp,
                help: "Reads each pixel from where a picture of places says: red to the right, green up.",
                main: Some(Accepts::Any),
                slots: vec![SlotSpec::new(PLACES, "places", Accepts::Picture)],
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: RemapControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Remap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for Remap {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: RemapControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let within = context.domain_of(PLACES).map_or(Window::EMPTY, |domain| domain.data);
        Ok(Bend::Map { softness: 0.0, within })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let controls: RemapControls = context.controls()?;
        let small = context.scale().length(1.0);
        moved(context, &moves_of(context, PLACES, controls.upward, window)?, [small; 2])
    }
}
