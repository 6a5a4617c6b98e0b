//! PNG in memory, for the screen.

use std::path::Path;

use crate::MediaError;

/// Opaque RGBA bytes as a small, quickly made PNG in memory.
pub fn encode_png(rgba: &[u8], width: u32, height: u32) -> Result<Vec<u8>, MediaError> {
    let mut out = Vec::new();
    let failed = |error: png::EncodingError| MediaError::broken(Path::new("picture"), error);
    let mut encoder = png::Encoder::new(&mut out, width, height);
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_compression(png::Compression::Fast);
    let mut writer = encoder.write_header().map_err(failed)?;
    writer.write_image_data(rgba).map_err(failed)?;
    writer.finish().map_err(failed)?;
    Ok(out)
}
