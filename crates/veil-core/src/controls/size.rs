//! A length along each axis.

use serde::Serialize;
use serde_json::Value as Json;

use super::{
    ControlKind, ControlSpec, ControlType, FromValue, Setting, Value, axes_fit, fed, numbers,
    numbers_written, short,
};
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// Two lengths, in full-resolution pixels and never negative.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct SizeSpec {
    /// Where it starts, as a share of the picture's height on both axes.
    pub default_share: [f64; 2],
}

impl ControlSpec {
    /// Two lengths, as a share of the picture's height to start with.
    pub const fn size(name: &'static str, default_share: [f64; 2]) -> Self {
        Self::of(name, ControlKind::Size(SizeSpec { default_share }))
    }
}

impl SizeSpec {
    fn lengths(&self, picture: PictureFormat) -> [f64; 2] {
        self.default_share.map(|share| share * f64::from(picture.height))
    }
}

impl ControlType for SizeSpec {
    fn start(&self, picture: PictureFormat) -> Value {
        Value::Size(self.lengths(picture))
    }

    fn start_setting(&self, picture: PictureFormat) -> Setting {
        Setting::numbers(&self.lengths(picture))
    }

    fn is_relative(&self) -> bool {
        true
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        axes_fit(setting, self.axes().len())
    }

    fn at(&self, setting: &Setting, moment: Moment, others: &dyn Others) -> Option<Value> {
        numbers(self, setting, moment, others).map(Value::Size)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["x", "y"]
    }

    fn held(&self, number: f64) -> f64 {
        number.max(0.0)
    }

    fn is_length(&self) -> bool {
        true
    }

    fn line(&self, name: &str, value: &Value, _media: &[Media]) -> String {
        let lengths = <[f64; 2]>::from_value(value);
        lengths.map_or_else(String::new, |[x, y]| format!("{name} {} {}", short(x), short(y)))
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        "a length along each axis, in px".into()
    }
}
