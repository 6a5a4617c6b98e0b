//! A length along each axis.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{
    ControlType, axes_fit, fed, numbers, numbers_wanted, numbers_written, plain, short,
};
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// Two lengths, in full-resolution pixels and never negative.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct SizeSpec {
    /// Where it starts, as a share of the picture's height on both axes.
    pub default_share: [f64; 2],
}

impl ControlSpec<SizeSpec> {
    /// Two lengths, as a share of the picture's height to start with.
    pub const fn size(name: &'static str, default_share: [f64; 2]) -> Self {
        Self::of(name, SizeSpec { default_share })
    }
}

impl SizeSpec {
    fn lengths(&self, picture: PictureFormat) -> [f64; 2] {
        self.default_share.map(|share| share * f64::from(picture.height))
    }
}

impl ControlType for SizeSpec {
    type Value = [f64; 2];
    type Set = Vec<Feed>;

    fn start(&self, picture: PictureFormat) -> [f64; 2] {
        self.lengths(picture)
    }

    fn start_set(&self, picture: PictureFormat) -> Vec<Feed> {
        plain(&self.lengths(picture))
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

    fn held(&self, number: f64) -> f64 {
        number.max(0.0)
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
        "a length along each axis, in px".into()
    }
}
