//! Softens the edges of a field or smooths a map.

use veil_pixels::filter::blur::Sigma;
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::light::blur::{blurred, spread};

controls! {
    struct SoftenControls {
        length: f64 = ControlSpec::length("length", 12.0, 80.0).help("Standard deviation of the Gaussian that softens."),
    }
}

fn sigma(controls: &SoftenControls, context: &Context<'_>) -> Sigma {
    Sigma::round(context.scale().length(controls.length))
}

/// A matte that ends within the frame is softened outwards; one that fills it goes on beyond the border.
fn edge(context: &Context<'_>) -> Edge {
    let fills = context.main_domain().is_none_or(|main| main.data.contains(main.display));
    if fills { Edge::Hold } else { Edge::Clear }
}

pub(super) struct Soften {
    spec: StageSpec,
}

impl Soften {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "soften",
                name: "Soften",
                family: Family::Field,
                help: "Softens a matte before it is used, since a hard edge gives the trick away.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: SoftenControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for Soften {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: SoftenControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(spread(main, sigma(&controls, context).reach(), edge(context)))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: SoftenControls = context.controls()?;
        let (sigma, edge) = (sigma(&controls, context), edge(context));
        blurred(context, sigma, edge, wanted)
    }
}
