//! SG030: two copper masts above the pier, a rope hanging before them.

use glam::Vec3;

use super::{hill, knob, post, sway};
use crate::camera::Camera;
use crate::parts::{Part, Plane, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};

/// The feet of the masts on the pier, and how high they are.
const FEET: [Vec3; 2] = [Vec3::new(-5.6, 1.2, 0.0), Vec3::new(6.2, 1.2, -2.4)];
const HEIGHTS: [f32; 2] = [10.4, 11.6];

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-2.3 + 0.034 * moment + sway(121, 0.03), 1.7 + sway(122, 0.025), 17.5),
        target: Vec3::new(0.1 + 0.012 * moment + sway(123, 0.04), 7.1 + sway(124, 0.04), -1.0),
        roll: sway(125, 0.004),
        focal_mm: 30.0,
        sensor_width_mm: 36.0,
        f_number: 4.0,
        focus_m: 18.0,
    }
}

/// The ball on top of a mast.
fn head(mast: usize) -> Vec3 {
    FEET[mast] + Vec3::Y * (HEIGHTS[mast] + 0.3)
}

pub(crate) fn places() -> Vec<(&'static str, Vec3)> {
    vec![
        ("left mast head", head(0)),
        ("right mast head", head(1)),
        ("left mast foot", FEET[0]),
        ("right mast foot", FEET[1]),
    ]
}

/// Painted knobs on the sides of the masts and of the hut that face the camera.
pub(crate) fn marks() -> Vec<Vec3> {
    let on_mast = |mast: usize, up: f32| {
        let radius = 0.22 + (0.09 - 0.22) * up / HEIGHTS[mast];
        FEET[mast] + Vec3::new(0.0, up, radius)
    };
    let on_masts = [0, 1].into_iter().flat_map(|mast| [5.2, 6.7, 8.2, 9.6].map(|up| on_mast(mast, up)));
    let on_hut = [[-0.9, 3.1], [0.9, 3.1], [-0.9, 4.5], [0.9, 4.5], [0.0, 3.8]]
        .map(|[x, y]| HUT + Vec3::new(x, y - HUT.y, HUT_SIDE));
    on_masts.chain(on_hut).collect()
}

/// The middle of the hut's floor, and half its depth.
const HUT: Vec3 = Vec3::new(0.9, 1.2, -5.5);
const HUT_SIDE: f32 = 1.3;

pub(crate) fn planes() -> Vec<(&'static str, Plane)> {
    let wall = |x: [f32; 2], y: [f32; 2]| {
        [[x[0], y[1]], [x[1], y[1]], [x[1], y[0]], [x[0], y[0]]]
            .map(|[x, y]| Vec3::new(HUT.x + x, y, HUT.z + HUT_SIDE))
    };
    vec![("hut", wall([-1.2, 1.2], [2.8, 4.8])), ("hut, upper half", wall([-1.2, 1.2], [3.8, 4.8]))]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let wood = Stuff::Wood { tint: Vec3::new(0.085, 0.06, 0.045) };
    let block = |middle: Vec3, half: Vec3| Shape::Block { middle, half, turn: (0.0, 1.0) };
    let hut = Stuff::Peeling { tint: Vec3::new(0.24, 0.25, 0.24), seed: 139 };
    let mut parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: 0.0 }),
        Part::still(Thing::Pier, wood, block(Vec3::new(0.0, 1.05, -3.0), Vec3::new(10.0, 0.15, 4.6))),
        Part::still(Thing::Hut, hut, block(HUT + Vec3::Y * 1.9, Vec3::new(1.4, 1.9, HUT_SIDE))),
        Part::still(Thing::Hut, Stuff::Copper, block(HUT + Vec3::Y * 3.86, Vec3::new(1.65, 0.07, 1.55))),
        Part::still(
            Thing::Lamps,
            Stuff::Glow { light: Vec3::new(5.0, 3.0, 1.35) },
            Shape::Ball { middle: LAMP, radius: 0.08 },
        ),
    ];
    let hills =
        [(-38.0, 30.0, 9.0, 143), (-9.0, 22.0, 5.4, 144), (22.0, 26.0, 8.2, 145), (52.0, 30.0, 12.0, 146)];
    for (x, width, height, seed) in hills {
        parts.push(hill(x, width, height, seed));
    }
    for foot in [-9.0, -4.5, 0.0, 4.5, 9.0] {
        parts.push(post(Thing::Pier, Vec3::new(foot, -1.0, 1.4), 3.1));
    }
    for mast in [0, 1] {
        parts.extend(standing(mast));
    }
    parts.extend(rope(moment));
    parts.extend(marks().into_iter().map(|middle| knob(Thing::Masts, middle, 0.05)));
    let lamps = vec![Lamp { middle: LAMP, radius: 0.16, light: Vec3::new(1.3, 0.78, 0.34) }];
    let dusk = (Vec3::new(-0.55, 0.22, 0.6).normalize(), Vec3::new(0.42, 0.23, 0.14));
    Scene::new(parts, lamps, dusk, moment)
}

const LAMP: Vec3 = Vec3::new(0.9, 4.3, -3.9);

/// A mast with its collars, its head and the wires that hold it.
fn standing(mast: usize) -> Vec<Part> {
    let (foot, height) = (FEET[mast], HEIGHTS[mast]);
    let copper = |shape: Shape| Part::still(Thing::Masts, Stuff::Copper, shape);
    let ring = |up: f32, radius: f32, height: f32| Shape::Frustum {
        foot: foot + Vec3::Y * up,
        height,
        low: radius,
        high: radius,
    };
    let mut parts = vec![
        copper(Shape::Frustum { foot, height, low: 0.22, high: 0.09 }),
        copper(ring(0.0, 0.42, 0.35)),
        copper(ring(height * 0.45, 0.24, 0.16)),
        copper(ring(height * 0.8, 0.18, 0.12)),
        copper(ring(height - 0.1, 0.16, 0.2)),
        copper(Shape::Ball { middle: head(mast), radius: 0.3 }),
    ];
    for side in [Vec3::new(-3.0, 0.0, 1.8), Vec3::new(2.8, 0.0, 1.2), Vec3::new(0.3, 0.0, -3.4)] {
        let wire = Shape::Rod { from: foot + side, to: foot + Vec3::Y * height * 0.8, radius: 0.018 };
        parts.push(copper(wire));
    }
    parts
}

/// A rope that hangs across the frame near the camera, and sways.
fn rope(moment: f32) -> Vec<Part> {
    const PIECES: usize = 36;
    let hemp = Stuff::Cloth { tint: Vec3::new(0.17, 0.13, 0.085), seed: 141 };
    let place = |at: usize, moment: f32| {
        let along = at as f32 / PIECES as f32;
        let hangs = 4.0 * along * (1.0 - along);
        let swing = 0.07 * (moment * 0.13).sin() * hangs;
        Vec3::new(-7.5, 14.4, 4.2).lerp(Vec3::new(9.0, 6.4, 5.4), along)
            + Vec3::new(swing, -0.7 * hangs, swing * 0.6)
    };
    let moved = |at: usize| place(at, moment + 1.0) - place(at, moment);
    (0..PIECES)
        .flat_map(|at| {
            let (from, to) = (place(at, moment), place(at + 1, moment));
            let part = |shape: Shape, velocity: Vec3| Part {
                velocity,
                moved: from - place(at, 0.0),
                ..Part::still(Thing::Rope, hemp, shape)
            };
            [
                part(Shape::Rod { from, to, radius: 0.026 }, moved(at)),
                part(Shape::Ball { middle: to, radius: 0.026 }, moved(at + 1)),
            ]
        })
        .collect()
}
