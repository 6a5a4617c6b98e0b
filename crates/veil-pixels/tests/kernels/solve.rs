//! Checks of `solve`: scenes whose camera is known, seen with noise of 0.2 pixels.

use nalgebra::{Matrix3, Rotation3, Vector3};
use veil_pixels::Cancel;
use veil_pixels::solve::{Focal, Going, Sight, Solved, Unsolved, solve};

const FRAMES: usize = 120;
const POINTS: usize = 100;
const FOCAL: f64 = 1850.0;
const NOISE: f64 = 0.2;
const HALF: [f64; 2] = [960.0, 540.0];

/// Numbers that look random, the same in each run.
struct Dice(u64);

impl Dice {
    /// Evenly from −1 to 1.
    fn even(&mut self) -> f64 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1u64 << 52) as f64 - 1.0
    }

    /// Of a standard deviation of 1, nearly normal.
    fn normal(&mut self) -> f64 {
        (0..12).map(|_| self.even()).sum::<f64>() / 2.0
    }
}

/// Where a camera stands and how it is turned, from the world to it.
type Stand = (Vector3<f64>, Rotation3<f64>);

/// A walk past things, of about three metres, that looks to and fro.
fn walks(frame: usize) -> Stand {
    let share = frame as f64 / (FRAMES - 1) as f64;
    let place = Vector3::new(3.0 * share - 1.5, 0.2 * (5.0 * share).sin(), 0.8 * share * share);
    (
        place,
        Rotation3::from_euler_angles(
            0.03 * (7.0 * share).cos(),
            0.12 - 0.3 * share,
            0.02 * (3.0 * share).sin(),
        ),
    )
}

fn turns(frame: usize) -> Stand {
    let share = frame as f64 / (FRAMES - 1) as f64;
    let turn = Rotation3::from_euler_angles(0.05 * (4.0 * share).sin(), 0.5 * share - 0.2, 0.03 * share);
    (Vector3::zeros(), turn)
}

/// What is seen of places, with noise; what leaves the picture is not.
fn seen(places: &[Vector3<f64>], way: fn(usize) -> Stand, dice: &mut Dice) -> Vec<Sight> {
    let mut sights = Vec::new();
    for frame in 0..FRAMES {
        let (place, turn) = way(frame);
        for (point, world) in places.iter().enumerate() {
            let before = turn * (world - place);
            let at = [before.x, before.y].map(|part| part / before.z * FOCAL + NOISE * dice.normal());
            if before.z > 0.1 && at[0].abs() < HALF[0] && at[1].abs() < HALF[1] {
                sights.push(Sight { point, frame, at });
            }
        }
    }
    sights
}

fn in_a_room(dice: &mut Dice) -> Vec<Vector3<f64>> {
    let place = |_| Vector3::new(5.0 * dice.even(), 2.5 * dice.even(), 7.5 + 3.5 * dice.even());
    (0..POINTS).map(place).collect()
}

fn solved(sights: &[Sight], focal: Focal, going: Going) -> Result<Solved, Unsolved> {
    solve([FRAMES, POINTS], sights, focal, going, &Cancel::new())
}

fn rms(solved: &Solved) -> f64 {
    let counted = solved.misses.iter().zip(&solved.counts).filter(|(_, counts)| **counts);
    let squares: Vec<f64> = counted.filter_map(|(miss, _)| *miss).map(|miss| miss * miss).collect();
    (squares.iter().sum::<f64>() / squares.len() as f64).sqrt()
}

/// How far the camera's way is from the true one at most, once it is laid on it, as a share of that one's length.
///
/// Source: Umeyama, "Least-Squares Estimation of Transformation Parameters Between Two Point Patterns", 1991.
fn way_off(solved: &Solved, way: fn(usize) -> Stand) -> f64 {
    let pairs: Vec<(Vector3<f64>, Vector3<f64>)> =
        (0..FRAMES).map(|frame| (Vector3::from(solved.poses[frame].unwrap().place), way(frame).0)).collect();
    let count = pairs.len() as f64;
    let (from, to) = (
        pairs.iter().map(|(from, _)| from).sum::<Vector3<f64>>() / count,
        pairs.iter().map(|(_, to)| to).sum::<Vector3<f64>>() / count,
    );
    let both: Matrix3<f64> = pairs.iter().map(|(a, b)| (b - to) * (a - from).transpose()).sum();
    let parts = both.svd(true, true);
    let (left, right) = (parts.u.unwrap(), parts.v_t.unwrap());
    let upright = Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, (left * right).determinant().signum()));
    let turn = left * upright * right;
    let scale = (Matrix3::from_diagonal(&parts.singular_values) * upright).trace()
        / pairs.iter().map(|(a, _)| (a - from).norm_squared()).sum::<f64>();
    let length: f64 = pairs.windows(2).map(|two| (two[1].1 - two[0].1).norm()).sum();
    let off = |(a, b): &(Vector3<f64>, Vector3<f64>)| (turn * (a - from) * scale - (b - to)).norm();
    pairs.iter().map(off).fold(0.0, f64::max) / length
}

#[test]
fn a_camera_that_walks_is_found_with_its_focal_length_known_or_not() {
    let mut dice = Dice(7);
    let sights = seen(&in_a_room(&mut dice), walks, &mut dice);
    for focal in [Focal::Known(FOCAL), Focal::Of(1920.0)] {
        let solved = solved(&sights, focal, Going::Moves).unwrap();
        assert!((solved.focal / FOCAL - 1.0).abs() < 0.01, "{focal:?}: {}", solved.focal);
        assert!(rms(&solved) < 0.3, "{focal:?}: {}", rms(&solved));
        assert!(way_off(&solved, walks) < 0.01, "{focal:?}: {}", way_off(&solved, walks));
    }
}

#[test]
fn what_moves_by_itself_is_left_out() {
    let mut dice = Dice(11);
    let mut sights = seen(&in_a_room(&mut dice), walks, &mut dice);
    let often = |point: &usize| sights.iter().filter(|sight| sight.point == *point).count() > 80;
    let jumps = (1..POINTS).filter(|point| point % 5 != 0).find(often).unwrap();
    // A fifth of all places go their own way; one jumps in some frames.
    for sight in &mut sights {
        if sight.point % 5 == 0 {
            let gone = sight.frame as f64 * (1.0 + sight.point as f64 / 50.0);
            sight.at = [sight.at[0] + gone, sight.at[1] - 0.6 * gone];
        }
        if sight.point == jumps && sight.frame % 7 == 0 {
            sight.at[1] += 40.0;
        }
    }
    let solved = solved(&sights, Focal::Known(FOCAL), Going::Moves).unwrap();
    assert!(way_off(&solved, walks) < 0.01, "{}", way_off(&solved, walks));
    let left_out = |sight: &Sight| !solved.counts[sights.iter().position(|one| one == sight).unwrap()];
    let jumped = sights.iter().filter(|sight| sight.point == jumps && sight.frame % 7 == 0);
    assert!(jumped.clone().count() > 3 && jumped.clone().all(left_out));
}

/// All on one wall, where the constraint between two views alone does not tell one camera from another.
#[test]
fn a_wall_is_enough() {
    let mut dice = Dice(5);
    let places: Vec<Vector3<f64>> = (0..POINTS)
        .map(|_| {
            let (x, y) = (4.0 * dice.even(), 2.2 * dice.even());
            Vector3::new(x, y, 6.0 + 0.35 * x - 0.2 * y)
        })
        .collect();
    let sights = seen(&places, walks, &mut dice);
    let solved = solved(&sights, Focal::Known(FOCAL), Going::Moves).unwrap();
    assert!(rms(&solved) < 0.3, "{}", rms(&solved));
    assert!(way_off(&solved, walks) < 0.01, "{}", way_off(&solved, walks));
}

#[test]
fn a_camera_that_turns_is_found_with_its_focal_length_known_or_not() {
    let mut dice = Dice(3);
    let mut places = in_a_room(&mut dice);
    places.iter_mut().for_each(|place| place.x *= 1.6);
    let sights = seen(&places, turns, &mut dice);
    for focal in [Focal::Known(FOCAL), Focal::Of(1920.0)] {
        let solved = solved(&sights, focal, Going::Turns).unwrap();
        assert!((solved.focal / FOCAL - 1.0).abs() < 0.01, "{focal:?}: {}", solved.focal);
        assert!(rms(&solved) < 0.3, "{focal:?}: {}", rms(&solved));
        // As seen from its first frame.
        let first = (Matrix3::from(solved.poses[0].unwrap().axes).transpose(), turns(0).1);
        for frame in 0..FRAMES {
            let own = Matrix3::from(solved.poses[frame].unwrap().axes).transpose() * first.0.transpose();
            let truth = turns(frame).1 * first.1.inverse();
            let off = (own.transpose() * truth.matrix()).trace();
            let degrees = ((off - 1.0) / 2.0).clamp(-1.0, 1.0).acos().to_degrees();
            assert!(degrees < 0.05, "{focal:?}, frame {frame}: {degrees}");
        }
    }
}

#[test]
fn what_cannot_be_solved_is_told() {
    let mut dice = Dice(9);
    let places = in_a_room(&mut dice);
    let turned = seen(&places, turns, &mut dice);
    assert_eq!(solved(&turned, Focal::Known(FOCAL), Going::Moves), Err(Unsolved::NoDepth));
    let few: Vec<Sight> = turned.iter().filter(|sight| sight.point < 3).copied().collect();
    assert_eq!(solved(&few, Focal::Known(FOCAL), Going::Moves), Err(Unsolved::TooFew));
    assert_eq!(solved(&few, Focal::Of(1920.0), Going::Turns), Err(Unsolved::TooFew));
    assert_eq!(solved(&[], Focal::Known(FOCAL), Going::Turns), Err(Unsolved::TooFew));
    let cancel = Cancel::new();
    cancel.set();
    let called_off = solve([FRAMES, POINTS], &turned, Focal::Known(FOCAL), Going::Turns, &cancel);
    assert_eq!(called_off, Err(Unsolved::Cancelled));
}

/// Half the frames see nothing, and some places are seen for a while only.
#[test]
fn frames_that_see_nothing_have_no_camera() {
    let mut dice = Dice(21);
    let sights = seen(&in_a_room(&mut dice), walks, &mut dice);
    let some: Vec<Sight> = sights
        .into_iter()
        .filter(|sight| !(40..50).contains(&sight.frame) && (sight.frame + 9 * sight.point) % 120 < 70)
        .collect();
    let solved = solved(&some, Focal::Known(FOCAL), Going::Moves).unwrap();
    for frame in 0..FRAMES {
        assert_eq!(solved.poses[frame].is_none(), (40..50).contains(&frame), "frame {frame}");
    }
    assert!(rms(&solved) < 0.3, "{}", rms(&solved));
}
