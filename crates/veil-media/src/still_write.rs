//! PNG, TIFF, JPEG and Radiance out.

use std::io::{Seek, Write};
use std::path::Path;

use image::codecs::hdr::HdrEncoder;
use image::codecs::jpeg::JpegEncoder;
use image::codecs::png::{CompressionType, FilterType, PngEncoder};
use image::codecs::tiff::TiffEncoder;
use image::error::ImageFormatHint;
use image::{DynamicImage, ImageBuffer, ImageError, ImageFormat};
use veil_pixels::{Picture, Rgba, colour};

use crate::MediaError;
use crate::form::StillForm;
use crate::write::Bits;

/// Hardly to be told from the picture.
const JPEG_QUALITY: u8 = 95;

/// Writes a premultiplied picture with straight alpha, or without where it is opaque. Whole numbers hold 0–1; what lies
/// beyond is cut off. JPEG and Radiance have no alpha: the picture is laid on black.
pub(crate) fn write_still(
    path: &Path,
    picture: &Picture,
    form: StillForm,
    bits: Bits,
    out: impl Write + Seek,
) -> Result<(), MediaError> {
    let failed = |error| match error {
        ImageError::IoError(source) => MediaError::Io { path: path.into(), source },
        other => MediaError::broken(path, other),
    };
    let bare = matches!(form, StillForm::Jpeg | StillForm::Hdr);
    let opaque = bare || picture.pixels().iter().all(|pixel| pixel[3] >= 1.0);
    let image = image_of(picture, bits, opaque, bare)
        .ok_or_else(|| MediaError::broken(path, "the picture's size overflows"))?;
    match form {
        StillForm::Png => image.write_with_encoder(PngEncoder::new_with_quality(
            out,
            CompressionType::Fast,
            FilterType::Adaptive,
        )),
        StillForm::Tiff => image.write_with_encoder(TiffEncoder::new(out)),
        StillForm::Jpeg => image.write_with_encoder(JpegEncoder::new_with_quality(out, JPEG_QUALITY)),
        StillForm::Hdr => image.write_with_encoder(HdrEncoder::new(out)),
        StillForm::WebP => Err(ImageError::Unsupported(ImageFormatHint::Exact(ImageFormat::WebP).into())),
    }
    .map_err(failed)
}

/// `None` where the size is more than memory holds.
fn image_of(picture: &Picture, bits: Bits, opaque: bool, bare: bool) -> Option<DynamicImage> {
    let (wide, high) = (picture.window().width() as u32, picture.window().height() as u32);
    let straight = |pixel: &Rgba| if bare { *pixel } else { colour::unpremultiplied(*pixel) };
    let whole = |value: f32, most: f32| if value > 0.0 { (value.min(1.0) * most).round() } else { 0.0 };
    let kept = if opaque { 3 } else { 4 };
    let values = || picture.pixels().iter().flat_map(|pixel| straight(pixel).into_iter().take(kept));
    macro_rules! made {
        ($values:expr, $rgb:ident, $rgba:ident) => {
            if opaque {
                ImageBuffer::from_raw(wide, high, $values).map(DynamicImage::$rgb)
            } else {
                ImageBuffer::from_raw(wide, high, $values).map(DynamicImage::$rgba)
            }
        };
    }
    match bits {
        Bits::Eight => made!(values().map(|v| whole(v, 255.0) as u8).collect(), ImageRgb8, ImageRgba8),
        Bits::Sixteen => {
            made!(values().map(|v| whole(v, 65_535.0) as u16).collect(), ImageRgb16, ImageRgba16)
        }
        Bits::Float => made!(values().collect(), ImageRgb32F, ImageRgba32F),
    }
}
