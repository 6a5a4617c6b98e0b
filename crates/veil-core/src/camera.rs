//! The camera that a shot was taken or rendered with, frame by frame.
//!
//! - World: metres, right-handed, y up. A camera looks along the opposite of its back, as in glTF 2.0 and OpenGL.
//! - Picture: pixels, x right and y down, the lens in its middle.

use serde::Serialize;

/// How much a lens takes in.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Lens {
    /// A focal length and the width of the sensor behind it.
    Focal {
        /// Focal length in millimetres.
        focal_mm: f64,
        /// Width of the sensor in millimetres.
        sensor_width_mm: f64,
    },
    /// The angle from the lower to the upper border, in degrees.
    Upright {
        /// More than 0, less than 180.
        degrees: f64,
    },
}

/// A camera at one frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct CameraAt {
    /// Frame of its own numbering.
    pub frame: i32,
    /// Where it stands.
    pub place: [f64; 3],
    /// To its right; of length 1, as the next two are, and square to them.
    pub right: [f64; 3],
    /// Upwards, as it sees.
    pub up: [f64; 3],
    /// Away from what it looks at.
    pub back: [f64; 3],
    /// What it takes in.
    pub lens: Lens,
}

/// A camera over a range of frames.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Camera {
    /// Its name in the file.
    pub name: String,
    /// In frame order; at least one.
    pub frames: Vec<CameraAt>,
}

fn dot(a: [f64; 3], b: [f64; 3]) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

impl CameraAt {
    /// Pixels for a unit of slope, on a picture of this size.
    fn zoom(&self, [width, height]: [f64; 2]) -> f64 {
        match self.lens {
            Lens::Focal { focal_mm, sensor_width_mm } => focal_mm / sensor_width_mm * width,
            Lens::Upright { degrees } => height / (2.0 * (degrees.to_radians() / 2.0).tan()),
        }
    }

    /// Where a place of the world is on a picture of this size, and how far before the camera; `None` behind it.
    pub fn project(&self, world: [f64; 3], size: [f64; 2]) -> Option<([f64; 2], f64)> {
        let offset = std::array::from_fn(|axis| world[axis] - self.place[axis]);
        let depth = -dot(offset, self.back);
        (depth > 0.0).then(|| {
            let zoom = self.zoom(size) / depth;
            let at = [dot(offset, self.right) * zoom, -dot(offset, self.up) * zoom];
            ([size[0] / 2.0 + at[0], size[1] / 2.0 + at[1]], depth)
        })
    }
}
