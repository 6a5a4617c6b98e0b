//! How steeply a field rises, as a picture of directions.

use veil_pixels::Window;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::outside::Directions;

use super::steepness_map::slopes;

controls! {
    struct NormalControls {
        height: f64 = ControlSpec::number("height", 20.0, (0.0, 200.0)).help("How many pixels a value of 1 stands out."),
        distance: f64 = ControlSpec::length("over", 1.0, 20.0).within(0.1, 1000.0)
            .help("The distance to either side over which the rise is measured; wider is smoother."),
        range: Directions = ControlSpec::choice("range", Directions::Shifted).help("From 0 to 1 with a half for none, or from -1 to 1."),
    }
}

pub(super) struct NormalMap {
    spec: StageSpec,
}

impl NormalMap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "normal_map",
                name: "Normal map",
                family: Family::Map,
                help: "The directions that a field, seen as heights, faces in: red to the right, green up, blue toward the eye.",
                main: Some(Accepts::Field),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: NormalControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for NormalMap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: NormalControls = context.controls()?;
        let Some(slopes) = slopes(context, controls.distance, wanted)? else {
            return Ok(Pixels::clear(SignalKind::Picture, wanted));
        };
        let height = controls.height as f32;
        let normal = |[right, down]: [f32; 2]| {
            // It leans away from the rise; y of a normal is up.
            let [x, y] = [-right * height, down * height];
            let length = (x * x + y * y + 1.0).sqrt();
            let [r, g, b] = [x, y, 1.0].map(|part| match controls.range {
                Directions::Signed => part / length,
                Directions::Shifted => 0.5 + 0.5 * part / length,
            });
            [r, g, b, 1.0]
        };
        Ok(Pixels::Picture(slopes.map(context.cancel(), normal)?))
    }
}
