//! Red, green and blue.

use serde::Serialize;
use serde_json::Value as Json;

use super::{
    ControlKind, ControlSpec, ControlType, FromValue, Setting, Value, axes_fit, fed, numbers,
    numbers_written, short,
};
use crate::feed::{Moment, Others};
use crate::picture::PictureFormat;

/// A colour.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct ColourSpec {
    /// Where each of its numbers starts.
    pub default: [f64; 3],
    /// The run of the sliders.
    pub slider: (f64, f64),
}

impl ControlSpec {
    /// Red, green and blue.
    pub const fn colour(name: &'static str, default: f64, slider: (f64, f64)) -> Self {
        Self::colours(name, [default; 3], slider)
    }

    /// Red, green and blue that start apart.
    pub const fn colours(name: &'static str, default: [f64; 3], slider: (f64, f64)) -> Self {
        Self::of(name, ControlKind::Colour(ColourSpec { default, slider }))
    }
}

impl ControlType for ColourSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Colour(self.default)
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::numbers(&self.default)
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        axes_fit(setting, self.axes().len())
    }

    fn at(&self, setting: &Setting, moment: Moment, others: &dyn Others) -> Option<Value> {
        numbers(self, setting, moment, others).map(Value::Colour)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["red", "green", "blue"]
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        format!("a colour, starts at {}", self.default.map(short).join(" "))
    }
}

impl FromValue for [f64; 3] {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Colour(colour) => Some(*colour),
            _ => None,
        }
    }
}
