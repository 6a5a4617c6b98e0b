//! OpenEXR out: any layers as parts of one file, lossless ZIP. Blocks are made by the threads it is called on.

use std::io::{Seek, Write};
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};

use exr::block::chunk::{Chunk, CompressedBlock, CompressedScanLineBlock};
use exr::block::writer::ChunksWriter;
use exr::block::{UncompressedBlock, enumerate_ordered_header_block_indices};
use exr::error::UnitResult;
use exr::image::write::layers::{LayersWriter, WritableLayers};
use exr::meta::attribute::{Chromaticities, TimeCode};
use exr::meta::header::Header;
use exr::prelude::{
    AnyChannel, AnyChannels, AttributeValue, Blocks, Compression, Encoding, FlatSamples, ImageAttributes,
    IntegerBounds, LayerAttributes, Layers, LineOrder, Text, Vec2,
};
use half::f16;
use half::slice::HalfFloatSliceExt;
use rayon::prelude::*;
use veil_pixels::colour::space::{AP0, AP1, BT709, BT2020, Primaries};
use veil_pixels::{Field, Window};

use crate::MediaError;
use crate::exr_head::{CAPTURE_DATE, COLOUR_NAME, COMMENTS, OWNER};
use crate::exr_zip::zipped;

/// How a channel's numbers are kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Depth {
    /// Sixteen bits.
    Half,
    /// Thirty-two bits.
    Float,
}

/// One channel of a layer.
#[derive(Clone, Debug)]
pub struct LayerChannel {
    /// Its name within the layer.
    pub name: String,
    /// How it is kept.
    pub depth: Depth,
    /// Its values, over the layer's data window.
    pub values: Field,
}

/// One part of a file.
#[derive(Clone, Debug)]
pub struct Layer {
    /// Empty for the plain layer. Written before the channels' names.
    pub name: String,
    /// Its data window, which every channel has.
    pub data: Window,
    /// Its channels.
    pub channels: Vec<LayerChannel>,
    /// Text attributes.
    pub texts: Vec<(String, String)>,
}

/// What the header of a file says of all its parts.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct About {
    /// Where the picture is.
    pub display: Window,
    /// What red, green and blue are.
    pub colours: Primaries,
    /// How wide a pixel is for its height.
    pub aspect: f64,
    /// Frames a second, where it is one of several.
    pub fps: Option<f64>,
    /// Its time.
    pub time_code: Option<TimeCode>,
}

impl About {
    /// Square pixels of no rate.
    pub const fn still(display: Window, colours: Primaries) -> Self {
        Self { display, colours, aspect: 1.0, fps: None, time_code: None }
    }
}

/// As UTF-8, which is what other programs read.
fn text(value: &str) -> Result<Text, String> {
    if value.contains('\0') {
        return Err(format!("`{value}` cannot stand in an OpenEXR header"));
    }
    Ok(Text::from_slice_unchecked(value.as_bytes()))
}

/// Writes layers to anything that can be sought in, and tells how many values were beyond what a half holds: those are as
/// large as it holds, and what was no number is 0. An empty data window is written as one clear pixel, since the format
/// has no empty one.
pub fn write_layers(
    path: &Path,
    about: About,
    layers: Vec<Layer>,
    out: impl Write + Seek,
) -> Result<usize, MediaError> {
    let About { display, colours, .. } = about;
    let beyond = AtomicUsize::new(0);
    let bad = |why: String| MediaError::Unsupported { path: path.into(), why };
    let plain = layers.len() == 1;
    let mut written = Vec::new();
    for layer in layers {
        let data = if layer.data.is_empty() {
            Window::new(display.x0, display.y0, display.x0 + 1, display.y0 + 1)
        } else {
            layer.data
        };
        let mut attributes = LayerAttributes {
            layer_position: Vec2(data.x0, data.y0),
            frames_per_second: about.fps.and_then(rational),
            ..Default::default()
        };
        if !plain || !layer.name.is_empty() {
            attributes.layer_name = Some(text(&layer.name).map_err(bad)?);
        }
        for (name, value) in &layer.texts {
            let value = text(value).map_err(bad)?;
            match name.as_str() {
                OWNER => attributes.owner = Some(value),
                COMMENTS => attributes.comments = Some(value),
                CAPTURE_DATE => attributes.capture_date = Some(value),
                _ => {
                    attributes.other.insert(text(name).map_err(bad)?, AttributeValue::Text(value));
                }
            }
        }
        let names: Vec<Text> = layer
            .channels
            .iter()
            .map(|channel| match layer.name.as_str() {
                "" => text(&channel.name),
                layer => text(&format!("{layer}.{}", channel.name)),
            })
            .collect::<Result<_, _>>()
            .map_err(bad)?;
        let kept = |channel: &LayerChannel| match layer.data.is_empty() {
            true => samples(&[0.0], channel.depth, &beyond),
            false => samples(channel.values.pixels(), channel.depth, &beyond),
        };
        let channels: Vec<_> = layer
            .channels
            .par_iter()
            .zip(names)
            .map(|(channel, name)| AnyChannel::new(name, kept(channel)))
            .collect();
        let encoding = Encoding {
            compression: Compression::ZIP16,
            blocks: Blocks::ScanLines,
            line_order: LineOrder::Increasing,
        };
        let size = Vec2(data.width(), data.height());
        written.push(exr::prelude::Layer::new(
            size,
            attributes,
            encoding,
            AnyChannels::sort(channels.into_iter().collect()),
        ));
    }
    let bounds = IntegerBounds::new((display.x0, display.y0), (display.width(), display.height()));
    let place = |[x, y]: [f64; 2]| Vec2(x as f32, y as f32);
    let chromaticities = Chromaticities {
        red: place(colours.red),
        green: place(colours.green),
        blue: place(colours.blue),
        white: place(colours.white),
    };
    let mut shared = ImageAttributes {
        chromaticities: Some(chromaticities),
        pixel_aspect: about.aspect as f32,
        time_code: about.time_code,
        ..ImageAttributes::new(bounds)
    };
    if let Some(named) = interop_id(colours) {
        shared.other.insert(text(COLOUR_NAME).map_err(bad)?, AttributeValue::Text(text(named).map_err(bad)?));
    }
    let layers: Layers<_> = written.into();
    write_blocks(&layers, &shared, out).map_err(|error| MediaError::exr(path, error))?;
    Ok(beyond.into_inner())
}

/// What linear light of these primaries is called in the ASWF Color Interop Forum's recommendation "Color Space Encodings
/// for Texture Assets and CG Rendering", which OpenEXR has as an attribute.
fn interop_id(colours: Primaries) -> Option<&'static str> {
    let named = [
        (BT709, "lin_rec709_scene"),
        (BT2020, "lin_rec2020_scene"),
        (AP0, "lin_ap0_scene"),
        (AP1, "lin_ap1_scene"),
    ];
    named.into_iter().find(|(known, _)| *known == colours).map(|(_, name)| name)
}

/// A rate as a count of frames in seconds: those of NTSC over 1001, others over 1000 at most.
fn rational(fps: f64) -> Option<(i32, u32)> {
    let whole = fps.round();
    if !(fps.is_finite() && (1e-3..1e6).contains(&fps)) {
        return None;
    }
    let over = |under: u32| ((fps * f64::from(under)).round() as i32, under);
    let exact = |(count, under): (i32, u32)| (f64::from(count) / f64::from(under) - fps).abs() < 1e-5;
    let ntsc = ((whole * 1000.0) as i32, 1001);
    [over(1), ntsc, over(100)].into_iter().find(|rate| exact(*rate)).or(Some(over(1000)))
}

/// Blocks that are in memory at once.
const BLOCKS_AT_ONCE: usize = 64;

fn write_blocks(
    layers: &Layers<AnyChannels<FlatSamples>>,
    about: &ImageAttributes,
    out: impl Write + Seek,
) -> UnitResult {
    let headers = layers.infer_headers(about);
    let pixels = layers.create_writer(&headers);
    exr::block::write(out, headers, true, |meta, chunks| {
        let blocks: Vec<_> = enumerate_ordered_header_block_indices(&meta.headers).collect();
        for some in blocks.chunks(BLOCKS_AT_ONCE) {
            let made: exr::error::Result<Vec<_>> = some
                .par_iter()
                .map(|(number, index)| {
                    let data = pixels.extract_uncompressed_block(&meta.headers, *index);
                    Ok((*number, stored(UncompressedBlock { index: *index, data }, &meta.headers)?))
                })
                .collect();
            for (number, chunk) in made? {
                chunks.write_chunk(number, chunk)?;
            }
        }
        Ok(())
    })
}

/// A block of lines as it stands in the file.
fn stored(block: UncompressedBlock, headers: &[Header]) -> exr::error::Result<Chunk> {
    if cfg!(target_endian = "big") {
        return block.compress_to_chunk(headers);
    }
    let UncompressedBlock { index, data } = block;
    let y_coordinate =
        headers[index.layer].own_attributes.layer_position.y() + index.pixel_position.y() as i32;
    let compressed_pixels_le = zipped(&data).unwrap_or(data);
    let lines = CompressedScanLineBlock { y_coordinate, compressed_pixels_le };
    Ok(Chunk { layer_index: index.layer, compressed_block: CompressedBlock::ScanLine(lines) })
}

/// The largest number that a half holds.
const MOST: f32 = 65_504.0;

fn samples(values: &[f32], depth: Depth, beyond: &AtomicUsize) -> FlatSamples {
    match depth {
        Depth::Float => FlatSamples::F32(values.to_vec()),
        Depth::Half => {
            let mut halves = vec![f16::ZERO; values.len()];
            // What is no number is not within, either.
            let lost = values.iter().filter(|value| !(-MOST..=MOST).contains(*value)).count();
            if lost == 0 {
                halves.convert_from_f32_slice(values);
            } else {
                beyond.fetch_add(lost, Ordering::Relaxed);
                let held = |value: &f32| if value.is_nan() { 0.0 } else { value.clamp(-MOST, MOST) };
                halves.iter_mut().zip(values).for_each(|(half, value)| *half = f16::from_f32(held(value)));
            }
            FlatSamples::F16(halves)
        }
    }
}
