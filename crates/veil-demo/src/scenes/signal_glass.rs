//! SG090: the signal glass in its copper frame, lit from behind, cracked.

use glam::Vec3;

use super::{flicker, sway};
use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};
use crate::signal::HALF;

/// The middle of the pane.
const MIDDLE: Vec3 = Vec3::new(0.0, 1.5, 0.0);

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-0.35 + 0.006 * moment + sway(171, 0.012), 1.42 + sway(172, 0.01), 3.05),
        target: Vec3::new(0.03 + sway(173, 0.01), 1.49 + sway(174, 0.01), 0.0),
        roll: sway(175, 0.004),
        focal_mm: 45.0,
        sensor_width_mm: 36.0,
        f_number: 4.0,
        focus_m: 3.0,
    }
}

pub(crate) fn places() -> Vec<(&'static str, Vec3)> {
    let corner = |x: f32, y: f32| MIDDLE + Vec3::new(x * HALF[0], y * HALF[1], 0.01);
    vec![
        ("glass, left top", corner(-1.0, 1.0)),
        ("glass, right top", corner(1.0, 1.0)),
        ("glass, right foot", corner(1.0, -1.0)),
        ("glass, left foot", corner(-1.0, -1.0)),
        ("glass, middle", MIDDLE),
    ]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let block = |middle: Vec3, half: [f32; 3]| Shape::Block {
        middle: MIDDLE + middle,
        half: Vec3::from_array(half),
        turn: (0.0, 1.0),
    };
    let (wide, high) = (HALF[0] + 0.05, HALF[1] + 0.05);
    let still = Part::still;
    let light = 1.15 * flicker(moment * 0.6, 181);
    let bar = |x: f32, y: f32, half: [f32; 2]| {
        still(Thing::Frame, Stuff::Copper, block(Vec3::new(x, y, 0.03), [half[0], half[1], 0.05]))
    };
    let mut parts = vec![
        still(Thing::Yard, Stuff::WetStone, Shape::Level { y: 0.0 }),
        still(
            Thing::Walls,
            Stuff::Brick { row: 0.11, seed: 183 },
            block(Vec3::new(0.0, 0.0, -0.3), [4.0, 2.4, 0.2]),
        ),
        still(
            Thing::Glass,
            Stuff::Signal { middle: MIDDLE, light },
            block(Vec3::ZERO, [HALF[0], HALF[1], 0.01]),
        ),
        bar(0.0, high, [wide + 0.05, 0.05]),
        bar(0.0, -high, [wide + 0.05, 0.05]),
        bar(-wide, 0.0, [0.05, high + 0.05]),
        bar(wide, 0.0, [0.05, high + 0.05]),
    ];
    for x in [-1.0, 1.0] {
        for y in [-1.0, 1.0] {
            let middle = MIDDLE + Vec3::new(x * wide, y * high, 0.085);
            parts.push(still(Thing::Frame, Stuff::Copper, Shape::Ball { middle, radius: 0.032 }));
        }
    }
    let lamps = vec![
        Lamp { middle: Vec3::new(-1.9, 2.5, 1.6), radius: 0.2, light: Vec3::new(1.5, 1.0, 0.55) },
        Lamp { middle: Vec3::new(1.6, 0.9, 1.8), radius: 0.35, light: Vec3::new(0.3, 0.4, 0.55) },
    ];
    let dusk = (Vec3::new(0.5, 0.4, 0.7).normalize(), Vec3::new(0.10, 0.06, 0.045));
    Scene::new(parts, lamps, dusk, moment)
}
