//! Ways everywhere, by outlines and by fences that are as firm as they are.

use std::collections::HashMap;

use super::fence::{Fence, Fences, Inside, held, risen};
use super::plate::Way;
use super::{Line, Quality, Ways};
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// What lies about a fence rises over no less than this, in pixels.
const LEAST_ROOM: f64 = 1.0;
/// A place of which a fence leaves less than this share is not asked to come the whole way.
const LEAST_SHARE: f64 = 0.5;

/// How many times its way is asked of a place of which a fence leaves a share, so that the whole way is left; the less, the
/// nearer it lies to one on which nothing can move.
fn asked(share: f64) -> f64 {
    let t = share / LEAST_SHARE;
    if t >= 1.0 { 1.0 / share } else { t * t * (4.0 - 3.0 * t) / LEAST_SHARE }
}

/// What moves inside of the same fences.
struct Region {
    ways: Ways,
    /// What lies this far from a fence is not held back by it.
    room: f64,
}

/// Fences that hold together, and what they part.
struct Layer<'a> {
    weight: f64,
    fences: Fences<'a>,
    regions: HashMap<Inside, Region>,
}

impl<'a> Layer<'a> {
    fn of(
        outlines: &[Line],
        fences: Vec<&'a Fence>,
        weight: f64,
        how: (Quality, f64),
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let fences = Fences::of(fences);
        // Each outline in the parts that fences cut it into.
        let mut parts: HashMap<Inside, (Vec<Line>, f64)> = HashMap::new();
        for outline in outlines {
            let mut last = None;
            for ((place, way), corner) in outline.places.iter().zip(&outline.ways).zip(&outline.corners) {
                let told = fences.told(*place);
                let (own, room) = parts.entry(told.inside).or_insert_with(|| (Vec::new(), f64::MAX));
                if last != Some(told.inside) {
                    own.push(Line::default());
                    last = Some(told.inside);
                }
                *room = room.min(told.nearest.map_or(f64::MAX, |(far, _)| far));
                if let Some(own) = own.last_mut() {
                    own.places.push(*place);
                    own.ways.push(*way);
                    own.corners.push(*corner);
                }
            }
        }
        let mut regions = HashMap::new();
        for (inside, (mut outlines, room)) in parts {
            let room = room.max(LEAST_ROOM);
            for outline in &mut outlines {
                for (place, way) in outline.places.iter().zip(&mut outline.ways) {
                    let far = fences.told(*place).nearest.map_or(f64::MAX, |(far, _)| far);
                    let by = asked(risen(far, room).0);
                    *way = way.map(|along| along * by);
                }
            }
            let ways = Ways::of(&outlines, |apart| fences.places(apart), how, cancel)?;
            regions.insert(inside, Region { ways, room });
        }
        Ok(Self { weight, fences, regions })
    }

    fn at(&self, place: [f64; 2]) -> Way {
        let told = self.fences.told(place);
        let region = self.regions.get(&told.inside);
        region.map_or_else(Way::default, |region| held(region.ways.at(place), place, &told, region.room))
    }
}

/// Ways everywhere.
pub(super) struct Ground<'a> {
    layers: Vec<Layer<'a>>,
}

impl<'a> Ground<'a> {
    pub(super) fn of(
        outlines: &[Line],
        fences: &'a [Fence],
        how: (Quality, f64),
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        // A fence that is half as firm holds in half of what is there.
        let mut firm: Vec<f64> =
            fences.iter().map(|fence| fence.firmness.clamp(0.0, 1.0)).filter(|firm| *firm > 0.0).collect();
        firm.push(1.0);
        firm.sort_by(f64::total_cmp);
        firm.dedup();
        let mut before = 0.0;
        let mut layers = Vec::new();
        for firm in firm {
            let holding = fences.iter().filter(|fence| fence.firmness >= firm).collect();
            layers.push(Layer::of(outlines, holding, firm - before, how, cancel)?);
            before = firm;
        }
        Ok(Self { layers })
    }

    pub(super) fn at(&self, place: [f64; 2]) -> Way {
        let mut sum = Way::default();
        for layer in &self.layers {
            let way = layer.at(place);
            for axis in 0..2 {
                sum.value[axis] += layer.weight * way.value[axis];
                for (sum, by) in sum.by.iter_mut().zip(way.by) {
                    sum[axis] += layer.weight * by[axis];
                }
            }
        }
        sum
    }

    /// 1 where something may move, 0 where fences keep all still; none where they keep nothing.
    pub(super) fn loose(&self, window: Window, cancel: &Cancel) -> Result<Option<Field>, Cancelled> {
        if self.layers.iter().any(|layer| layer.fences.are_none()) {
            return Ok(None);
        }
        let begin = || vec![0; window.width()];
        let made = Raster::written_with(window, cancel, begin, |inside: &mut Vec<Inside>, y, row| {
            row.fill(0.0);
            for layer in &self.layers {
                layer.fences.along([f64::from(window.x0) + 0.5, f64::from(y) + 0.5], inside);
                for (out, inside) in row.iter_mut().zip(inside.iter()) {
                    if layer.regions.contains_key(inside) {
                        *out = 1.0;
                    }
                }
            }
        })?;
        Ok(Some(made))
    }
}
