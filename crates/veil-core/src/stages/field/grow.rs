//! A matte made larger or smaller.

use veil_pixels::{Edge, Window, filter::grow};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct GrowControls {
        length: f64 = ControlSpec::number("length", 2.0, (-50.0, 50.0)).within(-500.0, 500.0).unit(Unit::Px)
            .help("How far its edge moves outward, to a fraction of a pixel; below 0 inward."),
    }
}

pub(super) struct Grow {
    spec: StageSpec,
}

impl Grow {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "grow",
                name: "Grow/shrink",
                family: Family::Field,
                help: "Moves the edge of a matte outward or inward, round at its corners.",
                main: Some(Accepts::Field),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: GrowControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Grow {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: GrowControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        let reach = grow::reach(context.scale().length(controls.length.max(0.0)));
        Ok(Domain { data: main.data.grow(reach, reach).intersect(main.data.union(main.display)), ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: GrowControls = context.controls()?;
        let length = context.scale().length(controls.length);
        let reach = grow::reach(length);
        let grown = match context.field(MAIN, wanted.grow(reach, reach), Edge::Clear)? {
            Some((field, main)) => grow::grown(&field, main.data, length, wanted, context.cancel())?,
            None => veil_pixels::Raster::clear(wanted),
        };
        Ok(Pixels::Field(grown))
    }
}
