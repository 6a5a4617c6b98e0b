//! A list of names.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value};
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// Names.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct NamesSpec;

impl ControlSpec {
    /// A list of names.
    pub const fn names(name: &'static str) -> Self {
        Self::of(name, ControlKind::Names(NamesSpec))
    }
}

impl ControlType for NamesSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Names(Vec::new())
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Names(Vec::new())
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        if matches!(setting, Setting::Names(_)) { Ok(()) } else { Err("wants a list of names".into()) }
    }

    fn at(&self, setting: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Value> {
        match setting {
            Setting::Names(names) => Some(Value::Names(names.clone())),
            _ => None,
        }
    }

    fn line(&self, _name: &str, value: &Value, _media: &[Media]) -> String {
        <Vec<String>>::from_value(value).unwrap_or_default().join(", ")
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        Ok(Setting::Names(text.split(',').map(|name| name.trim().to_owned()).collect()))
    }

    fn schema(&self) -> Json {
        json!({ "type": "array", "items": { "type": "string" } })
    }

    fn told(&self) -> String {
        "names".into()
    }
}

impl FromValue for Vec<String> {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Names(names) => Some(names.clone()),
            _ => None,
        }
    }
}
