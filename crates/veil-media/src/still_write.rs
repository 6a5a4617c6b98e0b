//! PNG, TIFF, JPEG and Radiance out.

use std::io::{Seek, Write};
use std::path::Path;

use image::codecs::hdr::HdrEncoder;
use image::codecs::jpeg::JpegEncoder;
use image::{ExtendedColorType, ImageEncoder, ImageError};
use png::{BitDepth, ColorType};
use tiff::encoder::colortype::{RGB8, RGB16, RGB32Float, RGBA8, RGBA16, RGBA32Float};
use tiff::encoder::{TiffEncoder, TiffValue, colortype};
use tiff::tags::{ExtraSamples, Tag};
use tiff::{TiffError, TiffResult};
use veil_pixels::{Picture, Rgba, colour};

use crate::MediaError;
use crate::form::StillForm;
use crate::png_file;
use crate::write::Bits;

/// Hardly to be told from the picture.
const JPEG_QUALITY: u8 = 95;

/// Writes a premultiplied picture: floats as they are, whole numbers with straight alpha, and without alpha where it is
/// opaque. Whole numbers hold 0–1; what lies beyond is cut off, and light without coverage, of which a straight colour
/// says nothing, is not in them. JPEG and Radiance have no alpha: the picture is laid on black.
pub(crate) fn write_still(
    path: &Path,
    picture: &Picture,
    form: StillForm,
    bits: Bits,
    out: impl Write + Seek,
) -> Result<(), MediaError> {
    let bare = matches!(form, StillForm::Jpeg | StillForm::Hdr);
    let still = Still { picture, opaque: bare || picture.pixels().iter().all(|pixel| pixel[3] >= 1.0), bare };
    match form {
        StillForm::Png => still.png(path, bits, out),
        StillForm::Tiff => still.tiff(bits, out).map_err(|error| match error {
            TiffError::IoError(source) => MediaError::Io { path: path.into(), source },
            other => MediaError::broken(path, other),
        }),
        StillForm::Jpeg => still.other(
            path,
            &still.bytes(),
            ExtendedColorType::Rgb8,
            JpegEncoder::new_with_quality(out, JPEG_QUALITY),
        ),
        StillForm::Hdr => {
            let floats = still.floats();
            let bytes: Vec<u8> = floats.iter().flat_map(|value| value.to_ne_bytes()).collect();
            still.other(path, &bytes, ExtendedColorType::Rgb32F, HdrEncoder::new(out))
        }
        StillForm::WebP => {
            Err(MediaError::Unsupported { path: path.into(), why: "WebP is read and not written".into() })
        }
    }
}

/// A picture in a file's own encoding, on its way there.
struct Still<'a> {
    picture: &'a Picture,
    /// Nothing shows through it, so that it needs no alpha.
    opaque: bool,
    /// The form has no alpha.
    bare: bool,
}

impl Still<'_> {
    fn size(&self) -> [u32; 2] {
        [self.picture.window().width() as u32, self.picture.window().height() as u32]
    }

    /// Whole numbers from 0 to `most`, with straight alpha.
    fn whole(&self, most: f32) -> impl Iterator<Item = f32> {
        let bare = self.bare;
        let straight = move |pixel: &Rgba| match pixel[3] {
            _ if bare => *pixel,
            alpha if alpha <= 0.0 => [0.0; 4],
            _ => colour::unpremultiplied(*pixel),
        };
        let kept = if self.opaque { 3 } else { 4 };
        let whole = move |value: f32| if value > 0.0 { (value.min(1.0) * most).round() } else { 0.0 };
        self.picture.pixels().iter().flat_map(move |pixel| straight(pixel).into_iter().take(kept)).map(whole)
    }

    fn bytes(&self) -> Vec<u8> {
        self.whole(255.0).map(|value| value as u8).collect()
    }

    fn words(&self) -> Vec<u16> {
        self.whole(65_535.0).map(|value| value as u16).collect()
    }

    fn floats(&self) -> Vec<f32> {
        let kept = if self.opaque { 3 } else { 4 };
        self.picture.pixels().iter().flat_map(|pixel| pixel.iter().copied().take(kept)).collect()
    }

    fn png(&self, path: &Path, bits: Bits, out: impl Write) -> Result<(), MediaError> {
        let color = if self.opaque { ColorType::Rgb } else { ColorType::Rgba };
        match bits {
            Bits::Eight => {
                png_file::write_srgb(path, &self.bytes(), self.size(), (color, BitDepth::Eight), out)
            }
            Bits::Sixteen | Bits::Float => {
                let words: Vec<u8> = self.words().into_iter().flat_map(u16::to_be_bytes).collect();
                png_file::write_srgb(path, &words, self.size(), (color, BitDepth::Sixteen), out)
            }
        }
    }

    /// TIFF 6.0: whole numbers with unassociated alpha, floats with associated alpha.
    fn tiff(&self, bits: Bits, out: impl Write + Seek) -> TiffResult<()> {
        let (straight, multiplied) = (ExtraSamples::UnassociatedAlpha, ExtraSamples::AssociatedAlpha);
        match (bits, self.opaque) {
            (Bits::Eight, true) => self.samples::<RGB8, _>(&self.bytes(), None, out),
            (Bits::Eight, false) => self.samples::<RGBA8, _>(&self.bytes(), Some(straight), out),
            (Bits::Sixteen, true) => self.samples::<RGB16, _>(&self.words(), None, out),
            (Bits::Sixteen, false) => self.samples::<RGBA16, _>(&self.words(), Some(straight), out),
            (Bits::Float, true) => self.samples::<RGB32Float, _>(&self.floats(), None, out),
            (Bits::Float, false) => self.samples::<RGBA32Float, _>(&self.floats(), Some(multiplied), out),
        }
    }

    fn samples<C: colortype::ColorType, W: Write + Seek>(
        &self,
        samples: &[C::Inner],
        alpha: Option<ExtraSamples>,
        out: W,
    ) -> TiffResult<()>
    where
        [C::Inner]: TiffValue,
    {
        let [wide, high] = self.size();
        let mut file = TiffEncoder::new(out)?;
        let mut image = file.new_image::<C>(wide, high)?;
        if let Some(alpha) = alpha {
            image.encoder().write_tag(Tag::ExtraSamples, &[alpha.to_u16()][..])?;
        }
        image.write_data(samples)
    }

    fn other(
        &self,
        path: &Path,
        bytes: &[u8],
        kind: ExtendedColorType,
        encoder: impl ImageEncoder,
    ) -> Result<(), MediaError> {
        let [wide, high] = self.size();
        encoder.write_image(bytes, wide, high, kind).map_err(|error| match error {
            ImageError::IoError(source) => MediaError::Io { path: path.into(), source },
            other => MediaError::broken(path, other),
        })
    }
}
