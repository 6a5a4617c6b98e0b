//! How the engine asks for files, without knowing any.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use veil_pixels::colour::lut::Lut;

use crate::camera::Camera;
use crate::figure::Figure;
use crate::key::keyed_by_number;
use veil_pixels::key::cryptomatte::Id;
use veil_pixels::sample::resize::block_means;
use veil_pixels::{Cancel, Cancelled, Field, Picture, Rgba};

use crate::choice;
use crate::choice::{Choice, ChoiceOption};
use crate::media::Media;
use crate::signal::{Domain, Pixels, SignalKind};

/// What a pass is for, whatever its channels are called in the file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Distance from the camera.
    Depth,
    /// Place in the world.
    Position,
    /// Place in the world that a thing had before it moved.
    RestPosition,
    /// Direction of the surface.
    Normal,
    /// How far each pixel moves to the next frame.
    Motion,
    /// Place on the thing's own surface: u in red, v in green.
    Uv,
    /// A number for each object.
    ObjectId,
    /// A number for each material.
    MaterialId,
    /// Light that a thing gives off.
    Emission,
    /// Light that comes straight from lamps.
    Direct,
    /// Light that comes by way of other things.
    Indirect,
    /// Light scattered by rough surfaces.
    Diffuse,
    /// Light thrown back by glossy surfaces.
    Specular,
    /// Mirrored things.
    Reflection,
    /// Things seen through glass.
    Refraction,
    /// Light that shines through thin things.
    Transmission,
    /// Light scattered below the surface.
    Subsurface,
    /// Colour of the surface, without light.
    Albedo,
    /// Where lamps do not reach.
    Shadow,
    /// How much of the sky each place sees.
    Occlusion,
    /// The picture itself.
    Beauty,
}

choice! {
    Role {
        Depth = "depth", "depth";
        Position = "position", "position";
        RestPosition = "rest_position", "rest position";
        Normal = "normal", "normal";
        Motion = "motion", "motion";
        Uv = "uv", "UV";
        ObjectId = "object_id", "object ID";
        MaterialId = "material_id", "material ID";
        Emission = "emission", "emission";
        Direct = "direct", "direct light";
        Indirect = "indirect", "indirect light";
        Diffuse = "diffuse", "diffuse light";
        Specular = "specular", "specular light";
        Reflection = "reflection", "reflection";
        Refraction = "refraction", "refraction";
        Transmission = "transmission", "transmission";
        Subsurface = "subsurface", "subsurface";
        Albedo = "albedo", "albedo";
        Shadow = "shadow", "shadow";
        Occlusion = "occlusion", "occlusion";
        Beauty = "beauty", "beauty";
    }
}

impl Role {
    fn option(self) -> Option<&'static ChoiceOption> {
        let place = Self::ALL.iter().position(|role| *role == self)?;
        Self::OPTIONS.get(place)
    }

    /// As it is shown.
    pub fn name(self) -> &'static str {
        self.option().map_or("", |option| option.name)
    }

    /// As it stands in files.
    pub fn id(self) -> &'static str {
        self.option().map_or("", |option| option.id)
    }

    /// The kind of signal that a pass of this role is.
    pub const fn kind(self) -> SignalKind {
        match self {
            Self::Depth | Self::ObjectId | Self::MaterialId => SignalKind::Field,
            Self::Motion => SignalKind::Map,
            _ => SignalKind::Picture,
        }
    }

    /// Whether its values may be averaged; depth, places and IDs across an edge belong to nothing.
    pub const fn averages(self) -> bool {
        !matches!(
            self,
            Self::Depth
                | Self::Position
                | Self::RestPosition
                | Self::Normal
                | Self::Motion
                | Self::Uv
                | Self::ObjectId
                | Self::MaterialId
        )
    }
}

/// Which of its kinds a Cryptomatte is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum IdKind {
    /// One ID an object.
    #[default]
    Object,
    /// One ID a material.
    Material,
    /// One ID an asset: what was brought in as one.
    Asset,
}

choice! {
    IdKind {
        Object = "object", "objects";
        Material = "material", "materials";
        Asset = "asset", "assets";
    }
}

/// One named object of a Cryptomatte, as its manifest lists it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Named {
    /// From the manifest.
    pub name: String,
    /// Its ID.
    #[serde(skip)]
    pub id: Id,
}

/// Why a file gives no pixels.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PlateError {
    /// The work was given up.
    #[error("cancelled")]
    Cancelled,
    /// Anything that a person must hear of, with the file named.
    #[error("{0}")]
    File(String),
}

impl From<Cancelled> for PlateError {
    fn from(_: Cancelled) -> Self {
        Self::Cancelled
    }
}

/// Gives the pixels of media. Implementations may be asked from many threads at once.
pub trait Plates: Send + Sync {
    /// What one frame's pixels can be told apart by: it changes when the file does.
    fn fingerprint(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<u64, PlateError>;
    /// The windows of one frame at full resolution.
    fn domain(&self, media: &Media, frame: i32, cancel: &Cancel) -> Result<Domain, PlateError>;
    /// A pass at full resolution, of the role's kind, as it stands in the file. Pictures are RGBA; one
    /// without alpha is opaque, and how colours go with alpha is told by [`Self::about`].
    fn pass(&self, media: &Media, frame: i32, role: Role, cancel: &Cancel) -> Result<Pixels, PlateError>;
    /// What a frame's file says of its picture.
    fn about(&self, _media: &Media, _frame: i32, _cancel: &Cancel) -> Result<About, PlateError> {
        Ok(About::default())
    }
    /// The table of a lookup file.
    fn lut(&self, media: &Media) -> Result<Arc<Lut>, PlateError>;
    /// The shapes of a drawing.
    fn figure(&self, media: &Media) -> Result<Arc<Figure>, PlateError> {
        Err(PlateError::File(format!("`{}` holds no shapes", media.name)))
    }
    /// What a camera's file holds; one that moves by seconds at so many frames a second.
    fn camera(&self, media: &Media, _fps: f64) -> Result<Arc<Camera>, PlateError> {
        Err(PlateError::File(format!("`{}` is no camera", media.name)))
    }
    /// The bytes of a font.
    fn font(&self, media: &Media) -> Result<Arc<Vec<u8>>, PlateError> {
        Err(PlateError::File(format!("`{}` is no font", media.name)))
    }
    /// What a frame's file says of itself in words, by the name of the attribute, besides what tells its layers apart.
    fn words(&self, media: &Media, frame: i32) -> Result<Vec<(String, String)>, PlateError>;
    /// The picture made smaller: the mean of each block of so many by so many pixels, of the blocks that are counted from
    /// the origin, once `change` had every value of full resolution, in runs of whatever order. Cheaper than
    /// [`Self::pass`], where it is read so.
    fn smaller(
        &self,
        media: &Media,
        frame: i32,
        divisor: u32,
        change: &(dyn Fn(&mut [f32]) + Sync),
        cancel: &Cancel,
    ) -> Result<Picture, PlateError> {
        match self.pass(media, frame, Role::Beauty, cancel)? {
            Pixels::Picture(whole) => Ok(made_smaller(whole, divisor, change, cancel)?),
            _ => Err(PlateError::File(format!("`{}` is no picture", media.name))),
        }
    }
    /// The passes that a frame has besides the picture.
    fn roles(&self, media: &Media, frame: i32) -> Result<Vec<Role>, PlateError>;
    /// What the manifest of a frame's Cryptomatte names.
    fn things(&self, media: &Media, _frame: i32, _kind: IdKind) -> Result<Things, PlateError> {
        Err(PlateError::File(format!("`{}` has no Cryptomatte", media.name)))
    }
    /// The ID that covers most of a pixel of full resolution; none where nothing does, and outside.
    fn id_at(
        &self,
        media: &Media,
        _frame: i32,
        _kind: IdKind,
        _place: [i32; 2],
        _cancel: &Cancel,
    ) -> Result<Option<Id>, PlateError> {
        Err(PlateError::File(format!("`{}` has no Cryptomatte", media.name)))
    }
    /// How much of each pixel of full resolution some IDs cover together, from 0 to 1: the sum over all ranks of a
    /// Cryptomatte. Of it the means of blocks of so many by so many pixels, counted from the file's origin.
    fn coverage(
        &self,
        media: &Media,
        _frame: i32,
        _kind: IdKind,
        _ids: &[Id],
        _divisor: u32,
        _cancel: &Cancel,
    ) -> Result<Field, PlateError> {
        Err(PlateError::File(format!("`{}` has no Cryptomatte", media.name)))
    }
}

/// A picture of full resolution as [`Plates::smaller`] gives it.
pub fn made_smaller(
    mut whole: Picture,
    divisor: u32,
    change: &(dyn Fn(&mut [f32]) + Sync),
    cancel: &Cancel,
) -> Result<Picture, Cancelled> {
    whole.fill_rows(cancel, |_, row| change(row.as_flattened_mut()))?;
    block_means(&whole, divisor, cancel)
}

/// What a file says of its picture.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct About {
    /// How its colours go with its alpha.
    pub alpha: Alpha,
    /// How wide its pixels are for their height.
    pub aspect: f64,
}

impl Default for About {
    fn default() -> Self {
        Self { alpha: Alpha::Premultiplied, aspect: 1.0 }
    }
}

/// How the colours of a file go with its alpha.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Alpha {
    /// They are multiplied by it: light is as it is seen on black.
    Premultiplied,
    /// They are not; what is clear shows nothing, whatever colour the file holds there.
    Straight,
}

impl Alpha {
    /// A picture of the file with its colours multiplied by alpha.
    pub fn premultiplied(self, picture: Picture, cancel: &Cancel) -> Result<Picture, Cancelled> {
        match self {
            Self::Premultiplied => Ok(picture),
            Self::Straight => picture.map(cancel, |[r, g, b, a]: Rgba| [r * a, g * a, b * a, a]),
        }
    }
}

/// What a Cryptomatte's manifest names.
#[derive(Clone, Debug)]
pub struct Things(pub Vec<Named>);

impl Things {
    /// The IDs that some names stand for; a name may hold `*` for any run of letters. Names that the
    /// manifest lacks are hashed as the specification says, unless they hold a `*`.
    pub fn ids(&self, wanted: &[String]) -> Vec<Id> {
        let mut ids: Vec<Id> = Vec::new();
        for name in wanted {
            let listed = self.0.iter().filter(|named| fits(name, &named.name)).map(|named| named.id);
            let before = ids.len();
            ids.extend(listed);
            if ids.len() == before && !name.contains('*') {
                ids.push(Id::of(name));
            }
        }
        ids.sort();
        ids.dedup();
        ids
    }

    /// What an ID is called; none for one that is not listed.
    pub fn name_of(&self, id: Id) -> Option<&str> {
        self.0.iter().find(|named| named.id == id).map(|named| named.name.as_str())
    }
}

/// Whether a name fits a pattern in which `*` stands for any run of letters.
pub fn fits(pattern: &str, name: &str) -> bool {
    let mut parts = pattern.split('*');
    let Some(mut rest) = parts.next().and_then(|first| name.strip_prefix(first)) else { return false };
    let parts: Vec<&str> = parts.collect();
    let Some((last, middle)) = parts.split_last() else { return rest.is_empty() };
    for part in middle {
        match rest.find(part) {
            Some(at) => rest = &rest[at + part.len()..],
            None => return false,
        }
    }
    rest.ends_with(last)
}

keyed_by_number!(IdKind, Role);
