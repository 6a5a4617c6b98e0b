//! What stages that bend pictures by pairs of outlines share.

use veil_pixels::shape::between::{between, tied};
use veil_pixels::shape::outline::Knot;
use veil_pixels::warp::outlines::{Fence, Outline, Quality, Shaped};
use veil_pixels::{Cancel, Cancelled, Field, Raster, Window};

use crate::choice;
use crate::controls::{ChoiceSpec, ControlSpec, LaidFence, LaidPair, LaidPairs, NumberSpec, ShapePoint};
use crate::stage::{Context, StageError};

choice! {
    Quality {
        Quick = "quick", "quick, for dragging";
        Normal = "normal", "normal";
        Fine = "fine", "fine";
        Exact = "exact", "exact, for the end";
    }
}

pub(super) fn quality() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("quality", Quality::Normal)
        .help("Of what lies around the outlines; they themselves land exactly at any.")
}

pub(super) fn density() -> ControlSpec<NumberSpec> {
    ControlSpec::number("edge density", 1.0, (0.25, 4.0))
        .within(0.1, 8.0)
        .help("How closely what lies around follows the outlines.")
}

/// The control that says how well it is done, what that is for dragging, and what it is else.
pub(crate) const DRAFT: (&str, &str, &str) = ("quality", "quick", "normal");

/// Places along an outline are so far apart, in pixels of the raster.
const APART: f64 = 0.35;
/// No outline has more of them; they lie further apart then.
const MOST: f64 = 20_000.0;

/// Which outlines of the pairs a picture lies at by itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Lies {
    /// As they are; it goes on to how they shall be.
    AtRest,
    /// As they shall be; it comes back to how they are.
    AtGoal,
}

/// How what lies about outlines goes along.
#[derive(Clone, Copy)]
pub(super) struct Around {
    pub quality: Quality,
    pub density: f64,
}

/// The frame and as much about it as half of it, where outlines are worked out.
pub(super) fn about(context: &Context<'_>) -> Window {
    let frame = context.everywhere().display;
    frame.grow(frame.width() as i32 / 2, frame.height() as i32 / 2)
}

/// A picture bent along pairs, each as far from its rest to its goal as `way` says.
pub(super) fn shaped(
    context: &Context<'_>,
    laid: &LaidPairs,
    lies: Lies,
    way: impl Fn(&LaidPair) -> f64,
    around: Around,
) -> Result<Shaped, StageError> {
    let scale = small(context);
    let pairs: Vec<Outline> = laid.pairs.iter().map(|pair| outline(pair, lies, way(pair), scale)).collect();
    let fences: Vec<Fence> = laid.fences.iter().map(|line| fence(line, scale)).collect();
    let Around { quality, density } = around;
    Ok(Shaped::new(&pairs, &fences, quality, density, about(context), context.cancel())?)
}

/// How far what is bent goes at each pixel: as fences of little firmness let it, and a matte.
pub(super) fn held(
    shaped: &Shaped,
    window: Window,
    matte: Option<Field>,
    cancel: &Cancel,
) -> Result<Option<Field>, Cancelled> {
    let Some(loose) = shaped.loose() else { return Ok(matte) };
    let both = Raster::written(window, cancel, |y, row| {
        for (x, out) in (window.x0..).zip(row) {
            let matte = matte.as_ref().map_or(1.0, |matte| matte.get(x, y).unwrap_or(0.0));
            *out = loose.get(x, y).unwrap_or(0.0) * matte;
        }
    })?;
    Ok(Some(both))
}

/// Places along a pair's outline on its way, in pixels of the raster.
pub(super) fn on_its_way(context: &Context<'_>, pair: &LaidPair, way: f64) -> Vec<[f64; 2]> {
    let [rest, goal] = both(pair, small(context));
    between([&rest, &goal], pair.closed, &pair.ties, way)
}

/// Pixels of the raster for each of full resolution.
fn small(context: &Context<'_>) -> f64 {
    1.0 / f64::from(context.scale().divisor())
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

fn both(pair: &LaidPair, scale: f64) -> [Vec<Knot>; 2] {
    [&pair.rest, &pair.goal].map(|points| knots(points, scale))
}

/// How far apart places of outlines lie.
fn apart(outlines: &[Vec<Knot>]) -> f64 {
    let step = |pair: &[Knot]| (pair[1].at[0] - pair[0].at[0]).hypot(pair[1].at[1] - pair[0].at[1]);
    let longest = outlines.iter().map(|knots| knots.windows(2).map(step).sum::<f64>()).fold(0.0, f64::max);
    APART.max(longest / MOST)
}

/// An outline with how far it goes, in pixels of the raster.
fn outline(pair: &LaidPair, lies: Lies, way: f64, scale: f64) -> Outline {
    let both = both(pair, scale);
    let places = tied(both.each_ref().map(Vec::as_slice), pair.closed, &pair.ties, apart(&both));
    let (own, other, share) = match lies {
        Lies::AtRest => (0, 1, way),
        Lies::AtGoal => (1, 0, 1.0 - way),
    };
    Outline {
        places: places.iter().map(|place| place[own]).collect(),
        ways: places
            .iter()
            .map(|place| [0, 1].map(|axis| (place[other][axis] - place[own][axis]) * share))
            .collect(),
    }
}

fn fence(fence: &LaidFence, scale: f64) -> Fence {
    let line = knots(&fence.points, scale);
    let places = between([&line, &line], fence.closed, &[], 0.0);
    Fence { places, closed: fence.closed, firmness: fence.firmness }
}
