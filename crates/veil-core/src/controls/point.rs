//! A place on the picture.

use serde::Serialize;
use serde_json::Value as Json;

use super::{
    ControlKind, ControlSpec, ControlType, FromValue, Setting, Value, axes_fit, fed, numbers,
    numbers_written, short,
};
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A point, x and y in full-resolution pixels.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct PointSpec {
    /// Where it starts, as a share of the picture's width and height.
    pub default_share: [f64; 2],
}

impl ControlSpec {
    /// A place, as a share of the picture to start with.
    pub const fn point(name: &'static str, default_share: [f64; 2]) -> Self {
        Self::of(name, ControlKind::Point(PointSpec { default_share }))
    }
}

impl PointSpec {
    fn place(&self, picture: PictureFormat) -> [f64; 2] {
        let [x, y] = self.default_share;
        [x * f64::from(picture.width), y * f64::from(picture.height)]
    }
}

impl ControlType for PointSpec {
    fn start(&self, picture: PictureFormat) -> Value {
        Value::Point(self.place(picture))
    }

    fn start_setting(&self, picture: PictureFormat) -> Setting {
        Setting::numbers(&self.place(picture))
    }

    fn is_relative(&self) -> bool {
        true
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        axes_fit(setting, self.axes().len())
    }

    fn at(&self, setting: &Setting, moment: Moment, others: &dyn Others) -> Option<Value> {
        numbers(self, setting, moment, others).map(Value::Point)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["x", "y"]
    }

    fn is_length(&self) -> bool {
        true
    }

    fn line(&self, name: &str, value: &Value, _media: &[Media]) -> String {
        let place = <[f64; 2]>::from_value(value);
        place.map_or_else(String::new, |[x, y]| format!("{name} {} {}", short(x), short(y)))
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        "a place on the picture".into()
    }
}

/// A place, or two lengths.
impl FromValue for [f64; 2] {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Point(pair) | Value::Size(pair) => Some(*pair),
            _ => None,
        }
    }
}
