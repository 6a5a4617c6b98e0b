//! Reshapes a picture by outlines as they are and as they shall be.

use veil_pixels::sample::resample::Filter;
use veil_pixels::shape::between::{between, tied};
use veil_pixels::shape::outline::Knot;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::outlines::{Fence, Outline, Quality, Shaped};
use veil_pixels::{Edge, Field, Raster, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, LaidFence, LaidPair, LaidPairs, ShapePoint};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Bend, Context, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::shutter;
use crate::{choice, controls};

use super::rings;

controls! {
    struct ShapeWarpControls {
        outlines: LaidPairs = ControlSpec::pairs("outlines").grip(Grip::Drawn)
            .help("Draw a part as it is and as it shall be, and tie places that belong together; a fence keeps still what lies beyond it."),
        way: f64 = ControlSpec::number("way", 1.0, (0.0, 1.0)).within(-4.0, 5.0)
            .help("How far all have come: 0 as they are, 1 as they shall be. A pair may have its own."),
        quality: Quality = ControlSpec::choice("quality", Quality::Normal)
            .help("Of what lies around the outlines; they themselves land exactly at any."),
        density: f64 = ControlSpec::number("edge density", 1.0, (0.25, 4.0)).within(0.1, 8.0)
            .help("How closely what lies around follows the outlines."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

choice! {
    Quality {
        Quick = "quick", "quick, for dragging";
        Normal = "normal", "normal";
        Fine = "fine", "fine";
        Exact = "exact", "exact, for the end";
    }
}

/// Places along an outline are so far apart, in pixels of the raster.
const APART: f64 = 0.35;
/// No outline has more of them; they lie further apart then.
const MOST: f64 = 20_000.0;

pub(super) struct ShapeWarp {
    spec: StageSpec,
}

impl ShapeWarp {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "shape_warp",
                name: "Shape warp",
                family: Family::Warp,
                help: "Reshapes what comes in: outlines go from where they are to where they shall be, and what lies about them goes along.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: ShapeWarpControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ShapeWarp {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: ShapeWarpControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

fn knots(points: &[ShapePoint], scale: f64) -> Vec<Knot> {
    let by = |pair: [f64; 2]| pair.map(|number| number * scale);
    let knot = |point: &ShapePoint| Knot {
        at: by(point.at),
        before: by(point.before),
        after: by(point.after),
        soft: 0.0,
    };
    points.iter().map(knot).collect()
}

/// How far apart places of outlines lie.
fn apart(outlines: &[Vec<Knot>]) -> f64 {
    let step = |pair: &[Knot]| (pair[1].at[0] - pair[0].at[0]).hypot(pair[1].at[1] - pair[0].at[1]);
    let longest = outlines.iter().map(|knots| knots.windows(2).map(step).sum::<f64>()).fold(0.0, f64::max);
    APART.max(longest / MOST)
}

/// An outline with how far it goes, in pixels of the raster.
fn outline(pair: &LaidPair, amount: f64, scale: f64) -> Outline {
    let both = [&pair.rest, &pair.goal].map(|points| knots(points, scale));
    let places = tied(both.each_ref().map(Vec::as_slice), pair.closed, &pair.ties, apart(&both));
    Outline {
        places: places.iter().map(|[rest, _]| *rest).collect(),
        ways: places
            .iter()
            .map(|[rest, goal]| [0, 1].map(|axis| (goal[axis] - rest[axis]) * amount))
            .collect(),
    }
}

fn fence(fence: &LaidFence, scale: f64) -> Fence {
    let line = knots(&fence.points, scale);
    let places = between([&line, &line], fence.closed, &[], 0.0);
    Fence { places, closed: fence.closed, firmness: fence.firmness }
}

/// The frame and as much about it as half of it, where outlines are worked out.
fn about(context: &Context<'_>) -> Window {
    let frame = context.everywhere().display;
    frame.grow(frame.width() as i32 / 2, frame.height() as i32 / 2)
}

fn shaped(context: &Context<'_>) -> Result<Shaped, StageError> {
    let ShapeWarpControls { outlines, way, quality, density, .. } = context.controls()?;
    let (scale, amount) = (1.0 / f64::from(context.scale().divisor()), f64::from(context.amount()));
    let goes = |pair: &LaidPair| outline(pair, pair.amount.unwrap_or(way) * amount, scale);
    let pairs: Vec<Outline> = outlines.pairs.iter().map(goes).collect();
    let fences: Vec<Fence> = outlines.fences.iter().map(|line| fence(line, scale)).collect();
    Ok(Shaped::new(&pairs, &fences, quality, density, about(context), context.cancel())?)
}

impl WarpStage for ShapeWarp {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: ShapeWarpControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let ShapeWarpControls { outlines, .. } = context.controls()?;
        let still = outlines.pairs.iter().all(|pair| pair.rest == pair.goal && pair.ties.is_empty());
        Ok(Bend::Map { softness: 0.0, within: if still { Window::EMPTY } else { about(context) } })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let shaped = shaped(context)?;
        let inverse = shaped.over(window, context.cancel())?;
        let matte = context.matte(window)?;
        let held = match (shaped.loose(), matte) {
            (None, matte) => matte,
            (Some(loose), matte) => Some(Raster::written(window, context.cancel(), |y, row| {
                for (x, out) in (window.x0..).zip(row) {
                    let matte = matte.as_ref().map_or(1.0, |matte| matte.get(x, y).unwrap_or(0.0));
                    *out = loose.get(x, y).unwrap_or(0.0) * matte;
                }
            })?),
        };
        Ok(Moves::bent(inverse, 1.0, held))
    }

    fn folds(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        Ok(Some(shaped(context)?.folded(window, context.cancel())?))
    }
}
