//! Outlines that are drawn on the picture, with keys.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;
use veil_pixels::shape::ellipse::SoftSide;

use super::control_type::{ControlType, holding};
use super::form::Form;
use super::points::{KeyedPoints, ShapePoint};
use super::spec::ControlSpec;
use crate::feed::{KeyMove, Moment, Others};
use crate::key::{Key, Keyed, keyed_by_number};
use crate::matte_way::MatteWay;
use crate::media::Media;
use crate::picture::{Frames, PictureFormat};

/// Most outlines of a stage.
const MOST_SHAPES: usize = 200;
/// No width and no softness is larger.
const LONGEST: f64 = 2000.0;

/// One outline.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Drawn {
    /// As shown in the list.
    pub name: String,
    /// Its points, in their order along the outline, with at least one key.
    #[serde(flatten)]
    pub points: KeyedPoints,
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
    /// The frames that it counts at; none for all.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seen: Option<Frames>,
    /// Whether it counts.
    #[serde(default = "yes")]
    pub counts: bool,
    /// Whether it is kept from being changed by hand.
    #[serde(default)]
    pub locked: bool,
    /// Whether its outline is left out on the picture.
    #[serde(default)]
    pub hidden: bool,
}

impl Drawn {
    /// Whether it holds together; the error says what is wrong with it.
    fn check(&self) -> Result<(), String> {
        self.points.check().map_err(|why| format!("has an outline {why}"))?;
        let length = |length: f64| (0.0..=LONGEST).contains(&length);
        let width = self.width.is_none_or(length);
        if width && length(self.softness) && length(self.softens) && (0.0..=1.0).contains(&self.opacity) {
            self.lives()
        } else {
            Err("has an outline whose width, softness or opacity is out of bounds".into())
        }
    }

    fn lives(&self) -> Result<(), String> {
        match self.seen {
            Some(Frames { first, last }) if first > last => {
                Err(format!("has an outline that is seen from frame {first} to {last}, which is before it"))
            }
            _ => Ok(()),
        }
    }

    /// Whether it is seen at a moment: half a frame before its first to half a frame after its last.
    fn is_seen(&self, frame: f64) -> bool {
        self.seen.is_none_or(|Frames { first, last }| {
            (f64::from(first) - 0.5..f64::from(last) + 0.5).contains(&frame)
        })
    }
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
fn stand(shapes: &[Drawn], frame: f64, others: &dyn Others) -> Option<[f64; 4]> {
    let drawn = shapes.iter().find(|drawn| drawn.counts)?;
    let (then, now) = (&drawn.points.keys.first()?.points, drawn.points.placed(frame, others));
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
fn laid(shapes: &[Drawn], frame: f64, others: &dyn Others) -> Vec<Laid> {
    let counting = shapes.iter().filter(|drawn| drawn.counts && drawn.is_seen(frame));
    counting
        .map(|drawn| Laid {
            name: drawn.name.clone(),
            points: drawn.points.placed(frame, others),
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

impl Form for Shapes {
    fn drawn(&self) -> Vec<&KeyedPoints> {
        self.iter().map(|drawn| &drawn.points).collect()
    }

    fn drawn_mut(&mut self) -> Vec<&mut KeyedPoints> {
        self.iter_mut().map(|drawn| &mut drawn.points).collect()
    }

    fn scale_drawn(&mut self, factor: f64) {
        for drawn in self {
            drawn.points.scale(factor);
            drawn.width = drawn.width.map(|width| width * factor);
            drawn.softness *= factor;
            drawn.softens *= factor;
        }
    }

    fn retime_drawn(&mut self, by: KeyMove) {
        for drawn in self {
            drawn.points.retime(by);
            let moved = |frame: i32| by.frame(f64::from(frame)).round() as i32;
            drawn.seen = drawn.seen.map(|seen| Frames { first: moved(seen.first), last: moved(seen.last) });
        }
    }

    fn words(&self) -> String {
        let keys: usize = self.iter().map(|drawn| drawn.points.keys.len()).sum();
        format!("{} outlines with {keys} keys", self.len())
    }
}

/// Outlines.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct ShapesSpec;

impl ControlSpec<ShapesSpec> {
    /// Outlines drawn on the picture.
    pub const fn shapes(name: &'static str) -> Self {
        Self::of(name, ShapesSpec)
    }
}

impl ControlType for ShapesSpec {
    type Value = Vec<Laid>;
    type Set = Shapes;

    fn start(&self, _picture: PictureFormat) -> Vec<Laid> {
        Vec::new()
    }

    fn start_set(&self, _picture: PictureFormat) -> Shapes {
        Vec::new()
    }

    fn wanted(&self) -> String {
        "wants outlines".into()
    }

    fn fits(&self, set: &Shapes) -> Result<(), String> {
        if set.len() > MOST_SHAPES {
            return Err(format!("takes up to {MOST_SHAPES} outlines"));
        }
        set.iter().try_for_each(Drawn::check)
    }

    fn at(&self, set: &Shapes, moment: Moment, others: &dyn Others) -> Option<Vec<Laid>> {
        Some(laid(set, moment.now, others))
    }

    fn follow_names(&self) -> &'static [&'static str] {
        &["centre x", "centre y", "size", "turn"]
    }

    fn own_number(&self, set: &Shapes, axis: usize, moment: Moment, others: &dyn Others) -> Option<f64> {
        stand(set, moment.now, others)?.get(axis).copied()
    }

    fn line(&self, _name: &str, value: &Vec<Laid>, _media: &[Media]) -> String {
        value.iter().map(|shape| shape.name.as_str()).collect::<Vec<_>>().join(", ")
    }

    fn schema(&self) -> Json {
        holding("shapes")
    }

    fn told(&self) -> String {
        "outlines drawn on the picture".into()
    }
}
