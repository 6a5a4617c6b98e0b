//! Words, of one line or more.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::control_type::ControlType;
use super::spec::ControlSpec;
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

impl ControlSpec<TextSpec> {
    /// Words.
    pub const fn text(name: &'static str, default: &'static str) -> Self {
        Self::of(name, TextSpec { default })
    }
}

impl ControlType for TextSpec {
    type Value = String;
    type Set = String;

    fn start(&self, _picture: PictureFormat) -> String {
        self.default.into()
    }

    fn start_set(&self, _picture: PictureFormat) -> String {
        self.default.into()
    }

    fn wanted(&self) -> String {
        "wants a text".into()
    }

    fn fits(&self, set: &String) -> Result<(), String> {
        if set.len() <= LONGEST_TEXT { Ok(()) } else { Err(format!("takes up to {LONGEST_TEXT} letters")) }
    }

    fn at(&self, set: &String, _moment: Moment, _others: &dyn Others) -> Option<String> {
        Some(set.clone())
    }

    fn line(&self, _name: &str, value: &String, _media: &[Media]) -> String {
        value.lines().collect::<Vec<_>>().join(" / ")
    }

    fn written(&self, text: &str) -> Result<String, &'static str> {
        Ok(text.into())
    }

    fn schema(&self) -> Json {
        json!({ "type": "string", "default": self.default })
    }

    fn told(&self) -> String {
        "words".into()
    }
}
