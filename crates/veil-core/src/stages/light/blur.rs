//! Blur of a picture, field or map.

use std::sync::Arc;

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::filter::box_blur::{BoxBlur, Profile};
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, Signal};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls, each_kind};

controls! {
    struct BlurControls {
        size_x: f64 = ControlSpec::length("size x", 2.0, 60.0)
            .help("Standard deviation along the rows; any width costs about the same."),
        size_y: f64 = ControlSpec::length("size y", 2.0, 60.0).help("Standard deviation down the columns."),
        shape: Shape = ControlSpec::choice("shape", Shape::Gaussian)
            .help("How a bright dot is spread: as a bell, evenly, or falling straight; all equally far for the same size."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).help("What lies beyond the border."),
    }
}

/// How a dot is spread.
#[derive(Clone, Copy, PartialEq)]
enum Shape {
    Gaussian,
    Box,
    Triangle,
}
choice! {
    Shape {
        Gaussian = "gaussian", "Gaussian";
        Box = "box", "box";
        Triangle = "triangle", "triangle";
    }
}

/// The box or triangle of the same standard deviation: that of a box of width `w` is `w/√12`, of a triangle `w/√24`.
fn boxed(profile: Profile, sigma: Sigma) -> BoxBlur {
    let times = match profile {
        Profile::Box => 12.0f32.sqrt(),
        Profile::Triangle => 24.0f32.sqrt(),
    };
    BoxBlur { profile, x: sigma.x * times, y: sigma.y * times }
}

/// A blur by the controls.
enum How {
    Gaussian(Sigma),
    Boxed(BoxBlur),
}

impl How {
    fn of(controls: &BlurControls, context: &Context<'_>) -> Self {
        let sigma = sigma(controls, context);
        match controls.shape {
            Shape::Gaussian => Self::Gaussian(sigma),
            Shape::Box => Self::Boxed(boxed(Profile::Box, sigma)),
            Shape::Triangle => Self::Boxed(boxed(Profile::Triangle, sigma)),
        }
    }

    fn reach(&self) -> (i32, i32) {
        match self {
            Self::Gaussian(sigma) => sigma.reach(),
            Self::Boxed(boxed) => boxed.reach(),
        }
    }
}

fn sigma(controls: &BlurControls, context: &Context<'_>) -> Sigma {
    Sigma { x: context.scale().length(controls.size_x), y: context.scale().length(controls.size_y) }
}

/// Where a blurred signal exists: beyond its border only where nothing lies outside, and not beyond what
/// can be seen.
pub(in crate::stages) fn spread(main: Domain, (x, y): (i32, i32), edge: Edge) -> Domain {
    let data = match edge {
        Edge::Clear => main.data.grow(x, y).intersect(main.data.union(main.display)),
        Edge::Hold | Edge::Mirror | Edge::Repeat => main.data,
    };
    Domain { data, ..main }
}

/// The main signal with what lies within a reach of `wanted`, and where it exists.
pub(in crate::stages) fn main_within(
    context: &Context<'_>,
    (x, y): (i32, i32),
    edge: Edge,
    wanted: Window,
) -> Result<(Arc<Signal>, Window), StageError> {
    let data = context.main_domain().map_or(Window::EMPTY, |domain| domain.data);
    Ok((context.main(edge.reads_window(wanted.grow(x, y), data))?, data))
}

/// The main signal, blurred.
pub(in crate::stages) fn blurred(
    context: &Context<'_>,
    sigma: Sigma,
    edge: Edge,
    wanted: Window,
) -> Result<Pixels, StageError> {
    let (main, data) = main_within(context, sigma.reach(), edge, wanted)?;
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
                help: "Spreads every pixel over those about it.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
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

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("touch", &[("size_x", 1.0), ("size_y", 1.0)]),
            Preset::of("soft", &[("size_x", 6.0), ("size_y", 6.0)]),
            Preset::of("mist", &[("size_x", 40.0), ("size_y", 40.0)]),
            Preset::of("sideways", &[("size_x", 24.0), ("size_y", 0.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: BlurControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(spread(main, How::of(&controls, context).reach(), controls.outside))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: BlurControls = context.controls()?;
        let edge = controls.outside;
        match How::of(&controls, context) {
            How::Gaussian(sigma) => blurred(context, sigma, edge, wanted),
            How::Boxed(boxed) => {
                let (main, data) = main_within(context, boxed.reach(), edge, wanted)?;
                Ok(
                    each_kind!(&main.pixels, raster => boxed.apply(raster, data, edge, wanted, context.cancel())?),
                )
            }
        }
    }
}
