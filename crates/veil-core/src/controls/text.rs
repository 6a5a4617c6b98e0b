//! Words, of one line or more.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value};
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// No text is longer, in bytes.
const LONGEST_TEXT: usize = 4000;

/// A text.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct TextSpec {
    /// What it starts as.
    pub default: &'static str,
}

impl ControlSpec {
    /// Words.
    pub const fn text(name: &'static str, default: &'static str) -> Self {
        Self::of(name, ControlKind::Text(TextSpec { default }))
    }
}

impl ControlType for TextSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Text(self.default.into())
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Choice(self.default.into())
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        match setting {
            Setting::Choice(text) if text.len() <= LONGEST_TEXT => Ok(()),
            Setting::Choice(_) => Err(format!("takes up to {LONGEST_TEXT} letters")),
            _ => Err("wants a text".into()),
        }
    }

    fn at(&self, setting: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Value> {
        match setting {
            Setting::Choice(text) => Some(Value::Text(text.clone())),
            _ => None,
        }
    }

    fn line(&self, _name: &str, value: &Value, _media: &[Media]) -> String {
        match value {
            Value::Text(text) => text.lines().collect::<Vec<_>>().join(" / "),
            _ => String::new(),
        }
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        Ok(Setting::Choice(text.into()))
    }

    fn schema(&self) -> Json {
        json!({ "type": "string", "default": self.default })
    }

    fn told(&self) -> String {
        "words".into()
    }
}

impl FromValue for String {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Text(text) => Some(text.clone()),
            _ => None,
        }
    }
}
