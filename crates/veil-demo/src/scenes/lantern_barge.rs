//! SG020: a barge crosses, its lantern swings.

use glam::Vec3;

use super::{flicker, hill, knob, sway};
use crate::camera::Camera;
use crate::parts::{Part, Plane, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};

const SHORE_LAMP: Vec3 = Vec3::new(-9.0, 3.4, -26.0);

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-1.5 + 0.006 * moment + sway(6, 0.04), 2.2 + sway(7, 0.03), 17.0),
        target: Vec3::new(-0.4 + 0.012 * moment + sway(8, 0.05), 1.15 + sway(9, 0.03), 0.0),
        roll: sway(10, 0.004),
        focal_mm: 43.0,
        sensor_width_mm: 36.0,
        f_number: 2.8,
        focus_m: 17.0,
    }
}

pub(crate) fn places(moment: f32) -> Vec<(&'static str, Vec3)> {
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

/// The sides of hull and cabin that face the camera, from the middle of the deck.
const HULL_SIDE: f32 = 1.0;
const CABIN_SIDE: f32 = 0.6;

pub(crate) fn marks(moment: f32) -> Vec<Vec3> {
    let on_hull = [-2.6, -1.7, -0.8, 0.1, 1.0, 1.9, 2.7].map(|x| Vec3::new(x, 0.42, HULL_SIDE + 0.03));
    let on_cabin = [[1.25, 1.6], [1.7, 1.25], [2.15, 1.6], [1.25, 0.95], [2.15, 0.95]]
        .map(|[x, y]| Vec3::new(x, y, CABIN_SIDE));
    on_hull.into_iter().chain(on_cabin).map(|place| barge_middle(moment) + place).collect()
}

pub(crate) fn planes(moment: f32) -> Vec<(&'static str, Plane)> {
    let upright = |x: [f32; 2], y: [f32; 2], z: f32| {
        [[x[0], y[1]], [x[1], y[1]], [x[1], y[0]], [x[0], y[0]]]
            .map(|[x, y]| barge_middle(moment) + Vec3::new(x, y, z))
    };
    vec![
        ("name board", upright([-1.9, 1.9], [0.1, 0.71], HULL_SIDE + 0.03)),
        ("cabin", upright([1.06, 2.34], [0.8, 1.84], CABIN_SIDE)),
    ]
}

fn barge_middle(moment: f32) -> Vec3 {
    Vec3::new(-2.6 + 0.045 * moment, 0.03 * (moment * 0.09).sin(), 0.0)
}

/// Under the spar's end, from the middle of the deck.
const LANTERN_HOOK: Vec3 = Vec3::new(-0.95, 3.92, 0.0);
/// Length of the lantern's rope, in metres.
const ROPE: f32 = 1.5;

fn lantern_middle(moment: f32) -> Vec3 {
    let swing = 0.21 * (moment * 0.16).sin();
    let rope = Vec3::new(swing.sin(), -swing.cos(), 0.0) * ROPE;
    barge_middle(moment) + LANTERN_HOOK + rope
}

pub(crate) fn scene(moment: f32) -> Scene {
    let deck = barge_middle(moment);
    let speed = barge_middle(moment + 1.0) - deck;
    let moved = deck - barge_middle(0.0);
    let carried =
        |thing: Thing, stuff: Stuff, shape: Shape| Part { shape, stuff, thing, velocity: speed, moved };
    let at = |x: f32, y: f32, z: f32| deck + Vec3::new(x, y, z);
    let block = |middle: Vec3, hx: f32, hy: f32, hz: f32| Shape::Block {
        middle,
        half: Vec3::new(hx, hy, hz),
        turn: (0.0, 1.0),
    };
    let hull = Stuff::Wood { tint: Vec3::new(0.10, 0.065, 0.045) };
    let board = Stuff::Peeling { tint: Vec3::new(0.34, 0.3, 0.24), seed: 39 };
    let cabin = Stuff::Plaster { tint: Vec3::new(0.19, 0.17, 0.14), seed: 33 };
    let lantern = lantern_middle(moment);
    let glow = Vec3::new(22.0, 11.5, 4.0) * flicker(moment, 13);
    let mut parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: 0.0 }),
        carried(Thing::Barge, hull, block(at(0.0, 0.3, 0.0), 3.0, 0.45, 1.0)),
        carried(Thing::Barge, board, block(at(0.0, 0.4, HULL_SIDE), 1.95, 0.34, 0.03)),
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
            moved,
        },
        Part {
            shape: Shape::Ball { middle: lantern, radius: 0.17 },
            stuff: Stuff::Glow { light: glow },
            thing: Thing::Lantern,
            velocity: lantern_middle(moment + 1.0) - lantern,
            moved: lantern - lantern_middle(0.0),
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
    parts.extend(marks(moment).into_iter().map(|middle| Part {
        velocity: speed,
        moved,
        ..knob(Thing::Barge, middle, 0.075)
    }));
    let lamps =
        vec![Lamp { middle: lantern, radius: 0.18, light: Vec3::new(3.0, 1.65, 0.65) * flicker(moment, 13) }];
    let dusk = (Vec3::new(0.6, 0.2, -0.5).normalize(), Vec3::new(0.30, 0.15, 0.085));
    Scene::new(parts, lamps, dusk, moment)
}
