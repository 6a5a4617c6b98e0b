//! PNG, TIFF, JPEG, Radiance and WebP in.

use std::path::Path;

use image::{ColorType, ImageDecoder, ImageError, ImageReader, Limits};
use veil_core::setup::ColourSpace;
use veil_core::signal::Domain;
use veil_pixels::{Picture, Raster, Window};

use crate::MediaError;
use crate::error::{LARGEST_BYTES, LARGEST_SIDE};
use crate::form::StillForm;
use crate::guard::guarded;
use crate::patient::PatientFile;

/// What is known before a picture is decoded.
pub(crate) struct StillHead {
    /// Its windows are both the whole picture.
    pub(crate) domain: Domain,
    /// Names of its channels.
    pub(crate) channels: Vec<String>,
    /// Guessed by its form: floats are light, bytes are for a screen.
    pub(crate) colour: ColourSpace,
}

impl MediaError {
    fn image(path: &Path, error: ImageError) -> Self {
        match error {
            ImageError::Unsupported(why) => Self::Unsupported { path: path.into(), why: why.to_string() },
            ImageError::IoError(source) if source.kind() != std::io::ErrorKind::UnexpectedEof => {
                Self::Io { path: path.into(), source }
            }
            other => Self::broken(path, other),
        }
    }
}

fn open(path: &Path, form: StillForm) -> Result<impl ImageDecoder, MediaError> {
    let mut reader = ImageReader::with_format(PatientFile::open(path)?, form.format());
    let mut limits = Limits::default();
    limits.max_image_width = Some(LARGEST_SIDE as u32);
    limits.max_image_height = Some(LARGEST_SIDE as u32);
    limits.max_alloc = Some(LARGEST_BYTES as u64);
    reader.limits(limits);
    let decoder = reader.into_decoder().map_err(|error| MediaError::image(path, error))?;
    let (width, height) = decoder.dimensions();
    MediaError::check_size(path, width as usize, height as usize, 16)?;
    Ok(decoder)
}

pub(crate) fn read_head(path: &Path, form: StillForm) -> Result<StillHead, MediaError> {
    guarded(path, || {
        let decoder = open(path, form)?;
        let (width, height) = decoder.dimensions();
        let window = Window::sized(width, height);
        let kind = decoder.color_type();
        let names: &[&str] = match kind {
            ColorType::L8 | ColorType::L16 => &["Y"],
            ColorType::La8 | ColorType::La16 => &["Y", "A"],
            ColorType::Rgb8 | ColorType::Rgb16 | ColorType::Rgb32F => &["R", "G", "B"],
            _ => &["R", "G", "B", "A"],
        };
        let light = matches!(kind, ColorType::Rgb32F | ColorType::Rgba32F);
        Ok(StillHead {
            domain: Domain { display: window, data: window },
            channels: names.iter().map(|name| (*name).to_owned()).collect(),
            colour: if light { ColourSpace::Linear } else { ColourSpace::Srgb },
        })
    })
}

/// Reads a picture as it stands: whole numbers as 0–1, in the file's own encoding, premultiplied by its alpha. What is
/// clear shows nothing, whatever colour the file holds there.
pub(crate) fn read(path: &Path, form: StillForm) -> Result<Picture, MediaError> {
    guarded(path, || {
        let failed = |error| MediaError::image(path, error);
        let decoded = image::DynamicImage::from_decoder(open(path, form)?).map_err(failed)?;
        let floats = decoded.into_rgba32f();
        let window = Window::sized(floats.width(), floats.height());
        let pixels = floats.as_raw().as_chunks::<4>().0.iter().map(|[r, g, b, a]| [r * a, g * a, b * a, *a]);
        Raster::from_pixels(window, pixels.collect())
            .ok_or_else(|| MediaError::broken(path, "pixels are missing"))
    })
}
