//! SG120: a slack sail on its mast, from a boat that moves.

use glam::Vec3;

use super::{hill, sway};
use crate::camera::Camera;
use crate::parts::{Part, Plane, Shape, Stuff, Thing};
use crate::scene::{Lamp, Scene};

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-0.9 + 0.016 * moment + sway(261, 0.06), 2.1 + sway(262, 0.05), 7.4),
        target: Vec3::new(0.12 + 0.004 * moment + sway(263, 0.05), 2.3 + sway(264, 0.04), 0.0),
        roll: sway(265, 0.012),
        focal_mm: 40.0,
        sensor_width_mm: 36.0,
        f_number: 5.6,
        focus_m: 7.3,
    }
}

/// The sail's corners, from the upper left one round.
const CORNERS: [[f32; 2]; 4] = [[-0.95, 3.75], [1.05, 3.75], [1.05, 1.15], [-0.95, 1.15]];
/// The patch's, and how far before the sail it lies.
const PATCH: [[f32; 2]; 4] = [[0.2, 2.55], [0.75, 2.55], [0.75, 2.0], [0.2, 2.0]];
const BEFORE: f32 = 0.012;

pub(crate) fn places() -> Vec<(&'static str, Vec3)> {
    let names = ["sail, left top", "sail, right top", "sail, right foot", "sail, left foot"];
    let corners = names.into_iter().zip(CORNERS).map(|(name, [x, y])| (name, Vec3::new(x, y, 0.0)));
    corners.chain([("mast head", Vec3::new(0.0, 4.25, -0.07))]).collect()
}

pub(crate) fn planes() -> Vec<(&'static str, Plane)> {
    let laid = |corners: [[f32; 2]; 4], z: f32| corners.map(|[x, y]| Vec3::new(x, y, z));
    vec![("sail", laid(CORNERS, 0.015)), ("patch", laid(PATCH, 0.015 + BEFORE))]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let upright = |corners: [[f32; 2]; 4], z: f32, thick: f32| {
        let [[left, top], _, [right, foot], _] = corners;
        Shape::Block {
            middle: Vec3::new((left + right) / 2.0, (top + foot) / 2.0, z),
            half: Vec3::new((right - left) / 2.0, (top - foot) / 2.0, thick),
            turn: (0.0, 1.0),
        }
    };
    let rod = |from: [f32; 3], to: [f32; 3], radius: f32| Shape::Rod {
        from: Vec3::from_array(from),
        to: Vec3::from_array(to),
        radius,
    };
    let spar = Stuff::Wood { tint: Vec3::new(0.16, 0.095, 0.05) };
    let canvas = Stuff::Cloth { tint: Vec3::new(0.42, 0.36, 0.27), seed: 271 };
    let patch = Stuff::Cloth { tint: Vec3::new(0.30, 0.13, 0.08), seed: 273 };
    let hemp = Stuff::Cloth { tint: Vec3::new(0.2, 0.15, 0.09), seed: 275 };
    let mut parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: -0.4 }),
        hill(-20.0, 22.0, 5.0, 277),
        hill(10.0, 18.0, 3.4, 278),
        hill(38.0, 24.0, 6.5, 279),
        Part::still(Thing::Sail, canvas, upright(CORNERS, 0.0, 0.015)),
        Part::still(Thing::Sail, patch, upright(PATCH, BEFORE, 0.015)),
        Part::still(
            Thing::Spars,
            spar,
            Shape::Frustum { foot: Vec3::new(0.0, -0.4, -0.07), height: 4.7, low: 0.06, high: 0.04 },
        ),
        Part::still(Thing::Spars, spar, rod([-1.15, 3.8, -0.02], [1.25, 3.8, -0.02], 0.035)),
        Part::still(Thing::Spars, spar, rod([-1.1, 1.1, -0.02], [1.2, 1.1, -0.02], 0.035)),
        Part::still(Thing::Rope, hemp, rod([0.0, 4.2, -0.07], [-3.4, -0.4, -0.6], 0.012)),
        Part::still(Thing::Rope, hemp, rod([0.0, 4.2, -0.07], [3.4, -0.4, -0.6], 0.012)),
    ];
    // Stitches round the patch.
    for side in 0..4 {
        let ([ax, ay], [bx, by]) = (PATCH[side], PATCH[(side + 1) % 4]);
        for stitch in 0..7 {
            let share = (stitch as f32 + 0.5) / 7.0;
            let middle = Vec3::new(ax + (bx - ax) * share, ay + (by - ay) * share, BEFORE + 0.02);
            parts.push(Part::still(Thing::Sail, hemp, Shape::Ball { middle, radius: 0.014 }));
        }
    }
    let lamps =
        vec![Lamp { middle: Vec3::new(-3.2, 4.2, 4.2), radius: 0.6, light: Vec3::new(8.5, 7.2, 5.6) }];
    let dusk = (Vec3::new(0.55, 0.3, 0.6).normalize(), Vec3::new(0.40, 0.25, 0.16));
    Scene::new(parts, lamps, dusk, moment)
}
