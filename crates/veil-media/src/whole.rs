//! A file read to its end, to know that it can be.

use std::path::Path;

use veil_pixels::Cancel;

use crate::camera::read_camera;
use crate::exr_pixels::{decode_all, read_chunks};
use crate::form::Form;
use crate::patient::bytes;
use crate::{MediaError, clip, cube, figure, still};

/// A camera in seconds is taken at this many frames a second, where no shot says otherwise.
pub(crate) const SOME_FPS: f64 = 24.0;

/// Most bytes of a font; those of all writing of the world have half of that.
pub(crate) const LARGEST_FONT: u64 = 64 << 20;

/// The number of glyphs of a font.
pub(crate) fn font(path: &Path) -> Result<usize, MediaError> {
    let bytes = bytes(path, LARGEST_FONT)?;
    let glyphs = veil_core::lettering::glyphs(&bytes);
    glyphs.ok_or_else(|| MediaError::Broken { path: path.into(), why: "it is no font with outlines".into() })
}

/// Decodes every channel of a file, as reading all of it would. An error tells what is wrong, by the file's name.
pub fn read_through(path: &Path, cancel: &Cancel) -> Result<(), MediaError> {
    match Form::of(path) {
        Some(Form::Exr) => decode_all(path, cancel),
        Some(Form::Still(form)) => still::check(path, form),
        Some(Form::Clip) => clip::check(path, cancel),
        Some(Form::Cube) => cube::read(path).map(|_| ()),
        Some(Form::Svg) => figure::read(path).map(|_| ()),
        Some(Form::Font) => font(path).map(|_| ()),
        Some(Form::Gltf | Form::CameraTable) => read_camera(path, SOME_FPS).map(|_| ()),
        None => Err(MediaError::unknown(path)),
    }
}

/// Reads a file that has just arrived as far as tells that it is whole: of OpenEXR, which comes in thousands of large
/// files, every chunk as it is stored; of all others, everything. An error tells what is wrong, by the file's name.
pub fn read_arrived(path: &Path, cancel: &Cancel) -> Result<(), MediaError> {
    match Form::of(path) {
        Some(Form::Exr) => {
            crate::exr_head::read_head(path)?;
            read_chunks(path, cancel)
        }
        _ => read_through(path, cancel),
    }
}
