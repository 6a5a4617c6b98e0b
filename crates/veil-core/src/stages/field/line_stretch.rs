//! One row or column of a signal, over all of it.

use veil_pixels::Window;
use veil_pixels::filter::stretch::{Line, Stretch};

use crate::controls::{ControlSet, ControlSpec, Grip, Unit};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls, each_kind};

controls! {
    struct LineStretchControls {
        line: Line = ControlSpec::choice("line", Line::Row)
            .help("A row, so that the pattern varies from left to right only, or a column."),
        place: [f64; 2] = ControlSpec::point("through", [0.5, 0.5]).grip(Grip::Point)
            .help("A place that the line goes through."),
        band: f64 = ControlSpec::number("band", 1.0, (1.0, 200.0)).within(1.0, 2000.0).unit(Unit::Px)
            .help("How much about the line is averaged."),
    }
}

choice! {
    Line {
        Row = "row", "a row";
        Column = "column", "a column";
    }
}

fn stretch(controls: &LineStretchControls, context: &Context<'_>) -> Stretch {
    let axis = if controls.line == Line::Row { 1 } else { 0 };
    let scale = context.scale();
    Stretch { line: controls.line, at: scale.length(controls.place[axis]), band: scale.length(controls.band) }
}

pub(super) struct LineStretch {
    spec: StageSpec,
}

impl LineStretch {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "line_stretch",
                name: "Line stretch",
                family: Family::Field,
                help: "One row or column, stretched over the frame, so that a pattern varies along one axis only.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: LineStretchControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for LineStretch {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: LineStretchControls = context.controls()?;
        let Some(main) = context.main_domain().filter(|main| !main.data.is_empty()) else {
            return Ok(Domain { data: Window::EMPTY, ..context.everywhere() });
        };
        let (data, all) = (main.data, main.data.union(main.display));
        let data = match controls.line {
            Line::Row => Window { y0: all.y0, y1: all.y1, ..data },
            Line::Column => Window { x0: all.x0, x1: all.x1, ..data },
        };
        Ok(Domain { data, ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let stretch = stretch(&context.controls()?, context);
        let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
        let main = context.main(stretch.reads(wanted, data))?;
        Ok(each_kind!(&main.pixels, raster => stretch.apply(raster, data, wanted, context.cancel())?))
    }
}
