//! Outlines on their way from what they are to what they shall be.

use veil_pixels::shape::between::between;
use veil_pixels::shape::outline::Knot;
use veil_pixels::{Raster, Window};

use crate::controls;
use crate::controls::{
    ControlSet, ControlSpec, Grip, Joins, Laid, LaidFence, LaidPair, LaidPairs, ShapePoint, Side,
};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Shutter, Stage, StageError};
use crate::stages::shutter;

use crate::stages::drawing::{Drawing, Moment};

controls! {
    struct BetweenControls {
        outlines: LaidPairs = ControlSpec::pairs("outlines").grip(Grip::Drawn)
            .help("Drawn as they are and as they shall be, with ties between places that belong together."),
        way: f64 = ControlSpec::number("way", 0.0, (0.0, 1.0)).within(-4.0, 5.0)
            .help("How far they have come: 0 as they are, 1 as they shall be. A pair may have its own."),
        width: f64 = ControlSpec::length("width", 6.0, 60.0)
            .help("Of lines that do not close."),
        softness: f64 = ControlSpec::length("softness", 0.0, 100.0).under("edge").help("Length of the soft edge."),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

pub(super) struct BetweenOutlines {
    spec: StageSpec,
}

impl BetweenOutlines {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "between_outlines",
                name: "Between outlines",
                family: Family::Field,
                help: "Covers outlines on their way to others, which need not have as many points. A fence holds back what it closes in, as far as it is firm.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: BetweenControls::specs(),
                proxy_tolerance: 0.01,
            },
        }
    }
}

impl BetweenControls {
    /// The pairs on their way, then the fences that cut into them.
    fn drawn(&self) -> Moment {
        let knot = |point: &ShapePoint| Knot {
            at: point.at,
            before: point.before,
            after: point.after,
            soft: point.soft,
        };
        let knots = |points: &[ShapePoint]| points.iter().map(knot).collect::<Vec<_>>();
        let pair = |pair: &LaidPair| {
            let way = pair.amount.unwrap_or(self.way);
            let places = between([&knots(&pair.rest), &knots(&pair.goal)], pair.closed, &pair.ties, way);
            self.covered(places.into_iter().map(ShapePoint::corner).collect(), pair.closed)
        };
        let fence = |fence: &LaidFence| Laid {
            joins: Joins::Cut,
            opacity: fence.firmness,
            ..self.covered(fence.points.clone(), fence.closed)
        };
        let shapes =
            self.outlines.pairs.iter().map(pair).chain(self.outlines.fences.iter().map(fence)).collect();
        Moment { shapes, softness: self.softness }
    }

    fn covered(&self, points: Vec<ShapePoint>, closed: bool) -> Laid {
        Laid {
            name: String::new(),
            points,
            width: (!closed).then_some(self.width),
            joins: Joins::Add,
            softens: 0.0,
            opacity: 1.0,
            softness: 0.0,
            side: Side::Both,
        }
    }
}

fn drawing(context: &Context<'_>) -> Result<Drawing, StageError> {
    let seen: Vec<BetweenControls> = context.over_shutter()?;
    Ok(Drawing(seen.iter().map(BetweenControls::drawn).collect()))
}

impl Stage for BetweenOutlines {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: BetweenControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        let data = drawing(context)?.window(context).intersect(everywhere.display);
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let drawing = drawing(context)?;
        Ok(Pixels::Field(drawing.over(&Raster::clear(wanted), wanted, context)?))
    }
}
