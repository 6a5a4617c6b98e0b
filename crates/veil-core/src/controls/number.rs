//! A number, whole number or angle.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::control_type::{ControlType, short};
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// What a number counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Unit {
    /// A plain number.
    None,
    /// Full-resolution pixels.
    Px,
    /// Degrees, counter-clockwise as seen.
    Degrees,
    /// Frames.
    Frames,
    /// Stops of exposure.
    Stops,
    /// Kelvin of colour temperature.
    Kelvin,
    /// Metres of the world.
    Metres,
    /// Millimetres of a lens.
    Millimetres,
}

/// A number's default, hard bounds and the run of its slider.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct NumberSpec {
    /// Where it starts.
    pub default: f64,
    /// No value below this is taken.
    pub least: f64,
    /// No value above this is taken.
    pub most: f64,
    /// What the slider covers; typed values may lie beyond.
    pub slider: (f64, f64),
    /// What it counts.
    pub unit: Unit,
    /// Whole numbers only.
    pub whole: bool,
}

/// Longest length that a control takes, in pixels: beyond it a blur is flat and an edge has no shape.
const LONGEST: f64 = 2000.0;

impl ControlSpec<NumberSpec> {
    /// A number without bounds.
    pub const fn number(name: &'static str, default: f64, slider: (f64, f64)) -> Self {
        let most = 1.0e6;
        Self::of(name, NumberSpec { default, least: -most, most, slider, unit: Unit::None, whole: false })
    }

    /// A length in pixels, not negative.
    pub const fn length(name: &'static str, default: f64, slider_to: f64) -> Self {
        Self::number(name, default, (0.0, slider_to)).within(0.0, LONGEST).unit(Unit::Px)
    }

    /// An angle in degrees.
    pub const fn angle(name: &'static str, default: f64) -> Self {
        Self::number(name, default, (-180.0, 180.0)).unit(Unit::Degrees)
    }

    /// A whole number.
    pub const fn whole(name: &'static str, default: i32, least: i32, most: i32) -> Self {
        let mut made = Self::number(name, default as f64, (least as f64, most as f64));
        made.kind.whole = true;
        made.within(least as f64, most as f64)
    }

    /// The same number within hard bounds, which its slider keeps to.
    pub const fn within(mut self, least: f64, most: f64) -> Self {
        let (from, to) = self.kind.slider;
        self.kind = NumberSpec { least, most, slider: (from.max(least), to.min(most)), ..self.kind };
        self
    }

    /// The same number with a unit.
    pub const fn unit(mut self, unit: Unit) -> Self {
        self.kind.unit = unit;
        self
    }
}

impl ControlType for NumberSpec {
    type Value = f64;
    type Set = Feed;

    fn start(&self, _picture: PictureFormat) -> f64 {
        self.default
    }

    fn start_set(&self, _picture: PictureFormat) -> Feed {
        Feed::Fixed(self.default)
    }

    fn wanted(&self) -> String {
        "wants a number".into()
    }

    fn fits(&self, set: &Feed) -> Result<(), String> {
        set.check()?;
        let beyond = |value: &f64| !(self.least..=self.most).contains(value);
        let out = set.numbers().iter().any(beyond);
        if out { Err(format!("takes {} to {}", self.least, self.most)) } else { Ok(()) }
    }

    fn at(&self, set: &Feed, moment: Moment, others: &dyn Others) -> Option<f64> {
        Some(self.held(set.at(moment, others)))
    }

    fn axes(&self) -> &'static [&'static str] {
        &[""]
    }

    fn held(&self, number: f64) -> f64 {
        let number = number.clamp(self.least, self.most);
        if self.whole { number.round() } else { number }
    }

    fn is_length(&self) -> bool {
        self.unit == Unit::Px
    }

    fn line(&self, name: &str, value: &f64, _media: &[Media]) -> String {
        format!("{name} {}", short(*value))
    }

    fn written(&self, text: &str) -> Result<Feed, &'static str> {
        text.parse().map(Feed::Fixed).map_err(|_| "the value is not a number")
    }

    fn schema(&self) -> Json {
        let mut bounds = json!({ "minimum": self.least, "maximum": self.most });
        if self.whole {
            bounds["multipleOf"] = json!(1);
        }
        json!({ "$ref": "#/$defs/Feed", "if": { "type": "number" }, "then": bounds, "default": self.default })
    }

    fn told(&self) -> String {
        let unit = match self.unit {
            Unit::None => "",
            Unit::Px => " px",
            Unit::Degrees => "°",
            Unit::Frames => " frames",
            Unit::Stops => " stops",
            Unit::Kelvin => " K",
            Unit::Metres => " m",
            Unit::Millimetres => " mm",
        };
        let whole = if self.whole { "whole, " } else { "" };
        let [least, most, start] = [self.least, self.most, self.default].map(short);
        format!("{whole}{least} to {most}{unit}, starts at {start}")
    }
}

/// A feed that a control of this type would have, with a plain value held within the bounds.
impl NumberSpec {
    pub(crate) fn bounded(&self, feed: Feed) -> Feed {
        match feed {
            Feed::Fixed(value) => Feed::Fixed(value.clamp(self.least, self.most)),
            other => other,
        }
    }
}
