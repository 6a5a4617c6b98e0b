//! What stands where in each shot, a file each.

pub(crate) mod bell;
pub(crate) mod buoy;
pub(crate) mod causeway;
pub(crate) mod glass_float;
pub(crate) mod kelp;
pub(crate) mod kiln_yard;
pub(crate) mod lantern_barge;
pub(crate) mod look_out;
pub(crate) mod masts;
pub(crate) mod off_the_yard;
pub(crate) mod sail;
pub(crate) mod signal_glass;

use glam::Vec3;

use crate::parts::{Part, Shape, Stuff, Thing};
use crate::random::noise;

/// How a hand-held camera wanders.
fn sway(moment: f32, seed: u32, size: f32) -> f32 {
    noise(Vec3::new(moment * 0.031, 0.5, 0.5), seed) * size
}

fn flicker(moment: f32, seed: u32) -> f32 {
    1.0 + 0.16 * noise(Vec3::new(moment * 0.21, 0.5, 0.5), seed)
        + 0.1 * noise(Vec3::new(moment * 0.77, 0.5, 0.5), seed + 1)
}

fn post(thing: Thing, foot: Vec3, height: f32) -> Part {
    let stuff = Stuff::Wood { tint: Vec3::new(0.06, 0.05, 0.045) };
    Part::still(thing, stuff, Shape::Frustum { foot, height, low: 0.06, high: 0.045 })
}

/// A painted knob, half sunk into what it stands on.
fn knob(thing: Thing, middle: Vec3, radius: f32) -> Part {
    let paint = Stuff::Plaster { tint: Vec3::new(0.78, 0.74, 0.66), seed: 57 };
    Part::still(thing, paint, Shape::Ball { middle, radius })
}

/// A hill on the far shore: of a great ball only the top stands out of the water.
fn hill(x: f32, width: f32, height: f32, seed: u32) -> Part {
    let radius = (width * width + height * height) / (2.0 * height);
    let shape = Shape::Ball { middle: Vec3::new(x, height - radius, -60.0 - width), radius };
    Part::still(Thing::Shore, Stuff::Plaster { tint: Vec3::new(0.06, 0.07, 0.065), seed }, shape)
}
