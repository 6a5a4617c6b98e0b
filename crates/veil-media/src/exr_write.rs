//! OpenEXR out: any layers as parts of one file, lossless ZIP.

use std::io::{Seek, Write};
use std::path::Path;

use exr::meta::attribute::Chromaticities;
use exr::prelude::{
    AnyChannel, AnyChannels, AttributeValue, Blocks, Compression, Encoding, FlatSamples, Image,
    ImageAttributes, IntegerBounds, LayerAttributes, LineOrder, Text, Vec2, WritableImage,
};
use half::f16;
use half::slice::HalfFloatSliceExt;
use veil_pixels::colour::space::Primaries;
use veil_pixels::{Field, Window};

use crate::MediaError;
use crate::exr_head::{CAPTURE_DATE, COMMENTS, OWNER};

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

fn text(value: &str) -> Result<Text, String> {
    Text::new_or_none(value).ok_or_else(|| format!("`{value}` cannot stand in an OpenEXR header"))
}

/// Writes layers to anything that can be sought in; `colours` says what red, green and blue are. An empty data window is written as one clear pixel,
/// since the format has no empty one.
pub fn write_layers(
    path: &Path,
    display: Window,
    colours: Primaries,
    layers: Vec<Layer>,
    out: impl Write + Seek,
) -> Result<(), MediaError> {
    let bad = |why: String| MediaError::Unsupported { path: path.into(), why };
    let plain = layers.len() == 1;
    let mut written = Vec::new();
    for layer in layers {
        let data = if layer.data.is_empty() {
            Window::new(display.x0, display.y0, display.x0 + 1, display.y0 + 1)
        } else {
            layer.data
        };
        let mut attributes = LayerAttributes { layer_position: Vec2(data.x0, data.y0), ..Default::default() };
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
        let mut channels = Vec::new();
        for channel in layer.channels {
            let name =
                if layer.name.is_empty() { channel.name } else { format!("{}.{}", layer.name, channel.name) };
            let values = if layer.data.is_empty() { vec![0.0] } else { channel.values.pixels().to_vec() };
            channels.push(AnyChannel::new(text(&name).map_err(bad)?, samples(values, channel.depth)));
        }
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
    let about = ImageAttributes { chromaticities: Some(chromaticities), ..ImageAttributes::new(bounds) };
    let image = Image::from_layers(about, written);
    image.write().to_buffered(out).map_err(|error| MediaError::exr(path, error))
}

fn samples(values: Vec<f32>, depth: Depth) -> FlatSamples {
    match depth {
        Depth::Float => FlatSamples::F32(values),
        Depth::Half => {
            let mut halves = vec![f16::ZERO; values.len()];
            halves.convert_from_f32_slice(&values);
            FlatSamples::F16(halves)
        }
    }
}
