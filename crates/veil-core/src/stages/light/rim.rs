//! How much light a body's surface throws back.

use veil_pixels::{Edge, Raster, Window};

use super::body::{self, By, Form, Lit};
use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::outside::Directions;

controls! {
    struct RimControls {
        index: f64 = ControlSpec::number("index", 1.5, (1.0, 2.5)).within(1.0, 4.0).help("Index of refraction: the larger, the wider and brighter the rim."),
        gain: f64 = ControlSpec::number("gain", 1.0, (0.0, 4.0)).within(0.0, 100.0).help("Times what is thrown back."),
        angle: f64 = ControlSpec::angle("lit from", 60.0).help("Where light comes from, counter-clockwise from the right."),
        directed: f64 = ControlSpec::number("directed", 0.5, (0.0, 1.0)).within(0.0, 1.0).help("From 0, from all about, to 1, from there alone."),
        by: By = body::by(),
        round: f64 = body::round(),
        height: f64 = body::height(),
        range: Directions = body::range(),
    }
}

pub(super) struct Rim {
    spec: StageSpec,
}

impl Rim {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "rim",
                name: "Rim",
                family: Family::Light,
                help: "Gives how much light a body's surface throws back: little where it faces the eye, all where it turns away.",
                main: None,
                slots: body::slots(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: RimControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for Rim {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.everywhere())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: RimControls = context.controls()?;
        let form =
            Form { by: controls.by, round: controls.round, height: controls.height, range: controls.range };
        let bounds = form.bounds(context, wanted)?;
        if bounds.is_empty() {
            return Ok(Pixels::Field(Raster::clear(wanted)));
        }
        let body = form.facing(context, bounds)?;
        let lit = Lit { index: controls.index, angle: controls.angle, directed: controls.directed };
        let mut rim = lit.rim(&body, context.cancel())?;
        let gain = controls.gain as f32;
        rim.change(context.cancel(), |value| value * gain)?;
        Ok(Pixels::Field(rim.extended(wanted, bounds, Edge::Clear)))
    }
}
