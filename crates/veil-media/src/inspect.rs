//! What a file or sequence holds, for people and for programs.

use std::path::Path;

use serde::Serialize;
use veil_core::camera::{Camera, Lens};
use veil_core::plates::{IdKind, Named, Role};
use veil_core::setup::{ColourSpace, Frames};
use veil_core::signal::Domain;
use veil_pixels::colour::lut::Entries;
use veil_pixels::{Cancel, Window};

use crate::camera::read_camera;
use crate::cryptomatte::{kind_of_layer, read_names};
use crate::exr_head::read_head;
use crate::form::{Form, StillForm};
use crate::roles::Aliases;
use crate::sequence::{FoundMedia, Pattern, scan};
use crate::whole::SOME_FPS;
use crate::{FilePlates, MediaError, clip, cube, figure, still, whole};

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
    pub role: Option<Role>,
    /// Which Cryptomatte it is a part of.
    pub ids: Option<IdKind>,
}

/// Things of one Cryptomatte.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Things {
    /// Which kind.
    pub of: IdKind,
    /// As its manifest lists them.
    pub names: Vec<String>,
}

fn things(named: Vec<(IdKind, Vec<Named>)>) -> Vec<Things> {
    let names = |list: Vec<Named>| list.into_iter().map(|named| named.name).collect();
    named.into_iter().map(|(of, list)| Things { of, names: names(list) }).collect()
}

/// What a file or sequence holds.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Inspected {
    /// As it was asked for.
    pub path: String,
    /// Its frames; none for a still.
    pub frames: Option<Frames>,
    /// Frames a second, where the file says so.
    pub fps: Option<f64>,
    /// How wide its pixels are for their height.
    pub aspect: f64,
    /// Runs of frames between without a file.
    pub missing: Vec<Frames>,
    /// Frames whose size is not that of the first.
    pub other_size: Vec<i32>,
    /// The frame.
    pub display: Corners,
    /// Where the first file has pixels.
    pub data: Corners,
    /// Its layers.
    pub layers: Vec<InspectedLayer>,
    /// Things that its Cryptomattes name, by kind.
    pub things: Vec<Things>,
    /// What its header says in words.
    pub texts: Vec<(String, String)>,
    /// Guessed by the file's type.
    pub colour: ColourSpace,
    /// How it is compressed.
    pub compression: String,
}

/// Looks at a file, or at a sequence by its pattern `name.####.ext`.
pub fn inspect(path: &Path) -> Result<Inspected, MediaError> {
    inspect_while(path, &Cancel::new(), &|_| ())
}

/// The same until it is called off. `decoded` hears how many frames of a clip are there, every now and then while it is
/// decoded.
pub fn inspect_while(path: &Path, cancel: &Cancel, decoded: &dyn Fn(usize)) -> Result<Inspected, MediaError> {
    let text = path.to_string_lossy().into_owned();
    let pattern: Pattern = text.parse().map_err(|why: String| MediaError::broken(path, why))?;
    let sequence = if pattern.is_sequence() { Some(found_sequence(path)?) } else { None };
    let frame = sequence.as_ref().and_then(|found| found.frames).map_or(0, |frames| frames.first);
    let first = pattern.file(frame);
    let first = Path::new(&first);
    let mut inspected = one_file(first, cancel, decoded)?;
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
    let is_there = |frame: &i32| !found.missing.iter().any(|gap| gap.holds(*frame));
    for frame in (frames.first..=frames.last).filter(is_there) {
        let file = pattern.file(frame);
        let file = Path::new(&file);
        if Corners::from(display_of(file)?) != first {
            other.push(frame);
        }
    }
    Ok(other)
}

/// Size of one frame's file.
fn display_of(path: &Path) -> Result<Window, MediaError> {
    match Form::of(path) {
        Some(Form::Still(form)) => Ok(still::read_head(path, form)?.domain.display),
        _ => Ok(read_head(path)?.domain.display),
    }
}

impl Inspected {
    /// Of a file with nothing in it.
    fn of(domain: Domain, colour: ColourSpace) -> Self {
        Self {
            path: String::new(),
            frames: None,
            fps: None,
            aspect: 1.0,
            missing: Vec::new(),
            other_size: Vec::new(),
            display: domain.display.into(),
            data: domain.data.into(),
            layers: Vec::new(),
            things: Vec::new(),
            texts: Vec::new(),
            colour,
            compression: String::new(),
        }
    }
}

fn one_file(path: &Path, cancel: &Cancel, decoded: &dyn Fn(usize)) -> Result<Inspected, MediaError> {
    match Form::of(path) {
        Some(Form::Exr) => one_exr(path),
        Some(Form::Still(form)) => one_still(path, form),
        Some(Form::Clip) => one_clip(path, cancel, decoded),
        Some(Form::Cube) => one_table(path),
        Some(Form::Svg) => one_figure(path),
        Some(Form::Font) => Ok(without_pixels(format!("{} glyphs", whole::font(path)?))),
        Some(Form::Gltf | Form::CameraTable) => one_camera(&read_camera(path, SOME_FPS)?),
        None => Err(MediaError::unknown(path)),
    }
}

fn one_still(path: &Path, form: StillForm) -> Result<Inspected, MediaError> {
    let head = still::read_head(path, form)?;
    let role = Some(Role::Beauty);
    let layers = vec![InspectedLayer { name: String::new(), channels: head.channels, role, ids: None }];
    let compression = format!("{form:?}").to_lowercase();
    Ok(Inspected { layers, compression, ..Inspected::of(head.domain, head.colour) })
}

fn one_clip(path: &Path, cancel: &Cancel, decoded: &dyn Fn(usize)) -> Result<Inspected, MediaError> {
    let clip = clip::held_frames(path, FilePlates::print_of(path)?, cancel, decoded)?;
    let still = one_still(&clip.file(clip.frames.first), StillForm::Png)?;
    Ok(Inspected {
        frames: Some(clip.frames),
        fps: Some(clip.fps),
        colour: if clip.srgb { ColourSpace::Srgb } else { ColourSpace::Bt709 },
        compression: clip.codec,
        ..still
    })
}

fn one_table(path: &Path) -> Result<Inspected, MediaError> {
    let shape = match cube::read(path)?.entries {
        Entries::Line(line) => format!("line of {}", line.len()),
        Entries::Cube { side, .. } => format!("cube of {side} a side"),
    };
    Ok(without_pixels(shape))
}

/// A file that holds no picture, with what it holds.
fn without_pixels(holds: String) -> Inspected {
    let nowhere = Domain { display: Window::EMPTY, data: Window::EMPTY };
    Inspected { compression: holds, ..Inspected::of(nowhere, ColourSpace::Linear) }
}

fn one_figure(path: &Path) -> Result<Inspected, MediaError> {
    let drawing = figure::read(path)?;
    let [wide, high] = drawing.size;
    Ok(without_pixels(format!("{} shapes on {wide} by {high}", drawing.shapes.len())))
}

fn one_camera(camera: &Camera) -> Result<Inspected, MediaError> {
    let ends = camera.frames.first().zip(camera.frames.last());
    let lens = match ends.map(|(first, _)| first.camera.lens) {
        Some(Lens::Focal { focal_mm, sensor_width_mm }) => {
            format!("{focal_mm:.1} mm on {sensor_width_mm:.1} mm")
        }
        Some(Lens::Upright { degrees }) => format!("{degrees:.1}° upright"),
        None => String::new(),
    };
    let nowhere = Domain { display: Window::EMPTY, data: Window::EMPTY };
    Ok(Inspected {
        frames: ends.map(|(first, last)| Frames { first: first.frame, last: last.frame }),
        texts: vec![("camera".into(), camera.name.clone()), ("lens".into(), lens)],
        compression: "camera".into(),
        ..Inspected::of(nowhere, ColourSpace::Linear)
    })
}

fn one_exr(path: &Path) -> Result<Inspected, MediaError> {
    let head = read_head(path)?;
    let layers = head.groups.iter().map(|group| InspectedLayer {
        name: group.layer.clone(),
        channels: group.channels.iter().map(|(_, name)| name.clone()).collect(),
        role: group.role(&Aliases::default()),
        ids: kind_of_layer(&head, &group.layer),
    });
    Ok(Inspected {
        layers: layers.collect(),
        things: things(read_names(path, &head)?),
        compression: head.compression,
        fps: head.fps,
        aspect: head.aspect,
        texts: head.texts,
        ..Inspected::of(head.domain, head.colour)
    })
}
