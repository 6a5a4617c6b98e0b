//! Shapes and what a ray meets.

use glam::{Vec3, Vec3Swizzles};

use crate::ball::{Among, Ball, Next};
use crate::bounds::{Bounds, turned};
use crate::camera::Ray;
use crate::parts::{Part, Shape};
use crate::surface::{DUSK_WIDE, Horizon, LAMP_WIDE};

/// A round light of some size.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Lamp {
    pub(crate) middle: Vec3,
    pub(crate) radius: f32,
    /// Light at one metre.
    pub(crate) light: Vec3,
}

/// Everything at one moment.
#[derive(Clone, Debug)]
pub(crate) struct Scene {
    pub(crate) parts: Vec<Part>,
    solids: Vec<Solid>,
    all: Among,
    /// The parts that keep light off others.
    shading: Vec<usize>,
    /// For each part what may keep light off any place of it.
    between: Vec<Between>,
    pub(crate) lamps: Vec<Lamp>,
    /// Light of the low sun's afterglow, and where it comes from.
    pub(crate) dusk: (Vec3, Vec3),
    pub(crate) moment: f32,
    pub(crate) horizon: Horizon,
}

#[derive(Clone, Copy, Debug)]
pub(crate) struct Hit {
    pub(crate) distance: f32,
    pub(crate) place: Vec3,
    pub(crate) normal: Vec3,
    pub(crate) part: usize,
}

const NEAR: f32 = 1e-3;

/// A part's shape, with what each ray would work out again.
#[derive(Clone, Copy, Debug)]
struct Solid {
    shape: Shape,
    bounds: Option<Bounds>,
    /// The ball that holds it; most rays miss it, and that is quickly found.
    ball: Option<Ball>,
    /// Of a rod.
    axis: Vec3,
    length: f32,
}

impl Solid {
    fn of(shape: Shape) -> Self {
        let way = match shape {
            Shape::Rod { from, to, .. } => to - from,
            _ => Vec3::ZERO,
        };
        Self {
            shape,
            bounds: Bounds::of(shape),
            ball: shape.ball(),
            axis: way.normalize_or_zero(),
            length: way.length(),
        }
    }

    /// Whether a straight line from inside a ball to inside another may meet it, when it goes no farther than a leeway.
    fn may_be_between(&self, from: Ball, to: Ball, leeway: f32) -> bool {
        let passed = |bounds: Bounds| bounds.is_passed_by(from, to, leeway);
        self.ball.is_none_or(|ball| from.sees_through(to, ball.wider(leeway)))
            && !self.bounds.is_some_and(passed)
    }

    /// How far along a ray it is first met, within a distance.
    fn met(&self, ray: Ray, within: f32) -> Option<f32> {
        self.distance(ray).filter(|distance| *distance < within)
    }
}

impl Scene {
    pub(crate) fn new(parts: Vec<Part>, lamps: Vec<Lamp>, dusk: (Vec3, Vec3), moment: f32) -> Self {
        let solids: Vec<Solid> = parts.iter().map(|part| Solid::of(part.shape)).collect();
        let all = Among::new(solids.iter().map(|solid| solid.ball).enumerate());
        let shading = (0..parts.len()).filter(|index| parts[*index].shades()).collect();
        let horizon = Horizon::at(moment);
        let mut scene =
            Self { parts, solids, all, shading, between: Vec::new(), lamps, dusk, moment, horizon };
        scene.between = scene
            .solids
            .iter()
            .map(|solid| scene.between_lights_and(solid.ball, &Leeway::default()))
            .collect();
        scene
    }

    /// The parts that rays from about `from` within `angle` of `along` may meet while the shutter is open, the nearest
    /// first.
    pub(crate) fn near(&self, from: Vec3, along: Vec3, angle: f32, leeway: &Leeway) -> Among {
        let ball = |part: usize| self.solids[part].ball.map(|ball| ball.wider(leeway.of_part(part)));
        let eye = Ball { middle: from, radius: LENS_GOES };
        let may = |part: &usize| match ball(*part) {
            None => true,
            Some(Ball { middle, radius }) => {
                // The rays' cone, cut off behind the part.
                let end = (middle - from).length() + radius + LENS_GOES;
                let end = Ball { middle: from + along * end, radius: end * angle.tan() + LENS_GOES };
                self.solids[*part].may_be_between(eye, end, leeway.of_part(*part))
            }
        };
        let far = |part: &usize| ball(*part).map_or(FAR, |ball| (ball.middle - from).length() - ball.radius);
        let mut near: Vec<usize> = (0..self.parts.len()).filter(may).collect();
        near.sort_by(|a, b| far(a).total_cmp(&far(b)));
        Among::new(near.into_iter().map(|part| (part, ball(part))))
    }

    pub(crate) fn hit(&self, ray: Ray) -> Option<Hit> {
        self.hit_among(ray, &self.all)
    }

    /// The nearest hit with some of the parts.
    pub(crate) fn hit_among(&self, ray: Ray, among: &Among) -> Option<Hit> {
        self.nearest(ray, among).map(|(distance, part)| Hit {
            distance,
            place: ray.from + ray.along * distance,
            normal: self.solids[part].normal(ray, distance),
            part,
        })
    }

    /// How far along a ray the nearest of some parts is met, and which that is.
    pub(crate) fn nearest(&self, ray: Ray, among: &Among) -> Option<(f32, usize)> {
        let (mut distance, mut nearest) = (f32::INFINITY, None);
        among.met(ray, distance, |part| {
            if let Some(nearer) = self.solids[part].met(ray, distance) {
                (distance, nearest) = (nearer, Some(part));
            }
            Next::Within(distance)
        });
        nearest.map(|part| (distance, part))
    }

    /// The same for one part.
    pub(crate) fn met(&self, ray: Ray, part: usize) -> Option<(f32, usize)> {
        self.solids[part].met(ray, f32::INFINITY).map(|distance| (distance, part))
    }

    /// Whether anything of what may keep light off stands within a distance along a ray.
    pub(crate) fn shaded(&self, ray: Ray, within: f32, among: &Among) -> bool {
        let mut shaded = false;
        among.met(ray, within, |part| {
            shaded = self.solids[part].met(ray, within).is_some();
            if shaded { Next::Ends } else { Next::Within(within) }
        });
        shaded
    }

    /// What may keep light off any place of a part.
    pub(crate) fn between(&self, part: usize) -> &Between {
        &self.between[part]
    }

    /// What may keep light off places that lie in a ball, or anywhere.
    pub(crate) fn between_lights_and(&self, places: Option<Ball>, leeway: &Leeway) -> Between {
        let ball = |part: usize| self.solids[part].ball.map(|ball| ball.wider(leeway.of_part(part)));
        let among = |light: &dyn Fn(Ball) -> Ball| {
            let may = |part: &usize| {
                let between =
                    |places| self.solids[*part].may_be_between(places, light(places), leeway.of_part(*part));
                places.is_none_or(between)
            };
            Among::new(self.shading.iter().copied().filter(may).map(|part| (part, ball(part))))
        };
        let dusk = |places: Ball| Ball {
            middle: places.middle + self.dusk.0 * DUSK_FAR,
            radius: places.radius + DUSK_FAR * DUSK_WIDE * LONGEST,
        };
        let lamp = |(number, lamp): (usize, &Lamp)| Ball {
            middle: lamp.middle,
            radius: lamp.radius * LAMP_WIDE * LONGEST + leeway.of_lamp(number),
        };
        let lamps = self.lamps.iter().enumerate().map(|one| among(&|_| lamp(one)));
        Between { dusk: among(&dusk), lamps: lamps.collect() }
    }
}

/// How far each part and each lamp of a scene goes while the shutter is open, from where it is in the scene, in metres.
#[derive(Default)]
pub(crate) struct Leeway {
    parts: Vec<f32>,
    lamps: Vec<f32>,
}

impl Leeway {
    /// From the same scene at other moments.
    pub(crate) fn over(scene: &Scene, others: &[&Scene]) -> Self {
        let most = |far: &dyn Fn(&Scene) -> f32| others.iter().map(|other| far(other)).fold(0.0, f32::max);
        let part = |part: usize| {
            most(&|other| match (scene.solids[part], other.solids[part]) {
                (
                    Solid { ball: Some(ball), bounds: Some(bounds), .. },
                    Solid { ball: Some(later), bounds: Some(later_bounds), .. },
                ) => {
                    let grown = (later.radius - ball.radius).max(bounds.reaches_further(later_bounds));
                    (ball.middle - later.middle).length() + grown.max(0.0)
                }
                _ => 0.0,
            })
        };
        let lamp =
            |lamp: usize| most(&|other| (scene.lamps[lamp].middle - other.lamps[lamp].middle).length());
        Self {
            parts: (0..scene.parts.len()).map(part).collect(),
            lamps: (0..scene.lamps.len()).map(lamp).collect(),
        }
    }

    /// None where nothing moves.
    fn of_part(&self, part: usize) -> f32 {
        self.parts.get(part).copied().unwrap_or(0.0)
    }

    fn of_lamp(&self, lamp: usize) -> f32 {
        self.lamps.get(lamp).copied().unwrap_or(0.0)
    }
}

/// How far from the middle of the lens a ray begins at most, since the lens has a width and the camera goes on while the
/// shutter is open; in metres.
const LENS_GOES: f32 = 0.1;
/// Where what has no end comes among others.
const FAR: f32 = 1e3;
/// As far as dusk is looked for, in metres.
const DUSK_FAR: f32 = 600.0;
/// The longest step of [`crate::random::Random`].
const LONGEST: f32 = 2.0;

/// For each light the parts that may keep it off some places.
#[derive(Clone, Debug, Default)]
pub(crate) struct Between {
    pub(crate) dusk: Among,
    pub(crate) lamps: Vec<Among>,
}

impl Solid {
    /// How far along a ray it is first met from outside.
    fn distance(&self, ray: Ray) -> Option<f32> {
        match self.shape {
            Shape::Level { y } => {
                let distance = (y - ray.from.y) / ray.along.y;
                (distance > NEAR && distance < 2000.0).then_some(distance)
            }
            Shape::Block { middle, half, turn } => {
                let (near, far) = slabs(ray, middle, half, turn);
                let distance = near.max_element();
                (distance > NEAR && distance <= far.min_element()).then_some(distance)
            }
            Shape::Frustum { foot, height, low, high } => along_to_frustum(ray, foot, height, low, high),
            Shape::Rod { from, radius, .. } => self.along_to_rod(ray, from, radius),
            Shape::Ball { middle, radius } => {
                let offset = ray.from - middle;
                let along = offset.dot(ray.along);
                let under = along * along - offset.length_squared() + radius * radius;
                let distance = -along - under.max(0.0).sqrt();
                (under > 0.0 && distance > NEAR).then_some(distance)
            }
        }
    }

    /// Which way it faces where a ray meets it.
    fn normal(&self, ray: Ray, distance: f32) -> Vec3 {
        let place = ray.from + ray.along * distance;
        match self.shape {
            Shape::Level { .. } => Vec3::Y,
            Shape::Block { middle, half, turn } => {
                let (near, _) = slabs(ray, middle, half, turn);
                let along = turned(ray.along, -turn.0, turn.1);
                let face = if distance == near.x {
                    Vec3::X * -along.x.signum()
                } else if distance == near.y {
                    Vec3::Y * -along.y.signum()
                } else {
                    Vec3::Z * -along.z.signum()
                };
                turned(face, turn.0, turn.1)
            }
            Shape::Frustum { foot, height, low, high } => {
                let from_foot = place - foot;
                let flat = from_foot.xz();
                // Just below the rim its top and its side are told apart by which is nearer.
                let below = height - from_foot.y;
                if below < 1e-4 && flat.length() < high - below {
                    return Vec3::Y;
                }
                let out = flat.normalize();
                Vec3::new(out.x, (low - high) / height, out.y).normalize()
            }
            Shape::Rod { from, radius, .. } => {
                let offset = place - from;
                (offset - self.axis * offset.dot(self.axis)) / radius
            }
            Shape::Ball { middle, radius } => (place - middle) / radius,
        }
    }

    fn along_to_rod(&self, ray: Ray, from: Vec3, radius: f32) -> Option<f32> {
        let offset = ray.from - from;
        // What is left of both beside the axis: a circle in two dimensions.
        let (along_axis, offset_axis) = (ray.along.dot(self.axis), offset.dot(self.axis));
        let along = ray.along - self.axis * along_axis;
        let beside = offset - self.axis * offset_axis;
        let a = along.length_squared();
        let b = beside.dot(along);
        let under = b * b - a * (beside.length_squared() - radius * radius);
        if under < 0.0 || a == 0.0 {
            return None;
        }
        let distance = (-b - under.sqrt()) / a;
        let up = offset_axis + along_axis * distance;
        (distance > NEAR && (0.0..=self.length).contains(&up)).then_some(distance)
    }
}

/// Where a ray comes between each pair of a block's sides, and where it leaves.
fn slabs(ray: Ray, middle: Vec3, half: Vec3, (sin, cos): (f32, f32)) -> (Vec3, Vec3) {
    let from = turned(ray.from - middle, -sin, cos);
    let inverse = turned(ray.along, -sin, cos).recip();
    let (a, b) = ((-half - from) * inverse, (half - from) * inverse);
    (a.min(b), a.max(b))
}

fn along_to_frustum(ray: Ray, foot: Vec3, height: f32, low: f32, high: f32) -> Option<f32> {
    let from = ray.from - foot;
    let slope = (high - low) / height;
    // (x, z) within low + slope · y: a quadratic in the distance.
    let (radius, rate) = (low + slope * from.y, slope * ray.along.y);
    let flat = ray.along.xz();
    let a = flat.length_squared() - rate * rate;
    let b = from.xz().dot(flat) - radius * rate;
    let c = from.xz().length_squared() - radius * radius;
    let under = b * b - a * c;
    if under < 0.0 {
        return None;
    }
    let distance = (-b - under.sqrt()) / a;
    let y = from.y + ray.along.y * distance;
    if distance > NEAR && (0.0..=height).contains(&y) {
        return Some(distance);
    }
    // The top, seen from above.
    let distance = (height - from.y) / ray.along.y;
    let place = from + ray.along * distance;
    (distance > NEAR && place.xz().length_squared() <= high * high).then_some(distance)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rays_meet_shapes_where_geometry_says() {
        let ray = Ray { from: Vec3::new(0.0, 1.0, 10.0), along: Vec3::NEG_Z };
        let distance = |shape| Solid::of(shape).distance(ray).unwrap();
        assert!((distance(Shape::Ball { middle: Vec3::Y, radius: 2.0 }) - 8.0).abs() < 1e-4);
        let block = Shape::Block { middle: Vec3::ZERO, half: Vec3::splat(3.0), turn: (0.0, 1.0) };
        assert!((distance(block) - 7.0).abs() < 1e-4);
        // At height 1 of 4 the radius is 2 − 0.25 · 1 = 1.75.
        let cone = Shape::Frustum { foot: Vec3::ZERO, height: 4.0, low: 2.0, high: 1.0 };
        assert!((distance(cone) - 8.25).abs() < 1e-4);
        let rod = Shape::Rod { from: Vec3::new(0.0, 0.0, 2.0), to: Vec3::new(0.0, 3.0, 2.0), radius: 0.5 };
        assert!((distance(rod) - 7.5).abs() < 1e-4);
    }
}
