//! Points that are keyed all together and may go with a track: those of an outline, or the places of a lattice.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::feed::{KeyMove, Others};
use crate::key::keyed_by_fields;
use crate::tracks::{Along, Carrying, TrackId};

/// Most points of a list of them.
const MOST_POINTS: usize = 2000;
/// No point lies further off.
const FAR: f64 = 1.0e6;

/// A point of an outline, in full-resolution pixels.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ShapePoint {
    /// Where it is.
    pub at: [f64; 2],
    /// From it to the handle that the curve comes in by; nothing for a corner.
    #[serde(default, skip_serializing_if = "is_nothing")]
    pub before: [f64; 2],
    /// From it to the handle that the curve leaves by.
    #[serde(default, skip_serializing_if = "is_nothing")]
    pub after: [f64; 2],
    /// Length of the soft edge here, besides that of the whole shape.
    #[serde(default, skip_serializing_if = "crate::feed::is_zero")]
    pub soft: f64,
}

fn is_nothing(way: &[f64; 2]) -> bool {
    *way == [0.0; 2]
}

impl ShapePoint {
    /// A corner.
    pub const fn corner(at: [f64; 2]) -> Self {
        Self { at, before: [0.0; 2], after: [0.0; 2], soft: 0.0 }
    }

    /// Where it comes to lie, with its handles; as it is where a track carries it nowhere.
    pub fn carried(self, by: &Carrying) -> Self {
        Self { soft: self.soft * by.width_at(self.at), ..self.seen(by) }
    }

    /// The same with the softness that it was drawn with.
    fn seen(self, by: &Carrying) -> Self {
        self.gone(|place| by.at(place))
    }

    /// What comes to be seen so.
    fn seen_back(self, by: &Carrying) -> Self {
        self.gone(|place| by.back(place))
    }

    fn gone(self, by: impl Fn([f64; 2]) -> Option<[f64; 2]>) -> Self {
        let Some(at) = by(self.at) else { return self };
        let handle = |way: [f64; 2]| {
            if is_nothing(&way) {
                return way;
            }
            let end = by([self.at[0] + way[0], self.at[1] + way[1]]);
            end.map_or(way, |end| [end[0] - at[0], end[1] - at[1]])
        };
        Self { at, before: handle(self.before), after: handle(self.after), soft: self.soft }
    }

    const fn numbers(self) -> [f64; 7] {
        let Self { at: [x, y], before: [bx, by], after: [ax, ay], soft } = self;
        [x, y, bx, by, ax, ay, soft]
    }

    fn of_numbers([x, y, bx, by, ax, ay, soft]: [f64; 7]) -> Self {
        Self { at: [x, y], before: [bx, by], after: [ax, ay], soft: soft.max(0.0) }
    }
}

/// All points at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PointsKey {
    /// The frame.
    pub frame: f64,
    /// In their order; as many in every key.
    pub points: Vec<ShapePoint>,
}

/// How points go from key to key.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum PointsWay {
    /// Without a jolt at the keys.
    #[default]
    Smooth,
    /// At the same pace from one to the next.
    Straight,
    /// It stays until the next.
    Step,
}

keyed_by_fields! {
    ShapePoint { at, before, after, soft }
}

/// Points with their keys.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct KeyedPoints {
    /// Their keys by frame.
    pub keys: Vec<PointsKey>,
    /// How they go from key to key.
    #[serde(default)]
    pub way: PointsWay,
    /// The track that they go with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub carried: Option<CarriedBy>,
}

/// A track that points go with: they are those of one frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CarriedBy {
    /// Which.
    pub track: TrackId,
    /// The frame where it stands as it was drawn.
    pub since: f64,
    /// What of the track it goes with.
    #[serde(default, skip_serializing_if = "Along::is_whole")]
    pub along: Along,
}

impl CarriedBy {
    /// From the places of its frame to those of another; none where the track is not there or was found nowhere.
    pub fn at(&self, frame: f64, others: &dyn Others) -> Option<Carrying> {
        others.track(self.track)?.carry(self.along, self.since, frame)
    }
}

impl KeyedPoints {
    /// The same at every frame.
    pub fn still(frame: f64, points: Vec<ShapePoint>) -> Self {
        Self { keys: vec![PointsKey { frame, points }], ..Self::default() }
    }

    /// Its points at a frame; before the first key and after the last it stays.
    pub fn at(&self, frame: f64) -> Vec<ShapePoint> {
        let next = self.keys.partition_point(|key| key.frame <= frame);
        let (Some(before), Some(after)) = (next.checked_sub(1), self.keys.get(next)) else {
            let nearest = if next == 0 { self.keys.first() } else { self.keys.last() };
            return nearest.map(|key| key.points.clone()).unwrap_or_default();
        };
        let (from, to) = (&self.keys[before], after);
        let wide = to.frame - from.frame;
        let t = (frame - from.frame) / wide;
        let mix = |number: usize| {
            let value = |key: usize, axis: usize| self.keys[key].points[number].numbers()[axis];
            let axis = |axis: usize| {
                let (start, end) = (value(before, axis), value(next, axis));
                match self.way {
                    PointsWay::Step => start,
                    PointsWay::Straight => start + (end - start) * t,
                    PointsWay::Smooth => {
                        let slope = |key: usize| self.slope(key, |key| value(key, axis)) * wide;
                        hermite(t, [start, end], [slope(before), slope(next)])
                    }
                }
            };
            ShapePoint::of_numbers(std::array::from_fn(axis))
        };
        (0..from.points.len().min(to.points.len())).map(mix).collect()
    }

    /// Its points at a frame, where the track that it goes with has carried them.
    pub fn placed(&self, frame: f64, others: &dyn Others) -> Vec<ShapePoint> {
        let points = self.at(frame);
        match self.carried.as_ref().and_then(|by| by.at(frame, others)) {
            Some(by) => points.into_iter().map(|point| point.carried(&by)).collect(),
            None => points,
        }
    }

    /// Its points at a frame as they are seen there; they are as soft as they were drawn.
    pub fn seen(&self, frame: f64, others: &dyn Others) -> Vec<ShapePoint> {
        self.gone(self.at(frame), frame, others, ShapePoint::seen)
    }

    /// The points that are seen so at a frame.
    pub fn seen_back(&self, points: Vec<ShapePoint>, frame: f64, others: &dyn Others) -> Vec<ShapePoint> {
        self.gone(points, frame, others, ShapePoint::seen_back)
    }

    fn gone(
        &self,
        points: Vec<ShapePoint>,
        frame: f64,
        others: &dyn Others,
        way: fn(ShapePoint, &Carrying) -> ShapePoint,
    ) -> Vec<ShapePoint> {
        match self.carried.as_ref().and_then(|by| by.at(frame, others)) {
            Some(by) => points.into_iter().map(|point| way(point, &by)).collect(),
            None => points,
        }
    }

    /// How fast a number changes at a key: from the key before to the one after.
    fn slope(&self, key: usize, value: impl Fn(usize) -> f64) -> f64 {
        let (first, last) = (key.saturating_sub(1), (key + 1).min(self.keys.len() - 1));
        let frames = self.keys[last].frame - self.keys[first].frame;
        if frames > 0.0 { (value(last) - value(first)) / frames } else { 0.0 }
    }

    /// The same with these points at a frame, as a key there.
    pub fn with_key(&self, frame: f64, points: Vec<ShapePoint>) -> Self {
        let mut made = self.clone();
        match made.keys.iter_mut().find(|key| key.frame == frame) {
            Some(key) => key.points = points,
            None => {
                let at = made.keys.partition_point(|key| key.frame < frame);
                made.keys.insert(at, PointsKey { frame, points });
            }
        }
        made
    }

    /// The same with every key changed by what these points differ from those at a frame.
    pub fn moved_as_a_whole(&self, frame: f64, points: &[ShapePoint]) -> Self {
        let before = self.at(frame);
        let by: Vec<[f64; 7]> = points
            .iter()
            .zip(&before)
            .map(|(new, old)| {
                let (new, old) = (new.numbers(), old.numbers());
                std::array::from_fn(|axis| new[axis] - old[axis])
            })
            .collect();
        let mut made = self.clone();
        for (point, by) in made.keys.iter_mut().flat_map(|key| key.points.iter_mut().zip(&by)) {
            let old = point.numbers();
            *point = ShapePoint::of_numbers(std::array::from_fn(|axis| old[axis] + by[axis]));
        }
        made
    }

    /// Frames of its keys, where there is more than one: one alone is no animation.
    pub fn animated(&self) -> impl Iterator<Item = f64> {
        let keys = if self.keys.len() > 1 { self.keys.as_slice() } else { &[] };
        keys.iter().map(|key| key.frame)
    }

    /// Moves its keys in time, where there is more than one.
    pub(crate) fn retime(&mut self, by: KeyMove) {
        if self.keys.len() > 1 {
            self.keys.iter_mut().for_each(|key| key.frame = by.frame(key.frame));
        }
    }

    /// Becomes that of a picture so many times as large.
    pub(crate) fn scale(&mut self, factor: f64) {
        for point in self.keys.iter_mut().flat_map(|key| &mut key.points) {
            *point = ShapePoint::of_numbers(point.numbers().map(|number| number * factor));
        }
    }

    /// Each key's points, changed into others.
    pub(crate) fn changed(&self, change: impl Fn(&[ShapePoint]) -> Vec<ShapePoint>) -> Self {
        let keys = self.keys.iter().map(|key| PointsKey { frame: key.frame, points: change(&key.points) });
        Self { keys: keys.collect(), ..self.clone() }
    }

    /// Whether it holds together; the error says what is wrong with it.
    pub fn check(&self) -> Result<(), &'static str> {
        let Some(first) = self.keys.first() else { return Err("without a key") };
        let count = first.points.len();
        if !(1..=MOST_POINTS).contains(&count) || self.keys.iter().any(|key| key.points.len() != count) {
            return Err("whose keys do not have as many points as each other");
        }
        if !self.keys.is_sorted_by(|before, after| before.frame < after.frame) {
            return Err("whose keys are not in order");
        }
        let points = self.keys.iter().flat_map(|key| &key.points);
        if points.flat_map(|point| point.numbers()).all(|number| number.abs() <= FAR) {
            Ok(())
        } else {
            Err("that reaches too far")
        }
    }

    /// How many points it has.
    pub(crate) fn count(&self) -> usize {
        self.keys.first().map_or(0, |key| key.points.len())
    }
}

fn hermite(t: f64, [start, end]: [f64; 2], [leave, arrive]: [f64; 2]) -> f64 {
    let u = 1.0 - t;
    u * u * (1.0 + 2.0 * t) * start + t * t * (1.0 + 2.0 * u) * end + u * u * t * leave - t * t * u * arrive
}
