//! SG050: a bronze bell on the pier, struck by a swinging beam.

use glam::Vec3;

use super::{hill, post, sway};
use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};

/// Frames since the first at which the beam meets the bell.
const STRUCK: f32 = 11.0;
/// The middle of the bell's mouth at rest.
const MOUTH: Vec3 = Vec3::new(0.0, 1.42, 0.0);
/// Height above the mouth and radius, from the lip up.
const OUTLINE: [(f32, f32); 13] = [
    (0.0, 0.545),
    (0.05, 0.56),
    (0.11, 0.52),
    (0.19, 0.468),
    (0.3, 0.425),
    (0.45, 0.39),
    (0.6, 0.37),
    (0.74, 0.357),
    (0.84, 0.34),
    (0.91, 0.305),
    (0.96, 0.24),
    (0.99, 0.15),
    (1.005, 0.06),
];
const BEAM_HEIGHT: f32 = 0.33;
const LAMP: Vec3 = Vec3::new(1.75, 2.35, 0.9);

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-0.75 + 0.004 * moment + sway(151, 0.012), 1.86 + sway(152, 0.01), 4.9),
        target: Vec3::new(0.05 + sway(153, 0.012), 1.66 + sway(154, 0.012), 0.0),
        roll: sway(155, 0.003),
        focal_mm: 42.0,
        sensor_width_mm: 36.0,
        f_number: 4.0,
        focus_m: 5.1,
    }
}

/// How far the bell is from rest: nothing before it is struck, then a swing that dies.
fn swung(moment: f32) -> Vec3 {
    let since = (moment - STRUCK).max(0.0);
    Vec3::X * 0.035 * (since * 0.32).sin() * (-since / 22.0).exp()
}

/// How far the beam's head is from where it meets the bell.
fn beam_back(moment: f32) -> f32 {
    if moment < STRUCK {
        let swing = ((moment - 2.0) / (STRUCK - 2.0)).clamp(0.0, 1.0);
        0.46 * (swing * std::f32::consts::FRAC_PI_2).cos()
    } else {
        let since = moment - STRUCK;
        0.2 * (since * 0.11).sin().abs() * (-since / 26.0).exp()
    }
}

pub(crate) fn places(moment: f32) -> Vec<(&'static str, Vec3)> {
    let mouth = MOUTH + swung(moment);
    vec![
        ("bell", mouth + Vec3::Y * 0.5),
        ("lip, struck", mouth + Vec3::new(-0.48, BEAM_HEIGHT - 0.1, 0.0)),
        ("crown", mouth + Vec3::Y),
        ("lamp", LAMP),
    ]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let block = |middle: Vec3, half: Vec3| Shape::Block { middle, half, turn: (0.0, 1.0) };
    let timber = Stuff::Wood { tint: Vec3::new(0.10, 0.073, 0.052) };
    let wall = Stuff::Peeling { tint: Vec3::new(0.2, 0.215, 0.215), seed: 161 };
    let at = |x: f32, y: f32, z: f32| Vec3::new(x, y, z);
    let mut parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: -0.7 }),
        Part::still(Thing::Pier, Stuff::WetStone, block(at(0.0, -0.6, 0.6), at(7.0, 0.6, 3.4))),
        Part::still(Thing::Hut, wall, block(at(-4.4, 1.3, -1.9), at(1.7, 1.3, 0.8))),
        Part::still(Thing::Hut, Stuff::Copper, block(at(-4.4, 2.66, -1.9), at(1.9, 0.06, 1.0))),
        Part::still(Thing::Pier, timber, block(at(-1.15, 1.4, 0.0), at(0.1, 1.4, 0.1))),
        Part::still(Thing::Pier, timber, block(at(1.15, 1.4, 0.0), at(0.1, 1.4, 0.1))),
        Part::still(Thing::Pier, timber, block(at(0.0, 2.76, 0.0), at(1.5, 0.11, 0.12))),
        Part::still(Thing::Pier, timber, block(at(-0.9, 2.42, 0.0), at(0.25, 0.05, 0.05))),
        Part::still(Thing::Pier, timber, block(at(0.9, 2.42, 0.0), at(0.25, 0.05, 0.05))),
        post(Thing::Lamps, at(LAMP.x, 0.0, LAMP.z), LAMP.y - 0.1),
        Part::still(
            Thing::Lamps,
            Stuff::Glow { light: Vec3::new(8.0, 5.0, 2.4) },
            Shape::Ball { middle: LAMP, radius: 0.055 },
        ),
        hill(-24.0, 22.0, 4.6, 163),
        hill(4.0, 14.0, 2.4, 164),
        hill(30.0, 24.0, 6.0, 165),
    ];
    parts.extend(bell(moment));
    parts.extend(beam(moment));
    let lamps = vec![
        Lamp { middle: LAMP, radius: 0.14, light: Vec3::new(2.1, 1.3, 0.6) },
        Lamp { middle: at(-2.6, 3.2, 2.8), radius: 0.4, light: Vec3::new(0.9, 1.1, 1.5) },
    ];
    let dusk = (at(0.7, 0.25, -0.4).normalize(), Vec3::new(0.44, 0.22, 0.12));
    Scene::new(parts, lamps, dusk, moment)
}

/// The bell, its two raised bands and what it hangs by.
fn bell(moment: f32) -> Vec<Part> {
    let moved = swung(moment);
    let velocity = swung(moment + 1.0) - moved;
    let bronze = Stuff::Bronze { middle: MOUTH, seed: 167 };
    let part = |shape: Shape| Part { shape, stuff: bronze, thing: Thing::Bell, velocity, moved };
    let upright = |from: f32, to: f32, low: f32, high: f32| {
        part(Shape::Frustum { foot: MOUTH + moved + Vec3::Y * from, height: to - from, low, high })
    };
    let mut parts: Vec<Part> =
        OUTLINE.windows(2).map(|pair| upright(pair[0].0, pair[1].0, pair[0].1, pair[1].1)).collect();
    parts.push(upright(0.215, 0.24, 0.478, 0.466));
    parts.push(upright(0.255, 0.27, 0.456, 0.45));
    parts.push(upright(0.72, 0.75, 0.372, 0.37));
    parts.push(upright(1.0, 1.26, 0.05, 0.05));
    parts
}

/// A beam on two ropes, with a copper cap where it strikes.
fn beam(moment: f32) -> Vec<Part> {
    let head = |moment: f32| MOUTH + Vec3::new(-0.45 - beam_back(moment), BEAM_HEIGHT, 0.0);
    let (at, velocity) = (head(moment), head(moment + 1.0) - head(moment));
    let moved = at - head(0.0);
    let timber = Stuff::Wood { tint: Vec3::new(0.13, 0.09, 0.06) };
    let hemp = Stuff::Cloth { tint: Vec3::new(0.2, 0.15, 0.09), seed: 169 };
    let part = |stuff: Stuff, shape: Shape| Part { shape, stuff, thing: Thing::Beam, velocity, moved };
    let block = |from: f32, to: f32, half: f32| Shape::Block {
        middle: at - Vec3::X * (from + to) * 0.5,
        half: Vec3::new((to - from) * 0.5, half, half),
        turn: (0.0, 1.0),
    };
    let rope = |back: f32, hook: f32| {
        let to = Vec3::new(hook, 2.66, 0.0);
        part(hemp, Shape::Rod { from: at - Vec3::X * back, to, radius: 0.014 })
    };
    vec![
        part(Stuff::Copper, block(0.0, 0.06, 0.062)),
        part(timber, block(0.06, 0.95, 0.055)),
        rope(0.16, -0.72),
        rope(0.8, -1.36),
    ]
}
