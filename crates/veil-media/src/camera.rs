//! Cameras in: glTF 2.0, and tables of text.
//!
//! A table has a line of names and then a line a frame, with commas between: `frame`, the place `x`, `y`, `z` in
//! metres, the angles `pan`, `tilt` and `roll` in degrees, `focal_mm` and `sensor_width_mm`. The camera looks along −z
//! when all angles are 0; it is rolled clockwise as it sees, then tilted up, then panned to its left.
//!
//! Source: Khronos, glTF 2.0, sections on cameras, node hierarchy and animation (appendix C for the interpolation).

use std::collections::HashMap;
use std::path::{Component, Path};

use glam::{DMat4, DQuat, DVec3};
use gltf::animation::Interpolation;
use gltf::animation::util::ReadOutputs;
use gltf::buffer::Source;
use gltf::camera::Projection;
use veil_core::camera::{Camera, CameraAt, Lens};

use crate::MediaError;
use crate::error::LARGEST_BYTES;
use crate::form::Form;
use crate::guard::guarded;

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

/// The columns of a table that are read, in this order.
const COLUMNS: [&str; 9] = ["frame", "x", "y", "z", "pan", "tilt", "roll", "focal_mm", "sensor_width_mm"];

/// Reads a table.
fn read_table(path: &Path) -> Result<Camera, MediaError> {
    let text = std::fs::read_to_string(path).map_err(MediaError::io(path))?;
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

fn of_angles([frame, x, y, z, pan, tilt, roll, focal_mm, sensor_width_mm]: [f64; 9]) -> CameraAt {
    let turn = DQuat::from_rotation_y(pan.to_radians())
        * DQuat::from_rotation_x(tilt.to_radians())
        * DQuat::from_rotation_z(-roll.to_radians());
    at(frame as i32, DVec3::new(x, y, z), turn, Lens::Focal { focal_mm, sensor_width_mm })
}

fn at(frame: i32, place: DVec3, turn: DQuat, lens: Lens) -> CameraAt {
    let axis = |axis: DVec3| (turn * axis).to_array();
    CameraAt {
        frame,
        place: place.to_array(),
        right: axis(DVec3::X),
        up: axis(DVec3::Y),
        back: axis(DVec3::Z),
        lens,
    }
}

fn camera_of(path: &Path, name: &str, mut frames: Vec<CameraAt>) -> Result<Camera, MediaError> {
    if frames.is_empty() {
        return Err(MediaError::Missing { path: path.into(), what: "camera".into() });
    }
    let fine = |lens: Lens| match lens {
        Lens::Focal { focal_mm, sensor_width_mm } => focal_mm > 0.0 && sensor_width_mm > 0.0,
        Lens::Upright { degrees } => degrees > 0.0 && degrees < 180.0,
    };
    if !frames.iter().all(|frame| fine(frame.lens)) {
        return Err(MediaError::broken(path, "its lens takes in nothing"));
    }
    frames.sort_by_key(|frame| frame.frame);
    frames.dedup_by_key(|frame| frame.frame);
    Ok(Camera { name: name.into(), frames })
}

/// Reads the first camera of a glTF file, at so many frames a second; its frames count from 1.
fn read_gltf(path: &Path, fps: f64) -> Result<Camera, MediaError> {
    guarded(path, || {
        let broken = |error: gltf::Error| MediaError::broken(path, error);
        let size = std::fs::metadata(path).map_err(MediaError::io(path))?.len();
        if size > LARGEST_BYTES as u64 {
            return Err(MediaError::broken(path, "it is larger than 1 GiB"));
        }
        let gltf::Gltf { document, blob } = gltf::Gltf::open(path).map_err(broken)?;
        check_buffers(path, &document)?;
        let buffers = gltf::import_buffers(&document, path.parent(), blob).map_err(broken)?;
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
        let count = (moves.seconds * fps).round() as usize + 1;
        if count > MOST_FRAMES {
            return Err(MediaError::broken(path, format!("it moves for {count} frames")));
        }
        let way = way_to(&document, node.index());
        let frames = (0..count).map(|number| {
            let moment = number as f64 / fps;
            let world = way.iter().fold(DMat4::IDENTITY, |world, node| world * moves.local(node, moment));
            let (_, turn, place) = world.to_scale_rotation_translation();
            self::at(number as i32 + 1, place, turn, lens)
        });
        camera_of(path, camera.name().or(node.name()).unwrap_or("camera"), frames.collect())
    })
}

/// Buffers may be in the file or beside it, nowhere else.
fn check_buffers(path: &Path, document: &gltf::Document) -> Result<(), MediaError> {
    for buffer in document.buffers() {
        if let Source::Uri(address) = buffer.source() {
            let beside = Path::new(address).components().all(|part| matches!(part, Component::Normal(_)));
            if !address.starts_with("data:") && !beside {
                return Err(MediaError::broken(path, format!("its data is said to be at `{address}`")));
            }
        }
        if buffer.length() > LARGEST_BYTES {
            return Err(MediaError::broken(path, "its data is larger than 1 GiB"));
        }
    }
    Ok(())
}

/// The nodes from the root down to one.
fn way_to(document: &gltf::Document, index: usize) -> Vec<gltf::Node<'_>> {
    let parent_of =
        |index: usize| document.nodes().find(|node| node.children().any(|child| child.index() == index));
    let mut way: Vec<gltf::Node<'_>> = document.nodes().filter(|node| node.index() == index).collect();
    // A file may claim that a node is its own ancestor.
    while let Some(parent) = way.last().and_then(|node| parent_of(node.index()))
        && way.len() <= document.nodes().len()
    {
        way.push(parent);
    }
    way.reverse();
    way
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
    fn read(document: &gltf::Document, buffers: &[gltf::buffer::Data]) -> Self {
        let mut moves = Self::default();
        for channel in document.animations().flat_map(|animation| animation.channels().collect::<Vec<_>>()) {
            let reader = channel.reader(|buffer| buffers.get(buffer.index()).map(|data| &data.0[..]));
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
