//! One of a few.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value};
use crate::choice::{Choice, ChoiceOption};
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A choice.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct ChoiceSpec {
    /// Index of the one it starts with.
    pub default: usize,
    /// All there are.
    pub options: &'static [ChoiceOption],
}

impl ControlSpec {
    /// One of the entries of a [`Choice`].
    pub fn choice<C: Choice>(name: &'static str, default: C) -> Self {
        let default = C::ALL.iter().position(|one| *one == default).unwrap_or(0);
        Self::of(name, ControlKind::Choice(ChoiceSpec { default, options: C::OPTIONS }))
    }
}

impl ChoiceSpec {
    fn id(&self, index: usize) -> &'static str {
        self.options.get(index).map_or("", |option| option.id)
    }
}

impl ControlType for ChoiceSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Choice(self.default)
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Choice(self.id(self.default).into())
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        match setting {
            Setting::Choice(id) if self.options.iter().any(|option| option.id == id) => Ok(()),
            _ => {
                let ids: Vec<&str> = self.options.iter().map(|option| option.id).collect();
                Err(format!("is one of {}", ids.join(", ")))
            }
        }
    }

    fn at(&self, setting: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Value> {
        let Setting::Choice(id) = setting else { return None };
        let index = self.options.iter().position(|option| option.id == id);
        Some(Value::Choice(index.unwrap_or(self.default)))
    }

    fn line(&self, _name: &str, value: &Value, _media: &[Media]) -> String {
        match value {
            Value::Choice(index) => self.options.get(*index).map_or("", |option| option.name).to_owned(),
            _ => String::new(),
        }
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        Ok(Setting::Choice(text.into()))
    }

    fn schema(&self) -> Json {
        json!({
            "enum": self.options.iter().map(|option| option.id).collect::<Vec<_>>(),
            "default": self.options.get(self.default).map(|option| option.id),
        })
    }

    fn told(&self) -> String {
        let names: Vec<String> = self.options.iter().map(|option| format!("*{}*", option.name)).collect();
        let first = names.get(self.default).map_or("", String::as_str);
        format!("{}; starts as {first}", names.join(", "))
    }
}

impl<C: Choice> FromValue for C {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Choice(index) => C::ALL.get(*index).copied(),
            _ => None,
        }
    }
}
