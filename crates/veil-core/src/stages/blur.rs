//! Gaussian blur of a picture, field or map.

use veil_pixels::blur::{Sigma, gaussian};
use veil_pixels::{Edge, Window};

use crate::control::{ControlSet, ControlSpec};
use crate::engine::{Context, StageError};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, StageSpec};
use crate::{controls, each_kind};

use super::Stage;

controls! {
    struct BlurControls {
        size_x: f64 = ControlSpec::length("size x", 2.0, 60.0)
            .help("Standard deviation along the rows; any width costs about the same."),
        size_y: f64 = ControlSpec::length("size y", 2.0, 60.0).help("Standard deviation down the columns."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).help("What lies beyond the border."),
    }
}

fn sigma(controls: &BlurControls, context: &Context<'_>) -> Sigma {
    Sigma { x: context.scale().length(controls.size_x), y: context.scale().length(controls.size_y) }
}

/// Where a blurred signal exists: beyond its border only where nothing lies outside, and not beyond what
/// can be seen.
pub(super) fn spread(main: Domain, sigma: Sigma, edge: Edge) -> Domain {
    let (x, y) = sigma.reach();
    let data = match edge {
        Edge::Clear => main.data.grow(x, y).intersect(main.data.union(main.display)),
        Edge::Hold | Edge::Mirror | Edge::Repeat => main.data,
    };
    Domain { data, ..main }
}

/// The main signal, blurred.
pub(super) fn blurred(
    context: &Context<'_>,
    sigma: Sigma,
    edge: Edge,
    wanted: Window,
) -> Result<Pixels, StageError> {
    let data = context.main_domain().map_or(Window::EMPTY, |domain| domain.data);
    let (x, y) = sigma.reach();
    let main = context.main(edge.reads_window(wanted.grow(x, y), data))?;
    Ok(each_kind!(&main.pixels, raster => gaussian(raster, data, edge, sigma, wanted, context.cancel())?))
}

pub(super) struct Blur {
    spec: StageSpec,
}

impl Blur {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "blur",
                name: "Blur",
                family: Family::Light,
                help: "Spreads every pixel as a Gaussian does.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                controls: BlurControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for Blur {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: BlurControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(spread(main, sigma(&controls, context), controls.outside))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: BlurControls = context.controls()?;
        let (sigma, edge) = (sigma(&controls, context), controls.outside);
        blurred(context, sigma, edge, wanted)
    }
}
