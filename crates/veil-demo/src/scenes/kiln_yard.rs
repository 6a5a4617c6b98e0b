//! SG010: a kiln among walls and sheds, at dusk.

use glam::Vec3;

use super::{flicker, knob, post, sway};
use crate::camera::Camera;
use crate::parts::{Part, Plane, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};

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

/// A painted board in a frame of wood, on its stand in the yard.
struct Board {
    middle: Vec3,
    turn: f32,
    seed: u32,
}

const BOARDS: [Board; 2] = [
    Board { middle: Vec3::new(-3.1, 1.15, 1.9), turn: 0.3, seed: 45 },
    Board { middle: Vec3::new(3.3, 1.75, 1.6), turn: -0.25, seed: 47 },
];

/// Half the width and height of the paint, half the depth of its wood, and the frame's border.
const PAINT: [f32; 2] = [0.7, 0.5];
const THICK: f32 = 0.03;
const BORDER: f32 = 0.38;
/// Half the side of a painted stud.
const STUD: f32 = 0.055;

impl Board {
    /// A place so far right, up and before its middle.
    fn at(&self, x: f32, y: f32, z: f32) -> Vec3 {
        let (sin, cos) = self.turn.sin_cos();
        self.middle + Vec3::new(x * cos - z * sin, y, x * sin + z * cos)
    }

    fn parts(&self) -> Vec<Part> {
        let turn = self.turn.sin_cos();
        let block = |middle: Vec3, half: Vec3| Shape::Block { middle, half, turn };
        let (wide, high) = (PAINT[0] + BORDER, PAINT[1] + BORDER);
        let timber = Stuff::Wood { tint: Vec3::new(0.10, 0.075, 0.055) };
        let paint = Stuff::Peeling { tint: Vec3::new(0.30, 0.27, 0.22), seed: self.seed };
        let leg = |x: f32| block(self.at(x, -0.9, -0.06), Vec3::new(0.05, 0.86, 0.03));
        vec![
            Part::still(Thing::Walls, timber, block(self.middle, Vec3::new(wide, high, THICK))),
            Part::still(
                Thing::Walls,
                paint,
                block(self.at(0.0, 0.0, THICK), Vec3::new(PAINT[0] + 0.02, PAINT[1] + 0.02, 0.02)),
            ),
            Part::still(Thing::Walls, timber, leg(-0.6)),
            Part::still(Thing::Walls, timber, leg(0.6)),
        ]
        .into_iter()
        .chain(self.studs().map(|middle| {
            // Flat, so that light from another side does not move its middle.
            let half = Vec3::new(STUD, STUD, 0.008);
            Part { shape: block(middle, half), ..knob(Thing::Walls, middle, STUD) }
        }))
        .collect()
    }

    fn studs(&self) -> [Vec3; 6] {
        let (right, up) = (PAINT[0] + BORDER / 2.0, PAINT[1] + BORDER / 2.0);
        let around = [[-1.0, 1.0], [0.0, 1.0], [1.0, 1.0], [1.0, -1.0], [0.0, -1.0], [-1.0, -1.0]];
        around.map(|[x, y]| self.at(x * right, y * up, THICK))
    }
}

pub(crate) fn marks() -> Vec<Vec3> {
    BOARDS.iter().flat_map(Board::studs).collect()
}

pub(crate) fn planes() -> Vec<(&'static str, Plane)> {
    let corners = [[-1.0, 1.0], [1.0, 1.0], [1.0, -1.0], [-1.0, -1.0]];
    let plane = |board: &Board| corners.map(|[x, y]| board.at(x * PAINT[0], y * PAINT[1], THICK + 0.02));
    vec![("left board", plane(&BOARDS[0])), ("right board", plane(&BOARDS[1]))]
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
    parts.extend(BOARDS.iter().flat_map(Board::parts));
    let lamps = vec![
        Lamp { middle: Vec3::new(0.0, 0.85, 2.85), radius: 0.5, light: Vec3::new(5.2, 1.9, 0.5) * fire },
        Lamp { middle: LEFT_LAMP, radius: 0.14, light: Vec3::new(2.3, 1.35, 0.62) },
        Lamp { middle: RIGHT_LAMP, radius: 0.14, light: Vec3::new(1.9, 1.1, 0.5) },
    ];
    let dusk = (Vec3::new(0.75, 0.22, -0.35).normalize(), Vec3::new(0.36, 0.17, 0.09));
    Scene::new(parts, lamps, dusk, moment)
}
