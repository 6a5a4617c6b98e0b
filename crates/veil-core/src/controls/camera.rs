//! A camera by hand.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{
    ControlType, axes_fit, fed, numbers, numbers_wanted, numbers_written, plain, short,
};
use super::spec::ControlSpec;
use crate::camera::{CameraAt, Lens};
use crate::feed::{Feed, Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// A camera, eight numbers: where it stands, how it is turned, and its lens.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct CameraSpec {}

/// Where it starts: in the world's middle, looking along −z, with a lens of the trade's middle size.
const START: [f64; 8] = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 35.0, 36.0];
/// Where the lens is among the axes.
const FOCAL: usize = 6;
/// Least millimetres of a lens and a sensor.
const LEAST: f64 = 0.1;

impl ControlSpec<CameraSpec> {
    /// A camera by hand.
    pub const fn camera(name: &'static str) -> Self {
        Self::of(name, CameraSpec {})
    }
}

impl ControlType for CameraSpec {
    type Value = CameraAt;
    type Set = Vec<Feed>;

    fn start(&self, _picture: PictureFormat) -> CameraAt {
        camera(START)
    }

    fn start_set(&self, _picture: PictureFormat) -> Vec<Feed> {
        plain(&START)
    }

    fn wanted(&self) -> String {
        numbers_wanted(self)
    }

    fn fits(&self, set: &Vec<Feed>) -> Result<(), String> {
        axes_fit(self, set)?;
        let lens = set.iter().skip(FOCAL);
        if lens.clone().any(|feed| matches!(feed, Feed::Fixed(length) if *length < LEAST)) {
            return Err(format!("wants a lens and a sensor of at least {LEAST} mm"));
        }
        Ok(())
    }

    fn at(&self, set: &Vec<Feed>, moment: Moment, others: &dyn Others) -> Option<CameraAt> {
        numbers(self, set, moment, others).map(camera)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["x", "y", "z", "pan", "tilt", "roll", "focal", "sensor"]
    }

    fn line(&self, name: &str, value: &CameraAt, _media: &[Media]) -> String {
        format!("{name} {}", value.place.map(short).join(" "))
    }

    fn written(&self, text: &str) -> Result<Vec<Feed>, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        "a camera: its place in metres, pan, tilt and roll in degrees, focal length and sensor width in millimetres".into()
    }
}

fn camera([x, y, z, pan, tilt, roll, focal, width]: [f64; 8]) -> CameraAt {
    let lens = Lens::Focal { focal_mm: focal.max(LEAST), sensor_width_mm: width.max(LEAST) };
    CameraAt::standing([x, y, z], [pan, tilt, roll], lens)
}
