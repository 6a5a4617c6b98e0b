//! Outlines that are drawn on the picture, with keys.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::ellipse::SoftSide;

use crate::key::{Key, Keyed, keyed_by_fields, keyed_by_number};
use crate::mattes::MatteWay;
use crate::tracks::{Along, Track, TrackId};
use veil_pixels::perspective::Homography;

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
    /// Where it comes to lie; as it is where that is behind the eye.
    pub fn carried(self, by: Homography) -> Self {
        let Some(at) = by.at(self.at) else { return self };
        let handle = |way: [f64; 2]| {
            let end = by.at([self.at[0] + way[0], self.at[1] + way[1]]);
            end.map_or(way, |end| [end[0] - at[0], end[1] - at[1]])
        };
        let soft = self.soft * by.width_at(self.at);
        Self { at, before: handle(self.before), after: handle(self.after), soft }
    }

    const fn numbers(self) -> [f64; 7] {
        let Self { at: [x, y], before: [bx, by], after: [ax, ay], soft } = self;
        [x, y, bx, by, ax, ay, soft]
    }

    fn of_numbers([x, y, bx, by, ax, ay, soft]: [f64; 7]) -> Self {
        Self { at: [x, y], before: [bx, by], after: [ax, ay], soft: soft.max(0.0) }
    }
}

/// All points of a shape at a frame.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ShapeKey {
    /// The frame.
    pub frame: f64,
    /// In their order along the outline; as many in every key of a shape.
    pub points: Vec<ShapePoint>,
}

/// How a shape goes from key to key.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum ShapeWay {
    /// Without a jolt at the keys.
    #[default]
    Smooth,
    /// At the same pace from one to the next.
    Straight,
    /// It stays until the next.
    Step,
}

/// One outline.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Drawn {
    /// As shown in the list.
    pub name: String,
    /// Its keys by frame; at least one.
    pub keys: Vec<ShapeKey>,
    /// The width of an open one; none for one that closes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub width: Option<f64>,
    /// How it meets those before it.
    #[serde(default)]
    pub joins: Joins,
    /// Standard deviation of the blur where it softens what was drawn before it.
    #[serde(default, skip_serializing_if = "crate::feed::is_zero")]
    pub softens: f64,
    /// How much it covers, 0–1.
    #[serde(default = "one")]
    pub opacity: f64,
    /// Length of its soft edge.
    #[serde(default)]
    pub softness: f64,
    /// On which side of the outline that lies.
    #[serde(default)]
    pub side: Side,
    /// How it goes from key to key.
    #[serde(default)]
    pub way: ShapeWay,
    /// Whether it counts.
    #[serde(default = "yes")]
    pub counts: bool,
    /// Whether it is kept from being changed by hand.
    #[serde(default)]
    pub locked: bool,
    /// Whether its outline is left out on the picture.
    #[serde(default)]
    pub hidden: bool,
    /// The track that it goes with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub carried: Option<CarriedBy>,
}

/// How an outline meets what was drawn before it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Joins {
    /// The larger of the two coverages.
    #[default]
    Add,
    /// Where the others are and it is not.
    Cut,
    /// Where both are.
    Intersect,
    /// It covers nothing itself: what it covers of the others is blurred.
    Soften,
}

impl Joins {
    /// As mattes meet; none where it only softens.
    pub const fn way(self) -> Option<MatteWay> {
        match self {
            Self::Add => Some(MatteWay::Add),
            Self::Cut => Some(MatteWay::Cut),
            Self::Intersect => Some(MatteWay::Intersect),
            Self::Soften => None,
        }
    }
}

/// A track that an outline goes with: its points are those of one frame.
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
    pub fn at(&self, frame: f64, tracks: &[Track]) -> Option<Homography> {
        tracks.iter().find(|track| track.id == self.track)?.carry(self.along, self.since, frame)
    }
}

const fn one() -> f64 {
    1.0
}

const fn yes() -> bool {
    true
}

/// On which side of an outline a soft edge lies.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Side {
    /// Half on either side.
    #[default]
    Both,
    /// Within the outline.
    Inward,
    /// Beyond the outline.
    Outward,
}

impl From<Side> for SoftSide {
    fn from(side: Side) -> Self {
        match side {
            Side::Both => Self::Both,
            Side::Inward => Self::Inward,
            Side::Outward => Self::Outward,
        }
    }
}

/// Where the first outline that counts stands at a frame: the middle of its points, x and y, how many times as large as at
/// its first key it is, and by how many degrees it has turned since then, counter-clockwise as seen. None without one.
///
/// Source: the similarity nearest to two sets of points, Gower and Dijksterhuis, "Procrustes Problems", 2004, chapter 4.
pub fn stand(shapes: &[Drawn], frame: f64, tracks: &[Track]) -> Option<[f64; 4]> {
    let drawn = shapes.iter().find(|drawn| drawn.counts)?;
    let (then, now) = (&drawn.keys.first()?.points, drawn.placed(frame, tracks));
    let middle = |points: &[ShapePoint]| {
        [0, 1].map(|axis| points.iter().map(|point| point.at[axis]).sum::<f64>() / points.len().max(1) as f64)
    };
    let (from, to) = (middle(then), middle(&now));
    let (mut along, mut across, mut before, mut after) = (0.0, 0.0, 0.0, 0.0);
    for (old, new) in then.iter().zip(&now) {
        let [ox, oy] = [old.at[0] - from[0], old.at[1] - from[1]];
        let [nx, ny] = [new.at[0] - to[0], new.at[1] - to[1]];
        along += ox * nx + oy * ny;
        across += ox * ny - oy * nx;
        before += ox * ox + oy * oy;
        after += nx * nx + ny * ny;
    }
    let size = if before > 0.0 { (after / before).sqrt() } else { 1.0 };
    Some([to[0], to[1], size, (-across).atan2(along).to_degrees()])
}

/// An outline as it stands at a moment, wherever a track has carried it.
#[derive(Clone, Debug, PartialEq)]
pub struct Laid {
    /// As shown in the list.
    pub name: String,
    /// In their order along the outline.
    pub points: Vec<ShapePoint>,
    /// The width of an open one; none for one that closes.
    pub width: Option<f64>,
    /// How it meets those before it.
    pub joins: Joins,
    /// Standard deviation of the blur where it softens what was drawn before it.
    pub softens: f64,
    /// How much it covers, 0–1.
    pub opacity: f64,
    /// Length of its soft edge.
    pub softness: f64,
    /// On which side of the outline that lies.
    pub side: Side,
}

keyed_by_number!(Joins, Side);
keyed_by_fields! {
    ShapePoint { at, before, after, soft }
}

impl Keyed for Laid {
    fn key(&self, key: &mut Key) {
        let Self { name: _, points, width, joins, softens, opacity, softness, side } = self;
        key.add(points);
        key.add(width);
        key.add(joins);
        key.add(softens);
        key.add(opacity);
        key.add(softness);
        key.add(side);
    }
}

/// The outlines that count, as they stand at a moment.
pub fn laid(shapes: &[Drawn], frame: f64, tracks: &[Track]) -> Vec<Laid> {
    let counting = shapes.iter().filter(|drawn| drawn.counts);
    counting
        .map(|drawn| Laid {
            name: drawn.name.clone(),
            points: drawn.placed(frame, tracks),
            width: drawn.width,
            joins: drawn.joins,
            softens: drawn.softens,
            opacity: drawn.opacity,
            softness: drawn.softness,
            side: drawn.side,
        })
        .collect()
}

/// Outlines in the order they are joined in.
pub type Shapes = Vec<Drawn>;

/// Most outlines of a stage.
pub const MOST_SHAPES: usize = 200;
/// Most points of an outline.
pub const MOST_POINTS: usize = 2000;

impl Drawn {
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
                    ShapeWay::Step => start,
                    ShapeWay::Straight => start + (end - start) * t,
                    ShapeWay::Smooth => {
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
    pub fn placed(&self, frame: f64, tracks: &[Track]) -> Vec<ShapePoint> {
        let points = self.at(frame);
        match self.carried.as_ref().and_then(|by| by.at(frame, tracks)) {
            Some(by) => points.into_iter().map(|point| point.carried(by)).collect(),
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
                made.keys.insert(at, ShapeKey { frame, points });
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

    /// The same on a picture so many times as large.
    pub fn scaled(&self, factor: f64) -> Self {
        let mut made = self.clone();
        made.width = made.width.map(|width| width * factor);
        made.softness *= factor;
        made.softens *= factor;
        for point in made.keys.iter_mut().flat_map(|key| &mut key.points) {
            *point = ShapePoint::of_numbers(point.numbers().map(|number| number * factor));
        }
        made
    }

    /// Whether it holds together; the error says what it must be.
    pub fn check(&self) -> Result<(), &'static str> {
        let Some(first) = self.keys.first() else { return Err("has an outline without a key") };
        let count = first.points.len();
        if !(1..=MOST_POINTS).contains(&count) || self.keys.iter().any(|key| key.points.len() != count) {
            return Err("has an outline whose keys do not have as many points as each other");
        }
        if self
            .keys
            .windows(2)
            .any(|pair| pair[0].frame.partial_cmp(&pair[1].frame) != Some(std::cmp::Ordering::Less))
        {
            return Err("has an outline whose keys are not in order");
        }
        let near = |value: f64| value.abs() <= 1.0e6;
        let points = self.keys.iter().flat_map(|key| &key.points);
        if !points.flat_map(|point| point.numbers()).all(near) {
            return Err("has an outline that reaches too far");
        }
        let width = self.width.is_none_or(|width| (0.0..=2000.0).contains(&width));
        let length = |length: f64| (0.0..=2000.0).contains(&length);
        let soft = length(self.softness) && length(self.softens) && (0.0..=1.0).contains(&self.opacity);
        if width && soft {
            Ok(())
        } else {
            Err("has an outline whose width, softness or opacity is out of bounds")
        }
    }
}

fn hermite(t: f64, [start, end]: [f64; 2], [leave, arrive]: [f64; 2]) -> f64 {
    let u = 1.0 - t;
    u * u * (1.0 + 2.0 * t) * start + t * t * (1.0 + 2.0 * u) * end + u * u * t * leave - t * t * u * arrive
}
