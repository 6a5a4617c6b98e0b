//! A window of a signal.

use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{controls, each_kind};

controls! {
    struct CropControls {
        first: [f64; 2] = ControlSpec::point("top left", [0.1, 0.1]).grip(Grip::Corner).help("The first corner of what is kept; it falls between two pixels."),
        last: [f64; 2] = ControlSpec::point("bottom right", [0.9, 0.9]).grip(Grip::Corner).help("The corner across from it."),
        outside: Edge = ControlSpec::choice("outside", Edge::Clear).help("What lies beyond what is kept."),
        keeps: bool = ControlSpec::switch("keep the data window", false)
            .help("Whether cleared pixels still count as pixels; otherwise the data window is cut, and later stages work on less. The frame stays."),
    }
}

/// What is kept: the pixels nearest to the two corners, in pixels of the proxy scale.
fn kept(controls: &CropControls, context: &Context<'_>) -> Window {
    let place = |at: f64| context.scale().length(at).round() as i32;
    let ([ax, ay], [bx, by]) = (controls.first.map(place), controls.last.map(place));
    Window::new(ax.min(bx), ay.min(by), ax.max(bx), ay.max(by))
}

pub(super) struct Crop {
    spec: StageSpec,
}

impl Crop {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "crop",
                name: "Crop",
                family: Family::Warp,
                help: "Keeps a window of the picture; beyond it is nothing, or what the border holds, mirrors or repeats.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: CropControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Crop {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: CropControls = context.controls()?;
        let main = context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() });
        let inside = main.data.intersect(kept(&controls, context));
        Ok(match controls.outside {
            Edge::Clear if controls.keeps => main,
            Edge::Clear => Domain { data: inside, ..main },
            _ if inside.is_empty() => Domain { data: inside, ..main },
            Edge::Hold | Edge::Mirror | Edge::Repeat => {
                Domain { data: main.display.union(main.data), ..main }
            }
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: CropControls = context.controls()?;
        let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
        let inside = data.intersect(kept(&controls, context));
        let main = context.main(controls.outside.reads_window(wanted, inside))?;
        Ok(
            each_kind!(&main.pixels, raster => raster.cropped(inside).extended(wanted, inside, controls.outside)),
        )
    }
}
