//! A list of names.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::control_type::ControlType;
use super::spec::ControlSpec;
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// Names.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct NamesSpec;

impl ControlSpec<NamesSpec> {
    /// A list of names.
    pub const fn names(name: &'static str) -> Self {
        Self::of(name, NamesSpec)
    }
}

impl ControlType for NamesSpec {
    type Value = Vec<String>;
    type Set = Vec<String>;

    fn start(&self, _picture: PictureFormat) -> Vec<String> {
        Vec::new()
    }

    fn start_set(&self, _picture: PictureFormat) -> Vec<String> {
        Vec::new()
    }

    fn wanted(&self) -> String {
        "wants a list of names".into()
    }

    fn fits(&self, _set: &Vec<String>) -> Result<(), String> {
        Ok(())
    }

    fn at(&self, set: &Vec<String>, _moment: Moment, _others: &dyn Others) -> Option<Vec<String>> {
        Some(set.clone())
    }

    fn line(&self, _name: &str, value: &Vec<String>, _media: &[Media]) -> String {
        value.join(", ")
    }

    fn written(&self, text: &str) -> Result<Vec<String>, &'static str> {
        Ok(text.split(',').map(|name| name.trim().to_owned()).collect())
    }

    fn schema(&self) -> Json {
        json!({ "type": "array", "items": { "type": "string" } })
    }

    fn told(&self) -> String {
        "names".into()
    }
}
