//! A map made stronger or weaker.

use veil_pixels::Window;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct StrengthControls {
        x: f64 = ControlSpec::number("x", 1.0, (0.0, 400.0)).help("Times how far the map moves sideways."),
        y: f64 = ControlSpec::number("y", 1.0, (0.0, 400.0)).help("Times how far the map moves up and down."),
    }
}

pub(super) struct Strength {
    spec: StageSpec,
}

impl Strength {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "strength",
                name: "Strength",
                family: Family::Map,
                help: "Multiplies a map: value times strength is how many pixels the picture moves.",
                main: Some(Accepts::Map),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: StrengthControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Strength {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: StrengthControls = context.controls()?;
        let (x, y) = (controls.x as f32, controls.y as f32);
        Ok(Some(EachPixel::map(move |[move_x, move_y]| [move_x * x, move_y * y])))
    }
}
