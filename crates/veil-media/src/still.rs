//! PNG, TIFF, JPEG, Radiance and WebP in.

use std::path::Path;
use std::sync::{Condvar, Mutex, PoisonError};

use image::{ColorType, DynamicImage, ImageDecoder, ImageError, ImageReader, Limits};
use tiff::decoder::Decoder;
use tiff::tags::{ExtraSamples, Tag};
use veil_core::plates::Alpha;
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
    /// How its colours go with its alpha: by a TIFF's tag, in the others they are straight by their standards.
    pub(crate) alpha: Alpha,
    /// As a PNG says, else guessed: floats are light, bytes are for a screen.
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

/// Most bytes for a row of a PNG, its palette and its words.
const MOST_WORDS: u64 = 64 << 20;

fn open(path: &Path, form: StillForm) -> Result<impl ImageDecoder, MediaError> {
    let mut reader = ImageReader::with_format(PatientFile::open(path)?, form.format());
    let mut limits = Limits::default();
    limits.max_image_width = Some(LARGEST_SIDE as u32);
    limits.max_image_height = Some(LARGEST_SIDE as u32);
    // A PNG is decoded row by row; more than this is only wanted by words that are packed in it.
    limits.max_alloc = Some(if form == StillForm::Png { MOST_WORDS } else { LARGEST_BYTES as u64 });
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
            alpha: alpha_of(path, form)?,
            colour: if light {
                ColourSpace::Linear
            } else {
                said_colour(path, form).unwrap_or(ColourSpace::Srgb)
            },
        })
    })
}

/// How a file's colours go with its alpha. TIFF 6.0 has it in the tag ExtraSamples; where that is not said, or left
/// unspecified, alpha is taken for straight, as other programs do.
fn alpha_of(path: &Path, form: StillForm) -> Result<Alpha, MediaError> {
    if form != StillForm::Tiff {
        return Ok(Alpha::Straight);
    }
    let mut decoder =
        Decoder::new(PatientFile::open(path)?).map_err(|error| MediaError::broken(path, error))?;
    let tag = decoder.find_tag_unsigned_vec::<u16>(Tag::ExtraSamples).ok().flatten().unwrap_or_default();
    let associated = tag.first() == Some(&ExtraSamples::AssociatedAlpha.to_u16());
    Ok(if associated { Alpha::Premultiplied } else { Alpha::Straight })
}

/// What a PNG says its numbers stand for, by its chunks in the order that the standard ranks them: cICP, sRGB, gAMA. None
/// where it says nothing, or what is none of our spaces.
fn said_colour(path: &Path, form: StillForm) -> Option<ColourSpace> {
    if form != StillForm::Png {
        return None;
    }
    let reader = png::Decoder::new(PatientFile::open(path).ok()?).read_info().ok()?;
    let info = reader.info();
    if let Some(points) = info.coding_independent_code_points {
        // Numbers of ITU-T H.273: primaries 1 are BT.709's, 9 BT.2020's.
        return match (points.color_primaries, points.transfer_function) {
            (1, 13) => Some(ColourSpace::Srgb),
            (1, 1 | 6 | 14 | 15) => Some(ColourSpace::Bt709),
            (1, 4) => Some(ColourSpace::Gamma22),
            (1, 8) => Some(ColourSpace::Linear),
            (9, 8) => Some(ColourSpace::Linear2020),
            _ => None,
        };
    }
    if info.srgb.is_some() {
        return Some(ColourSpace::Srgb);
    }
    info.source_gamma.filter(|gamma| (gamma.into_value() - 1.0).abs() < 1e-3).map(|_| ColourSpace::Linear)
}

/// Reads a picture as it stands: whole numbers as 0–1, in the file's own encoding, its colours as they go with its alpha.
pub(crate) fn read(path: &Path, form: StillForm) -> Result<Picture, MediaError> {
    guarded(path, || {
        let decoder = open(path, form)?;
        let (width, height) = decoder.dimensions();
        let _room = Room::take(u64::from(width) * u64::from(height) * BYTES_A_PIXEL);
        let decoded = DynamicImage::from_decoder(decoder).map_err(|error| MediaError::image(path, error))?;
        Raster::from_pixels(Window::sized(width, height), floats(decoded))
            .ok_or_else(|| MediaError::broken(path, "pixels are missing"))
    })
}

/// Reads a picture to its end, to know that it can be.
pub(crate) fn check(path: &Path, form: StillForm) -> Result<(), MediaError> {
    guarded(path, || {
        let decoder = open(path, form)?;
        let _room = Room::take(decoder.total_bytes());
        DynamicImage::from_decoder(decoder).map(drop).map_err(|error| MediaError::image(path, error))
    })
}

fn floats(decoded: DynamicImage) -> Vec<[f32; 4]> {
    let byte = |value: u8| f32::from(value) / 255.0;
    let word = |value: u16| f32::from(value) / 65_535.0;
    match &decoded {
        DynamicImage::ImageLuma8(grey) => pixels::<1, _>(grey, byte),
        DynamicImage::ImageLumaA8(grey) => pixels::<2, _>(grey, byte),
        DynamicImage::ImageRgb8(colours) => pixels::<3, _>(colours, byte),
        DynamicImage::ImageRgba8(colours) => pixels::<4, _>(colours, byte),
        DynamicImage::ImageLuma16(grey) => pixels::<1, _>(grey, word),
        DynamicImage::ImageLumaA16(grey) => pixels::<2, _>(grey, word),
        DynamicImage::ImageRgb16(colours) => pixels::<3, _>(colours, word),
        DynamicImage::ImageRgba16(colours) => pixels::<4, _>(colours, word),
        DynamicImage::ImageRgb32F(colours) => pixels::<3, _>(colours, |value| value),
        other => pixels::<4, _>(&other.to_rgba32f(), |value| value),
    }
}

fn pixels<const CHANNELS: usize, T: Copy>(raw: &[T], float: impl Fn(T) -> f32) -> Vec<[f32; 4]> {
    let pixel = |of: &[T; CHANNELS]| {
        let at = |channel: usize| float(of[channel.min(CHANNELS - 1)]);
        let grey = CHANNELS < 3;
        let alpha = if CHANNELS.is_multiple_of(2) { at(CHANNELS - 1) } else { 1.0 };
        let colour = |channel: usize| if grey { at(0) } else { at(channel) };
        [colour(0), colour(1), colour(2), alpha]
    };
    raw.as_chunks::<CHANNELS>().0.iter().map(pixel).collect()
}

/// Bytes that are held of a pixel while it is decoded: its floats, and what they are made of.
const BYTES_A_PIXEL: u64 = 24;
/// Most bytes of pictures that are being decoded at one time; one that is larger is decoded alone.
const MOST_AT_ONCE: u64 = 2 << 30;

static TAKEN: Mutex<u64> = Mutex::new(0);
static LEFT: Condvar = Condvar::new();

/// Memory for a picture that is being decoded; it is waited for until others are done with theirs. Whoever holds it must
/// not wait for other work meanwhile.
struct Room {
    bytes: u64,
}

impl Room {
    fn take(bytes: u64) -> Self {
        let taken = TAKEN.lock().unwrap_or_else(PoisonError::into_inner);
        let full = |taken: &mut u64| *taken > 0 && *taken + bytes > MOST_AT_ONCE;
        let mut taken = LEFT.wait_while(taken, full).unwrap_or_else(PoisonError::into_inner);
        *taken += bytes;
        Self { bytes }
    }
}

impl Drop for Room {
    fn drop(&mut self) {
        *TAKEN.lock().unwrap_or_else(PoisonError::into_inner) -= self.bytes;
        LEFT.notify_all();
    }
}
