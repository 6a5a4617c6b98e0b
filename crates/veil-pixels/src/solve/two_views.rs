//! How a camera moved from one frame to another, from ways to the same places in both.
//!
//! Source: Hartley and Zisserman, "Multiple View Geometry", 2004, chapter 9 (the epipolar constraint) and 11.4 (its first-order
//! distance). It is settled from many ways that the camera may have gone, which bears places of one plane too.

use nalgebra::{Matrix5, UnitQuaternion, Vector3, Vector5};

use super::one::turn;
use super::scene::{Stand, cost, counts, median};

/// Ways that the camera may have gone, over half of all.
const BEGINNINGS: usize = 24;
/// Steps at most from each.
const STEPS: usize = 20;
/// Two are the same that go this alike: the cosine between.
const ALIKE: f64 = 0.98;
/// How many are told at most, and how much worse than the best one may be.
const TOLD: usize = 2;
const WORSE: f64 = 4.0;
/// It goes straight on that goes less aside, as a share of its way.
const LEAST_ASIDE: f64 = 0.1;

/// How the second camera may stand, seen from the first, at a distance of 1.
pub(super) fn stands(ways: &[(Vector3<f64>, Vector3<f64>)], focal: f64) -> Vec<Stand> {
    let Some(turned) = turn(ways) else { return Vec::new() };
    let mut found: Vec<(f64, Between)> = (0..BEGINNINGS)
        .map(|number| Between { turn: turned, gone: spread(number) }.settled(ways, focal))
        .collect();
    found.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut told: Vec<(f64, Between)> = Vec::new();
    for (cost, between) in found {
        let best = told.first().map_or(f64::MAX, |(best, _)| *best);
        let is_new = told.iter().all(|(_, other)| other.gone.dot(&between.gone).abs() < ALIKE);
        if is_new && told.len() < TOLD && cost <= WORSE * best.max(1e-6) {
            told.push((cost, between));
        }
    }
    told.into_iter().flat_map(|(_, between)| between.stands(ways)).collect()
}

/// Ways spread evenly over half of all.
fn spread(number: usize) -> Vector3<f64> {
    const GOLDEN: f64 = 2.399_963_229_728_653;
    let z = (number as f64 + 0.5) / BEGINNINGS as f64;
    let (around, wide) = (number as f64 * GOLDEN, (1.0 - z * z).sqrt());
    Vector3::new(wide * around.cos(), wide * around.sin(), z)
}

/// A turn, and the way that the second camera went, as the second one sees it.
#[derive(Clone, Copy)]
struct Between {
    turn: UnitQuaternion<f64>,
    gone: Vector3<f64>,
}

impl Between {
    /// How far each way of the second is from where it could be, in pixels.
    fn misses(&self, ways: &[(Vector3<f64>, Vector3<f64>)], focal: f64) -> Vec<f64> {
        let miss = |(from, to): &(Vector3<f64>, Vector3<f64>)| {
            let across = self.gone.cross(&(self.turn * from));
            let back = self.turn.inverse() * to.cross(&self.gone);
            // Both pictures' places may be beside the truth.
            to.dot(&across) / across.norm_squared().max(back.norm_squared()).max(1e-12).sqrt() * focal
        };
        ways.iter().map(miss).collect()
    }

    fn changed(&self, by: &Vector5<f64>) -> Self {
        let [one, other] = square_to(&self.gone);
        Self {
            turn: UnitQuaternion::from_scaled_axis(Vector3::new(by[0], by[1], by[2])) * self.turn,
            gone: (self.gone + one * by[3] + other * by[4]).normalize(),
        }
    }

    fn settled(self, ways: &[(Vector3<f64>, Vector3<f64>)], focal: f64) -> (f64, Self) {
        const SMALL: f64 = 1e-6;
        let (mut best, mut damped, mut now) = (self, 1e-3, f64::MAX);
        for _ in 0..STEPS {
            let misses = best.misses(ways, focal);
            let most = (2.0 * median(misses.iter().map(|miss| miss.abs()).collect())).max(0.5);
            let all = |misses: &[f64]| misses.iter().map(|miss| cost(miss.abs(), most)).sum::<f64>();
            now = all(&misses);
            let slopes: [Vec<f64>; 5] = std::array::from_fn(|axis| {
                let mut by = Vector5::zeros();
                by[axis] = SMALL;
                let other = best.changed(&by).misses(ways, focal);
                other.iter().zip(&misses).map(|(other, own)| (other - own) / SMALL).collect()
            });
            let (mut own, mut slope) = (Matrix5::zeros(), Vector5::zeros());
            for (number, miss) in misses.iter().enumerate() {
                let row = Vector5::from_fn(|axis, _| slopes[axis][number]);
                let weight = counts(miss.abs(), most);
                own += row * row.transpose() * weight;
                slope += row * (miss * weight);
            }
            let mut gained = 0.0;
            while damped < 1e6 {
                let mut left = own;
                (0..5).for_each(|line| left[(line, line)] = left[(line, line)] * (1.0 + damped) + 1e-9);
                let Some(left) = left.cholesky() else { return (now, best) };
                let tried = best.changed(&left.solve(&-slope));
                gained = now - all(&tried.misses(ways, focal));
                if gained > 0.0 {
                    (best, damped) = (tried, damped / 5.0);
                    break;
                }
                damped *= 5.0;
            }
            if gained <= 1e-6 * now {
                break;
            }
        }
        (now, best)
    }

    /// Where the second camera may stand: it went the one way or the other. Seen from far, things that stand before each other the
    /// other way round, under a camera that turned the other way, look almost the same, so that more frames must decide.
    ///
    /// Source: Koenderink and van Doorn, "Affine Structure from Motion", 1991, for the reversal of depth.
    fn stands(&self, ways: &[(Vector3<f64>, Vector3<f64>)]) -> [Stand; 2] {
        [1.0, -1.0].map(|sign| {
            let gone = self.gone * sign;
            let aside = Vector3::new(gone.x, gone.y, 0.0);
            let turn = aside.try_normalize(LEAST_ASIDE).map_or(self.turn, |aside| {
                // What turning leaves must go one way for all that is before the camera.
                let mut wrong: Vec<f64> =
                    ways.iter().map(|(from, to)| (self.turn * from - to).dot(&aside)).collect();
                wrong.sort_by(f64::total_cmp);
                let most = wrong[(wrong.len() - 1) * 19 / 20].max(0.0);
                UnitQuaternion::from_scaled_axis(Vector3::z().cross(&aside) * -most) * self.turn
            });
            // What is at x before the first is at turn·x + gone before the second.
            Stand { turn, place: -(turn.inverse() * gone) }
        })
    }
}

/// Two ways square to one and to each other.
fn square_to(way: &Vector3<f64>) -> [Vector3<f64>; 2] {
    let aside = if way.x.abs() < 0.7 { Vector3::x() } else { Vector3::y() };
    let one = way.cross(&aside).normalize();
    [one, way.cross(&one)]
}
