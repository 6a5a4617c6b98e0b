//! A formula of a pixel.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value};
use crate::feed::{Feed, Moment, Others, PixelFormula};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A formula. As a setting it is text or, where it has words of its own, a formula feed with what those stand for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct FormulaSpec {
    /// What it starts as.
    pub default: &'static str,
}

impl ControlSpec {
    /// A formula of a pixel.
    pub const fn formula(name: &'static str, default: &'static str) -> Self {
        Self::of(name, ControlKind::Formula(FormulaSpec { default }))
    }
}

impl ControlType for FormulaSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Formula(understood(self.default))
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Choice(understood(self.default).text().to_owned())
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        match setting {
            Setting::Choice(text) => knows_all(text, &[]),
            Setting::Feed(Feed::Formula(feed)) => {
                feed.names.values().try_for_each(Feed::check).map_err(str::to_owned)?;
                knows_all(feed.formula.text(), &feed.names.keys().cloned().collect::<Vec<_>>())
            }
            _ => Err("wants a formula".into()),
        }
    }

    fn at(&self, setting: &Setting, moment: Moment, others: &dyn Others) -> Option<Value> {
        let formula = match setting {
            Setting::Choice(text) => understood(text),
            Setting::Feed(Feed::Formula(feed)) => {
                understood(feed.formula.text()).with_numbers(|word| feed.word(word, moment, others))
            }
            _ => return None,
        };
        Some(Value::Formula(formula))
    }

    fn line(&self, _name: &str, value: &Value, _media: &[Media]) -> String {
        match value {
            Value::Formula(formula) => formula.text().to_owned(),
            _ => String::new(),
        }
    }

    fn written(&self, text: &str) -> Result<Setting, &'static str> {
        Ok(Setting::Choice(text.into()))
    }

    fn schema(&self) -> Json {
        json!({ "anyOf": [{ "type": "string" }, { "$ref": "#/$defs/Feed" }], "default": self.default })
    }

    fn told(&self) -> String {
        "a formula of a pixel".into()
    }
}

/// A formula that was understood when it was set; nothing everywhere where it is none.
fn understood(text: &str) -> PixelFormula {
    PixelFormula::parse(text).unwrap_or_else(|_| PixelFormula::nothing())
}

fn knows_all(text: &str, names: &[String]) -> Result<(), String> {
    let formula = PixelFormula::parse(text).map_err(|error| error.to_string())?;
    match formula.words().iter().find(|word| !names.contains(word)) {
        Some(word) => Err(format!("knows no `{word}`")),
        None => Ok(()),
    }
}

impl FromValue for PixelFormula {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Formula(formula) => Some(formula.clone()),
            _ => None,
        }
    }
}
