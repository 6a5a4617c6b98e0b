//! How far it is to a matte's edge.

use veil_pixels::filter::distance::{Side, distance};
use veil_pixels::{Edge, Raster, Window};

use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct DistanceControls {
        side: Side = ControlSpec::choice("measured", Side::Matte).help("On which side of the edge."),
        most: f64 = ControlSpec::number("most", 100.0, (1.0, 500.0)).within(1.0, 2000.0).unit(Unit::Px)
            .help("Farther than this counts as this far; less is quicker."),
        share: bool = ControlSpec::switch("as a share", false).help("As 0 to 1 of the most, not in pixels."),
    }
}

choice! {
    Side {
        Matte = "outside", "outside the matte";
        Rest = "inside", "inside the matte";
    }
}

pub(super) struct Distance {
    spec: StageSpec,
}

impl Distance {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "distance",
                name: "Distance",
                family: Family::Field,
                help: "Measures how many pixels it is to a matte's edge.",
                main: Some(Accepts::Field),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: DistanceControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for Distance {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Domain { data: main.data.union(main.display), ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: DistanceControls = context.controls()?;
        let divisor = context.scale().divisor() as f32;
        let most = context.scale().length(controls.most).max(1.0);
        let reach = most.ceil() as i32;
        let (field, data) = match context.field(MAIN, wanted.grow(reach, reach), Edge::Clear)? {
            Some((field, main)) => (field, main.data),
            None => (Raster::clear(wanted), wanted),
        };
        let mut found = distance(&field, data, controls.side, most, wanted, context.cancel())?;
        let times = if controls.share { 1.0 / most } else { divisor };
        found.change(context.cancel(), |value| value * times)?;
        Ok(Pixels::Field(found))
    }
}
