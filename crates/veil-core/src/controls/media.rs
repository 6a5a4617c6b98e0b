//! One of the setup's media.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{ControlType, holding};
use super::setting::Setting;
use super::spec::ControlSpec;
use crate::feed::{Moment, Others};
use crate::ids::MediaId;
use crate::key::{Key, Keyed};
use crate::media::Media;
use crate::picture::PictureFormat;

/// What a medium holds.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum MediaSort {
    /// Pictures.
    Plate,
    /// A lookup table.
    Lut,
    /// A camera.
    Camera,
    /// A drawing of filled shapes.
    Figure,
    /// A font.
    Font,
}

impl MediaSort {
    /// By the ending of a medium's path.
    pub fn of(path: &str) -> Self {
        let path = path.to_lowercase();
        match path.rsplit('.').next() {
            Some("cube") => Self::Lut,
            Some("svg") => Self::Figure,
            Some("ttf" | "otf") => Self::Font,
            Some("gltf" | "glb" | "csv") => Self::Camera,
            _ => Self::Plate,
        }
    }
}

/// A choice of media.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct MediaSpec {
    /// Which it offers.
    pub of: MediaSort,
}

impl ControlSpec<MediaSpec> {
    /// One of the setup's media.
    pub const fn media(name: &'static str, of: MediaSort) -> Self {
        Self::of(name, MediaSpec { of })
    }
}

impl ControlType for MediaSpec {
    type Value = Option<MediaId>;
    type Set = Setting;

    fn start(&self, _picture: PictureFormat) -> Option<MediaId> {
        None
    }

    fn start_set(&self, _picture: PictureFormat) -> Setting {
        Setting::Names(Vec::new())
    }

    fn wanted(&self) -> String {
        "wants a medium".into()
    }

    fn fits(&self, set: &Setting) -> Result<(), String> {
        if matches!(set, Setting::Media { .. }) { Ok(()) } else { Err(self.wanted()) }
    }

    fn at(&self, set: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Option<MediaId>> {
        match set {
            Setting::Media { media } => Some(Some(*media)),
            _ => None,
        }
    }

    fn line(&self, name: &str, value: &Option<MediaId>, media: &[Media]) -> String {
        match value {
            Some(id) => {
                media.iter().find(|one| one.id == *id).map_or_else(String::new, |one| one.name.clone())
            }
            None => name.to_owned(),
        }
    }

    fn schema(&self) -> Json {
        holding("media")
    }

    fn told(&self) -> String {
        "a file".into()
    }
}

/// Media are named by numbers that mean something else in another setup: which file it is, the stage that reads it says.
impl Keyed for MediaId {
    fn key(&self, _key: &mut Key) {}
}
