//! A place on the picture.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{
    ControlType, axes_fit, fed, numbers, numbers_wanted, numbers_written, plain, short,
};
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A point, x and y in full-resolution pixels.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct PointSpec {
    /// Where it starts, as a share of the picture's width and height.
    pub default_share: [f64; 2],
}

impl ControlSpec<PointSpec> {
    /// A place, as a share of the picture to start with.
    pub const fn point(name: &'static str, default_share: [f64; 2]) -> Self {
        Self::of(name, PointSpec { default_share })
    }
}

impl PointSpec {
    fn place(&self, picture: PictureFormat) -> [f64; 2] {
        let [x, y] = self.default_share;
        [x * f64::from(picture.width), y * f64::from(picture.height)]
    }
}

impl ControlType for PointSpec {
    type Value = [f64; 2];
    type Set = Vec<Feed>;

    fn start(&self, picture: PictureFormat) -> [f64; 2] {
        self.place(picture)
    }

    fn start_set(&self, picture: PictureFormat) -> Vec<Feed> {
        plain(&self.place(picture))
    }

    fn is_relative(&self) -> bool {
        true
    }

    fn wanted(&self) -> String {
        numbers_wanted(self)
    }

    fn fits(&self, set: &Vec<Feed>) -> Result<(), String> {
        axes_fit(self, set)
    }

    fn at(&self, set: &Vec<Feed>, moment: Moment, others: &dyn Others) -> Option<[f64; 2]> {
        numbers(self, set, moment, others)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["x", "y"]
    }

    fn is_length(&self) -> bool {
        true
    }

    fn line(&self, name: &str, value: &[f64; 2], _media: &[Media]) -> String {
        let [x, y] = value.map(short);
        format!("{name} {x} {y}")
    }

    fn written(&self, text: &str) -> Result<Vec<Feed>, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        "a place on the picture".into()
    }
}
