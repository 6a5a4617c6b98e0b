//! What stands where in each shot.

use glam::Vec3;
use veil_core::setup::Frames;

use crate::ShotPlan;
use crate::camera::Camera;
use crate::random::noise;
use crate::scene::{Lamp, Part, Scene, Shape, Stuff, Thing};

/// The shots that can be drawn.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shot {
    /// Kiln mouth and chimney, slow push in.
    KilnYard,
    /// A barge crosses, its lantern swings.
    LanternBarge,
}

/// The first frame of every shot.
const FIRST: i32 = 1001;

impl Shot {
    /// In show order.
    pub const ALL: [Self; 2] = [Self::KilnYard, Self::LanternBarge];

    /// What is known of it beforehand.
    pub fn plan(self) -> ShotPlan {
        let frames = |count: i32| Frames { first: FIRST, last: FIRST + count - 1 };
        match self {
            Self::KilnYard => {
                ShotPlan { code: "SG010", title: "kiln yard", width: 1280, height: 720, frames: frames(120) }
            }
            Self::LanternBarge => ShotPlan {
                code: "SG020",
                title: "lantern barge",
                width: 960,
                height: 540,
                frames: frames(72),
            },
        }
    }

    /// The camera at a moment, in frames since the first.
    pub(crate) fn camera(self, moment: f32) -> Camera {
        let sway = |seed: u32, size: f32| noise(Vec3::new(moment * 0.031, 0.5, 0.5), seed) * size;
        match self {
            Self::KilnYard => Camera {
                place: Vec3::new(0.9 + sway(1, 0.02), 1.75 + sway(2, 0.015), 15.2 - 0.012 * moment),
                target: Vec3::new(0.15 + sway(3, 0.02), 3.05 + sway(4, 0.02), 0.0),
                roll: sway(5, 0.002),
                focal_mm: 40.0,
                sensor_width_mm: 36.0,
                f_number: 4.0,
                focus_m: 14.0,
            },
            Self::LanternBarge => Camera {
                place: Vec3::new(-1.5 + 0.006 * moment + sway(6, 0.04), 2.2 + sway(7, 0.03), 17.0),
                target: Vec3::new(-0.4 + 0.012 * moment + sway(8, 0.05), 1.7 + sway(9, 0.03), 0.0),
                roll: sway(10, 0.004),
                focal_mm: 45.0,
                sensor_width_mm: 36.0,
                f_number: 2.8,
                focus_m: 17.0,
            },
        }
    }

    /// Everything at a moment, in frames since the first.
    pub(crate) fn scene(self, moment: f32) -> Scene {
        match self {
            Self::KilnYard => kiln_yard(moment),
            Self::LanternBarge => lantern_barge(moment),
        }
    }

    /// Marked places in the world, by name, at a moment.
    pub(crate) fn marks(self, moment: f32) -> Vec<(&'static str, Vec3)> {
        match self {
            Self::KilnYard => vec![
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
            ],
            Self::LanternBarge => {
                let deck = barge_middle(moment);
                vec![
                    ("lantern", lantern_middle(moment)),
                    ("lantern's mirror", lantern_middle(moment) * Vec3::new(1.0, -1.0, 1.0)),
                    ("mast head", deck + Vec3::new(0.3, 4.1, 0.0)),
                    ("bow", deck + Vec3::new(-3.0, 0.75, 0.0)),
                    ("stern", deck + Vec3::new(3.0, 0.75, 0.0)),
                    ("cabin, near left top", deck + Vec3::new(1.0, 1.9, 0.6)),
                    ("cabin, near right top", deck + Vec3::new(2.4, 1.9, 0.6)),
                    ("cabin, near left foot", deck + Vec3::new(1.0, 0.75, 0.6)),
                    ("cabin, near right foot", deck + Vec3::new(2.4, 0.75, 0.6)),
                    ("shore lamp", SHORE_LAMP),
                ]
            }
        }
    }
}

const LEFT_LAMP: Vec3 = Vec3::new(-4.4, 3.05, 2.6);
const RIGHT_LAMP: Vec3 = Vec3::new(5.2, 2.35, 5.2);
const SHORE_LAMP: Vec3 = Vec3::new(-9.0, 3.4, -26.0);

fn flicker(moment: f32, seed: u32) -> f32 {
    1.0 + 0.16 * noise(Vec3::new(moment * 0.21, 0.5, 0.5), seed)
        + 0.1 * noise(Vec3::new(moment * 0.77, 0.5, 0.5), seed + 1)
}

fn post(thing: Thing, foot: Vec3, height: f32) -> Part {
    let stuff = Stuff::Wood { tint: Vec3::new(0.06, 0.05, 0.045) };
    Part::still(thing, stuff, Shape::Frustum { foot, height, low: 0.06, high: 0.045 })
}

fn kiln_yard(moment: f32) -> Scene {
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
    let parts = vec![
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
    let lamps = vec![
        Lamp { middle: Vec3::new(0.0, 0.85, 2.85), radius: 0.5, light: Vec3::new(5.2, 1.9, 0.5) * fire },
        Lamp { middle: LEFT_LAMP, radius: 0.14, light: Vec3::new(2.3, 1.35, 0.62) },
        Lamp { middle: RIGHT_LAMP, radius: 0.14, light: Vec3::new(1.9, 1.1, 0.5) },
    ];
    let dusk = (Vec3::new(0.75, 0.22, -0.35).normalize(), Vec3::new(0.36, 0.17, 0.09));
    Scene::new(parts, lamps, dusk, moment)
}

fn barge_middle(moment: f32) -> Vec3 {
    Vec3::new(-2.6 + 0.045 * moment, 0.03 * (moment * 0.09).sin(), 0.0)
}

/// Under the spar's end, from the middle of the deck.
const LANTERN_HOOK: Vec3 = Vec3::new(-0.95, 3.92, 0.0);
/// Length of the lantern's rope, in metres.
const ROPE: f32 = 0.92;

fn lantern_middle(moment: f32) -> Vec3 {
    let swing = 0.34 * (moment * 0.16).sin();
    let rope = Vec3::new(swing.sin(), -swing.cos(), 0.0) * ROPE;
    barge_middle(moment) + LANTERN_HOOK + rope
}

fn lantern_barge(moment: f32) -> Scene {
    let deck = barge_middle(moment);
    let speed = barge_middle(moment + 1.0) - deck;
    let carried = |thing: Thing, stuff: Stuff, shape: Shape| Part { shape, stuff, thing, velocity: speed };
    let at = |x: f32, y: f32, z: f32| deck + Vec3::new(x, y, z);
    let block = |middle: Vec3, hx: f32, hy: f32, hz: f32| Shape::Block {
        middle,
        half: Vec3::new(hx, hy, hz),
        turn: (0.0, 1.0),
    };
    let hull = Stuff::Wood { tint: Vec3::new(0.10, 0.065, 0.045) };
    let cabin = Stuff::Plaster { tint: Vec3::new(0.19, 0.17, 0.14), seed: 33 };
    let lantern = lantern_middle(moment);
    let glow = Vec3::new(22.0, 11.5, 4.0) * flicker(moment, 13);
    let hill = |x: f32, width: f32, height: f32, seed: u32| {
        // Of a great ball only the top stands out of the water.
        let radius = (width * width + height * height) / (2.0 * height);
        let shape = Shape::Ball { middle: Vec3::new(x, height - radius, -60.0 - width), radius };
        Part::still(Thing::Shore, Stuff::Plaster { tint: Vec3::new(0.06, 0.07, 0.065), seed }, shape)
    };
    let parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: 0.0 }),
        carried(Thing::Barge, hull, block(at(0.0, 0.3, 0.0), 3.0, 0.45, 1.0)),
        carried(Thing::Barge, hull, block(at(-3.2, 0.5, 0.0), 0.5, 0.4, 0.7)),
        carried(Thing::Barge, cabin, block(at(1.7, 1.3, 0.0), 0.7, 0.6, 0.6)),
        carried(Thing::Barge, Stuff::Copper, block(at(1.7, 1.94, 0.0), 0.82, 0.05, 0.72)),
        carried(
            Thing::Barge,
            Stuff::Copper,
            Shape::Frustum { foot: at(0.3, 0.6, 0.0), height: 3.5, low: 0.09, high: 0.06 },
        ),
        carried(Thing::Barge, hull, block(at(-0.35, 3.95, 0.0), 0.75, 0.04, 0.04)),
        carried(Thing::Barge, hull, block(at(-1.4, 0.95, 0.2), 0.4, 0.22, 0.35)),
        Part {
            shape: Shape::Rod { from: deck + LANTERN_HOOK, to: lantern, radius: 0.014 },
            stuff: hull,
            thing: Thing::Barge,
            velocity: (speed + lantern_middle(moment + 1.0) - lantern) * 0.5,
        },
        Part {
            shape: Shape::Ball { middle: lantern, radius: 0.17 },
            stuff: Stuff::Glow { light: glow },
            thing: Thing::Lantern,
            velocity: lantern_middle(moment + 1.0) - lantern,
        },
        hill(-34.0, 26.0, 6.2, 71),
        hill(-6.0, 17.0, 3.1, 72),
        hill(12.0, 12.0, 4.0, 74),
        hill(36.0, 30.0, 8.4, 73),
        Part::still(
            Thing::Shore,
            Stuff::Glow { light: Vec3::new(6.0, 3.6, 1.6) },
            Shape::Ball { middle: SHORE_LAMP, radius: 0.16 },
        ),
    ];
    let lamps =
        vec![Lamp { middle: lantern, radius: 0.18, light: Vec3::new(3.0, 1.65, 0.65) * flicker(moment, 13) }];
    let dusk = (Vec3::new(0.6, 0.2, -0.5).normalize(), Vec3::new(0.30, 0.15, 0.085));
    Scene::new(parts, lamps, dusk, moment)
}
