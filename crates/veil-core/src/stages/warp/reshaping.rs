//! What stages that bend pictures by pairs of outlines share.

use rayon::prelude::*;
use veil_pixels::shape::between::{between, tied};
use veil_pixels::shape::outline::Knot;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::outlines::{Fence, Outline, Quality, Shaped};
use veil_pixels::{Cancel, Cancelled, Field, Map, Raster, Window};

use crate::choice;
use crate::controls::{ChoiceSpec, ControlSpec, LaidFence, LaidPair, LaidPairs, NumberSpec, ShapePoint};
use crate::key::{Key, keyed_by_number};
use crate::signal::{Domain, Pixels};
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

keyed_by_number!(Lies, Quality);

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
    way: &(impl Fn(&LaidPair) -> f64 + Sync),
    around: Around,
) -> Result<Shaped, StageError> {
    let scale = small(context);
    let pairs: Vec<Outline> =
        laid.pairs.par_iter().map(|pair| outline(pair, lies, way(pair), scale)).collect();
    let fences: Vec<Fence> = laid.fences.iter().map(|line| fence(line, scale)).collect();
    let Around { quality, density } = around;
    Ok(Shaped::new(&pairs, &fences, quality, density, about(context), context.cancel())?)
}

/// The moves of a picture bent along pairs, scaled by a matte. Without it they are kept for the next request, which may be that
/// of a pass or of another frame: they take much longer to find than to follow. What only a shutter sees is not.
pub(super) fn moves(
    context: &Context<'_>,
    laid: &LaidPairs,
    lies: Lies,
    way: impl Fn(&LaidPair) -> f64 + Sync,
    around: Around,
    window: Window,
    matte: Option<&Field>,
) -> Result<Moves, StageError> {
    let cancel = context.cancel();
    let make = || -> Result<Map, StageError> {
        let shaped = shaped(context, laid, lies, &way, around)?;
        let map = shaped.over(window, cancel)?.map(cancel)?;
        Ok(match shaped.loose() {
            Some(loose) => scaled(&map, loose, cancel)?,
            None => map,
        })
    };
    let map = if context.frame().fract() == 0.0 {
        let ways: Vec<f64> = laid.pairs.iter().map(&way).collect();
        let Around { quality, density } = around;
        let key = Key::of("reshaped").with(laid).with(&lies).with(&ways).with(&quality).with(&density);
        let key = key.with(&context.scale()).with(&about(context));
        let domain = Domain { data: window, ..context.everywhere() };
        let kept = context.kept(key, domain, &mut || Ok(Pixels::Map(make()?)))?;
        match kept.over(window) {
            Pixels::Map(map) => map,
            _ => Map::clear(window),
        }
    } else {
        make()?
    };
    Ok(Moves::new(match matte {
        Some(matte) => scaled(&map, matte, cancel)?,
        None => map,
    }))
}

/// A map, each of its pixels times a field's, which is nothing where it is not.
fn scaled(map: &Map, by: &Field, cancel: &Cancel) -> Result<Map, Cancelled> {
    let window = map.window();
    let begin = || vec![0.0; window.width()];
    Raster::written_with(window, cancel, begin, |room, y, row| {
        let shares = by.run(window.x0, y, room);
        for ((out, own), share) in row.iter_mut().zip(map.row(y)).zip(shares) {
            *out = own.map(|along| along * share);
        }
    })
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
