//! SG010: a kiln among walls and sheds, at dusk.

use glam::Vec3;

use super::{flicker, knob, post, sway};
use crate::camera::Camera;
use crate::scene::{Lamp, Part, Scene, Shape, Stuff, Thing};
use crate::shots::Plane;

const LEFT_LAMP: Vec3 = Vec3::new(-4.4, 3.05, 2.6);
const RIGHT_LAMP: Vec3 = Vec3::new(5.2, 2.35, 5.2);

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(0.9 + sway(1, 0.02), 1.75 + sway(2, 0.015), 15.2 - 0.012 * moment),
        target: Vec3::new(0.15 + sway(3, 0.02), 3.05 + sway(4, 0.02), 0.0),
        roll: sway(5, 0.002),
        focal_mm: 40.0,
        sensor_width_mm: 36.0,
        f_number: 4.0,
        focus_m: 14.0,
    }
}

pub(crate) fn places() -> Vec<(&'static str, Vec3)> {
    vec![
        ("kiln mouth, left foot", Vec3::new(-0.62, 0.02, 2.62)),
        ("kiln mouth, right foot", Vec3::new(0.62, 0.02, 2.62)),
        ("kiln mouth, crown", Vec3::new(0.0, 1.62, 2.42)),
        ("kiln shoulder", Vec3::new(0.0, 3.9, 1.32)),
        ("chimney, front foot", Vec3::new(0.0, 4.0, 1.0)),
        ("chimney top, front", Vec3::new(0.0, 7.6, 0.72)),
        ("left lamp", LEFT_LAMP),
        ("right lamp", RIGHT_LAMP),
        ("left wall, near top corner", Vec3::new(-4.2, 2.3, 1.2)),
        ("right shed, near top corner", Vec3::new(4.3, 2.9, 2.2)),
    ]
}

/// The front of the kiln mouth's left pier and of its lintel.
const PIER_FRONT: f32 = 2.7;
const LINTEL_FRONT: f32 = 2.68;

pub(crate) fn marks() -> Vec<Vec3> {
    let on_piers =
        [-0.88, -0.7, 0.7, 0.88].into_iter().flat_map(|x| [0.3, 1.1].map(|y| Vec3::new(x, y, PIER_FRONT)));
    let on_lintel = [-0.75, -0.25, 0.25, 0.75].map(|x| Vec3::new(x, 1.62, LINTEL_FRONT));
    on_piers.chain(on_lintel).collect()
}

pub(crate) fn planes() -> Vec<(&'static str, Plane)> {
    let upright = |x: [f32; 2], y: [f32; 2], z: f32| {
        [[x[0], y[1]], [x[1], y[1]], [x[1], y[0]], [x[0], y[0]]].map(|[x, y]| Vec3::new(x, y, z))
    };
    vec![
        ("lintel", upright([-0.94, 0.94], [1.48, 1.76], LINTEL_FRONT)),
        ("back wall", upright([1.6, 5.2], [0.5, 2.1], -8.7)),
    ]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let brick = |row: f32, seed: u32| Stuff::Brick { row, seed };
    let plaster = |r: f32, g: f32, b: f32, seed: u32| Stuff::Plaster { tint: Vec3::new(r, g, b), seed };
    let block = |x: f32, y: f32, z: f32, hx: f32, hy: f32, hz: f32, turn: f32| Shape::Block {
        middle: Vec3::new(x, y, z),
        half: Vec3::new(hx, hy, hz),
        turn: turn.sin_cos(),
    };
    let fire = flicker(moment, 3);
    let ember = Vec3::new(7.0, 3.0, 0.9) * fire;
    let coals = Stuff::Fire { light: ember, foot: Vec3::ZERO };
    let lamp = Vec3::new(7.0, 4.4, 2.2);
    let mut parts = vec![
        Part::still(Thing::Yard, Stuff::WetStone, Shape::Level { y: 0.0 }),
        Part::still(
            Thing::Kiln,
            brick(0.15, 1),
            Shape::Frustum { foot: Vec3::ZERO, height: 4.0, low: 2.5, high: 1.15 },
        ),
        Part::still(
            Thing::Kiln,
            brick(0.12, 4),
            Shape::Frustum { foot: Vec3::ZERO, height: 0.35, low: 2.75, high: 2.7 },
        ),
        Part::still(
            Thing::Chimney,
            brick(0.11, 2),
            Shape::Frustum { foot: Vec3::new(0.0, 3.9, 0.0), height: 3.5, low: 0.98, high: 0.7 },
        ),
        Part::still(
            Thing::Chimney,
            brick(0.11, 3),
            Shape::Frustum { foot: Vec3::new(0.0, 7.2, 0.0), height: 0.4, low: 0.8, high: 0.86 },
        ),
        // The mouth: two piers, a lintel, and the fire between them.
        Part::still(Thing::Kiln, brick(0.14, 7), block(-0.78, 0.75, 2.4, 0.16, 0.75, 0.3, 0.0)),
        Part::still(Thing::Kiln, brick(0.14, 8), block(0.78, 0.75, 2.4, 0.16, 0.75, 0.3, 0.0)),
        Part::still(Thing::Kiln, brick(0.14, 9), block(0.0, 1.62, 2.38, 0.98, 0.16, 0.3, 0.0)),
        Part::still(Thing::Kiln, coals, block(0.0, 0.72, 2.32, 0.64, 0.74, 0.06, 0.0)),
        // Walls and sheds round the yard.
        Part::still(
            Thing::Walls,
            plaster(0.21, 0.19, 0.17, 14),
            block(-5.6, 1.15, -0.6, 1.4, 1.15, 1.9, 0.25),
        ),
        Part::still(
            Thing::Walls,
            Stuff::Wood { tint: Vec3::new(0.10, 0.075, 0.055) },
            block(6.3, 1.45, 0.2, 2.0, 1.45, 2.0, -0.3),
        ),
        Part::still(
            Thing::Walls,
            plaster(0.15, 0.16, 0.17, 17),
            block(-1.0, 1.1, -9.0, 16.0, 1.1, 0.3, 0.02),
        ),
        Part::still(Thing::Walls, plaster(0.17, 0.15, 0.14, 19), block(-7.5, 2.1, -7.0, 2.2, 2.1, 1.2, 0.1)),
        Part::still(Thing::Walls, plaster(0.13, 0.13, 0.14, 23), block(7.0, 1.9, -7.5, 3.0, 1.9, 1.0, -0.1)),
        Part::still(
            Thing::Walls,
            Stuff::Wood { tint: Vec3::new(0.09, 0.07, 0.05) },
            block(-2.7, 0.28, 3.3, 0.42, 0.28, 0.3, 0.5),
        ),
        Part::still(
            Thing::Walls,
            Stuff::Wood { tint: Vec3::new(0.08, 0.06, 0.05) },
            block(-3.4, 0.2, 2.9, 0.3, 0.2, 0.3, -0.2),
        ),
        Part::still(
            Thing::Walls,
            Stuff::Copper,
            Shape::Frustum { foot: Vec3::new(2.9, 0.0, 3.4), height: 0.85, low: 0.36, high: 0.42 },
        ),
        post(Thing::Lamps, Vec3::new(LEFT_LAMP.x, 0.0, LEFT_LAMP.z), LEFT_LAMP.y - 0.1),
        post(Thing::Lamps, Vec3::new(RIGHT_LAMP.x, 0.0, RIGHT_LAMP.z), RIGHT_LAMP.y - 0.1),
        Part::still(
            Thing::Lamps,
            Stuff::Glow { light: lamp },
            Shape::Ball { middle: LEFT_LAMP, radius: 0.12 },
        ),
        Part::still(
            Thing::Lamps,
            Stuff::Glow { light: lamp * 0.8 },
            Shape::Ball { middle: RIGHT_LAMP, radius: 0.12 },
        ),
    ];
    parts.extend(marks().into_iter().map(|middle| knob(Thing::Walls, middle, 0.05)));
    let lamps = vec![
        Lamp { middle: Vec3::new(0.0, 0.85, 2.85), radius: 0.5, light: Vec3::new(5.2, 1.9, 0.5) * fire },
        Lamp { middle: LEFT_LAMP, radius: 0.14, light: Vec3::new(2.3, 1.35, 0.62) },
        Lamp { middle: RIGHT_LAMP, radius: 0.14, light: Vec3::new(1.9, 1.1, 0.5) },
    ];
    let dusk = (Vec3::new(0.75, 0.22, -0.35).normalize(), Vec3::new(0.36, 0.17, 0.09));
    Scene::new(parts, lamps, dusk, moment)
}
