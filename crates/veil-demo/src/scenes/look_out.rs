//! SG035: the caretaker on a look-out, before a green sheet.

use glam::Vec3;

use super::sway;
use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Thing};
use crate::random::{Random, noise};
use crate::scene::{Lamp, Scene};

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(0.15 + sway(61, 0.012), 1.55 + sway(62, 0.01), 4.4),
        target: Vec3::new(0.12 + sway(63, 0.01), 1.42 + sway(64, 0.01), 0.0),
        roll: sway(65, 0.003),
        focal_mm: 50.0,
        sensor_width_mm: 36.0,
        f_number: 4.0,
        focus_m: 4.4,
    }
}

const HEAD: Vec3 = Vec3::new(0.0, 1.78, 0.0);
const HAND_RESTS: Vec3 = Vec3::new(0.36, 1.12, 0.18);

/// How far the arm is raised, 0 to 1: at rest, then quickly up, and slowly down again.
fn raised(moment: f32) -> f32 {
    let ease = |t: f32| t * t * (3.0 - 2.0 * t);
    let (up, down) = (((moment - 12.0) / 7.0).clamp(0.0, 1.0), ((moment - 26.0) / 18.0).clamp(0.0, 1.0));
    ease(up) * (1.0 - ease(down))
}

fn hand(moment: f32) -> Vec3 {
    HAND_RESTS.lerp(Vec3::new(0.82, 1.86, 0.12), raised(moment))
}

pub(crate) fn places(moment: f32) -> Vec<(&'static str, Vec3)> {
    vec![("head", HEAD), ("hand", hand(moment))]
}

/// How far the wind carries what hangs loose by a length.
fn wind(moment: f32, seed: u32, length: f32) -> Vec3 {
    let gust = |seed: u32| noise(Vec3::new(moment * 0.11, 0.5, 0.5), seed);
    Vec3::new(0.35 + 0.5 * gust(seed), 0.18 * gust(seed + 1), 0.2 * gust(seed + 2)) * length
}

pub(crate) fn scene(moment: f32) -> Scene {
    let cloth = |r: f32, g: f32, b: f32, seed: u32| Stuff::Cloth { tint: Vec3::new(r, g, b), seed };
    let coat = cloth(0.075, 0.062, 0.066, 81);
    let mine = |stuff: Stuff, shape: Shape| Part::still(Thing::Caretaker, stuff, shape);
    let skin = Stuff::Plaster { tint: Vec3::new(0.36, 0.22, 0.16), seed: 83 };
    let hair = cloth(0.10, 0.062, 0.035, 85);
    let frustum = |foot: Vec3, height: f32, low: f32, high: f32| Shape::Frustum { foot, height, low, high };
    let ball = |middle: Vec3, radius: f32| Shape::Ball { middle, radius };
    let rod = |from: Vec3, to: Vec3, radius: f32| Shape::Rod { from, to, radius };

    let palm = hand(moment);
    let speed = hand(moment + 1.0) - palm;
    let shoulder = Vec3::new(0.21, 1.5, 0.0);
    let elbow = shoulder.lerp(palm, 0.5) + Vec3::new(0.1, -0.1, 0.06) * (1.0 - raised(moment) * 0.6);
    let left_elbow = Vec3::new(-0.33, 1.22, 0.06);
    let moving = |part: Part, share: f32| Part { velocity: speed * share, ..part };
    let mut parts = vec![
        // The sheet hangs far wider than the frame, and is lit unevenly.
        Part::still(
            Thing::Sheet,
            cloth(0.045, 0.42, 0.07, 80),
            Shape::Block {
                middle: Vec3::new(0.0, 1.6, -1.9),
                half: Vec3::new(6.0, 4.0, 0.05),
                turn: (0.0, 1.0),
            },
        ),
        mine(coat, frustum(Vec3::new(0.0, -0.1, 0.0), 1.2, 0.46, 0.235)),
        mine(coat, frustum(Vec3::new(0.0, 1.08, 0.0), 0.44, 0.225, 0.2)),
        mine(coat, ball(Vec3::new(0.0, 1.5, 0.0), 0.2)),
        mine(coat, ball(Vec3::new(0.16, 1.49, 0.0), 0.105)),
        mine(coat, ball(Vec3::new(-0.16, 1.49, 0.0), 0.105)),
        mine(cloth(0.26, 0.07, 0.05, 86), frustum(Vec3::new(0.0, 1.58, 0.0), 0.1, 0.115, 0.085)),
        mine(skin, ball(HEAD, 0.115)),
        mine(hair, ball(HEAD + Vec3::new(0.0, 0.035, -0.025), 0.118)),
        mine(coat, rod(Vec3::new(-0.2, 1.5, 0.0), left_elbow, 0.075)),
        mine(coat, ball(left_elbow, 0.075)),
        mine(coat, rod(left_elbow, Vec3::new(-0.2, 1.06, 0.2), 0.066)),
        mine(skin, ball(Vec3::new(-0.19, 1.03, 0.21), 0.05)),
        moving(mine(coat, rod(shoulder, elbow, 0.075)), 0.25),
        moving(mine(coat, ball(elbow, 0.075)), 0.5),
        moving(mine(coat, rod(elbow, palm, 0.064)), 0.75),
        moving(mine(skin, ball(palm, 0.055)), 1.0),
        // A brass spyglass in the hand.
        moving(
            mine(
                Stuff::Copper,
                rod(palm - Vec3::new(0.12, 0.02, 0.0), palm + Vec3::new(0.17, 0.06, 0.02), 0.026),
            ),
            1.0,
        ),
        moving(mine(Stuff::Copper, ball(palm + Vec3::new(0.17, 0.06, 0.02), 0.03)), 1.0),
    ];
    parts.extend(face());
    parts.extend(tailoring(coat));
    parts.extend(scarf(moment));
    parts.extend(strands(moment).into_iter().map(|(from, to)| mine(hair, rod(from, to, 0.0012))));
    let lamps = vec![
        Lamp { middle: Vec3::new(-2.4, 2.9, -0.2), radius: 0.4, light: Vec3::splat(2.6) },
        Lamp { middle: Vec3::new(2.7, 2.5, 0.1), radius: 0.4, light: Vec3::splat(1.9) },
        Lamp { middle: Vec3::new(-1.9, 2.7, 1.7), radius: 0.25, light: Vec3::new(4.6, 3.7, 2.8) },
        Lamp { middle: Vec3::new(2.4, 2.2, 0.9), radius: 0.3, light: Vec3::new(0.8, 1.1, 1.6) },
    ];
    let dusk = (Vec3::new(0.4, 0.5, 0.6).normalize(), Vec3::new(0.10, 0.09, 0.09));
    Scene::new(parts, lamps, dusk, moment)
}

/// Brows, eyes, nose, ears and a beard.
fn face() -> Vec<Part> {
    let skin = Stuff::Plaster { tint: Vec3::new(0.36, 0.21, 0.15), seed: 83 };
    let dark = Stuff::Plaster { tint: Vec3::new(0.02, 0.016, 0.014), seed: 84 };
    let beard = Stuff::Cloth { tint: Vec3::new(0.13, 0.085, 0.055), seed: 88 };
    let at = |x: f32, y: f32, z: f32| HEAD + Vec3::new(x, y, z);
    let ball = |stuff: Stuff, middle: Vec3, radius: f32| {
        Part::still(Thing::Caretaker, stuff, Shape::Ball { middle, radius })
    };
    let mut parts = vec![
        ball(skin, at(0.0, -0.012, 0.112), 0.021),
        ball(skin, at(0.0, 0.012, 0.106), 0.015),
        ball(skin, at(-0.112, -0.01, 0.0), 0.026),
        ball(skin, at(0.112, -0.01, 0.0), 0.026),
        ball(skin, at(0.0, -0.075, 0.045), 0.07),
        ball(beard, at(0.0, -0.088, 0.056), 0.068),
        ball(beard, at(-0.05, -0.062, 0.058), 0.045),
        ball(beard, at(0.05, -0.062, 0.058), 0.045),
        ball(beard, at(0.0, -0.044, 0.098), 0.022),
    ];
    for side in [-1.0, 1.0] {
        parts.push(ball(dark, at(side * 0.042, 0.018, 0.1), 0.012));
        let brow = Shape::Rod {
            from: at(side * 0.02, 0.042, 0.108),
            to: at(side * 0.07, 0.04, 0.092),
            radius: 0.008,
        };
        parts.push(Part::still(Thing::Caretaker, beard, brow));
    }
    // A knitted cap.
    let cap = Stuff::Cloth { tint: Vec3::new(0.05, 0.07, 0.12), seed: 89 };
    parts.push(ball(cap, at(0.0, 0.055, -0.012), 0.112));
    let brim = Shape::Frustum { foot: at(0.0, 0.048, -0.012), height: 0.036, low: 0.116, high: 0.113 };
    parts.push(Part::still(Thing::Caretaker, cap, brim));
    parts
}

/// Collar, belt, cuffs, pockets, a seam and two rows of buttons.
fn tailoring(coat: Stuff) -> Vec<Part> {
    let leather = Stuff::Plaster { tint: Vec3::new(0.055, 0.034, 0.022), seed: 87 };
    let part = |stuff: Stuff, shape: Shape| Part::still(Thing::Caretaker, stuff, shape);
    let ring = |y: f32, height: f32, radius: f32| Shape::Frustum {
        foot: Vec3::new(0.0, y, 0.0),
        height,
        low: radius,
        high: radius,
    };
    let mut parts = vec![
        part(coat, Shape::Frustum { foot: Vec3::new(0.0, 1.57, -0.02), height: 0.13, low: 0.15, high: 0.12 }),
        part(leather, ring(1.07, 0.055, 0.243)),
        part(Stuff::Copper, Shape::Ball { middle: Vec3::new(0.0, 1.097, 0.24), radius: 0.03 }),
    ];
    // Lapels lie on the chest, the skirt falls in folds.
    for side in [-1.0, 1.0] {
        let (neck, belt) = (Vec3::new(side * 0.075, 1.6, 0.12), Vec3::new(side * 0.03, 1.16, 0.222));
        parts.push(part(coat, Shape::Rod { from: neck, to: belt, radius: 0.03 }));
        for fold in 0..4 {
            let spread = side * (0.07 + 0.105 * fold as f32);
            let depth = |radius: f32, x: f32| (radius * radius - x * x).max(0.0).sqrt();
            let from = Vec3::new(spread * 0.55, 1.06, depth(0.235, spread * 0.55) - 0.012);
            let to = Vec3::new(spread, 0.0, depth(0.45, spread) - 0.014);
            parts.push(part(coat, Shape::Rod { from, to, radius: 0.026 }));
        }
        for row in 0..4 {
            let y = 1.18 + 0.085 * row as f32;
            let middle = Vec3::new(side * 0.085, y, 0.205);
            parts.push(part(Stuff::Copper, Shape::Ball { middle, radius: 0.013 }));
        }
        let flap = Shape::Block {
            middle: Vec3::new(side * 0.17, 0.84, 0.255),
            half: Vec3::new(0.065, 0.02, 0.02),
            turn: (side * -0.5f32).sin_cos(),
        };
        parts.push(part(coat, flap));
    }
    parts
}

/// The loose end of the scarf, in the wind.
fn scarf(moment: f32) -> Vec<Part> {
    const PIECES: usize = 6;
    let stuff = Stuff::Cloth { tint: Vec3::new(0.26, 0.07, 0.05), seed: 86 };
    let joint = |at: usize| {
        let along = at as f32 / PIECES as f32;
        Vec3::new(0.09, 1.6 - 0.14 * along, 0.06) + wind(moment - along * 6.0, 91, along * 0.62)
    };
    (0..PIECES)
        .flat_map(|at| {
            let shape = Shape::Rod { from: joint(at), to: joint(at + 1), radius: 0.034 };
            let end = Shape::Ball { middle: joint(at + 1), radius: 0.034 };
            [shape, end].map(|shape| Part::still(Thing::Caretaker, stuff, shape))
        })
        .collect()
}

/// Loose hair from under the cap, each strand in pieces that bend with the wind.
fn strands(moment: f32) -> Vec<(Vec3, Vec3)> {
    const PIECES: usize = 4;
    let mut random = Random::new([3, 35, 7]);
    let mut pieces = Vec::new();
    for number in 0..46 {
        let around = std::f32::consts::TAU * random.next();
        let up = -0.35 + 0.6 * random.next();
        let out = Vec3::new(around.cos(), up, -around.sin().abs() * 0.8).normalize();
        let length = 0.06 + 0.16 * random.next();
        let curl = Vec3::new(random.normal(), random.normal(), random.normal()) * 0.25;
        let blown = wind(moment, 100 + number % 5, 1.0);
        let mut at = HEAD + Vec3::new(0.0, 0.02, -0.01) + out * 0.113;
        for piece in 1..=PIECES {
            let along = piece as f32 / PIECES as f32;
            let way = out * (1.0 - along) + (blown + curl * along + Vec3::NEG_Y * 0.25) * along * 1.6;
            let next = at + way.normalize() * length / PIECES as f32;
            pieces.push((at, next));
            at = next;
        }
    }
    pieces
}
