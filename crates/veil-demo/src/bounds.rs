//! Boxes that hold shapes: tighter than balls round what is long or flat.

use glam::Vec3;

use crate::ball::Ball;
use crate::parts::Shape;

/// A box, turned about the upright axis as a block is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Bounds {
    middle: Vec3,
    half: Vec3,
    turn: (f32, f32),
}

impl Bounds {
    /// None for what has no end.
    pub(crate) fn of(shape: Shape) -> Option<Self> {
        let upright = |middle: Vec3, half: Vec3| Some(Self { middle, half, turn: (0.0, 1.0) });
        match shape {
            Shape::Level { .. } => None,
            Shape::Block { middle, half, turn } => Some(Self { middle, half, turn }),
            Shape::Ball { middle, radius } => upright(middle, Vec3::splat(radius)),
            Shape::Rod { from, to, radius } => {
                upright((from + to) * 0.5, (to - from).abs() * 0.5 + Vec3::splat(radius))
            }
            Shape::Frustum { foot, height, low, high } => {
                let wide = low.max(high);
                upright(foot + Vec3::Y * height * 0.5, Vec3::new(wide, height * 0.5, wide))
            }
        }
    }

    /// Whether the hull of two balls lies wholly beyond one of its sides.
    pub(crate) fn is_passed_by(self, from: Ball, to: Ball, leeway: f32) -> bool {
        let (sin, cos) = self.turn;
        let own = |ball: Ball| turned(ball.middle - self.middle, -sin, cos);
        let (a, b, half) = (own(from), own(to), self.half + Vec3::splat(leeway));
        let low = (a - Vec3::splat(from.radius)).min(b - Vec3::splat(to.radius));
        let high = (a + Vec3::splat(from.radius)).max(b + Vec3::splat(to.radius));
        low.cmpgt(half).any() || high.cmplt(-half).any()
    }

    /// How far beyond its sides those of another about the same middle come at most, which may be turned otherwise.
    pub(crate) fn reaches_further(self, other: Self) -> f32 {
        let turn = (self.turn.0 - other.turn.0).hypot(self.turn.1 - other.turn.1);
        (other.half - self.half).max_element().max(0.0) + turn * other.half.length()
    }
}

/// Turned about the upright axis.
pub(crate) fn turned(v: Vec3, sin: f32, cos: f32) -> Vec3 {
    Vec3::new(v.x * cos - v.z * sin, v.y, v.x * sin + v.z * cos)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_wall_is_passed_by_beside_its_faces_and_not_through_them() {
        let quarter = std::f32::consts::FRAC_PI_2.sin_cos();
        let wall = Shape::Block { middle: Vec3::ZERO, half: Vec3::new(10.0, 2.0, 0.1), turn: quarter };
        let wall = Bounds::of(wall).unwrap();
        let ball = |x: f32, z: f32| Ball { middle: Vec3::new(x, 0.0, z), radius: 0.5 };
        // Turned by a quarter, its faces look along x.
        assert!(wall.is_passed_by(ball(1.0, -5.0), ball(3.0, 5.0), 0.0));
        assert!(!wall.is_passed_by(ball(1.0, -5.0), ball(3.0, 5.0), 0.5), "it may come nearer");
        assert!(!wall.is_passed_by(ball(-1.0, 0.0), ball(1.0, 0.0), 0.0));
    }

    #[test]
    fn what_turns_about_its_middle_reaches_beyond_where_it_was() {
        let rod = |to: Vec3| Bounds::of(Shape::Rod { from: -to, to, radius: 0.01 }).unwrap();
        let (upright, leant) = (rod(Vec3::Y), rod(Vec3::new(0.6, 0.8, 0.0)));
        assert!((upright.reaches_further(leant) - 0.6).abs() < 1e-6);
        assert_eq!(upright.reaches_further(upright), 0.0);
    }
}
