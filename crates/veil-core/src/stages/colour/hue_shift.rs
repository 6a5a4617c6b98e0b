//! Hues turned, luma kept.

use veil_pixels::Window;
use veil_pixels::colour::hue::HueTurn;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct HueShiftControls {
        angle: f64 = ControlSpec::angle("turn", 30.0).help("How far hues are turned, from red toward green; at 120 red is green."),
        saturation: f64 = ControlSpec::number("saturation", 1.0, (0.0, 2.0)).within(0.0, 20.0).help("Times what a colour has besides grey."),
    }
}

pub(super) struct HueShift {
    spec: StageSpec,
}

impl HueShift {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "hue_shift",
                name: "Hue shift",
                family: Family::Colour,
                help: "Turns all hues and keeps how light they are.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: HueShiftControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for HueShift {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: HueShiftControls = context.controls()?;
        let turn = HueTurn::new(
            controls.angle.to_radians() as f32,
            controls.saturation as f32,
            context.working().luma(),
        );
        // Linear, so that premultiplied colours may be turned as they are.
        Ok(Some(EachPixel::picture(move |[r, g, b, a]| {
            let [r, g, b] = turn.of([r, g, b]);
            [r, g, b, a]
        })))
    }
}
