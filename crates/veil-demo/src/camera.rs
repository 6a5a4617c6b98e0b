//! A camera with a lens and a shutter.

use glam::{Mat4, Vec2, Vec3};
use veil_core::camera::{CameraAt, Lens};

use crate::random::Random;

/// Where the camera is and what it sees. World: metres, x right, y up.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Camera {
    pub(crate) place: Vec3,
    pub(crate) target: Vec3,
    /// Turn about the line of sight, in radians.
    pub(crate) roll: f32,
    pub(crate) focal_mm: f32,
    pub(crate) sensor_width_mm: f32,
    pub(crate) f_number: f32,
    pub(crate) focus_m: f32,
}

/// A camera at one moment, for a picture of one size.
pub(crate) struct Eye {
    camera: Camera,
    right: Vec3,
    up: Vec3,
    forward: Vec3,
    size: Vec2,
    /// Pixels for a unit of slope.
    zoom: f32,
}

#[derive(Clone, Copy)]
pub(crate) struct Ray {
    pub(crate) from: Vec3,
    pub(crate) along: Vec3,
}

impl Camera {
    pub(crate) fn eye(self, width: u32, height: u32) -> Eye {
        let forward = (self.target - self.place).normalize();
        let level = forward.cross(Vec3::Y).normalize();
        let upright = level.cross(forward);
        let (sin, cos) = self.roll.sin_cos();
        Eye {
            camera: self,
            right: level * cos + upright * sin,
            up: upright * cos - level * sin,
            forward,
            size: Vec2::new(width as f32, height as f32),
            zoom: self.focal_mm / self.sensor_width_mm * width as f32,
        }
    }
}

impl Eye {
    /// Through a place on the picture, from the middle of the lens.
    pub(crate) fn ray(&self, pixel: Vec2) -> Ray {
        Ray { from: self.camera.place, along: self.direction(pixel).normalize() }
    }

    /// Through a place on the picture, from a random place of the lens, so that what is out of focus is soft.
    pub(crate) fn lens_ray(&self, pixel: Vec2, random: &mut Random) -> Ray {
        let direction = self.direction(pixel);
        let focused = self.camera.place + direction * self.camera.focus_m;
        let radius = self.lens_radius();
        let (x, y) = random.disc();
        let from = self.camera.place + (self.right * x + self.up * y) * radius;
        Ray { from, along: (focused - from).normalize() }
    }

    /// As others know it.
    pub(crate) fn at(&self) -> CameraAt {
        let way = |way: Vec3| way.to_array().map(f64::from);
        CameraAt {
            place: way(self.camera.place),
            right: way(self.right),
            up: way(self.up),
            back: way(-self.forward),
            lens: Lens::Focal {
                focal_mm: self.camera.focal_mm.into(),
                sensor_width_mm: self.camera.sensor_width_mm.into(),
            },
        }
    }

    /// The middle of the lens.
    pub(crate) fn place(&self) -> Vec3 {
        self.camera.place
    }

    /// How large a metre looks that is so far away.
    pub(crate) fn pixels_a_metre(&self, distance: f32) -> f32 {
        self.zoom / distance
    }

    /// The radius of what a point so far away becomes out of focus, in pixels.
    pub(crate) fn blur(&self, distance: f32) -> f32 {
        self.lens_radius() * self.zoom * (1.0 / distance - 1.0 / self.camera.focus_m).abs()
    }

    fn lens_radius(&self) -> f32 {
        self.camera.focal_mm * 0.001 / self.camera.f_number * 0.5
    }

    /// One metre deep.
    fn direction(&self, pixel: Vec2) -> Vec3 {
        let slope = (pixel - self.size * 0.5) / self.zoom;
        self.forward + self.right * slope.x - self.up * slope.y
    }

    /// Where a place in the world is on the picture, and how deep.
    pub(crate) fn project(&self, world: Vec3) -> (Vec2, f32) {
        let offset = world - self.camera.place;
        let depth = offset.dot(self.forward);
        let slope = Vec2::new(offset.dot(self.right), -offset.dot(self.up)) / depth.max(1e-4);
        (self.size * 0.5 + slope * self.zoom, depth)
    }

    /// World to camera, as right, up and backward, row by row.
    pub(crate) fn matrix(&self) -> Mat4 {
        Mat4::look_to_rh(self.camera.place, self.forward, self.up)
    }
}
