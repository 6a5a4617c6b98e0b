//! One of the setup's media.

use serde::Serialize;
use serde_json::Value as Json;

use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value, holding};
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

impl ControlSpec {
    /// One of the setup's media.
    pub const fn media(name: &'static str, of: MediaSort) -> Self {
        Self::of(name, ControlKind::Media(MediaSpec { of }))
    }
}

impl ControlType for MediaSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Media(None)
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Names(Vec::new())
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        if matches!(setting, Setting::Media { .. }) { Ok(()) } else { Err("wants a medium".into()) }
    }

    fn at(&self, setting: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Value> {
        match setting {
            Setting::Media { media } => Some(Value::Media(Some(*media))),
            _ => None,
        }
    }

    fn line(&self, name: &str, value: &Value, media: &[Media]) -> String {
        match value {
            Value::Media(Some(id)) => {
                media.iter().find(|one| one.id == *id).map_or_else(String::new, |one| one.name.clone())
            }
            _ => name.to_owned(),
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

impl FromValue for Option<MediaId> {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Media(medium) => Some(*medium),
            _ => None,
        }
    }
}
