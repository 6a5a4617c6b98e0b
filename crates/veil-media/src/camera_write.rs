//! Cameras that were solved, as glTF 2.0: out, and in again with the points that they were solved from.
//!
//! The camera is a node that moves, a key a frame; each point is a node of its name. What glTF has no word for is in `extras`: on the
//! camera `first_frame` and `frame_errors_px`, on a point `error_px` and `fits`.
//!
//! Source: Khronos, glTF 2.0, sections on cameras, animations and `extras`.

use std::io::Write;
use std::path::Path;

use base64::Engine as _;
use base64::prelude::BASE64_STANDARD;
use glam::{DMat3, DQuat};
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::camera::{CameraAt, Lens};
use veil_core::solved::{SolvedCamera, SolvedPoint};

use crate::MediaError;
use crate::camera::{LARGEST_BUFFERS, read_camera};
use crate::guard::guarded;
use crate::patient::bytes;
use crate::write::write_whole;

/// Writes a camera with its points, whole or not at all; seconds count from its first frame.
pub fn write_camera(path: &Path, solved: &SolvedCamera, size: [f64; 2], fps: f64) -> Result<(), MediaError> {
    let text = gltf_of(solved, size, fps).to_string();
    write_whole(path, |file| file.write_all(text.as_bytes()).map_err(MediaError::io(path)))
}

fn upright_degrees(lens: Lens, [width, height]: [f64; 2]) -> f64 {
    2.0 * (height / 2.0 / lens.zoom([width, height])).atan()
}

fn turn_of(camera: &CameraAt) -> [f64; 4] {
    let axes = DMat3::from_cols(camera.right.into(), camera.up.into(), camera.back.into());
    DQuat::from_mat3(&axes).normalize().to_array()
}

fn gltf_of(solved: &SolvedCamera, size: [f64; 2], fps: f64) -> Value {
    let frames = &solved.camera.frames;
    let first_frame = frames.first().map_or(1, |frame| frame.frame);
    let seconds: Vec<f64> = frames.iter().map(|frame| f64::from(frame.frame - first_frame) / fps).collect();
    let places = frames.iter().flat_map(|frame| frame.camera.place);
    let turns = frames.iter().flat_map(|frame| turn_of(&frame.camera));
    let floats = seconds.iter().copied().chain(places).chain(turns);
    let data: Vec<u8> = floats.flat_map(|number| (number as f32).to_le_bytes()).collect();
    let count = frames.len();
    let view = |first: usize, floats: usize| json!({ "buffer": 0, "byteOffset": 4 * first * count, "byteLength": 4 * floats * count });
    let angle = frames.first().map_or(1.0, |frame| upright_degrees(frame.camera.lens, size));
    let numbers: Vec<i32> = frames.iter().map(|frame| frame.frame).collect();
    let camera = json!({
        "name": solved.camera.name,
        "camera": 0,
        "extras": { "first_frame": first_frame, "frames": numbers, "frame_errors_px": solved.frame_errors },
    });
    let points = solved.points.iter().map(|point| {
        let SolvedPoint { name, place, error, fits } = point;
        json!({ "name": name, "translation": place, "extras": { "error_px": error, "fits": fits } })
    });
    let nodes: Vec<Value> = std::iter::once(camera).chain(points).collect();
    json!({
        "asset": { "version": "2.0" },
        "scene": 0,
        "scenes": [{ "nodes": (0..nodes.len()).collect::<Vec<usize>>() }],
        "cameras": [{
            "type": "perspective",
            "perspective": { "yfov": angle, "aspectRatio": size[0] / size[1], "znear": 0.01 },
        }],
        "nodes": nodes,
        "buffers": [{
            "byteLength": data.len(),
            "uri": format!("data:application/octet-stream;base64,{}", BASE64_STANDARD.encode(&data)),
        }],
        "bufferViews": [view(0, 1), view(1, 3), view(4, 4)],
        "accessors": [
            {
                "bufferView": 0, "componentType": 5126, "count": count, "type": "SCALAR",
                "min": [0.0], "max": [seconds.last().map_or(0.0, |last| f64::from(*last as f32))],
            },
            { "bufferView": 1, "componentType": 5126, "count": count, "type": "VEC3" },
            { "bufferView": 2, "componentType": 5126, "count": count, "type": "VEC4" },
        ],
        "animations": [{
            "samplers": [{ "input": 0, "output": 1 }, { "input": 0, "output": 2 }],
            "channels": [
                { "sampler": 0, "target": { "node": 0, "path": "translation" } },
                { "sampler": 1, "target": { "node": 0, "path": "rotation" } },
            ],
        }],
    })
}

/// What is said of a camera's node.
#[derive(Deserialize)]
struct CameraExtras {
    frames: Vec<i32>,
    frame_errors_px: Vec<f64>,
}

/// What is said of a point's node.
#[derive(Deserialize)]
struct PointExtras {
    error_px: f64,
    fits: f64,
}

/// Reads a camera that was written so, with its points.
pub fn read_solved(path: &Path, fps: f64) -> Result<SolvedCamera, MediaError> {
    let mut camera = read_camera(path, fps)?;
    guarded(path, || {
        let file = bytes(path, LARGEST_BUFFERS)?;
        let gltf = gltf::Gltf::from_slice(&file).map_err(|error| MediaError::broken(path, error))?;
        let (mut frame_errors, mut points) = (None, Vec::new());
        for node in gltf.document.nodes() {
            let Some(said) = node.extras().as_deref() else { continue };
            if node.camera().is_some() {
                frame_errors = serde_json::from_str::<CameraExtras>(said.get()).ok();
            } else if let Ok(said) = serde_json::from_str::<PointExtras>(said.get()) {
                points.push(SolvedPoint {
                    name: node.name().unwrap_or_default().into(),
                    place: node.transform().decomposed().0.map(f64::from),
                    error: said.error_px,
                    fits: said.fits,
                });
            }
        }
        let missing =
            || MediaError::Missing { path: path.into(), what: "camera that was solved here".into() };
        let CameraExtras { frames, frame_errors_px } = frame_errors.ok_or_else(missing)?;
        camera.frames.retain(|frame| frames.contains(&frame.frame));
        Ok(SolvedCamera { camera, frame_errors: frame_errors_px, points })
    })
}
