//! One camera found from places that are known, and one place from cameras that are known.

use nalgebra::{Matrix2x3, Matrix3, Matrix6, UnitQuaternion, Vector2, Vector3, Vector6};

use super::bundle::Free;
use super::scene::{NEAREST, Scene, Stand, cost, counts, median, ray};
use super::sight::Sight;

/// Steps at most.
const STEPS: usize = 30;
/// Places that a camera is found from, at least.
const PLACES: usize = 4;
const WAYS: usize = 3;
/// The rays of a place must cross at this angle at least, in radians.
const CROSSES: f64 = 0.004;
/// A place is missed by at most this share of the focal length where it is first taken.
const FARTHEST_MISS: f64 = 0.02;

/// A camera of which it is known about how it stands, from what it sees of known places. None where it sees too few.
pub(super) fn stand(scene: &Scene, seen: &[Sight], begin: Stand, free: Free) -> Option<Stand> {
    let known: Vec<(Vector3<f64>, Vector2<f64>)> =
        seen.iter().filter_map(|sight| Some((scene.points[sight.point]?, sight.at.into()))).collect();
    if known.len() < if free.places { PLACES } else { WAYS } {
        return None;
    }
    let misses = |stand: &Stand| -> Vec<f64> {
        let miss = |(world, at): &(Vector3<f64>, Vector2<f64>)| {
            let before = stand.before(world);
            if before.z > NEAREST { (before.xy() * (scene.focal / before.z) - at).norm() } else { 1e6 }
        };
        known.iter().map(miss).collect()
    };
    let (mut best, mut damped) = (begin, 1e-3);
    for _ in 0..STEPS {
        let now = misses(&best);
        let most = (2.0 * median(now.clone())).max(0.5);
        let all = |misses: &[f64]| misses.iter().map(|miss| cost(*miss, most)).sum::<f64>();
        let (mut own, mut slope) = (Matrix6::zeros(), Vector6::zeros());
        for ((world, at), miss) in known.iter().zip(&now) {
            let before = best.before(world);
            if before.z <= NEAREST {
                continue;
            }
            let near = scene.focal / before.z;
            let seen = before.xy() * near;
            let down = Matrix2x3::new(near, 0.0, -seen.x / before.z, 0.0, near, -seen.y / before.z);
            let turned = -down * before.cross_matrix();
            let moved = -down * best.turn.to_rotation_matrix().matrix() * f64::from(u8::from(free.places));
            for axis in 0..2 {
                let (turned, moved) = (turned.row(axis), moved.row(axis));
                let row = Vector6::new(turned[0], turned[1], turned[2], moved[0], moved[1], moved[2]);
                own += row * row.transpose() * counts(*miss, most);
                slope += row * ((seen[axis] - at[axis]) * counts(*miss, most));
            }
        }
        let mut gained = 0.0;
        while damped < 1e8 {
            let mut left = own;
            (0..6).for_each(|line| left[(line, line)] = left[(line, line)] * (1.0 + damped) + 1e-12);
            let step = left.cholesky()?.solve(&-slope);
            let turn = UnitQuaternion::from_scaled_axis(Vector3::new(step[0], step[1], step[2]));
            let tried =
                Stand { turn: turn * best.turn, place: best.place + Vector3::new(step[3], step[4], step[5]) };
            gained = all(&now) - all(&misses(&tried));
            if gained > 0.0 {
                (best, damped) = (tried, damped / 5.0);
                break;
            }
            damped *= 5.0;
        }
        if gained <= 1e-9 * all(&now) {
            break;
        }
    }
    Some(best)
}

/// A place from where known cameras see it; where cameras only turn, the way to it. None where rays hardly cross, or it would
/// lie behind a camera or far beside where it is seen.
///
/// Source: the place nearest to all rays; Hartley and Sturm, "Triangulation", 1997, for its comparison with others.
pub(super) fn point(scene: &Scene, seen: &[Sight], free: Free) -> Option<Vector3<f64>> {
    let rays: Vec<(Stand, Vector3<f64>, [f64; 2])> = seen
        .iter()
        .filter_map(|sight| scene.stands[sight.frame].map(|stand| (stand, sight.at)))
        .map(|(stand, at)| (stand, stand.ray(at, scene.focal), at))
        .collect();
    if !free.places {
        return rays.iter().map(|(_, ray, _)| *ray).reduce(|a, b| a + b)?.try_normalize(NEAREST);
    }
    let (_, first, _) = rays.first()?;
    let widest = rays.iter().map(|(_, ray, _)| ray.cross(first).norm()).fold(0.0, f64::max);
    if widest < CROSSES {
        return None;
    }
    let (mut own, mut sum) = (Matrix3::zeros(), Vector3::zeros());
    for (stand, ray, _) in &rays {
        let aside = Matrix3::identity() - ray * ray.transpose();
        own += aside;
        sum += aside * stand.place;
    }
    let found = own.try_inverse()? * sum;
    let misses: Option<Vec<f64>> = rays
        .iter()
        .map(|(stand, _, at)| {
            let before = stand.before(&found);
            let miss = before.xy() * (scene.focal / before.z) - Vector2::from(*at);
            (before.z > NEAREST).then(|| miss.norm())
        })
        .collect();
    (median(misses?) < FARTHEST_MISS * scene.focal).then_some(found)
}

/// The turn that brings ways to others as nearly as can be; those that do not fit count less.
///
/// Source: Kabsch, "A Solution for the Best Rotation to Relate Two Sets of Vectors", 1976.
pub(super) fn turn(ways: &[(Vector3<f64>, Vector3<f64>)]) -> Option<UnitQuaternion<f64>> {
    let mut weights = vec![1.0; ways.len()];
    let mut found = None;
    for _ in 0..6 {
        let sum: Matrix3<f64> =
            ways.iter().zip(&weights).map(|((from, to), weight)| to * from.transpose() * *weight).sum();
        let parts = sum.svd(true, true);
        let (left, right) = (parts.u?, parts.v_t?);
        let upright = Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, (left * right).determinant().signum()));
        let turn = UnitQuaternion::from_matrix(&(left * upright * right));
        let misses: Vec<f64> = ways.iter().map(|(from, to)| (turn * from - to).norm()).collect();
        let most = (1.5 * median(misses.clone())).max(1e-6);
        weights = misses.iter().map(|miss| counts(*miss, most)).collect();
        found = Some(turn);
    }
    found
}

/// The ways to places that both of two frames see.
pub(super) fn ways_in_both([first, second]: [&[Sight]; 2], focal: f64) -> Vec<(Vector3<f64>, Vector3<f64>)> {
    let in_second = |point: usize| second.iter().find(|sight| sight.point == point);
    let both = first.iter().filter_map(|sight| Some((sight.at, in_second(sight.point)?.at)));
    both.map(|(from, to)| (ray(from, focal), ray(to, focal))).collect()
}
