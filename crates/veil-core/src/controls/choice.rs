//! One of a few.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::control_type::ControlType;
use super::spec::ControlSpec;
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

impl ControlSpec<ChoiceSpec> {
    /// One of the entries of a [`Choice`].
    pub fn choice<C: Choice>(name: &'static str, default: C) -> Self {
        let default = C::ALL.iter().position(|one| *one == default).unwrap_or(0);
        Self::of(name, ChoiceSpec { default, options: C::OPTIONS })
    }
}

impl ChoiceSpec {
    fn id(&self, index: usize) -> &'static str {
        self.options.get(index).map_or("", |option| option.id)
    }
}

impl ControlType for ChoiceSpec {
    type Value = usize;
    type Set = String;

    fn start(&self, _picture: PictureFormat) -> usize {
        self.default
    }

    fn start_set(&self, _picture: PictureFormat) -> String {
        self.id(self.default).into()
    }

    fn wanted(&self) -> String {
        let ids: Vec<&str> = self.options.iter().map(|option| option.id).collect();
        format!("is one of {}", ids.join(", "))
    }

    fn fits(&self, set: &String) -> Result<(), String> {
        if self.options.iter().any(|option| option.id == set) { Ok(()) } else { Err(self.wanted()) }
    }

    fn at(&self, set: &String, _moment: Moment, _others: &dyn Others) -> Option<usize> {
        let index = self.options.iter().position(|option| option.id == set);
        Some(index.unwrap_or(self.default))
    }

    fn line(&self, _name: &str, value: &usize, _media: &[Media]) -> String {
        self.options.get(*value).map_or("", |option| option.name).to_owned()
    }

    fn written(&self, text: &str) -> Result<String, &'static str> {
        Ok(text.into())
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
