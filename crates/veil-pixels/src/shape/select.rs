//! Fields of where values are what is asked for.
//!
//! - Shape: a number, or three, in; coverage 0–1 out.
//! - Edge behaviour: soft ends are a smoothstep that lies outside of the range; a length of 0 is a hard end, which the
//!   range's own ends belong to.

/// From one number to another, with soft ends.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Band {
    /// Where it begins to be full.
    pub low: f32,
    /// Where it ends being full.
    pub high: f32,
    /// Over which length it rises, and falls.
    pub soft: [f32; 2],
}

fn eased(t: f32) -> f32 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// 1 up to `length` of 0, then falling to 0 over it.
fn fall_off(beyond: f32, length: f32) -> f32 {
    if beyond <= 0.0 {
        1.0
    } else if length > 0.0 {
        1.0 - eased(beyond / length)
    } else {
        0.0
    }
}

impl Band {
    /// The coverage of a value; none of what is no number.
    pub fn of(self, value: f32) -> f32 {
        if value.is_nan() {
            return 0.0;
        }
        fall_off(self.low - value, self.soft[0]) * fall_off(value - self.high, self.soft[1])
    }
}

/// A shape in space.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Solid {
    /// All within a radius.
    Ball {
        /// Its middle.
        centre: [f32; 3],
        /// How far it reaches.
        radius: f32,
        /// Over which length it falls off outside.
        soft: f32,
    },
    /// All within half a width, height and depth.
    Box {
        /// Its middle.
        centre: [f32; 3],
        /// Half its sides.
        half: [f32; 3],
        /// Over which length it falls off outside.
        soft: f32,
    },
}

impl Solid {
    /// The coverage of a place.
    pub fn of(self, place: [f32; 3]) -> f32 {
        let (centre, soft) = match self {
            Self::Ball { centre, soft, .. } | Self::Box { centre, soft, .. } => (centre, soft),
        };
        let off: [f32; 3] = std::array::from_fn(|axis| place[axis] - centre[axis]);
        let length = |v: [f32; 3]| (v[0] * v[0] + v[1] * v[1] + v[2] * v[2]).sqrt();
        let beyond = match self {
            Self::Ball { radius, .. } => length(off) - radius,
            Self::Box { half, .. } => {
                length(std::array::from_fn(|axis| (off[axis].abs() - half[axis]).max(0.0)))
            }
        };
        if beyond.is_nan() { 0.0 } else { fall_off(beyond, soft) }
    }
}
