//! Red, green and blue.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{
    ControlType, axes_fit, fed, numbers, numbers_wanted, numbers_written, plain, short,
};
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others};
use crate::picture::PictureFormat;

/// A colour.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct ColourSpec {
    /// Where each of its numbers starts.
    pub default: [f64; 3],
    /// The run of the sliders.
    pub slider: (f64, f64),
}

impl ControlSpec<ColourSpec> {
    /// Red, green and blue.
    pub const fn colour(name: &'static str, default: f64, slider: (f64, f64)) -> Self {
        Self::colours(name, [default; 3], slider)
    }

    /// Red, green and blue that start apart.
    pub const fn colours(name: &'static str, default: [f64; 3], slider: (f64, f64)) -> Self {
        Self::of(name, ColourSpec { default, slider })
    }
}

impl ControlType for ColourSpec {
    type Value = [f64; 3];
    type Set = Vec<Feed>;

    fn start(&self, _picture: PictureFormat) -> [f64; 3] {
        self.default
    }

    fn start_set(&self, _picture: PictureFormat) -> Vec<Feed> {
        plain(&self.default)
    }

    fn wanted(&self) -> String {
        numbers_wanted(self)
    }

    fn fits(&self, set: &Vec<Feed>) -> Result<(), String> {
        axes_fit(self, set)
    }

    fn at(&self, set: &Vec<Feed>, moment: Moment, others: &dyn Others) -> Option<[f64; 3]> {
        numbers(self, set, moment, others)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["red", "green", "blue"]
    }

    fn written(&self, text: &str) -> Result<Vec<Feed>, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        format!("a colour, starts at {}", self.default.map(short).join(" "))
    }
}
