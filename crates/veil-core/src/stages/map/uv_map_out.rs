//! A map as a picture of places.

use veil_pixels::Window;
use veil_pixels::warp::uv::{Places, Upward};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct UvOutControls {
        upward: Upward = ControlSpec::choice("v runs", Upward::Up).help("Whether green grows up the frame or down it."),
    }
}

pub(super) struct UvMapOut {
    spec: StageSpec,
}

impl UvMapOut {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "uv_map_out",
                name: "UV map out",
                family: Family::Map,
                help: "Writes a map as a picture whose red and green say where each pixel is read; nothing plugged gives the places themselves.",
                main: Some(Accepts::Map),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: UvOutControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for UvMapOut {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.everywhere())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: UvOutControls = context.controls()?;
        let places = Places { frame: context.everywhere().display, upward: controls.upward };
        let small = 1.0 / context.scale().divisor() as f32;
        let mut moves = context.map(MAIN, wanted)?;
        moves.change(context.cancel(), |moved| moved.map(|along| along * small))?;
        Ok(Pixels::Picture(places.picture(&moves, context.cancel())?))
    }
}
