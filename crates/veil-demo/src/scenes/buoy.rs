//! SG130: a brass buoy turns in the harbour.

use glam::Vec3;

use super::{hill, sway};
use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Surface, Thing, about_upright};
use crate::scene::{Lamp, Scene};

pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(-0.3 + sway(221, 0.02), 1.25 + sway(222, 0.015), 4.1),
        target: Vec3::new(0.02 + sway(223, 0.02), 0.66 + sway(224, 0.015), 0.0),
        roll: sway(225, 0.006),
        focal_mm: 48.0,
        sensor_width_mm: 36.0,
        f_number: 5.6,
        focus_m: 3.7,
    }
}

/// The middle of the ball at rest, and its radius.
const MIDDLE: Vec3 = Vec3::new(0.0, 0.52, 0.0);
const RADIUS: f32 = 0.62;
/// Radians that it turns in a frame, and the frame since the first at which its front looks at the camera.
const PACE: f32 = 0.0125;
const FRONT: f32 = 36.0;
const LAMP: Vec3 = Vec3::new(2.3, 2.4, 1.9);

fn turn(moment: f32) -> f32 {
    PACE * (moment - FRONT)
}

/// How far the swell has carried it.
fn carried(moment: f32) -> Vec3 {
    Vec3::new(
        0.03 * (moment * 0.05).sin(),
        0.035 * (moment * 0.083 + 0.6).sin(),
        0.02 * (moment * 0.061).cos(),
    )
}

/// A place of the ball by degrees up from its middle and to the right of its front, and the way out of it there.
fn on_ball(moment: f32, up: f32, right: f32) -> (Vec3, Vec3) {
    let (up, right) = (up.to_radians(), right.to_radians());
    let out = Vec3::new(right.sin() * up.cos(), up.sin(), right.cos() * up.cos());
    let out = about_upright(out, turn(moment));
    (MIDDLE + carried(moment) + out * RADIUS, out)
}

pub(crate) fn places(moment: f32) -> Vec<(&'static str, Vec3)> {
    let middle = MIDDLE + carried(moment);
    vec![("buoy", middle), ("front", on_ball(moment, 15.0, 0.0).0), ("lamp", middle + Vec3::Y * 1.08)]
}

/// The side of the ball that is seen all the time, in cells.
pub(crate) fn surfaces(moment: f32) -> Vec<(&'static str, Surface)> {
    const ROWS: usize = 6;
    const COLUMNS: usize = 8;
    let share = |number: usize, of: usize| number as f32 / of as f32;
    let corner = |row: usize, column: usize| {
        on_ball(moment, 44.0 - 52.0 * share(row, ROWS), -28.0 + 56.0 * share(column, COLUMNS))
    };
    let corners = (0..=ROWS).flat_map(|row| (0..=COLUMNS).map(move |column| (row, column)));
    let corners = corners.map(|(row, column)| corner(row, column)).collect();
    vec![("side of the buoy", Surface { cells: [ROWS, COLUMNS], corners })]
}

pub(crate) fn scene(moment: f32) -> Scene {
    let moved = carried(moment);
    let velocity = carried(moment + 1.0) - moved;
    let middle = MIDDLE + moved;
    let brass = Stuff::Brass { middle: MIDDLE, turn: turn(moment), pace: PACE };
    let mine = |stuff: Stuff, shape: Shape| Part { shape, stuff, thing: Thing::Buoy, velocity, moved };
    let ring = |up: f32, height: f32, low: f32, high: f32| {
        mine(brass, Shape::Frustum { foot: middle + Vec3::Y * up, height, low, high })
    };
    let mut parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: 0.0 }),
        hill(-26.0, 24.0, 5.0, 227),
        hill(6.0, 16.0, 2.6, 228),
        hill(33.0, 22.0, 6.2, 229),
        mine(brass, Shape::Ball { middle, radius: RADIUS }),
        // A band above the water, a collar, and the cage of its lamp.
        ring(-0.27, 0.1, 0.595, 0.625),
        ring(0.53, 0.14, 0.34, 0.24),
        ring(0.67, 0.22, 0.07, 0.06),
        ring(0.88, 0.03, 0.19, 0.19),
        ring(1.2, 0.1, 0.2, 0.04),
    ];
    for number in 0..6 {
        let around = turn(moment) + number as f32 * std::f32::consts::TAU / 6.0;
        let foot = middle + about_upright(Vec3::new(0.17, 0.9, 0.0), around);
        parts.push(mine(Stuff::Copper, Shape::Rod { from: foot, to: foot + Vec3::Y * 0.31, radius: 0.012 }));
    }
    for number in 0..18 {
        let right = number as f32 * 20.0 + 10.0;
        let (at, out) = on_ball(moment, -21.0, right);
        let goes = on_ball(moment + 1.0, -21.0, right).0 - at;
        let rivet = Shape::Ball { middle: at + out * 0.028, radius: 0.022 };
        parts.push(Part { velocity: goes, ..mine(Stuff::Copper, rivet) });
    }
    let lit = Shape::Ball { middle: middle + Vec3::Y * 1.06, radius: 0.07 };
    parts.push(mine(Stuff::Glow { light: Vec3::new(3.2, 2.1, 1.0) }, lit));
    let lamps = vec![
        Lamp { middle: LAMP, radius: 0.5, light: Vec3::new(5.2, 4.4, 3.4) },
        Lamp { middle: Vec3::new(-2.6, 1.6, 2.2), radius: 0.6, light: Vec3::new(1.3, 1.7, 2.3) },
    ];
    let dusk = (Vec3::new(0.6, 0.35, 0.5).normalize(), Vec3::new(0.42, 0.25, 0.15));
    Scene::new(parts, lamps, dusk, moment)
}
