//! One colour.

use veil_pixels::{Raster, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};

const COVERS: &str = "covers";

controls! {
    struct FillControls {
        colour: [f64; 3] = ControlSpec::colour("colour", 1.0, (0.0, 2.0)).help("Red, green and blue in scene-linear light."),
        alpha: f64 = ControlSpec::number("alpha", 1.0, (0.0, 1.0)).within(0.0, 1.0).help("How much it covers."),
    }
}

pub(super) struct Fill {
    spec: StageSpec,
}

impl Fill {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "fill",
                name: "Fill",
                family: Family::Source,
                help: "One colour; a field in its slot becomes its alpha.",
                main: None,
                slots: vec![SlotSpec::new(COVERS, "covers", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: FillControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for Fill {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        Ok(context.domain_of(COVERS).map_or(everywhere, |field| Domain { data: field.data, ..everywhere }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: FillControls = context.controls()?;
        let [r, g, b] = controls.colour.map(|value| value as f32);
        let alpha = controls.alpha as f32;
        let laid = |share: f32| [r, g, b, 1.0].map(|value| value * alpha * share);
        Ok(Pixels::Picture(match context.coverage(COVERS, wanted)? {
            None => Raster::flat(wanted, laid(1.0)),
            Some(field) => field.map(context.cancel(), laid)?,
        }))
    }
}
