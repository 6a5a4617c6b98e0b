//! What is known because the show is made up: camera and marked places, beside the frames.

use std::io::Write;
use std::path::Path;

use glam::Vec3;
use serde_json::{Value, json};
use veil_core::camera::CameraAt;
use veil_media::{MediaError, write_whole};

use crate::camera::Eye;
use crate::parts::Surface;
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

/// Where what is known of a shot is on the picture at a frame, in pixels.
pub struct Truth {
    /// The camera that the frame was drawn with.
    pub camera: CameraAt,
    /// Places that are named; not each can be seen at every frame.
    pub places: Vec<(&'static str, [f64; 2])>,
    /// Marks that can be followed, by name, in the same order at every frame.
    pub marks: Vec<(String, [f64; 2])>,
    /// The corners of planes that can be followed, by name.
    pub planes: Vec<(&'static str, [[f64; 2]; 4])>,
    /// Surfaces that bend as they are seen.
    pub surfaces: Vec<SurfaceTruth>,
}

/// Where a surface is on the picture.
pub struct SurfaceTruth {
    /// What it is.
    pub name: &'static str,
    /// Rows and columns of its cells.
    pub cells: [usize; 2],
    /// Its corners, row by row.
    pub corners: Vec<[f64; 2]>,
    /// Whether each can be seen, and not from the edge on.
    pub in_sight: Vec<bool>,
}

/// A surface whose way out is more across the view than this is seen from the edge on.
const ACROSS: f32 = 0.2;

/// What is known of a frame.
pub fn truth(shot: Shot, frame: i32) -> Truth {
    let plan = shot.plan();
    let moment = (frame - plan.frames.first) as f32;
    let eye = shot.camera(moment).eye(plan.width, plan.height);
    let seen = |place: Vec3| eye.project(place).0.to_array().map(f64::from);
    Truth {
        camera: eye.at(),
        places: shot.places(moment).into_iter().map(|(name, place)| (name, seen(place))).collect(),
        marks: shot.marks(moment).into_iter().map(|(name, place)| (name, seen(place))).collect(),
        planes: shot.planes(moment).into_iter().map(|(name, plane)| (name, plane.map(seen))).collect(),
        surfaces: shot
            .surfaces(moment)
            .into_iter()
            .map(|(name, surface)| laid(&eye, name, &surface))
            .collect(),
    }
}

fn laid(eye: &Eye, name: &'static str, surface: &Surface) -> SurfaceTruth {
    let corners = surface.corners.iter().map(|(place, _)| eye.project(*place).0.to_array().map(f64::from));
    let is_seen = |(place, out): &(Vec3, Vec3)| (eye.place() - *place).normalize().dot(*out) > ACROSS;
    SurfaceTruth {
        name,
        cells: surface.cells,
        corners: corners.collect(),
        in_sight: surface.corners.iter().map(is_seen).collect(),
    }
}

/// Writes `truth.json` beside a shot's frames: camera, named places, marks and planes on the picture, by frame.
pub(crate) fn write(shot: Shot, folder: &Path) -> Result<(), MediaError> {
    let plan = shot.plan();
    let file = folder.join(format!("plates/{}/truth.json", plan.code));
    let table = folder.join(camera_file(plan.code));
    if file.exists() && table.exists() {
        return Ok(());
    }
    let frames: Vec<Value> = (plan.frames.first..=plan.frames.last)
        .map(|frame| {
            let moment = (frame - plan.frames.first) as f32;
            let eye = shot.camera(moment).eye(plan.width, plan.height);
            let places = shot.places(moment).into_iter().map(|(name, place)| {
                let (at, depth) = eye.project(place);
                json!({ "name": name, "x": at.x, "y": at.y, "depth_m": depth })
            });
            let Truth { marks, planes, surfaces, .. } = truth(shot, frame);
            let marks = marks.into_iter().map(|(name, [x, y])| json!({ "name": name, "x": x, "y": y }));
            let planes =
                planes.into_iter().map(|(name, corners)| json!({ "name": name, "corners": corners }));
            let surfaces = surfaces.into_iter().map(|surface| {
                let SurfaceTruth { name, cells, corners, in_sight } = surface;
                json!({ "name": name, "cells": cells, "corners": corners, "in_sight": in_sight })
            });
            json!({
                "frame": frame,
                "camera": camera(shot, frame),
                "places": places.collect::<Vec<_>>(),
                "marks": marks.collect::<Vec<_>>(),
                "planes": planes.collect::<Vec<_>>(),
                "surfaces": surfaces.collect::<Vec<_>>(),
            })
        })
        .collect();
    write_text(&file, &json!({ "shot": plan.code, "frames": frames }).to_string())?;
    write_text(&table, &camera_table(shot))
}

/// Where a shot's camera is, below the show's folder.
pub fn camera_file(code: &str) -> String {
    format!("plates/{code}/camera.csv")
}

fn write_text(file: &Path, text: &str) -> Result<(), MediaError> {
    write_whole(file, |out| {
        out.write_all(text.as_bytes()).map_err(|source| MediaError::Io { path: file.into(), source })
    })
}

/// The camera as a table, as `veil_media::read_camera` reads it.
fn camera_table(shot: Shot) -> String {
    let plan = shot.plan();
    let mut text = String::from("frame,x,y,z,pan,tilt,roll,focal_mm,sensor_width_mm\n");
    for frame in plan.frames.first..=plan.frames.last {
        let camera = shot.camera((frame - plan.frames.first) as f32);
        let forward = (camera.target - camera.place).normalize();
        let (pan, tilt) = ((-forward.x).atan2(-forward.z).to_degrees(), forward.y.asin().to_degrees());
        let [x, y, z] = camera.place.to_array();
        let roll = -camera.roll.to_degrees();
        let (focal, sensor) = (camera.focal_mm, camera.sensor_width_mm);
        text += &format!("{frame},{x},{y},{z},{pan},{tilt},{roll},{focal},{sensor}\n");
    }
    text
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The table's camera throws the marked places where the renderer's own does.
    #[test]
    fn the_camera_that_is_exported_sees_what_the_renderer_saw() {
        for shot in Shot::ALL {
            let plan = shot.plan();
            let folder = tempfile::tempdir().unwrap();
            write(shot, folder.path()).unwrap();
            let table = veil_media::read_camera(&folder.path().join(camera_file(plan.code)), 24.0).unwrap();
            assert_eq!(table.frames.len(), plan.frames.count());
            let size = [f64::from(plan.width), f64::from(plan.height)];
            for camera in table.frames.iter().step_by(17) {
                let moment = (camera.frame - plan.frames.first) as f32;
                let eye = shot.camera(moment).eye(plan.width, plan.height);
                for (name, place) in shot.places(moment) {
                    let (wanted, depth) = eye.project(place);
                    let (at, far) = camera.camera.project(place.to_array().map(f64::from), size).unwrap();
                    let off = (at[0] - f64::from(wanted.x)).hypot(at[1] - f64::from(wanted.y));
                    assert!(off < 0.01 && (far - f64::from(depth)).abs() < 1e-3, "{name}: {off} px");
                }
            }
        }
    }
}
