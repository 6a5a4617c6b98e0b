//! What is known because the show is made up: camera and marked places, beside the frames.

use std::io::Write;
use std::path::Path;

use serde_json::{Value, json};
use veil_media::{MediaError, write_whole};

use crate::shots::Shot;

/// A camera as text: place, matrix from world to camera row by row, lens.
pub(crate) fn camera_text(shot: Shot, frame: i32) -> String {
    camera(shot, frame).to_string()
}

fn camera(shot: Shot, frame: i32) -> Value {
    let plan = shot.plan();
    let camera = shot.camera((frame - plan.frames.first) as f32);
    let matrix = camera.eye(plan.width, plan.height).matrix().transpose();
    json!({
        "place_m": camera.place.to_array(),
        "world_to_camera": matrix.to_cols_array(),
        "focal_mm": camera.focal_mm,
        "sensor_width_mm": camera.sensor_width_mm,
        "f_number": camera.f_number,
        "focus_m": camera.focus_m,
    })
}

/// Writes `truth.json` beside a shot's frames: camera and marked places on the picture, by frame.
pub(crate) fn write(shot: Shot, folder: &Path) -> Result<(), MediaError> {
    let plan = shot.plan();
    let file = folder.join(format!("plates/{}/truth.json", plan.code));
    let frames: Vec<Value> = (plan.frames.first..=plan.frames.last)
        .map(|frame| {
            let moment = (frame - plan.frames.first) as f32;
            let eye = shot.camera(moment).eye(plan.width, plan.height);
            let marks = shot.marks(moment).into_iter().map(|(name, place)| {
                let (at, depth) = eye.project(place);
                json!({ "name": name, "x": at.x, "y": at.y, "depth_m": depth })
            });
            json!({ "frame": frame, "camera": camera(shot, frame), "marks": marks.collect::<Vec<_>>() })
        })
        .collect();
    let text = json!({ "shot": plan.code, "frames": frames }).to_string();
    write_whole(&file, |out| {
        out.write_all(text.as_bytes()).map_err(|source| MediaError::Io { path: file.clone(), source })
    })
}
