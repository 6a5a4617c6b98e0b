//! A signal turned inside out.

use veil_pixels::Window;
use veil_pixels::colour::bare::OnColour;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct InvertControls {
        alpha: bool = ControlSpec::switch("alpha too", false).help("Of a picture the alpha is turned as well, not only the colours."),
    }
}

pub(super) struct InvertStage {
    spec: StageSpec,
}

impl InvertStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "invert",
                name: "Invert",
                family: Family::Field,
                help: "Turns a field or picture inside out, 1 minus its value; a map the other way.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: InvertControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for InvertStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        // Nothing becomes full.
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Domain { data: main.data.union(main.display), ..main })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: InvertControls = context.controls()?;
        let turned = OnColour::new(|colour: [f32; 3]| colour.map(|value| 1.0 - value));
        Ok(Some(match kind {
            SignalKind::Field => EachPixel::field(|value| 1.0 - value),
            SignalKind::Map => EachPixel::map(|[x, y]| [-x, -y]),
            SignalKind::Picture if controls.alpha => {
                EachPixel::picture(move |pixel| turned.under(pixel, 1.0 - pixel[3]))
            }
            SignalKind::Picture => EachPixel::picture(move |pixel| turned.at(pixel)),
        }))
    }
}
