//! On or off.

use serde::Serialize;
use serde_json::{Value as Json, json};

use super::control_type::ControlType;
use super::spec::ControlSpec;
use crate::feed::{Moment, Others};
use crate::picture::PictureFormat;

/// A switch.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct SwitchSpec {
    /// Where it starts.
    pub default: bool,
}

impl ControlSpec<SwitchSpec> {
    /// On or off.
    pub const fn switch(name: &'static str, default: bool) -> Self {
        Self::of(name, SwitchSpec { default })
    }
}

impl ControlType for SwitchSpec {
    type Value = bool;
    type Set = bool;

    fn start(&self, _picture: PictureFormat) -> bool {
        self.default
    }

    fn start_set(&self, _picture: PictureFormat) -> bool {
        self.default
    }

    fn wanted(&self) -> String {
        "is on or off".into()
    }

    fn fits(&self, _set: &bool) -> Result<(), String> {
        Ok(())
    }

    fn at(&self, set: &bool, _moment: Moment, _others: &dyn Others) -> Option<bool> {
        Some(*set)
    }

    fn written(&self, text: &str) -> Result<bool, &'static str> {
        text.parse().map_err(|_| "the value is true or false")
    }

    fn schema(&self) -> Json {
        json!({ "type": "boolean", "default": self.default })
    }

    fn told(&self) -> String {
        format!("a switch, {}", if self.default { "on" } else { "off" })
    }
}
