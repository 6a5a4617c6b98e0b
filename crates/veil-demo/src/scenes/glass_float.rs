//! SG060: a glass float hangs in its net under a beam, and turns.

use glam::Vec3;

use super::{flicker, knob, sway};
use crate::camera::Camera;
use crate::parts::{Part, Plane, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-0.25 + 0.004 * moment + sway(31, 0.012), 1.5 + sway(32, 0.01), 3.4),
        target: Vec3::new(0.02 + sway(33, 0.01), 1.52 + sway(34, 0.01), 0.0),
        roll: sway(35, 0.004),
        focal_mm: 50.0,
        sensor_width_mm: 36.0,
        f_number: 5.6,
        focus_m: 3.3,
    }
}

const HOOK: Vec3 = Vec3::new(0.0, 2.55, 0.0);
const ROPE: f32 = 1.05;
const RADIUS: f32 = 0.3;

fn middle(moment: f32) -> Vec3 {
    let swing = 0.06 * (moment * 0.11).sin();
    let across = 0.035 * (moment * 0.083 + 1.0).sin();
    HOOK + Vec3::new(swing.sin(), -swing.cos(), across) * ROPE
}

/// Radians that it has turned about its rope.
fn turn(moment: f32) -> f32 {
    0.03 * moment
}

pub(crate) fn places(moment: f32) -> Vec<(&'static str, Vec3)> {
    vec![("float", middle(moment)), ("knot", middle(moment) + Vec3::Y * RADIUS), ("hook", HOOK)]
}

/// The face of the board that looks at the camera.
const BOARD: f32 = -0.95;

pub(crate) fn marks() -> Vec<Vec3> {
    let left = [[-1.05, 2.0], [-0.7, 1.72], [-1.05, 1.35], [-0.72, 1.05], [-0.5, 2.05], [-1.25, 1.68]];
    let right = [[0.72, 2.0], [1.1, 1.75], [0.75, 1.4], [1.1, 1.08], [0.6, 1.0], [1.25, 1.42]];
    left.into_iter().chain(right).map(|[x, y]| Vec3::new(x, y, BOARD)).collect()
}

pub(crate) fn planes() -> Vec<(&'static str, Plane)> {
    let upright = |x: [f32; 2], y: [f32; 2], z: f32| {
        [[x[0], y[1]], [x[1], y[1]], [x[1], y[0]], [x[0], y[0]]].map(|[x, y]| Vec3::new(x, y, z))
    };
    vec![
        ("board, left", upright([-1.2, -0.45], [0.95, 2.1], BOARD)),
        ("board, right", upright([0.55, 1.25], [0.95, 2.1], BOARD)),
    ]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let block = |middle: [f32; 3], half: [f32; 3]| Shape::Block {
        middle: Vec3::from_array(middle),
        half: Vec3::from_array(half),
        turn: (0.0, 1.0),
    };
    let centre = middle(moment);
    let (moved, velocity) = (centre - middle(0.0), middle(moment + 1.0) - centre);
    let hung = |thing: Thing, stuff: Stuff, shape: Shape| Part { shape, stuff, thing, velocity, moved };
    let hemp = Stuff::Cloth { tint: Vec3::new(0.20, 0.15, 0.09), seed: 95 };
    let glass = Stuff::Glass { tint: Vec3::new(0.03, 0.10, 0.075), middle: middle(0.0), turn: turn(moment) };
    let knot = centre + Vec3::Y * (RADIUS + 0.02);
    let mut parts = vec![
        Part::still(Thing::Yard, Stuff::WetStone, Shape::Level { y: 0.0 }),
        Part::still(
            Thing::Walls,
            Stuff::Peeling { tint: Vec3::new(0.24, 0.25, 0.24), seed: 43 },
            block([0.0, 1.2, BOARD - 0.05], [2.6, 1.6, 0.05]),
        ),
        Part::still(
            Thing::Walls,
            Stuff::Wood { tint: Vec3::new(0.11, 0.08, 0.055) },
            block([0.0, 2.3, 0.0], [2.6, 0.16, 0.16]),
        ),
        hung(Thing::Float, glass, Shape::Ball { middle: centre, radius: RADIUS }),
        hung(Thing::Float, hemp, Shape::Rod { from: HOOK, to: knot, radius: 0.012 }),
        hung(Thing::Float, hemp, Shape::Ball { middle: knot, radius: 0.03 }),
    ];
    parts.extend(net(centre, turn(moment)).into_iter().map(|shape| hung(Thing::Net, hemp, shape)));
    parts.extend(marks().into_iter().map(|middle| knob(Thing::Walls, middle, 0.026)));
    let shining = |middle: Vec3, radius: f32, light: Vec3| {
        Part::still(Thing::Lamps, Stuff::Glow { light }, Shape::Ball { middle, radius })
    };
    parts.push(shining(Vec3::new(-1.5, 2.6, 1.9), 0.16, Vec3::new(9.0, 6.0, 3.2) * flicker(moment, 41)));
    parts.push(shining(Vec3::new(1.9, 1.2, 1.6), 0.3, Vec3::new(1.2, 1.6, 2.2)));
    let lamps = vec![
        Lamp {
            middle: Vec3::new(-1.5, 2.6, 1.9),
            radius: 0.2,
            light: Vec3::new(3.6, 2.4, 1.3) * flicker(moment, 41),
        },
        Lamp { middle: Vec3::new(1.9, 1.2, 1.6), radius: 0.3, light: Vec3::new(0.9, 1.15, 1.5) },
    ];
    let dusk = (Vec3::new(0.5, 0.4, 0.7).normalize(), Vec3::new(0.26, 0.15, 0.1));
    Scene::new(parts, lamps, dusk, moment)
}

/// Ropes from knot to foot, and two round the float, in straight pieces.
fn net(centre: Vec3, turn: f32) -> Vec<Shape> {
    const AROUND: usize = 7;
    const DOWN: usize = 9;
    let outer = RADIUS * 1.015;
    let on = |down: f32, around: f32| {
        let (sin, cos) = down.sin_cos();
        centre + Vec3::new(sin * around.cos(), cos, sin * around.sin()) * outer
    };
    let piece = |from: Vec3, to: Vec3| Shape::Rod { from, to, radius: 0.0055 };
    let full = std::f32::consts::TAU;
    let meridian = |number: usize| {
        let around = turn + full * number as f32 / AROUND as f32;
        let at = move |step: usize| on(std::f32::consts::PI * step as f32 / DOWN as f32, around);
        (0..DOWN).map(move |step| piece(at(step), at(step + 1)))
    };
    let ring = |down: f32| {
        let at = move |step: usize| on(down, turn + full * step as f32 / (2 * AROUND) as f32);
        (0..2 * AROUND).map(move |step| piece(at(step), at(step + 1)))
    };
    let rings = [1.05, 2.05].into_iter().flat_map(ring);
    (0..AROUND).flat_map(meridian).chain(rings).collect()
}
