//! Every vector of a map turned.

use veil_pixels::Window;
use veil_pixels::warp::push::turned;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct TurnControls {
        angle: f64 = ControlSpec::angle("angle", 90.0).grip(Grip::Turn)
            .help("How far each move is turned, counter-clockwise as seen: what went outward goes around at 90."),
        swap: bool = ControlSpec::switch("swap axes", false).help("Before it is turned, x moves down and y to the right: another kind of warp."),
    }
}

pub(super) struct TurnMap {
    spec: StageSpec,
}

impl TurnMap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "turn_map",
                name: "Turn",
                family: Family::Map,
                help: "Turns every move of a map: outward becomes around.",
                main: Some(Accepts::Map),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: TurnControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for TurnMap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: TurnControls = context.controls()?;
        let by = (controls.angle.to_radians() as f32).sin_cos();
        let map = context.map(MAIN, wanted)?;
        Ok(Pixels::Map(
            map.map(context.cancel(), |[x, y]| turned(if controls.swap { [y, x] } else { [x, y] }, by))?,
        ))
    }
}
