//! SG100: the kiln yard, seen from the barge that passes it.

use glam::Vec3;

use super::{kiln_yard, sway};
use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Thing};
use crate::scene::Scene;

/// How far the water lies below the yard, in metres.
const TIDE: f32 = 0.5;

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    let swell = 0.05 * (moment * 0.13).sin();
    Camera {
        place: Vec3::new(-2.6 + 0.022 * moment + sway(201, 0.03), 1.5 + swell + sway(202, 0.02), 19.5),
        target: Vec3::new(-0.2 + 0.012 * moment + sway(203, 0.03), 1.9 + sway(204, 0.03), 0.0),
        roll: 0.012 * (moment * 0.11 + 1.0).sin() + sway(205, 0.004),
        focal_mm: 38.0,
        sensor_width_mm: 36.0,
        f_number: 4.0,
        focus_m: 18.0,
    }
}

pub(crate) fn places() -> Vec<(&'static str, Vec3)> {
    kiln_yard::places()
}

pub(crate) fn scene(moment: f32) -> Scene {
    let yard = kiln_yard::scene(moment);
    let block = |x: f32, y: f32, z: f32, hx: f32, hy: f32, hz: f32| Shape::Block {
        middle: Vec3::new(x, y, z),
        half: Vec3::new(hx, hy, hz),
        turn: (0.0, 1.0),
    };
    let quay = Stuff::Brick { row: 0.24, seed: 207 };
    let mut parts: Vec<Part> = yard.parts.into_iter().filter(|part| part.thing != Thing::Yard).collect();
    parts.push(Part::still(Thing::Water, Stuff::Water, Shape::Level { y: -TIDE }));
    parts.push(Part::still(Thing::Yard, Stuff::WetStone, block(0.0, -1.0, -12.0, 24.0, 1.0, 19.5)));
    parts.push(Part::still(Thing::Quay, quay, block(0.0, -1.12, 7.6, 24.0, 1.0, 0.14)));
    for foot in [-7.5, -3.6, 0.8, 4.9, 8.6] {
        let pile = Shape::Frustum { foot: Vec3::new(foot, -2.0, 8.0), height: 2.7, low: 0.15, high: 0.13 };
        parts.push(Part::still(Thing::Quay, Stuff::Wood { tint: Vec3::new(0.05, 0.042, 0.036) }, pile));
    }
    Scene::new(parts, yard.lamps, yard.dusk, moment)
}
