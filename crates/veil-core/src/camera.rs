//! The camera that a shot was taken or rendered with, frame by frame.
//!
//! - World: metres, right-handed, y up. A camera looks along the opposite of its back, as in glTF 2.0 and OpenGL.
//! - Picture: full-resolution pixels, x right and y down, the lens in its middle.

use glam::{DMat3, DQuat, DVec3};
use serde::Serialize;

use crate::key::{Key, Keyed, keyed_by_fields};
use veil_pixels::warp::perspective::Homography;

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

/// A camera at one moment.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct CameraAt {
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

/// A camera at one frame of its file.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct CameraFrame {
    /// Of the file's own numbering.
    pub frame: i32,
    /// As it is there.
    #[serde(flatten)]
    pub camera: CameraAt,
}

/// A camera over a range of frames.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Camera {
    /// Its name in the file.
    pub name: String,
    /// In frame order; at least one.
    pub frames: Vec<CameraFrame>,
}

fn dot(a: [f64; 3], b: [f64; 3]) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

fn between(a: f64, b: f64, share: f64) -> f64 {
    a + (b - a) * share
}

impl Lens {
    /// Pixels for a unit of slope, on a picture of this size.
    pub fn zoom(self, [width, height]: [f64; 2]) -> f64 {
        match self {
            Self::Focal { focal_mm, sensor_width_mm } => focal_mm / sensor_width_mm * width,
            Self::Upright { degrees } => height / (2.0 * (degrees.to_radians() / 2.0).tan()),
        }
    }

    /// Part of the way to another of the same sort; itself where that is of another.
    fn toward(self, other: Self, share: f64) -> Self {
        match (self, other) {
            (
                Self::Focal { focal_mm, sensor_width_mm },
                Self::Focal { focal_mm: other_focal, sensor_width_mm: other_width },
            ) => Self::Focal {
                focal_mm: between(focal_mm, other_focal, share),
                sensor_width_mm: between(sensor_width_mm, other_width, share),
            },
            (Self::Upright { degrees }, Self::Upright { degrees: other }) => {
                Self::Upright { degrees: between(degrees, other, share) }
            }
            _ => self,
        }
    }
}

impl Keyed for Lens {
    fn key(&self, key: &mut Key) {
        match self {
            Self::Focal { focal_mm, sensor_width_mm } => (0u8, (*focal_mm, *sensor_width_mm)).key(key),
            Self::Upright { degrees } => (1u8, *degrees).key(key),
        }
    }
}

keyed_by_fields! {
    CameraAt { place, right, up, back, lens }
}

impl CameraAt {
    /// One that stands at a place and looks along −z when all angles are 0: it is rolled clockwise as it sees, then tilted up,
    /// then panned to its left, all in degrees.
    pub fn standing(place: [f64; 3], [pan, tilt, roll]: [f64; 3], lens: Lens) -> Self {
        let turn = DQuat::from_rotation_y(pan.to_radians())
            * DQuat::from_rotation_x(tilt.to_radians())
            * DQuat::from_rotation_z(-roll.to_radians());
        Self::turned(place, turn, lens)
    }

    /// One whose axes are turned from the world's.
    pub fn turned(place: [f64; 3], turn: DQuat, lens: Lens) -> Self {
        let axis = |axis: DVec3| (turn * axis).to_array();
        Self { place, right: axis(DVec3::X), up: axis(DVec3::Y), back: axis(DVec3::Z), lens }
    }

    fn turn(&self) -> DQuat {
        DQuat::from_mat3(&DMat3::from_cols(self.right.into(), self.up.into(), self.back.into())).normalize()
    }

    /// Part of the way to another: its place in a straight line, its turn about one axis at an even pace.
    ///
    /// Source: Shoemake, "Animating Rotation with Quaternion Curves", 1985.
    pub fn toward(&self, other: &Self, share: f64) -> Self {
        let place = std::array::from_fn(|axis| between(self.place[axis], other.place[axis], share));
        Self::turned(place, self.turn().slerp(other.turn(), share), self.lens.toward(other.lens, share))
    }

    /// Where a place of the world is on a picture of this size, and how far before the camera; `None` behind it.
    pub fn project(&self, world: [f64; 3], size: [f64; 2]) -> Option<([f64; 2], f64)> {
        let [x, y, depth] = self.seen(world, size);
        (depth > 0.0).then(|| ([x / depth, y / depth], depth))
    }

    /// Where a place is on a picture of this size, times how far before the camera it is, and that.
    fn seen(&self, world: [f64; 3], size: [f64; 2]) -> [f64; 3] {
        let offset = std::array::from_fn(|axis| world[axis] - self.place[axis]);
        self.seen_along(offset, size)
    }

    fn seen_along(&self, offset: [f64; 3], size: [f64; 2]) -> [f64; 3] {
        let (zoom, depth) = (self.lens.zoom(size), -dot(offset, self.back));
        [
            zoom * dot(offset, self.right) + size[0] / 2.0 * depth,
            -zoom * dot(offset, self.up) + size[1] / 2.0 * depth,
            depth,
        ]
    }

    /// How a plane is seen on a picture of this size: from places along its two axes, counted from `middle`.
    ///
    /// Source: the image of a plane, Hartley and Zisserman, "Multiple View Geometry", 2004, section 8.1.
    pub fn plane(&self, middle: [f64; 3], [along, across]: [[f64; 3]; 2], size: [f64; 2]) -> Homography {
        let columns = [self.seen_along(along, size), self.seen_along(across, size), self.seen(middle, size)];
        Homography::from_rows([0, 1, 2].map(|row| columns.map(|column| column[row])))
    }

    /// The way from the camera through a place of a picture of this size, one unit of depth far.
    pub fn ray(&self, at: [f64; 2], size: [f64; 2]) -> [f64; 3] {
        let zoom = self.lens.zoom(size);
        let (right, up) = ((at[0] - size[0] / 2.0) / zoom, (size[1] / 2.0 - at[1]) / zoom);
        std::array::from_fn(|axis| self.right[axis] * right + self.up[axis] * up - self.back[axis])
    }
}

impl Camera {
    /// As it is at a frame of its own numbering, which may lie between two; beyond its range as at its end.
    pub fn at(&self, frame: f64) -> Option<CameraAt> {
        let next = self.frames.partition_point(|one| f64::from(one.frame) <= frame);
        let before = self.frames.get(next.saturating_sub(1))?;
        let Some(after) = self.frames.get(next).filter(|_| next > 0) else { return Some(before.camera) };
        let share = (frame - f64::from(before.frame)) / f64::from(after.frame - before.frame);
        if share == 0.0 {
            return Some(before.camera);
        }
        Some(before.camera.toward(&after.camera, share))
    }

    /// The frame of its own numbering that is seen at one of the shot, which begins at `first`: the same where its numbers
    /// reach into the shot; else it begins with the shot, as one does that is told by seconds.
    pub fn own_frame(&self, frame: f64, shot_first: i32, shot_last: i32) -> f64 {
        let (Some(own_first), Some(own_last)) = (self.frames.first(), self.frames.last()) else {
            return frame;
        };
        let reaches = own_first.frame <= shot_last && own_last.frame >= shot_first;
        if reaches { frame } else { frame + f64::from(own_first.frame) - f64::from(shot_first) }
    }
}
