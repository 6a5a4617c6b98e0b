//! Balls that hold shapes: most of what a ray misses is passed over by them.

use glam::Vec3;
use wide::f32x8;

use crate::camera::Ray;

/// A ball in the world.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Ball {
    pub(crate) middle: Vec3,
    pub(crate) radius: f32,
}

impl Ball {
    /// Holds what has no end.
    const ENDLESS: Self = Self { middle: Vec3::ZERO, radius: 1e9 };

    pub(crate) fn wider(self, by: f32) -> Self {
        Self { radius: self.radius + by, ..self }
    }

    /// Whether a straight line from inside this ball to inside a light's can come into a third. Those lines fill
    /// the hull of both: balls all the way, whose radius changes evenly; the one that comes nearest decides.
    pub(crate) fn sees_through(self, light: Self, other: Self) -> bool {
        let way = light.middle - self.middle;
        let length = way.length().max(1e-6);
        let to = other.middle - self.middle;
        let along = to.dot(way) / length;
        let beside = (to.length_squared() - along * along).max(0.0).sqrt();
        let widens = (light.radius - self.radius) / length;
        let far = |at: f32| beside.hypot(along - at) - self.radius - widens * at;
        let nearest = if widens.abs() < 1.0 {
            (along + beside * widens / (1.0 - widens * widens).sqrt()).clamp(0.0, length)
        } else if widens > 0.0 {
            length
        } else {
            0.0
        };
        far(nearest) <= other.radius
    }
}

const SIDE_BY_SIDE: usize = 8;

/// Some parts of a scene, with the balls that hold them, so that a ray is tried against eight at once.
#[derive(Clone, Debug, Default)]
pub(crate) struct Among {
    parts: Vec<usize>,
    eights: Vec<Eight>,
}

#[derive(Clone, Copy, Debug)]
struct Eight {
    middle: [f32x8; 3],
    radius: f32x8,
}

impl Among {
    /// Parts by their numbers; those without a ball have no end.
    pub(crate) fn new(parts: impl Iterator<Item = (usize, Option<Ball>)>) -> Self {
        let (parts, balls): (Vec<usize>, Vec<Ball>) =
            parts.map(|(part, ball)| (part, ball.unwrap_or(Ball::ENDLESS))).unzip();
        let eight = |balls: &[Ball]| {
            let each = |of: &dyn Fn(&Ball) -> f32, none: f32| {
                f32x8::new(std::array::from_fn(|at| balls.get(at).map_or(none, of)))
            };
            Eight {
                middle: std::array::from_fn(|axis| each(&|ball| ball.middle[axis], 0.0)),
                // Where there is no ball, none is met.
                radius: each(&|ball| ball.radius, f32::NAN),
            }
        };
        Self { eights: balls.chunks(SIDE_BY_SIDE).map(eight).collect(), parts }
    }

    pub(crate) fn parts(&self) -> &[usize] {
        &self.parts
    }

    /// Calls `meets` with each part whose ball a ray comes into within a distance, until it ends that; it gives the
    /// distance that counts from then on.
    #[inline]
    pub(crate) fn met(&self, ray: Ray, mut within: f32, mut meets: impl FnMut(usize) -> Next) {
        for (eight, parts) in self.eights.iter().zip(self.parts.chunks(SIDE_BY_SIDE)) {
            let mut met = eight.met(ray, within);
            while met != 0 {
                match meets(parts[met.trailing_zeros() as usize]) {
                    Next::Within(distance) => within = distance,
                    Next::Ends => return,
                }
                met &= met - 1;
            }
        }
    }
}

/// How a search goes on.
pub(crate) enum Next {
    Within(f32),
    Ends,
}

impl Eight {
    /// A bit for each ball that a ray comes into within a distance.
    #[inline]
    fn met(&self, ray: Ray, within: f32) -> u32 {
        let to: [f32x8; 3] = std::array::from_fn(|axis| self.middle[axis] - f32x8::splat(ray.from[axis]));
        let dot = |a: [f32x8; 3], b: [f32x8; 3]| a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
        let along = dot(to, ray.along.to_array().map(f32x8::splat));
        let (distance, reach) = (dot(to, to), self.radius * self.radius);
        let ahead = along.simd_gt(f32x8::ZERO) & (along - self.radius).simd_lt(f32x8::splat(within));
        (distance.simd_le(reach) | ahead & (distance - along * along).simd_le(reach)).to_bitmask()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_stands_between_balls_is_found_and_what_does_not_is_left() {
        let ball = |x: f32, y: f32, radius: f32| Ball { middle: Vec3::new(x, y, 0.0), radius };
        let (places, light) = (ball(0.0, 0.0, 1.0), ball(10.0, 0.0, 3.0));
        // Half way the hull is 2 high, on its slope a little more.
        assert!(places.sees_through(light, ball(5.0, 2.9, 1.0)));
        assert!(!places.sees_through(light, ball(5.0, 3.1, 1.0)));
        assert!(
            !places.sees_through(light, ball(-3.0, 0.0, 1.0))
                && places.sees_through(light, ball(-2.0, 0.0, 1.1))
        );
        assert!(places.sees_through(ball(0.5, 0.0, 4.0), ball(-3.0, 0.0, 0.6)), "the one inside the other");
    }

    #[test]
    fn a_ray_comes_into_the_balls_that_it_passes_and_into_no_other() {
        let ball = |x: f32, y: f32, radius: f32| Some(Ball { middle: Vec3::new(x, y, 0.0), radius });
        // Ahead and met, beside, behind, too far, about the start, without end, and one more of the next eight.
        let balls = [
            ball(5.0, 0.9, 1.0),
            ball(5.0, 1.1, 1.0),
            ball(-5.0, 0.0, 1.0),
            ball(30.0, 0.0, 1.0),
            ball(-1.0, 0.0, 2.0),
            None,
            ball(6.0, 3.0, 1.0),
            ball(7.0, 3.0, 1.0),
            ball(8.0, 0.5, 1.0),
        ];
        let among = Among::new((10..).zip(balls));
        let mut met = Vec::new();
        let ray = Ray { from: Vec3::ZERO, along: Vec3::X };
        among.met(ray, 20.0, |part| {
            met.push(part);
            Next::Within(20.0)
        });
        assert_eq!(met, [10, 14, 15, 18]);
    }
}
