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

#[cfg(test)]
mod tests {
    use super::*;

    /// Worked by hand: a smoothstep a quarter of the way is 0.15625.
    #[test]
    fn soft_ends_lie_outside_and_hard_ones_belong_to_the_range() {
        let band = Band { low: 0.4, high: 0.6, soft: [0.2, 0.0] };
        assert_eq!([0.4, 0.5, 0.6].map(|value| band.of(value)), [1.0; 3]);
        assert!((band.of(0.25) - 0.156_25).abs() < 1e-6);
        assert_eq!([0.2, 0.61, f32::NAN, f32::INFINITY].map(|value| band.of(value)), [0.0; 4]);
        let turned = Band { low: 0.6, high: 0.4, soft: [0.0; 2] };
        assert_eq!(turned.of(0.5), 0.0, "nothing lies between ends that have passed each other");
    }

    #[test]
    fn solids_reach_as_far_on_every_axis() {
        let ball = Solid::Ball { centre: [1.0, 2.0, 3.0], radius: 5.0, soft: 2.0 };
        assert_eq!(ball.of([4.0, 6.0, 3.0]), 1.0);
        assert!((ball.of([1.0, 2.0, 9.0]) - 0.5).abs() < 1e-6);
        let block = Solid::Box { centre: [0.0; 3], half: [1.0, 2.0, 3.0], soft: 1.0 };
        assert_eq!(block.of([1.0, -2.0, 3.0]), 1.0);
        assert_eq!(block.of([1.8, 2.6, 0.0]), 0.0);
        assert!((block.of([1.3, 2.4, 0.0]) - 0.5).abs() < 1e-6);
    }
}
