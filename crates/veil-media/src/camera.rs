//! Cameras in: glTF 2.0, and tables of text.
//!
//! A table has a line of names and then a line a frame, with commas between: `frame`, the place `x`, `y`, `z` in
//! metres, the angles `pan`, `tilt` and `roll` in degrees, `focal_mm` and `sensor_width_mm`. The camera looks along −z
//! when all angles are 0; it is rolled clockwise as it sees, then tilted up, then panned to its left.
//!
//! Source: Khronos, glTF 2.0, sections on cameras, node hierarchy and animation (appendix C for the interpolation).

use std::collections::HashMap;
use std::path::{Component, Path, PathBuf};

use base64::Engine as _;
use base64::prelude::BASE64_STANDARD;
use glam::{DMat4, DQuat, DVec3};
use gltf::animation::Interpolation;
use gltf::animation::util::ReadOutputs;
use gltf::buffer::Source;
use gltf::camera::Projection;
use percent_encoding::percent_decode_str;
use serde::Deserialize;
use veil_core::camera::{Camera, CameraAt, CameraFrame, Lens};

use crate::MediaError;
use crate::form::Form;
use crate::guard::guarded;
use crate::patient::bytes;

/// Most bytes of a glTF file, and of all buffers that it names.
pub(crate) const LARGEST_BUFFERS: u64 = 64 << 20;
/// Most nodes that a camera may be inside of.
const DEEPEST: usize = 256;
/// Most frames that a camera is taken over.
const MOST_FRAMES: usize = 100_000;

/// Reads a camera of either form. One that moves by seconds is taken at so many frames a second, from frame 1 on.
pub fn read_camera(path: &Path, fps: f64) -> Result<Camera, MediaError> {
    match Form::of(path) {
        Some(Form::Gltf) => read_gltf(path, fps),
        Some(Form::CameraTable) => read_table(path),
        _ => Err(MediaError::Missing { path: path.into(), what: "camera".into() }),
    }
}

/// Most bytes of a table.
const LARGEST_TABLE: u64 = 64 << 20;

/// The columns of a table that are read, in this order.
const COLUMNS: [&str; 9] = ["frame", "x", "y", "z", "pan", "tilt", "roll", "focal_mm", "sensor_width_mm"];

/// Reads a table.
fn read_table(path: &Path) -> Result<Camera, MediaError> {
    let text =
        String::from_utf8(bytes(path, LARGEST_TABLE)?).map_err(|error| MediaError::broken(path, error))?;
    let broken = |error: csv::Error| MediaError::broken(path, error);
    let mut table =
        csv::ReaderBuilder::new().trim(csv::Trim::All).flexible(true).from_reader(text.as_bytes());
    let names = table.headers().map_err(broken)?.clone();
    if names.is_empty() {
        return Err(MediaError::broken(path, "it is empty"));
    }
    let column = |name: &str| {
        let place = names.iter().position(|known| known.eq_ignore_ascii_case(name));
        place.ok_or_else(|| MediaError::broken(path, format!("a camera's table needs a column `{name}`")))
    };
    let columns = COLUMNS.map(column).into_iter().collect::<Result<Vec<_>, _>>()?;
    let mut frames = Vec::new();
    for line in table.records() {
        let line = line.map_err(broken)?;
        if line.iter().all(str::is_empty) {
            continue;
        }
        let begins = line.position().map_or(0, |position| position.byte() as usize);
        let mut values = [0.0f64; 9];
        for ((value, column), name) in values.iter_mut().zip(&columns).zip(COLUMNS) {
            let cell = line.get(*column).unwrap_or_default();
            let found = cell.parse().ok().filter(|found: &f64| found.is_finite());
            *value = found.ok_or_else(|| {
                let number = line_at(&text, begins);
                MediaError::broken(path, format!("line {number}: `{name}` is `{cell}`, no number"))
            })?;
        }
        frames.push(of_angles(values));
    }
    camera_of(path, "camera", frames)
}

/// The number of the line that begins at a byte, or behind ends of lines there.
fn line_at(text: &str, byte: usize) -> usize {
    let (before, after) = text.as_bytes().split_at(byte.min(text.len()));
    let ends = after.iter().take_while(|byte| matches!(byte, b'\r' | b'\n'));
    1 + before.iter().chain(ends).filter(|byte| **byte == b'\n').count()
}

fn of_angles([frame, x, y, z, pan, tilt, roll, focal_mm, sensor_width_mm]: [f64; 9]) -> CameraFrame {
    let lens = Lens::Focal { focal_mm, sensor_width_mm };
    CameraFrame { frame: frame as i32, camera: CameraAt::standing([x, y, z], [pan, tilt, roll], lens) }
}

fn camera_of(path: &Path, name: &str, mut frames: Vec<CameraFrame>) -> Result<Camera, MediaError> {
    if frames.is_empty() {
        return Err(MediaError::Missing { path: path.into(), what: "camera".into() });
    }
    let fine = |lens: Lens| match lens {
        Lens::Focal { focal_mm, sensor_width_mm } => focal_mm > 0.0 && sensor_width_mm > 0.0,
        Lens::Upright { degrees } => degrees > 0.0 && degrees < 180.0,
    };
    if !frames.iter().all(|frame| fine(frame.camera.lens)) {
        return Err(MediaError::broken(path, "its lens takes in nothing"));
    }
    frames.sort_by_key(|frame| frame.frame);
    frames.dedup_by_key(|frame| frame.frame);
    Ok(Camera { name: name.into(), frames })
}

/// What is said of a camera besides what glTF has words for.
#[derive(Deserialize)]
struct Extras {
    first_frame: i32,
}

/// The number of a camera's first frame, where it is said.
fn first_frame(node: &gltf::Node<'_>) -> i32 {
    let said = node.extras().as_deref().and_then(|said| serde_json::from_str::<Extras>(said.get()).ok());
    said.map_or(1, |said| said.first_frame)
}

/// Reads the first camera of a glTF file, at so many frames a second; its frames count from 1, or from what its node's `extras` call
/// `first_frame`.
fn read_gltf(path: &Path, fps: f64) -> Result<Camera, MediaError> {
    guarded(path, || {
        let broken = |error: gltf::Error| MediaError::broken(path, error);
        let file = bytes(path, LARGEST_BUFFERS)?;
        let gltf::Gltf { document, blob } = gltf::Gltf::from_slice(&file).map_err(broken)?;
        let buffers = read_buffers(path, &document, blob)?;
        let missing = || MediaError::Missing { path: path.into(), what: "camera".into() };
        let node = document.nodes().find(|node| node.camera().is_some()).ok_or_else(missing)?;
        let camera = node.camera().ok_or_else(missing)?;
        let Projection::Perspective(lens) = camera.projection() else {
            return Err(MediaError::Unsupported {
                path: path.into(),
                why: "a camera without perspective".into(),
            });
        };
        let lens = Lens::Upright { degrees: f64::from(lens.yfov()).to_degrees() };
        let moves = Moves::read(&document, &buffers);
        let count = ((moves.seconds * fps).round() as usize).saturating_add(1);
        if count > MOST_FRAMES {
            return Err(MediaError::broken(path, format!("it moves for {count} frames")));
        }
        let way = way_to(path, &document, node.index())?;
        let first = first_frame(&node);
        let frames = (0..count).map(|number| {
            let moment = number as f64 / fps;
            let world = way.iter().fold(DMat4::IDENTITY, |world, node| world * moves.local(node, moment));
            let (_, turn, place) = world.to_scale_rotation_translation();
            let camera = CameraAt::turned(place.to_array(), turn, lens);
            CameraFrame { frame: first.saturating_add(number as i32), camera }
        });
        camera_of(path, camera.name().or(node.name()).unwrap_or("camera"), frames.collect())
    })
}

/// The buffers' bytes: in the file itself, or in plain files of its own folder or below. Nothing else is opened, wherever
/// an address leads once it is decoded and links are followed.
fn read_buffers(
    path: &Path,
    document: &gltf::Document,
    blob: Option<Vec<u8>>,
) -> Result<Vec<Vec<u8>>, MediaError> {
    let (mut blob, mut left) = (blob, LARGEST_BUFFERS);
    let mut buffers = Vec::new();
    for buffer in document.buffers() {
        let read = match buffer.source() {
            Source::Bin => blob.take().unwrap_or_default(),
            Source::Uri(address) => match address.strip_prefix("data:") {
                Some(data) => embedded(data).ok_or_else(|| elsewhere(path, "data that is no base64"))?,
                None => bytes(&beside(path, address)?, left)?,
            },
        };
        left = left.checked_sub(read.len() as u64).ok_or_else(|| {
            MediaError::broken(path, format!("its data is larger than {LARGEST_BUFFERS} bytes"))
        })?;
        if read.len() < buffer.length() {
            return Err(MediaError::broken(path, "its data is shorter than it says"));
        }
        buffers.push(read);
    }
    Ok(buffers)
}

fn embedded(data: &str) -> Option<Vec<u8>> {
    let (kind, text) = data.split_once(',')?;
    kind.ends_with(";base64").then(|| BASE64_STANDARD.decode(text).ok()).flatten()
}

fn elsewhere(path: &Path, address: &str) -> MediaError {
    let shown: String = address.chars().take(80).collect();
    MediaError::broken(path, format!("its data is said to be at `{shown}`, which is not beside it"))
}

/// The file that an address names, from which it may not lead out of the folder.
fn beside(path: &Path, address: &str) -> Result<PathBuf, MediaError> {
    let outside = || elsewhere(path, address);
    let name = percent_decode_str(address).decode_utf8().map_err(|_| outside())?;
    let plain = Path::new(&*name).components().all(|part| matches!(part, Component::Normal(_)));
    if !plain || name.contains([':', '\0']) {
        return Err(outside());
    }
    let folder = path.parent().unwrap_or(Path::new(".")).canonicalize().map_err(MediaError::io(path))?;
    let file = folder.join(&*name).canonicalize().map_err(|_| outside())?;
    if file.starts_with(&folder) { Ok(file) } else { Err(outside()) }
}

/// The nodes from the root down to one.
fn way_to<'a>(
    path: &Path,
    document: &'a gltf::Document,
    index: usize,
) -> Result<Vec<gltf::Node<'a>>, MediaError> {
    let parents: HashMap<usize, gltf::Node<'a>> = document
        .nodes()
        .flat_map(|node| node.children().map(move |child| (child.index(), node.clone())))
        .collect();
    let mut way: Vec<gltf::Node<'_>> = document.nodes().filter(|node| node.index() == index).collect();
    while let Some(parent) = way.last().and_then(|node| parents.get(&node.index())) {
        // A file may claim that a node is its own ancestor.
        if way.len() == DEEPEST {
            return Err(MediaError::broken(path, format!("its camera is in more than {DEEPEST} nodes")));
        }
        way.push(parent.clone());
    }
    way.reverse();
    Ok(way)
}

/// One animated property of a node: times and values.
struct Channel {
    times: Vec<f32>,
    interpolation: Interpolation,
    values: Vec<[f64; 4]>,
}

/// How nodes move, by node.
#[derive(Default)]
struct Moves {
    places: HashMap<usize, Channel>,
    turns: HashMap<usize, Channel>,
    scales: HashMap<usize, Channel>,
    seconds: f64,
}

impl Moves {
    fn read(document: &gltf::Document, buffers: &[Vec<u8>]) -> Self {
        let mut moves = Self::default();
        for channel in document.animations().flat_map(|animation| animation.channels().collect::<Vec<_>>()) {
            let reader = channel.reader(|buffer| buffers.get(buffer.index()).map(Vec::as_slice));
            let (Some(times), Some(outputs)) = (reader.read_inputs(), reader.read_outputs()) else {
                continue;
            };
            let three = |[x, y, z]: [f32; 3]| [x, y, z, 0.0].map(f64::from);
            let (kind, values): (&mut HashMap<usize, Channel>, Vec<[f64; 4]>) = match outputs {
                ReadOutputs::Translations(values) => (&mut moves.places, values.map(three).collect()),
                ReadOutputs::Rotations(values) => {
                    (&mut moves.turns, values.into_f32().map(|turn| turn.map(f64::from)).collect())
                }
                ReadOutputs::Scales(values) => (&mut moves.scales, values.map(three).collect()),
                ReadOutputs::MorphTargetWeights(_) => continue,
            };
            let times: Vec<f32> = times.collect();
            let interpolation = channel.sampler().interpolation();
            let a_time = if interpolation == Interpolation::CubicSpline { 3 } else { 1 };
            if times.is_empty() || values.len() != times.len() * a_time {
                continue;
            }
            let last = f64::from(times[times.len() - 1]);
            moves.seconds = moves.seconds.max(if last.is_finite() { last } else { 0.0 });
            kind.insert(channel.target().node().index(), Channel { times, interpolation, values });
        }
        moves
    }

    fn local(&self, node: &gltf::Node<'_>, moment: f64) -> DMat4 {
        let (place, turn, scale) = node.transform().decomposed();
        let own = |value: [f32; 3]| value.map(f64::from);
        let three = |channel: Option<&Channel>, still: [f32; 3]| {
            channel.map_or_else(
                || own(still),
                |channel| {
                    let [x, y, z, _] = channel.at(moment, false);
                    [x, y, z]
                },
            )
        };
        let index = node.index();
        let turn =
            self.turns.get(&index).map_or_else(|| turn.map(f64::from), |channel| channel.at(moment, true));
        DMat4::from_scale_rotation_translation(
            DVec3::from_array(three(self.scales.get(&index), scale)),
            DQuat::from_array(turn).normalize(),
            DVec3::from_array(three(self.places.get(&index), place)),
        )
    }
}

impl Channel {
    /// The value at a moment; held before the first time and after the last.
    fn at(&self, moment: f64, turns: bool) -> [f64; 4] {
        let after = self.times.partition_point(|time| f64::from(*time) <= moment);
        let cubic = self.interpolation == Interpolation::CubicSpline;
        let value = |key: usize| self.values[if cubic { 3 * key + 1 } else { key }];
        if after == 0 {
            return value(0);
        }
        if after == self.times.len() {
            return value(after - 1);
        }
        let (from, to) = (after - 1, after);
        let length = f64::from(self.times[to]) - f64::from(self.times[from]);
        let share = (moment - f64::from(self.times[from])) / length;
        match self.interpolation {
            Interpolation::Step => value(from),
            Interpolation::Linear if turns => {
                let [a, b] = [value(from), value(to)].map(|turn| DQuat::from_array(turn).normalize());
                a.slerp(b, share).to_array()
            }
            Interpolation::Linear => {
                let (a, b) = (value(from), value(to));
                std::array::from_fn(|axis| a[axis] + (b[axis] - a[axis]) * share)
            }
            Interpolation::CubicSpline => {
                let (leaving, arriving) = (self.values[3 * from + 2], self.values[3 * to]);
                let (a, b, (s2, s3)) = (value(from), value(to), (share * share, share * share * share));
                std::array::from_fn(|axis| {
                    (2.0 * s3 - 3.0 * s2 + 1.0) * a[axis]
                        + length * (s3 - 2.0 * s2 + share) * leaving[axis]
                        + (3.0 * s2 - 2.0 * s3) * b[axis]
                        + length * (s3 - s2) * arriving[axis]
                })
            }
        }
    }
}
