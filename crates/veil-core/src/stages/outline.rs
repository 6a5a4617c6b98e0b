//! Outlines drawn on the picture.

use veil_pixels::outline::{Knot, Outline};
use veil_pixels::{Cancelled, Field, Raster, Window};

use crate::control::{ControlSet, ControlSpec, Grip};
use crate::controls;
use crate::drawn::{Drawn, Shapes};
use crate::engine::{Context, StageError};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};

use super::Stage;

controls! {
    struct OutlineControls {
        shapes: Shapes = ControlSpec::shapes("outlines").grip(Grip::Shapes)
            .help("Drawn on the picture: click to place a point, drag to bend it, the first point closes the outline."),
        softness: f64 = ControlSpec::length("softness", 0.0, 100.0).under("edge")
            .help("Length of a soft edge on every outline, besides its own."),
        invert: bool = ControlSpec::switch("invert", false).under("edge").help("Covers what lies outside instead."),
        shutter: f64 = ControlSpec::number("shutter", 0.0, (0.0, 360.0)).within(0.0, 720.0)
            .unit(crate::control::Unit::Degrees).under("motion blur")
            .help("How long the outlines are seen while they move; 360 is a whole frame, 0 none."),
        samples: i32 = ControlSpec::whole("samples", 8, 1, 64).under("motion blur")
            .help("In how many steps they move while they are seen."),
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

/// A shape at a frame, in pixels of the proxy scale.
fn outline(drawn: &Drawn, softness: f64, frame: f64, context: &Context<'_>) -> Outline {
    let scale = |value: f64| f64::from(context.scale().length(value));
    let pair = |pair: [f64; 2]| pair.map(scale);
    let knot = |point: crate::drawn::ShapePoint| Knot {
        at: pair(point.at),
        before: pair(point.before),
        after: pair(point.after),
        soft: scale(point.soft + drawn.softness + softness),
    };
    Outline {
        knots: drawn.at(frame).into_iter().map(knot).collect(),
        width: drawn.width.map(scale),
        side: drawn.side.into(),
    }
}

impl OutlineControls {
    /// The moments that are seen at a frame: about its middle.
    fn moments(&self, frame: f64) -> Vec<f64> {
        let open = self.shutter / 360.0;
        if open <= 0.0 || self.samples < 2 || !self.shapes.iter().any(Drawn::changes) {
            return vec![frame];
        }
        let count = f64::from(self.samples);
        (0..self.samples).map(|step| frame + ((f64::from(step) + 0.5) / count - 0.5) * open).collect()
    }

    fn counting(&self) -> impl Iterator<Item = &Drawn> {
        self.shapes.iter().filter(|drawn| drawn.counts)
    }

    fn covered(&self, frame: f64, context: &Context<'_>, wanted: Window) -> Result<Field, Cancelled> {
        let mut all: Field = Raster::clear(wanted);
        for drawn in self.counting() {
            let this = outline(drawn, self.softness, frame, context).over(wanted, context.cancel())?;
            let opacity = drawn.opacity as f32;
            all.fill_rows(context.cancel(), |y, row| {
                for (out, this) in row.iter_mut().zip(this.row(y)) {
                    *out = drawn.joins.of(*out, this * opacity);
                }
            })?;
        }
        Ok(all)
    }
}

impl Stage for OutlineStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn time_key(&self, context: &Context<'_>) -> Result<u64, StageError> {
        let controls: OutlineControls = context.controls()?;
        Ok(if controls.counting().any(Drawn::changes) { context.frame().to_bits() } else { 0 })
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: OutlineControls = context.controls()?;
        let everywhere = context.everywhere();
        if controls.invert {
            return Ok(everywhere);
        }
        let moments = controls.moments(context.frame());
        let windows = controls.counting().flat_map(|drawn| {
            moments.iter().map(|moment| outline(drawn, controls.softness, *moment, context).window())
        });
        let data = windows.fold(Window::EMPTY, Window::union).intersect(everywhere.display);
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: OutlineControls = context.controls()?;
        let moments = controls.moments(context.frame());
        let share = 1.0 / moments.len() as f32;
        let mut all: Field = Raster::clear(wanted);
        for moment in moments {
            let now = controls.covered(moment, context, wanted)?;
            all.fill_rows(context.cancel(), |y, row| {
                row.iter_mut().zip(now.row(y)).for_each(|(out, now)| *out += now * share);
            })?;
        }
        if controls.invert {
            all.change(context.cancel(), |coverage| 1.0 - coverage)?;
        }
        Ok(Pixels::Field(all))
    }
}
