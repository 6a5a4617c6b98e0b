//! All cameras and places made to agree with what was seen, together.
//!
//! Source: Hartley and Zisserman, "Multiple View Geometry", 2004, appendix 6 (Levenberg-Marquardt steps of a sparse problem: places
//! are worked out of the equations first, each by itself).

use nalgebra::{DMatrix, DVector, Matrix2x3, Matrix3, UnitQuaternion, Vector3};

use super::scene::{NEAREST, Scene, cost, counts, median};
use super::sight::Sight;
use crate::{Cancel, Cancelled};

/// What may change.
#[derive(Clone, Copy, Debug)]
pub(super) struct Free {
    /// The focal length.
    pub(super) focal: bool,
    /// Where cameras stand; if not, places are only ways, of length 1.
    pub(super) places: bool,
}

impl Free {
    /// Numbers of a camera.
    const fn of_a_camera(self) -> usize {
        if self.places { 6 } else { 3 }
    }
}

/// A miss so many times as long as the middle one, and one this long, in pixels, counts less than others.
const LONG: f64 = 2.0;
const SHORTEST: f64 = 0.5;
/// How much equations are damped at first, at least, and at most.
const DAMPED: [f64; 3] = [1e-4, 1e-10, 1e8];
/// It is done when so many steps on end make it so little better.
const DONE: f64 = 1e-7;
const IDLE: usize = 2;

/// The length of a miss from which on it counts less.
fn longest(scene: &Scene, sights: &[Sight]) -> f64 {
    let misses = sights.iter().filter_map(|sight| scene.miss(sight)).map(|miss| miss.norm());
    (LONG * median(misses.collect())).max(SHORTEST)
}

/// What all misses cost, for one; those that are known so far.
pub(super) fn cost_of(scene: &Scene, sights: &[Sight], most: f64) -> f64 {
    let (mut sum, mut count) = (0.0, 0.0);
    for sight in sights {
        if scene.stands[sight.frame].is_none() || scene.points[sight.point].is_none() {
            continue;
        }
        // What comes to lie behind a camera is as bad as can be.
        sum += scene.miss(sight).map_or(1e12, |miss| cost(miss.norm(), most));
        count += 1.0;
    }
    sum / f64::max(count, 1.0)
}

/// Changes a scene by up to so many steps, each of which makes it better. The first known camera stays.
pub(super) fn adjust(
    scene: &mut Scene,
    sights: &[Sight],
    free: Free,
    steps: usize,
    cancel: &Cancel,
) -> Result<(), Cancelled> {
    let most = longest(scene, sights);
    let mut now = cost_of(scene, sights, most);
    let [mut damped, least, largest] = DAMPED;
    let mut idle = 0;
    for _ in 0..steps {
        cancel.check()?;
        let equations = Equations::of(scene, sights, free, most);
        let mut better = None;
        while better.is_none() && damped < largest {
            let tried = equations.step(damped).map(|step| equations.stepped(scene, &step));
            let cost = tried.as_ref().map_or(f64::MAX, |tried| cost_of(tried, sights, most));
            if cost < now {
                damped = (damped / 5.0).max(least);
                better = tried.map(|tried| (tried, cost));
            } else {
                damped *= 4.0;
            }
        }
        let Some((tried, cost)) = better else { break };
        let gained = now - cost;
        (*scene, now) = (tried, cost);
        // A step that is damped much may gain little though there is more to gain.
        idle = if gained <= DONE * now { idle + 1 } else { 0 };
        if idle == IDLE {
            break;
        }
    }
    Ok(())
}

/// How a miss changes with a camera's six numbers (turns, then place) and with the place's three.
struct Slopes {
    camera: [[f64; 6]; 2],
    point: [[f64; 3]; 2],
    focal: [f64; 2],
    miss: [f64; 2],
}

fn slopes(scene: &Scene, sight: &Sight) -> Option<Slopes> {
    let (stand, point) = (scene.stands[sight.frame]?, scene.points[sight.point]?);
    let at = stand.before(&point);
    if at.z <= NEAREST {
        return None;
    }
    let near = scene.focal / at.z;
    let seen = at.xy() * near;
    let down = Matrix2x3::new(near, 0.0, -seen.x / at.z, 0.0, near, -seen.y / at.z);
    let turned = -down * at.cross_matrix();
    let moved = down * stand.turn.to_rotation_matrix().matrix();
    let row = |row: usize| {
        let (turned, moved) = (turned.row(row), moved.row(row));
        [turned[0], turned[1], turned[2], -moved[0], -moved[1], -moved[2]]
    };
    let of_point = |row: usize| [moved[(row, 0)], moved[(row, 1)], moved[(row, 2)]];
    Some(Slopes {
        camera: [row(0), row(1)],
        point: [of_point(0), of_point(1)],
        focal: seen.into(),
        miss: [seen.x - sight.at[0], seen.y - sight.at[1]],
    })
}

/// What a place has to do with cameras.
#[derive(Clone)]
struct OfPoint {
    point: usize,
    own: Matrix3<f64>,
    slope: Vector3<f64>,
    /// By the camera's number among those that are free.
    cameras: Vec<(usize, [[f64; 3]; 6])>,
    focal: [f64; 3],
}

/// The normal equations.
struct Equations {
    free: Free,
    /// The frames of the free cameras.
    frames: Vec<usize>,
    points: Vec<OfPoint>,
    /// Of the cameras, and of the focal length last.
    own: DMatrix<f64>,
    slope: DVector<f64>,
}

/// A step: of the cameras and the focal length, and of the places.
struct Step {
    cameras: DVector<f64>,
    points: Vec<Vector3<f64>>,
}

impl Equations {
    fn of(scene: &Scene, sights: &[Sight], free: Free, most: f64) -> Self {
        // The first camera says where the world is.
        let frames: Vec<usize> = scene.known_frames().skip(1).collect();
        let mut number_of = vec![None; scene.stands.len()];
        frames.iter().enumerate().for_each(|(number, frame)| number_of[*frame] = Some(number));
        let each = free.of_a_camera();
        let last = frames.len() * each;
        let mut place_of = vec![None; scene.points.len()];
        let mut equations = Self {
            free,
            frames,
            points: Vec::new(),
            own: DMatrix::zeros(last + 1, last + 1),
            slope: DVector::zeros(last + 1),
        };
        for (point, world) in scene.points.iter().enumerate() {
            let Some(world) = world else { continue };
            place_of[point] = Some(equations.points.len());
            equations.points.push(OfPoint::begin(point, world, free, scene.focal));
        }
        for sight in sights {
            let (Some(slopes), Some(place)) = (slopes(scene, sight), place_of[sight.point]) else { continue };
            let miss = slopes.miss[0].hypot(slopes.miss[1]);
            equations.add(&slopes, place, number_of[sight.frame], counts(miss, most));
        }
        if !free.focal {
            equations.own[(last, last)] = 1.0;
        }
        equations
    }

    fn add(&mut self, slopes: &Slopes, place: usize, camera: Option<usize>, weight: f64) {
        let (each, last) = (self.free.of_a_camera(), self.slope.len() - 1);
        let of = &mut self.points[place];
        let mut cross = [[0.0; 3]; 6];
        for axis in 0..2 {
            let (point, miss) = (Vector3::from(slopes.point[axis]), slopes.miss[axis]);
            of.own += point * point.transpose() * weight;
            of.slope += point * (miss * weight);
            let focal = if self.free.focal { slopes.focal[axis] } else { 0.0 };
            self.own[(last, last)] += focal * focal * weight;
            self.slope[last] += focal * miss * weight;
            (0..3).for_each(|to| of.focal[to] += focal * point[to] * weight);
            let Some(camera) = camera else { continue };
            for (from, cross) in cross.iter_mut().take(each).enumerate() {
                let slope = slopes.camera[axis][from] * weight;
                let line = camera * each + from;
                for to in 0..=from {
                    self.own[(line, camera * each + to)] += slope * slopes.camera[axis][to];
                }
                self.own[(last, line)] += slope * focal;
                self.slope[line] += slope * miss;
                (0..3).for_each(|to| cross[to] += slope * point[to]);
            }
        }
        if let Some(camera) = camera {
            of.cameras.push((camera, cross));
        }
    }

    /// The step at a damping; none where there is no single one.
    fn step(&self, damped: f64) -> Option<Step> {
        let (each, last) = (self.free.of_a_camera(), self.slope.len() - 1);
        let (mut left, mut right) = (self.own.clone(), -&self.slope);
        (0..=last).for_each(|line| left[(line, line)] *= 1.0 + damped);
        let mut inverses = Vec::with_capacity(self.points.len());
        for of in &self.points {
            let mut own = of.own;
            (0..3).for_each(|axis| own[(axis, axis)] = own[(axis, axis)] * (1.0 + damped) + 1e-12);
            let inverse = own.try_inverse()?;
            of.take_off(&inverse, each, &mut left, &mut right);
            inverses.push(inverse);
        }
        let cameras = left.cholesky()?.solve(&right);
        let points = self.points.iter().zip(&inverses).map(|(of, inverse)| {
            let mut rest = -of.slope - Vector3::from(of.focal) * cameras[last];
            for (camera, cross) in &of.cameras {
                for (from, cross) in cross.iter().take(each).enumerate() {
                    rest -= Vector3::from(*cross) * cameras[camera * each + from];
                }
            }
            inverse * rest
        });
        let points = points.collect();
        Some(Step { cameras, points })
    }

    /// A scene after a step.
    fn stepped(&self, scene: &Scene, step: &Step) -> Scene {
        let mut scene = scene.clone();
        let each = self.free.of_a_camera();
        let vector = |at: usize| Vector3::new(step.cameras[at], step.cameras[at + 1], step.cameras[at + 2]);
        for (number, frame) in self.frames.iter().enumerate() {
            let Some(stand) = &mut scene.stands[*frame] else { continue };
            stand.turn = UnitQuaternion::from_scaled_axis(vector(number * each)) * stand.turn;
            if self.free.places {
                stand.place += vector(number * each + 3);
            }
        }
        for (of, step) in self.points.iter().zip(&step.points) {
            let Some(point) = &mut scene.points[of.point] else { continue };
            *point += step;
            if !self.free.places {
                point.normalize_mut();
            }
        }
        if self.free.focal {
            // What is changed is its logarithm.
            scene.focal *= step.cameras[self.slope.len() - 1].clamp(-0.5, 0.5).exp();
        }
        scene
    }
}

impl OfPoint {
    fn begin(point: usize, world: &Vector3<f64>, free: Free, focal: f64) -> Self {
        // A way has no length: it is held at 1, as firmly as its place in a picture.
        let held = if free.places { 0.0 } else { focal * focal };
        let own = world * world.transpose() * held;
        Self { point, own, slope: Vector3::zeros(), cameras: Vec::new(), focal: [0.0; 3] }
    }

    /// Takes the place out of the equations of the cameras.
    fn take_off(
        &self,
        inverse: &Matrix3<f64>,
        each: usize,
        left: &mut DMatrix<f64>,
        right: &mut DVector<f64>,
    ) {
        let last = right.len() - 1;
        let focal = inverse * Vector3::from(self.focal);
        left[(last, last)] -= focal.dot(&Vector3::from(self.focal));
        right[last] += focal.dot(&self.slope);
        for (camera, cross) in &self.cameras {
            let weighed = cross.map(|row| inverse * Vector3::from(row));
            for (from, weighed) in weighed.iter().take(each).enumerate() {
                let line = camera * each + from;
                right[line] += weighed.dot(&self.slope);
                left[(last, line)] -= weighed.dot(&Vector3::from(self.focal));
            }
            // Only what is below the diagonal is read.
            for (other, others) in self.cameras.iter().filter(|(other, _)| other <= camera) {
                for (to, others) in others.iter().take(each).enumerate() {
                    let column = other * each + to;
                    for (from, weighed) in weighed.iter().take(each).enumerate() {
                        left[(camera * each + from, column)] -=
                            weighed[0] * others[0] + weighed[1] * others[1] + weighed[2] * others[2];
                    }
                }
            }
        }
    }
}
