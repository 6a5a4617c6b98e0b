//! Outlines drawn on the picture.

use veil_pixels::{Field, Raster, Window};

use crate::controls;
use crate::controls::Laid;
use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Shutter, Stage, StageError};
use crate::stages::shutter;

use crate::stages::drawing::{Drawing, Moment};

controls! {
    struct OutlineControls {
        shapes: Vec<Laid> = ControlSpec::shapes("outlines").grip(Grip::Drawn)
            .help("Drawn on the picture: click to place a point, drag to bend it, the first point closes the outline."),
        softness: f64 = ControlSpec::length("softness", 0.0, 100.0).under("edge")
            .help("Length of a soft edge on every outline, besides its own."),
        invert: bool = ControlSpec::switch("invert", false).under("edge").help("Covers what lies outside instead."),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

pub(super) struct OutlineStage {
    spec: StageSpec,
}

impl OutlineStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "outline",
                name: "Outline",
                family: Family::Field,
                help: "Covers what is drawn on the picture, closed outlines and lines, keyed through the shot.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: OutlineControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

fn drawing(context: &Context<'_>) -> Result<Drawing, StageError> {
    let seen: Vec<OutlineControls> = context.over_shutter()?;
    let moment = |controls: OutlineControls| Moment { shapes: controls.shapes, softness: controls.softness };
    Ok(Drawing(seen.into_iter().map(moment).collect()))
}

impl Stage for OutlineStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: OutlineControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        drawing(context).ok()?.mark()
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: OutlineControls = context.controls()?;
        let everywhere = context.everywhere();
        if controls.invert {
            return Ok(everywhere);
        }
        let drawing = drawing(context)?;
        let reach = drawing.reach(context);
        let data = drawing.window(context).grow(reach, reach).intersect(everywhere.display);
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: OutlineControls = context.controls()?;
        let drawing = drawing(context)?;
        let reach = drawing.reach(context);
        let nothing: Field = Raster::clear(wanted.grow(reach, reach));
        let mut all = drawing.over(&nothing, wanted, context)?;
        if controls.invert {
            all.change(context.cancel(), |coverage| 1.0 - coverage)?;
        }
        Ok(Pixels::Field(all))
    }
}
