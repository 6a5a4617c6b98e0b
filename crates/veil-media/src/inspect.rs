//! What a file or sequence holds, for people and for programs.

use std::path::Path;

use serde::Serialize;
use veil_core::setup::{ColourSpace, Frames};
use veil_pixels::Window;

use crate::cryptomatte::read_names;
use crate::exr_read::read_head;
use crate::sequence::{FoundMedia, Pattern, scan};
use crate::{MediaError, png_file};

/// A rectangle as OpenEXR writes it: both corners in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct Corners {
    /// First column and row.
    pub min: [i32; 2],
    /// Last column and row.
    pub max: [i32; 2],
}

impl From<Window> for Corners {
    fn from(window: Window) -> Self {
        Self { min: [window.x0, window.y0], max: [window.x1 - 1, window.y1 - 1] }
    }
}

/// A layer of a file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct InspectedLayer {
    /// Its name; empty for the plain channels.
    pub name: String,
    /// Its channels' names.
    pub channels: Vec<String>,
    /// What it is for, where its name says so.
    pub role: Option<veil_core::plates::Role>,
}

/// What a file or sequence holds.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Inspected {
    /// As it was asked for.
    pub path: String,
    /// Its frames; none for a still.
    pub frames: Option<Frames>,
    /// Frames between without a file.
    pub missing: Vec<i32>,
    /// Frames whose size is not that of the first.
    pub other_size: Vec<i32>,
    /// The frame.
    pub display: Corners,
    /// Where the first file has pixels.
    pub data: Corners,
    /// Its layers.
    pub layers: Vec<InspectedLayer>,
    /// Things that its Cryptomatte names.
    pub things: Vec<String>,
    /// Guessed by the file's type.
    pub colour: ColourSpace,
    /// How it is compressed.
    pub compression: String,
}

/// Looks at a file, or at a sequence by its pattern `name.####.ext`.
pub fn inspect(path: &Path) -> Result<Inspected, MediaError> {
    let text = path.to_string_lossy().into_owned();
    let pattern: Pattern = text.parse().map_err(|why: String| MediaError::broken(path, why))?;
    let sequence = if pattern.is_sequence() { Some(found_sequence(path)?) } else { None };
    let frame = sequence.as_ref().and_then(|found| found.frames).map_or(0, |frames| frames.first);
    let first = pattern.file(frame);
    let first = Path::new(&first);
    let mut inspected = one_file(first)?;
    inspected.path = text;
    if let Some(found) = sequence {
        inspected.other_size = other_sizes(&pattern, &found, inspected.display)?;
        inspected.frames = found.frames;
        inspected.missing = found.missing;
    }
    Ok(inspected)
}

fn found_sequence(path: &Path) -> Result<FoundMedia, MediaError> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let missing = || MediaError::Missing { path: path.into(), what: "frames".into() };
    scan(folder)?.into_iter().find(|found| found.path == name).ok_or_else(missing)
}

/// Frames whose display window differs from the first one's.
fn other_sizes(pattern: &Pattern, found: &FoundMedia, first: Corners) -> Result<Vec<i32>, MediaError> {
    let Some(frames) = found.frames else { return Ok(Vec::new()) };
    let mut other = Vec::new();
    for frame in (frames.first..=frames.last).filter(|frame| !found.missing.contains(frame)) {
        let file = pattern.file(frame);
        let file = Path::new(&file);
        let display =
            if is_png(file) { png_file::read_domain(file)?.display } else { read_head(file)?.domain.display };
        if Corners::from(display) != first {
            other.push(frame);
        }
    }
    Ok(other)
}

fn is_png(path: &Path) -> bool {
    path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("png"))
}

fn one_file(path: &Path) -> Result<Inspected, MediaError> {
    if is_png(path) {
        let domain = png_file::read_domain(path)?;
        let channels = ["R", "G", "B", "A"].map(str::to_owned).to_vec();
        return Ok(Inspected {
            path: String::new(),
            frames: None,
            missing: Vec::new(),
            other_size: Vec::new(),
            display: domain.display.into(),
            data: domain.data.into(),
            layers: vec![InspectedLayer {
                name: String::new(),
                channels,
                role: Some(veil_core::plates::Role::Beauty),
            }],
            things: Vec::new(),
            colour: ColourSpace::Srgb,
            compression: "deflate".into(),
        });
    }
    let head = read_head(path)?;
    let things = read_names(path, &head)?.into_iter().map(|named| named.name).collect();
    let layers = head.groups.iter().map(|group| InspectedLayer {
        name: group.layer.clone(),
        channels: group.channels.iter().map(|(_, name)| name.clone()).collect(),
        role: group.role(),
    });
    Ok(Inspected {
        path: String::new(),
        frames: None,
        missing: Vec::new(),
        other_size: Vec::new(),
        display: head.domain.display.into(),
        data: head.domain.data.into(),
        layers: layers.collect(),
        things,
        colour: ColourSpace::Linear,
        compression: head.compression,
    })
}
