//! PNG out.

use std::io::Write;
use std::path::Path;

use png::{BitDepth, ColorType, Compression, Encoder, EncodingError, Filter, SrgbRenderingIntent};

use crate::MediaError;

/// Opaque RGBA bytes as a small, quickly made PNG in memory.
pub fn encode_png(rgba: &[u8], width: u32, height: u32) -> Result<Vec<u8>, MediaError> {
    let mut out = Vec::new();
    let failed = |error| failed(Path::new("picture"), error);
    let mut encoder = Encoder::new(&mut out, width, height);
    encoder.set_color(ColorType::Rgba);
    encoder.set_compression(Compression::Fast);
    let mut writer = encoder.write_header().map_err(failed)?;
    writer.write_image_data(rgba).map_err(failed)?;
    writer.finish().map_err(failed)?;
    Ok(out)
}

/// Writes samples, big-endian, and says that they are sRGB: Portable Network Graphics (Third Edition), 11.3.2.5.
pub(crate) fn write_srgb(
    path: &Path,
    samples: &[u8],
    [width, height]: [u32; 2],
    (color, depth): (ColorType, BitDepth),
    out: impl Write,
) -> Result<(), MediaError> {
    let failed = |error| failed(path, error);
    let mut encoder = Encoder::new(out, width, height);
    encoder.set_color(color);
    encoder.set_depth(depth);
    encoder.set_compression(Compression::Fast);
    encoder.set_filter(Filter::Adaptive);
    encoder.set_source_srgb(SrgbRenderingIntent::RelativeColorimetric);
    let mut writer = encoder.write_header().map_err(failed)?;
    writer.write_image_data(samples).map_err(failed)?;
    writer.finish().map_err(failed)
}

fn failed(path: &Path, error: EncodingError) -> MediaError {
    match error {
        EncodingError::IoError(source) => MediaError::Io { path: path.into(), source },
        other => MediaError::broken(path, other),
    }
}
