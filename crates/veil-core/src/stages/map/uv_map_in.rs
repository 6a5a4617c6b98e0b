//! A map from a picture of places.

use veil_pixels::Window;
use veil_pixels::warp::uv::{Places, Upward};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct UvInControls {
        upward: Upward = ControlSpec::choice("v runs", Upward::Up).help("Whether green grows up the frame or down it."),
    }
}

choice! {
    Upward {
        Up = "up", "up";
        Down = "down", "down";
    }
}

/// The places that a picture's red and green name, as moves in full-resolution pixels.
pub(in crate::stages) fn moves_of(
    context: &Context<'_>,
    slot: &str,
    upward: Upward,
    wanted: Window,
) -> Result<veil_pixels::Map, StageError> {
    let places = Places { frame: context.everywhere().display, upward };
    let full = context.scale().divisor() as f32;
    let mut moves = places.moves(&context.picture(slot, wanted)?, context.cancel())?;
    moves.change(context.cancel(), |moved| moved.map(|along| along * full))?;
    Ok(moves)
}

pub(super) struct UvMapIn {
    spec: StageSpec,
}

impl UvMapIn {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "uv_map_in",
                name: "UV map in",
                family: Family::Map,
                help: "Makes a map of a picture whose red and green say where each pixel is read.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: UvInControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for UvMapIn {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: UvInControls = context.controls()?;
        Ok(Pixels::Map(moves_of(context, MAIN, controls.upward, wanted)?))
    }
}
