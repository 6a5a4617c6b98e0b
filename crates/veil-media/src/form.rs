//! Forms of files, by their endings.

use std::path::Path;

use image::ImageFormat;

/// What kind of file it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    /// OpenEXR.
    Exr,
    /// PNG, TIFF, JPEG, Radiance or WebP.
    Still(StillForm),
    /// A clip, read and written by the ffmpeg program.
    Clip,
    /// A lookup table.
    Cube,
    /// A drawing of filled shapes.
    Svg,
    /// A font, in its outlines.
    Font,
    /// A camera in a glTF file.
    Gltf,
    /// A camera in a table of text.
    CameraTable,
}

/// A picture without passes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum StillForm {
    /// 8 or 16 bits.
    Png,
    /// 8 or 16 bits, or floats.
    Tiff,
    /// 8 bits.
    Jpeg,
    /// Radiance: a shared exponent.
    Hdr,
    /// 8 bits.
    WebP,
}

impl StillForm {
    pub(crate) const fn format(self) -> ImageFormat {
        match self {
            Self::Png => ImageFormat::Png,
            Self::Tiff => ImageFormat::Tiff,
            Self::Jpeg => ImageFormat::Jpeg,
            Self::Hdr => ImageFormat::Hdr,
            Self::WebP => ImageFormat::WebP,
        }
    }
}

/// Every ending that is read, without its dot.
const ENDINGS: [(&str, Form); 20] = [
    ("exr", Form::Exr),
    ("png", Form::Still(StillForm::Png)),
    ("tif", Form::Still(StillForm::Tiff)),
    ("tiff", Form::Still(StillForm::Tiff)),
    ("jpg", Form::Still(StillForm::Jpeg)),
    ("jpeg", Form::Still(StillForm::Jpeg)),
    ("hdr", Form::Still(StillForm::Hdr)),
    ("webp", Form::Still(StillForm::WebP)),
    ("mp4", Form::Clip),
    ("mov", Form::Clip),
    ("mkv", Form::Clip),
    ("webm", Form::Clip),
    ("avi", Form::Clip),
    ("cube", Form::Cube),
    ("svg", Form::Svg),
    ("ttf", Form::Font),
    ("otf", Form::Font),
    ("gltf", Form::Gltf),
    ("glb", Form::Gltf),
    ("csv", Form::CameraTable),
];

impl Form {
    /// Of a path; `None` where the ending is not one that is read.
    pub fn of(path: &Path) -> Option<Self> {
        let ending = path.extension()?.to_str()?;
        ENDINGS.iter().find(|(known, _)| ending.eq_ignore_ascii_case(known)).map(|(_, form)| *form)
    }

    /// The endings that are read, as a sentence lists them.
    pub fn endings() -> String {
        let dotted: Vec<String> = ENDINGS.iter().map(|(ending, _)| format!(".{ending}")).collect();
        dotted.join(", ")
    }
}
