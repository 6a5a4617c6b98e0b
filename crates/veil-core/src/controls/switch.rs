//! On or off.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value};
use crate::feed::{Moment, Others};
use crate::picture::PictureFormat;

/// A switch.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct SwitchSpec {
    /// Where it starts.
    pub default: bool,
}

impl ControlSpec {
    /// On or off.
    pub const fn switch(name: &'static str, default: bool) -> Self {
        Self::of(name, ControlKind::Switch(SwitchSpec { default }))
    }
}

impl ControlType for SwitchSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Switch(self.default)
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Switch(self.default)
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        if matches!(setting, Setting::Switch(_)) { Ok(()) } else { Err("is on or off".into()) }
    }

    fn at(&self, setting: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Value> {
        match setting {
            Setting::Switch(on) => Some(Value::Switch(*on)),
            _ => None,
        }
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        text.parse().map(Setting::Switch).map_err(|_| "the value is true or false")
    }

    fn schema(&self) -> Json {
        json!({ "type": "boolean", "default": self.default })
    }

    fn told(&self) -> String {
        format!("a switch, {}", if self.default { "on" } else { "off" })
    }
}

impl FromValue for bool {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Switch(on) => Some(*on),
            _ => None,
        }
    }
}
