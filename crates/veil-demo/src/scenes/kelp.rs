//! SG070: kelp in clear water, a still.

use glam::Vec3;

use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Thing};
use crate::random::Random;
use crate::scene::{Lamp, Scene};

pub(crate) fn camera() -> Camera {
    Camera {
        place: Vec3::new(0.0, 1.15, 5.2),
        target: Vec3::new(0.05, 1.35, 0.0),
        roll: 0.0,
        focal_mm: 35.0,
        sensor_width_mm: 36.0,
        f_number: 5.6,
        focus_m: 5.0,
    }
}

pub(crate) fn places() -> Vec<(&'static str, Vec3)> {
    vec![("tallest", Vec3::new(-0.25, 2.4, 0.0)), ("holdfast", Vec3::new(-0.25, 0.0, 0.0))]
}

/// Stalks: where each stands, how high it is, and which it is.
const STALKS: [(f32, f32, f32); 11] = [
    (-2.1, -0.9, 2.1),
    (-1.75, 0.4, 2.5),
    (-1.1, -0.5, 2.9),
    (-0.8, 0.6, 1.9),
    (-0.25, 0.0, 2.6),
    (0.2, -1.2, 2.9),
    (0.55, 0.5, 2.2),
    (1.05, -0.2, 2.8),
    (1.45, 0.7, 1.7),
    (1.9, -0.8, 2.7),
    (2.35, 0.1, 2.3),
];

pub(crate) fn scene(moment: f32) -> Scene {
    let block = |middle: [f32; 3], half: [f32; 3]| Shape::Block {
        middle: Vec3::from_array(middle),
        half: Vec3::from_array(half),
        turn: (0.0, 1.0),
    };
    let mut parts = vec![
        Part::still(
            Thing::Sand,
            Stuff::Plaster { tint: Vec3::new(0.22, 0.24, 0.19), seed: 241 },
            Shape::Level { y: 0.0 },
        ),
        // Far water, which is all that is seen behind.
        Part::still(
            Thing::Sea,
            Stuff::Glow { light: Vec3::new(0.02, 0.105, 0.115) },
            block([0.0, 4.0, -9.0], [30.0, 12.0, 0.1]),
        ),
    ];
    for (number, (x, z, height)) in STALKS.into_iter().enumerate() {
        parts.extend(stalk(Vec3::new(x, 0.0, z), height, number as u32));
    }
    let lamps = vec![Lamp { middle: Vec3::new(0.6, 5.0, 1.5), radius: 0.8, light: Vec3::new(5.0, 8.5, 7.0) }];
    let dusk = (Vec3::new(0.2, 0.9, 0.35).normalize(), Vec3::new(0.16, 0.3, 0.24));
    Scene::new(parts, lamps, dusk, moment)
}

/// A stalk that leans and bends, with blades to both sides, the longer the lower.
fn stalk(foot: Vec3, height: f32, number: u32) -> Vec<Part> {
    const PIECES: usize = 14;
    let mut random = Random::new([number, 70, 3]);
    let lean = Vec3::new(random.normal() * 0.12, 0.0, random.normal() * 0.06);
    let wave = random.next() * 6.0;
    let at = |share: f32| {
        foot + Vec3::Y * (height * share)
            + lean * share * height
            + Vec3::X * 0.09 * ((share * 4.0 + wave).sin() - wave.sin())
    };
    let tint = |share: f32| Vec3::new(0.16 + 0.1 * share, 0.13 + 0.1 * share, 0.025);
    let stuff = |share: f32| Stuff::Cloth { tint: tint(share), seed: 243 + number };
    let rod = |share: f32, from: Vec3, to: Vec3, radius: f32| {
        Part::still(Thing::Kelp, stuff(share), Shape::Rod { from, to, radius })
    };
    let mut parts = Vec::new();
    for piece in 0..PIECES {
        let (low, high) = (piece as f32 / PIECES as f32, (piece + 1) as f32 / PIECES as f32);
        parts.push(rod(low, at(low), at(high), 0.022 - 0.01 * low));
        for side in [-1.0, 1.0, 0.0] {
            let root = at(low + random.next() / PIECES as f32);
            let long = (0.62 - 0.3 * low) * (0.6 + 0.7 * random.next());
            let out =
                Vec3::new(side + 0.5 * random.normal(), 0.8 + 0.5 * random.normal(), 0.7 * random.normal());
            parts.extend(blade(root, out.normalize(), long, stuff(low + 0.2 * random.normal())));
        }
    }
    parts
}

/// A blade that rises from the stalk and droops, wide in its middle.
fn blade(root: Vec3, out: Vec3, long: f32, stuff: Stuff) -> Vec<Part> {
    const WIDTHS: [f32; 5] = [0.009, 0.019, 0.021, 0.015, 0.007];
    let mut from = root;
    let mut parts = Vec::new();
    for (piece, radius) in WIDTHS.into_iter().enumerate() {
        let droop = Vec3::NEG_Y * (0.32 * piece as f32);
        let to = from + (out + droop).normalize() * long / WIDTHS.len() as f32;
        parts.push(Part::still(Thing::Kelp, stuff, Shape::Rod { from, to, radius }));
        parts.push(Part::still(Thing::Kelp, stuff, Shape::Ball { middle: to, radius }));
        from = to;
    }
    parts
}
