//! A matte mended by hand, with soft strokes.

use veil_pixels::{Edge, Field, Raster, Window};

use crate::controls;
use crate::controls::Laid;
use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Shutter, Stage, StageError};
use crate::stages::shutter;

use crate::stages::drawing::{Drawing, Moment};

controls! {
    struct MatteStrokesControls {
        strokes: Vec<Laid> = ControlSpec::shapes("strokes").grip(Grip::Drawn)
            .help("Brushed on the picture; each adds, takes away, or softens what is below it."),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

fn drawing(context: &Context<'_>) -> Result<Drawing, StageError> {
    let seen: Vec<MatteStrokesControls> = context.over_shutter()?;
    let moment = |controls: MatteStrokesControls| Moment { shapes: controls.strokes, softness: 0.0 };
    Ok(Drawing(seen.into_iter().map(moment).collect()))
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

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: MatteStrokesControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        drawing(context).ok()?.mark()
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        let before = context.main_domain().map_or(Window::EMPTY, |domain| domain.data);
        let drawing = drawing(context)?;
        let reach = drawing.reach(context);
        let data = before.grow(reach, reach).union(drawing.window(context)).intersect(everywhere.display);
        Ok(Domain { data: data.union(before), ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let drawing = drawing(context)?;
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
