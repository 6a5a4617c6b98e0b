//! Moves a signal by a map.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Bend, Context, Reading, Stage, StageError, WarpStage};

use super::moved;
use super::rings;

const MAP: &str = "map";

controls! {
    struct DisplaceControls {
        strength_x: f64 = ControlSpec::number("strength x", 1.0, (0.0, 50.0)).under("move")
            .help("Times how far the map moves the picture sideways."),
        strength_y: f64 = ControlSpec::number("strength y", 1.0, (0.0, 50.0)).under("move")
            .help("Times how far the map moves the picture up and down."),
        outside: Edge = ControlSpec::choice("outside", Edge::Mirror).under("move")
            .help("What is brought in from beyond the border."),
        softness: f64 = ControlSpec::number("blur with move", 0.0, (0.0, 2.0)).within(0.0, 10.0).under("softness")
            .help("Standard deviation of the blur for each pixel moved; bent air is also soft."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("softness")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
    }
}

pub(super) struct Displace {
    spec: StageSpec,
}

impl Displace {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "displace",
                name: "Displace",
                family: Family::Warp,
                help: "Moves each pixel by the map, in full-size pixels, and softens it by how far it went.",
                main: Some(Accepts::Any),
                slots: vec![SlotSpec::new(MAP, "map", Accepts::Map)],
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: DisplaceControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Displace {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for Displace {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: DisplaceControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let controls: DisplaceControls = context.controls()?;
        let within = context.domain_of(MAP).map_or(Window::EMPTY, |domain| domain.data);
        Ok(Bend::Map { softness: controls.softness as f32, within })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let controls: DisplaceControls = context.controls()?;
        let by = [controls.strength_x, controls.strength_y].map(|strength| context.scale().length(strength));
        moved(context, &context.map(MAP, window)?, by)
    }
}
