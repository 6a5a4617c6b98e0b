//! How steeply a field rises, as a map.

use veil_pixels::filter::steepness::{reach, steepness};
use veil_pixels::{Edge, Map, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct SteepnessControls {
        distance: f64 = ControlSpec::length("over", 1.0, 20.0).within(0.1, 1000.0)
            .help("The distance to either side over which the rise is measured; wider is smoother."),
    }
}

/// How steeply the main field rises over a distance in full-resolution pixels, value for each of these; none where nothing
/// is plugged.
pub(super) fn slopes(
    context: &Context<'_>,
    distance: f64,
    wanted: Window,
) -> Result<Option<Map>, StageError> {
    let distance = context.scale().length(distance);
    let around = wanted.grow(reach(distance), reach(distance));
    let Some((field, domain)) = context.field(MAIN, around, Edge::Hold)? else { return Ok(None) };
    let pixels_a_step = context.scale().divisor() as f32;
    Ok(Some(steepness(&field, domain.data, distance, pixels_a_step, wanted, context.cancel())?))
}

pub(super) struct SteepnessMap {
    spec: StageSpec,
}

impl SteepnessMap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "steepness_map",
                name: "Steepness map",
                family: Family::Map,
                help: "How steeply a field, or the luma of a picture, rises in x and in y: value for each pixel.",
                main: Some(Accepts::Field),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Map),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: SteepnessControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for SteepnessMap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: SteepnessControls = context.controls()?;
        let slopes = slopes(context, controls.distance, wanted)?;
        Ok(slopes.map_or_else(|| Pixels::clear(SignalKind::Map, wanted), Pixels::Map))
    }
}
