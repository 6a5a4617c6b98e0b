//! From one picture to another along pairs of outlines.

use veil_pixels::blend::mix;
use veil_pixels::sample::resample::Filter;
use veil_pixels::shape::spread::{Numbered, spread};
use veil_pixels::warp::Warp;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::outlines::Quality;
use veil_pixels::{Edge, Field, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, LaidPair, LaidPairs};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Ride, Stage, StageError};
use crate::{controls, each_kind};

use super::reshaping::{self, Around, Lies};
use super::rings;

const TO: &str = "to";

controls! {
    struct MorphControls {
        outlines: LaidPairs = ControlSpec::dissolving_pairs("outlines").grip(Grip::Drawn)
            .help("What is the same in both: as it is in the main picture and as it is in the other. A fence keeps still what lies beyond it."),
        shape: f64 = ControlSpec::number("shape", 0.5, (0.0, 1.0)).within(0.0, 1.0)
            .help("How far outlines have come: 0 as in the main picture, 1 as in the other. A pair may have its own."),
        dissolve: f64 = ControlSpec::number("dissolve", 0.5, (0.0, 1.0)).within(0.0, 1.0)
            .help("How much of the other is seen. A pair may have its own."),
        reach: f64 = ControlSpec::length("own dissolve reaches", 120.0, 500.0).within(1.0, 5000.0)
            .help("So far beyond a pair's outline its own dissolve becomes that of all."),
        quality: Quality = reshaping::quality(),
        density: f64 = reshaping::density(),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the pictures are read between their pixels."),
        rings: bool = rings(),
    }
}

/// One of the two pictures.
#[derive(Clone, Copy)]
struct Side {
    slot: &'static str,
    lies: Lies,
}

const SIDES: [Side; 2] = [Side { slot: MAIN, lies: Lies::AtRest }, Side { slot: TO, lies: Lies::AtGoal }];

impl MorphControls {
    fn way(&self, pair: &LaidPair) -> f64 {
        pair.amount.unwrap_or(self.shape).clamp(0.0, 1.0)
    }

    /// How much of the other picture is seen at each pixel; none where it is the same everywhere.
    fn seen(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        let own = |pair: &LaidPair| {
            pair.dissolve.map(|number| Numbered {
                places: reshaping::on_its_way(context, pair, self.way(pair)),
                closed: pair.closed,
                number: number.clamp(0.0, 1.0) as f32,
            })
        };
        let own: Vec<Numbered> = self.outlines.pairs.iter().filter_map(own).collect();
        if own.is_empty() {
            return Ok(None);
        }
        let reach = self.reach / f64::from(context.scale().divisor());
        Ok(Some(spread(&own, self.dissolve as f32, reach, window, context.cancel())?))
    }

    /// How one of the pictures is moved; none where it lies as it is.
    fn moves(&self, context: &Context<'_>, lies: Lies, window: Window) -> Result<Option<Moves>, StageError> {
        let still = |pair: &LaidPair| match lies {
            Lies::AtRest => self.way(pair) == 0.0,
            Lies::AtGoal => self.way(pair) == 1.0,
        };
        if self.outlines.pairs.iter().all(still) {
            return Ok(None);
        }
        let around = Around { quality: self.quality, density: self.density };
        let way = |pair: &LaidPair| self.way(pair);
        reshaping::moves(context, &self.outlines, lies, way, around, window, None).map(Some)
    }

    /// What is in a slot, or a pass that travels with it, as it lies on its way; none where there is none.
    fn moved(
        &self,
        context: &Context<'_>,
        side: Side,
        ride: Option<&Ride>,
        window: Window,
    ) -> Result<Option<Pixels>, StageError> {
        let Some(domain) = context.domain_of(side.slot) else { return Ok(None) };
        let take = |window: Window| match ride {
            Some(ride) => context.ride(side.slot, ride, window),
            None => Ok(Some(Pixels::Picture(context.picture(side.slot, window)?))),
        };
        let Some(moves) = self.moves(context, side.lies, window)? else { return take(window) };
        let mut way = if ride.is_some_and(Ride::is_data) {
            Warp::of_points(window, self.outside)
        } else {
            Warp::new(window, self.sampling, self.outside)
        };
        way.displace(moves, 0.0);
        let (data, cancel) = (domain.data, context.cancel());
        let Some(taken) = take(way.reads(data))? else { return Ok(None) };
        let moved = each_kind!(&taken, raster => way.apply(raster, data, cancel)?);
        Ok(Some(match (moved, &taken) {
            (Pixels::Picture(moved), Pixels::Picture(source)) if !self.rings => {
                Pixels::Picture(way.covered(moved, source, data, cancel)?)
            }
            (moved, _) => moved,
        }))
    }
}

/// Both mixed, or where values must not be mixed the one that is seen more of.
fn dissolved(
    context: &Context<'_>,
    [from, to]: [Pixels; 2],
    seen: (f32, Option<&Field>),
    averages: bool,
) -> Result<Pixels, StageError> {
    let ((all, each), cancel) = (seen, context.cancel());
    if each.is_none() && (all == 0.0 || all == 1.0) {
        return Ok(if all == 0.0 { from } else { to });
    }
    let share = if each.is_some() { 1.0 } else { all };
    Ok(match (&from, &to) {
        (Pixels::Picture(a), Pixels::Picture(b)) if averages => {
            Pixels::Picture(mix::mix(a, b, share, each, cancel)?)
        }
        (Pixels::Field(a), Pixels::Field(b)) if averages => {
            Pixels::Field(mix::mix(a, b, share, each, cancel)?)
        }
        (Pixels::Map(a), Pixels::Map(b)) if averages => Pixels::Map(mix::mix(a, b, share, each, cancel)?),
        (Pixels::Picture(a), Pixels::Picture(b)) => {
            Pixels::Picture(mix::seen_more(a, b, share, each, cancel)?)
        }
        (Pixels::Field(a), Pixels::Field(b)) => Pixels::Field(mix::seen_more(a, b, share, each, cancel)?),
        (Pixels::Map(a), Pixels::Map(b)) => Pixels::Map(mix::seen_more(a, b, share, each, cancel)?),
        _ => from,
    })
}

pub(super) struct Morph {
    spec: StageSpec,
}

impl Morph {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "morph",
                name: "Morph",
                family: Family::Warp,
                help: "Goes from one picture to another: outlines in pairs say what becomes what, and shape and dissolve each have their own time.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(TO, "to", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Joins,
                controls: MorphControls::specs(),
                proxy_tolerance: 0.04,
            },
        }
    }
}

impl Stage for Morph {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let frame = context.everywhere();
        let both = SIDES.iter().filter_map(|side| context.domain_of(side.slot));
        // What is bent may lie anywhere in the frame.
        Ok(Domain { data: both.fold(frame.data, |all, domain| all.union(domain.data)), ..frame })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: MorphControls = context.controls()?;
        let clear = || Pixels::clear(SignalKind::Picture, wanted);
        let each = controls.seen(context, wanted)?;
        let all = controls.dissolve as f32;
        let alone = [1.0, 0.0];
        let seen = |side: usize| match &each {
            Some(each) => each.pixels().iter().any(|share| *share != alone[side]),
            None => all != alone[side],
        };
        let moved = |side: usize| -> Result<Pixels, StageError> {
            let moved = if seen(side) { controls.moved(context, SIDES[side], None, wanted)? } else { None };
            Ok(moved.unwrap_or_else(clear))
        };
        dissolved(context, [moved(0)?, moved(1)?], (all, each.as_ref()), true)
    }

    fn bring(&self, context: &Context<'_>, ride: &Ride, wanted: Window) -> Result<Pixels, StageError> {
        let controls: MorphControls = context.controls()?;
        let each = controls.seen(context, wanted)?;
        let seen = (controls.dissolve as f32, each.as_ref());
        let main = controls.moved(context, SIDES[0], Some(ride), wanted)?;
        let to = match controls.moved(context, SIDES[1], Some(ride), wanted) {
            Err(StageError::Cancelled) => return Err(StageError::Cancelled),
            // The other need not bring the same passes.
            other => other.ok().flatten(),
        };
        match (main, to) {
            (Some(main), Some(to)) => dissolved(context, [main, to], seen, !ride.is_data()),
            (Some(main), None) => Ok(main),
            (None, _) => Err(context.fault("has no main picture that brings passes")),
        }
    }
}
