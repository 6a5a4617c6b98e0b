//! A formula of a pixel.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::control_type::ControlType;
use super::setting::Setting;
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others, PixelFormula};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A formula. As a setting it is text or, where it has words of its own, a formula feed with what those stand for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct FormulaSpec {
    /// What it starts as.
    pub default: &'static str,
}

impl ControlSpec<FormulaSpec> {
    /// A formula of a pixel.
    pub const fn formula(name: &'static str, default: &'static str) -> Self {
        Self::of(name, FormulaSpec { default })
    }
}

impl ControlType for FormulaSpec {
    type Value = PixelFormula;
    type Set = Setting;

    fn start(&self, _picture: PictureFormat) -> PixelFormula {
        understood(self.default)
    }

    fn start_set(&self, _picture: PictureFormat) -> Setting {
        Setting::Choice(understood(self.default).text().to_owned())
    }

    fn wanted(&self) -> String {
        "wants a formula".into()
    }

    fn fits(&self, set: &Setting) -> Result<(), String> {
        match set {
            Setting::Choice(text) => knows_all(text, &[]),
            Setting::Feed(Feed::Formula(feed)) => {
                feed.names.values().try_for_each(Feed::check).map_err(str::to_owned)?;
                knows_all(feed.formula.text(), &feed.names.keys().cloned().collect::<Vec<_>>())
            }
            _ => Err(self.wanted()),
        }
    }

    fn at(&self, set: &Setting, moment: Moment, others: &dyn Others) -> Option<PixelFormula> {
        match set {
            Setting::Choice(text) => Some(understood(text)),
            Setting::Feed(Feed::Formula(feed)) => {
                Some(understood(feed.formula.text()).with_numbers(|word| feed.word(word, moment, others)))
            }
            _ => None,
        }
    }

    fn line(&self, _name: &str, value: &PixelFormula, _media: &[Media]) -> String {
        value.text().to_owned()
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
