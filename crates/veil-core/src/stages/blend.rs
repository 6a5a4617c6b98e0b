//! One picture laid on another.

use veil_pixels::blend::{Mode, blend_row};
use veil_pixels::{Raster, Window};

use crate::control::{ControlSet, ControlSpec};
use crate::engine::{Context, StageError};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::{choice, controls};

use super::Stage;

controls! {
    struct BlendControls {
        mode: Mode = ControlSpec::choice("mode", Mode::Over).help("How the layer meets what lies below."),
    }
}

choice! {
    Mode {
        Over = "over", "over";
        Plus = "plus", "plus";
        Multiply = "multiply", "multiply";
        Screen = "screen", "screen";
        Overlay = "overlay", "overlay";
        SoftLight = "soft_light", "soft light";
        HardLight = "hard_light", "hard light";
        Darken = "darken", "darken";
        Lighten = "lighten", "lighten";
        ColourDodge = "colour_dodge", "colour dodge";
        ColourBurn = "colour_burn", "colour burn";
        Difference = "difference", "difference";
        Exclusion = "exclusion", "exclusion";
        Minus = "minus", "minus the layer";
        MinusFrom = "minus_from", "layer minus this";
        Hue = "hue", "hue";
        Saturation = "saturation", "saturation";
        Colour = "colour", "colour";
        Luminosity = "luminosity", "luminosity";
        In = "in", "in";
        Out = "out", "out";
        Atop = "atop", "atop";
        Xor = "xor", "xor";
        Copy = "copy", "copy";
        DestinationOver = "destination_over", "destination over";
        DestinationIn = "destination_in", "destination in";
        DestinationOut = "destination_out", "destination out";
        DestinationAtop = "destination_atop", "destination atop";
    }
}

pub(super) struct Blend {
    spec: StageSpec,
}

impl Blend {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "blend",
                name: "Blend",
                family: Family::Joining,
                help: "Lays a picture over the main one, each by its own alpha.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec { id: "layer", name: "layer", accepts: Accepts::Picture }],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::OwnUse,
                passes: Passes::Keeps,
                controls: BlendControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Blend {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let nothing = Domain { data: Window::EMPTY, ..context.everywhere() };
        let main = context.main_domain().unwrap_or(nothing);
        let layer = context.domain_of("layer").unwrap_or(nothing);
        Ok(Domain { data: main.data.union(layer.data), ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: BlendControls = context.controls()?;
        let below = context.picture(MAIN, wanted)?;
        let layer = context.picture("layer", wanted)?;
        let (matte, amount) = (context.matte(wanted)?, context.amount());
        let blended = Raster::written(wanted, context.cancel(), |y, row| {
            let shares = matte.as_ref().map(|matte| matte.row(y));
            blend_row(controls.mode, below.row(y), layer.row(y), amount, shares, row);
        })?;
        Ok(Pixels::Picture(blended))
    }
}
