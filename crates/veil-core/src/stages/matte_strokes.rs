//! A matte mended by hand, with soft strokes.

use veil_pixels::{Edge, Field, Raster, Window};

use crate::control::{ControlSet, ControlSpec, Grip};
use crate::controls;
use crate::drawn::Shapes;
use crate::engine::{Context, StageError};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};

use super::drawing::Drawing;
use super::shutter::Shutter;
use super::{Stage, shutter};

controls! {
    struct MatteStrokesControls {
        strokes: Shapes = ControlSpec::shapes("strokes").grip(Grip::Shapes)
            .help("Brushed on the picture; each adds, takes away, or softens what is below it."),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

impl MatteStrokesControls {
    fn drawing(&self) -> Drawing<'_> {
        let shutter = Shutter { degrees: self.shutter, samples: self.samples };
        Drawing { shapes: &self.strokes, softness: 0.0, shutter }
    }
}

pub(super) struct MatteStrokes {
    spec: StageSpec,
}

impl MatteStrokes {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "matte_strokes",
                name: "Matte strokes",
                family: Family::Field,
                help: "Adds to a matte, takes away from it or softens its edge, where it is brushed.",
                main: Some(Accepts::Field),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: MatteStrokesControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl Stage for MatteStrokes {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn time_key(&self, context: &Context<'_>) -> Result<u64, StageError> {
        let controls: MatteStrokesControls = context.controls()?;
        Ok(controls.drawing().time_key(context))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        context.controls::<MatteStrokesControls>().ok()?.drawing().mark()
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: MatteStrokesControls = context.controls()?;
        let everywhere = context.everywhere();
        let before = context.main_domain().map_or(Window::EMPTY, |domain| domain.data);
        let drawing = controls.drawing();
        let reach = drawing.reach(context);
        let data = before.grow(reach, reach).union(drawing.window(context)).intersect(everywhere.display);
        Ok(Domain { data: data.union(before), ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: MatteStrokesControls = context.controls()?;
        let drawing = controls.drawing();
        let reach = drawing.reach(context);
        let reads = wanted.grow(reach, reach);
        let base = context.field(MAIN, reads, Edge::Clear)?;
        let base: Field = base.map_or_else(
            || Raster::clear(reads),
            |(base, domain)| base.extended(reads, domain.data, Edge::Clear),
        );
        Ok(Pixels::Field(drawing.over(&base, wanted, context)?))
    }
}
