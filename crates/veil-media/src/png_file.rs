//! PNG in and out, 8 and 16 bit.

use std::fs::File;
use std::io::{BufReader, Write};
use std::path::Path;

use veil_core::signal::Domain;
use veil_pixels::{Picture, Raster, Window, colour};

use crate::MediaError;

/// Bits of a channel in a PNG.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum PngBits {
    Eight,
    Sixteen,
}

/// Size of a PNG; its windows are both the whole picture.
pub(crate) fn read_domain(path: &Path) -> Result<Domain, MediaError> {
    let reader = open(path)?;
    let (width, height) = (reader.info().width, reader.info().height);
    let window = Window::sized(width, height);
    Ok(Domain { display: window, data: window })
}

fn open(path: &Path) -> Result<png::Reader<BufReader<File>>, MediaError> {
    let file = File::open(path).map_err(MediaError::io(path))?;
    let mut decoder = png::Decoder::new(BufReader::new(file));
    decoder.set_transformations(png::Transformations::EXPAND);
    let reader = decoder.read_info().map_err(|error| MediaError::broken(path, error))?;
    let info = reader.info();
    MediaError::check_size(path, info.width as usize, info.height as usize, 16)?;
    Ok(reader)
}

/// Reads a PNG as it stands: values 0–1 in the file's own encoding, premultiplied by its alpha.
pub(crate) fn read(path: &Path) -> Result<Picture, MediaError> {
    let mut reader = open(path)?;
    let broken = |why: &str| MediaError::broken(path, why);
    let size = reader.output_buffer_size().ok_or_else(|| broken("its size overflows"))?;
    let mut bytes = vec![0; size];
    let frame = reader.next_frame(&mut bytes).map_err(|error| MediaError::broken(path, error))?;
    let values: Vec<f32> = match frame.bit_depth {
        png::BitDepth::Sixteen => {
            bytes.as_chunks::<2>().0.iter().map(|b| f32::from(u16::from_be_bytes(*b)) / 65535.0).collect()
        }
        _ => bytes.iter().map(|byte| f32::from(*byte) / 255.0).collect(),
    };
    let samples = frame.color_type.samples();
    let pixels = values.chunks_exact(samples).map(|pixel| {
        let full = match *pixel {
            [grey] => [grey, grey, grey, 1.0],
            [grey, alpha] => [grey, grey, grey, alpha],
            [r, g, b] => [r, g, b, 1.0],
            [r, g, b, alpha, ..] => [r, g, b, alpha],
            [] => [0.0; 4],
        };
        colour::premultiplied(full)
    });
    let window = Window::sized(frame.width, frame.height);
    Raster::from_pixels(window, pixels.collect()).ok_or_else(|| broken("pixels are missing"))
}

/// Writes linear, premultiplied pixels as an sRGB PNG with straight alpha; values beyond 0–1 are cut off.
pub(crate) fn write(
    path: &Path,
    picture: &Picture,
    bits: PngBits,
    out: impl Write,
) -> Result<(), MediaError> {
    let window = picture.window();
    let mut encoder = png::Encoder::new(out, window.width() as u32, window.height() as u32);
    let opaque = picture.pixels().iter().all(|pixel| pixel[3] >= 1.0);
    encoder.set_color(if opaque { png::ColorType::Rgb } else { png::ColorType::Rgba });
    encoder.set_depth(if bits == PngBits::Eight { png::BitDepth::Eight } else { png::BitDepth::Sixteen });
    encoder.set_source_srgb(png::SrgbRenderingIntent::Perceptual);
    encoder.set_compression(png::Compression::Fast);
    let kept = if opaque { 3 } else { 4 };
    let mut bytes = Vec::with_capacity(picture.pixels().len() * kept * 2);
    for pixel in picture.pixels() {
        let [r, g, b, alpha] = colour::unpremultiplied(*pixel);
        let encoded = [r, g, b].map(colour::srgb_from_linear);
        for value in [encoded[0], encoded[1], encoded[2], alpha].into_iter().take(kept) {
            let value = if value.is_nan() { 0.0 } else { value.clamp(0.0, 1.0) };
            match bits {
                PngBits::Eight => bytes.push((value * 255.0).round() as u8),
                PngBits::Sixteen => bytes.extend(((value * 65535.0).round() as u16).to_be_bytes()),
            }
        }
    }
    let failed = |error: png::EncodingError| match error {
        png::EncodingError::IoError(source) => MediaError::Io { path: path.into(), source },
        other => MediaError::broken(path, other),
    };
    let mut writer = encoder.write_header().map_err(failed)?;
    writer.write_image_data(&bytes).map_err(failed)?;
    writer.finish().map_err(failed)
}

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
