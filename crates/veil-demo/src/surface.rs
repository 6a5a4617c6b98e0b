//! How surfaces and the sky look.

use glam::{Vec3, Vec3Swizzles};

use crate::ball::Among;
use crate::camera::Ray;
use crate::parts::{Shape, Stuff, about_upright};
use crate::random::{Random, noise, octaves, octaves_slope};
use crate::scene::{Between, Hit, Lamp, Scene};
use crate::signal::light_through;

/// A surface at a place.
struct Finish {
    colour: Vec3,
    normal: Vec3,
    /// Share of light that is mirrored when seen straight on.
    mirror: f32,
    /// How far mirrored rays scatter.
    roughness: f32,
    glow: Vec3,
}

/// The light that comes along a ray; mirrored rays are followed once.
pub(crate) fn light_along(scene: &Scene, ray: Ray, random: &mut Random, bounces: u32) -> Vec3 {
    match scene.hit(ray) {
        None => sky(ray.along, scene.moment),
        Some(hit) => through(scene, &hit) + lit(scene, ray, &hit, scene.between(hit.part), random, bounces),
    }
}

/// The light that a met surface sends back along a ray, with what may keep light off it.
pub(crate) fn lit(
    scene: &Scene,
    ray: Ray,
    hit: &Hit,
    between: &Between,
    random: &mut Random,
    bounces: u32,
) -> Vec3 {
    let finish = finish(scene, hit);
    let mut light = finish.glow;
    let looks = if bounces > 0 { Looks::Two } else { Looks::One };
    light += finish.colour * diffuse(scene, hit, finish.normal, between, looks, random);
    if finish.mirror > 0.0 && bounces > 0 {
        let facing = (-ray.along.dot(finish.normal)).clamp(0.0, 1.0);
        let share = finish.mirror + (1.0 - finish.mirror) * (1.0 - facing).powi(5);
        let mirrored = ray.along - 2.0 * ray.along.dot(finish.normal) * finish.normal;
        let scatter = Vec3::new(random.normal(), random.normal(), random.normal()) * finish.roughness;
        let mut along = (mirrored + scatter).normalize();
        // What lies level mirrors nothing from below.
        if hit.normal.y > 0.9 {
            along.y = along.y.abs().max(0.01);
        }
        let from = hit.place + hit.normal * 2e-3;
        let seen = light_along(scene, Ray { from, along: along.normalize() }, random, bounces - 1);
        // Few rays go by way of a rough surface, so a lamp that one of them meets would be a speck.
        let most = if finish.roughness > 0.05 { 1.5 } else { 12.0 };
        light = light * (1.0 - share * 0.7) + seen.min(Vec3::splat(most)) * share;
    }
    in_air(light, hit.distance, ray.along, scene)
}

/// The light that comes through a surface from behind it, which [`lit`] leaves out.
pub(crate) fn through(scene: &Scene, hit: &Hit) -> Vec3 {
    let part = &scene.parts[hit.part];
    match part.stuff {
        Stuff::Signal { middle, light } => {
            light_through(hit.place - part.moved - middle) * light * clear(hit.distance)
        }
        _ => Vec3::ZERO,
    }
}

/// How much light comes through so much air.
fn clear(distance: f32) -> f32 {
    (-distance * 0.0022).exp()
}

/// Salt air: what is far away goes into the sky's light.
fn in_air(light: Vec3, distance: f32, along: Vec3, scene: &Scene) -> Vec3 {
    let clear = clear(distance);
    light * clear + scene.horizon.towards(along) * (1.0 - clear)
}

/// The sky's light low over the sea, all round, as it is at one moment.
#[derive(Clone, Debug)]
pub(crate) struct Horizon(Vec<Vec3>);

impl Horizon {
    /// Directions that are looked at; light between them is mixed.
    const COUNT: usize = 1024;

    pub(crate) fn at(moment: f32) -> Self {
        let light = |index: usize| {
            // Evenly round a square, which is told without an angle.
            let round = index as f32 * (4.0 / Self::COUNT as f32);
            let (x, z) = match round {
                ..2.0 => (1.0 - round, 1.0 - (1.0 - round).abs()),
                _ => (round - 3.0, (3.0 - round).abs() - 1.0),
            };
            sky(Vec3::new(x, 0.03 * x.hypot(z), z).normalize(), moment)
        };
        Self((0..=Self::COUNT).map(|index| light(index % Self::COUNT)).collect())
    }

    fn towards(&self, along: Vec3) -> Vec3 {
        let x = along.x / (along.x.abs() + along.z.abs()).max(1e-9);
        let round = if along.z >= 0.0 { 1.0 - x } else { 3.0 + x };
        let place = round * (Self::COUNT as f32 / 4.0);
        let index = (place as usize).min(Self::COUNT - 1);
        self.0[index].lerp(self.0[index + 1], place - index as f32)
    }
}

/// How many places of a lamp are looked at.
#[derive(Clone, Copy, PartialEq)]
enum Looks {
    /// Two that lie opposite.
    Two,
    /// One: what is mirrored is dim, and each pixel mirrors another place.
    One,
}

fn diffuse(
    scene: &Scene,
    hit: &Hit,
    normal: Vec3,
    between: &Between,
    looks: Looks,
    random: &mut Random,
) -> Vec3 {
    let from = hit.place + hit.normal * 2e-3;
    let open = 0.5 + 0.5 * normal.y;
    let near_ground = (hit.place.y * 1.5).clamp(0.0, 1.0) * 0.35 + 0.65;
    let mut light =
        (Vec3::new(0.13, 0.16, 0.23) * open + Vec3::new(0.05, 0.035, 0.03) * (1.0 - open)) * near_ground;
    let (towards, dusk) = scene.dusk;
    let scatter = random.step() * DUSK_WIDE;
    let along = (towards + scatter).normalize();
    let facing = towards.dot(normal);
    if facing > 0.0 && !scene.shaded(Ray { from, along }, 400.0, &between.dusk) {
        light += dusk * facing;
    }
    for (lamp, between) in scene.lamps.iter().zip(&between.lamps) {
        light += lamp_light(scene, lamp, from, normal, between, looks, random);
    }
    light
}

/// How wide the last light of the sun comes, and light from a lamp, in its radii: the length of one step of [`Random`].
pub(crate) const DUSK_WIDE: f32 = 0.05;
pub(crate) const LAMP_WIDE: f32 = 0.5;
/// Light that is lost in the sensor's noise.
const UNSEEN: f32 = 8e-4;

/// Light of a lamp of some size: from several places of a large one.
fn lamp_light(
    scene: &Scene,
    lamp: &Lamp,
    from: Vec3,
    normal: Vec3,
    between: &Among,
    looks: Looks,
    random: &mut Random,
) -> Vec3 {
    let middle = lamp.middle - from;
    let turned_away = middle.dot(normal) < -2.0 * lamp.radius;
    if turned_away || lamp.light.max_element() < UNSEEN * middle.length_squared() {
        return Vec3::ZERO;
    }
    let places = match looks {
        Looks::One => 1,
        Looks::Two => 2,
    };
    let mut light = Vec3::ZERO;
    let mut spread = Vec3::ZERO;
    for place in 0..places {
        // Every other place lies opposite to the one before, so that nearer and farther ones even out.
        spread = if place % 2 == 1 { -spread } else { random.step() * lamp.radius * LAMP_WIDE };
        let to = lamp.middle + spread - from;
        let distance = to.length();
        let along = to / distance;
        let facing = along.dot(normal);
        if facing > 0.0 && !scene.shaded(Ray { from, along }, distance - lamp.radius, between) {
            light += lamp.light * facing / (distance * distance + lamp.radius * lamp.radius);
        }
    }
    light / places as f32
}

/// Dusk over the sea, with torn cloud.
pub(crate) fn sky(along: Vec3, moment: f32) -> Vec3 {
    let height = along.y.max(0.0);
    let glow = (-height * 7.0).exp();
    let west = (along.x * 0.5 - along.z * 0.6).clamp(-1.0, 1.0) * 0.5 + 0.5;
    let mut light = Vec3::new(0.045, 0.085, 0.17).lerp(Vec3::new(0.16, 0.19, 0.25), (-height * 2.5).exp());
    light += Vec3::new(0.95, 0.36, 0.13) * glow * (0.25 + 0.75 * west) * 0.55;
    if along.y > 0.015 {
        let plane = Vec3::new(along.x / (along.y + 0.12), along.z / (along.y + 0.12), moment * 0.0006);
        let torn = octaves(Vec3::new(plane.x * 0.9, plane.y * 2.3, plane.z) + 3.7, 4, 41);
        let cover = ((torn + 0.02) * 2.6).clamp(0.0, 1.0) * (along.y * 9.0).min(1.0);
        let lit_below = Vec3::new(0.34, 0.20, 0.17) * (0.35 + glow * 1.6) + Vec3::new(0.03, 0.04, 0.06);
        light = light.lerp(lit_below, cover * 0.8);
    }
    light
}

fn finish(scene: &Scene, hit: &Hit) -> Finish {
    let part = &scene.parts[hit.part];
    // Textures travel with what moves.
    let place = hit.place - part.moved;
    match part.stuff {
        Stuff::Brick { row, seed } => brick(part.shape, place, hit.normal, row, seed),
        Stuff::WetStone => wet_stone(place, hit.normal),
        Stuff::Plaster { tint, seed } => plaster(place, hit.normal, tint, seed),
        Stuff::Wood { tint } => wood(place, hit.normal, tint),
        Stuff::Copper => Finish {
            colour: Vec3::new(0.30, 0.13, 0.07) * (1.0 + 0.5 * octaves(place * 9.0, 3, 5)),
            normal: hit.normal,
            mirror: 0.12,
            roughness: 0.16,
            glow: Vec3::ZERO,
        },
        Stuff::Bronze { middle, seed } => bronze(place - middle, hit.normal, seed),
        Stuff::Brass { middle, turn, .. } => brass(place - middle, hit.normal, turn),
        Stuff::Signal { .. } => signal(hit.normal),
        Stuff::Peeling { tint, seed } => peeling(place, hit.normal, tint, seed),
        Stuff::Cloth { tint, seed } => cloth(place, hit.normal, tint, seed),
        Stuff::Glass { tint, middle, turn } => glass(place - middle, hit.normal, tint, turn),
        Stuff::Fire { light, foot } => fire(place, hit.normal, light, foot, scene.moment),
        Stuff::Water => water(hit, scene.moment),
        Stuff::Glow { light } => {
            let uneven = 0.8 + 0.35 * octaves(place * 6.0 + Vec3::Y * scene.moment * 0.05, 3, 77);
            Finish {
                colour: Vec3::ZERO,
                normal: hit.normal,
                mirror: 0.0,
                roughness: 0.0,
                glow: light * uneven,
            }
        }
    }
}

/// A mouth of glowing coal under an arch: hottest low down, soot at its rim.
fn fire(place: Vec3, normal: Vec3, light: Vec3, foot: Vec3, moment: f32) -> Finish {
    let at = place - foot;
    let arch = if at.y > 0.8 { Vec3::new(at.x, at.y - 0.8, 0.0).length() } else { at.x.abs() };
    let rim = ((0.6 - arch) / 0.09).clamp(0.0, 1.0);
    let lick = octaves(Vec3::new(at.x * 3.0, at.y * 2.0 - moment * 0.11, moment * 0.06), 4, 77);
    let coal = octaves(Vec3::new(at.x * 9.0, at.y * 9.0, 0.3), 3, 79);
    let heat = (1.15 - at.y * 0.75 + lick * 1.5 + coal * 0.35 * (1.0 - at.y).max(0.0)).clamp(0.04, 1.6);
    let colour = Vec3::new(heat, heat.powf(1.9), heat.powf(3.2));
    let soot = Vec3::new(0.035, 0.028, 0.025);
    Finish { colour: soot, normal, mirror: 0.0, roughness: 0.0, glow: light * colour * rim }
}

/// The normal pushed by how a height rises over the surface.
fn bumped(normal: Vec3, slope: Vec3, depth: f32) -> Vec3 {
    (normal - (slope - normal * slope.dot(normal)) * depth).normalize()
}

fn brick(shape: Shape, place: Vec3, normal: Vec3, row: f32, seed: u32) -> Finish {
    let across = match shape {
        Shape::Frustum { foot, low, .. } => (place.z - foot.z).atan2(place.x - foot.x) * low,
        _ if normal.x.abs() > 0.5 => place.z,
        _ => place.x,
    };
    let wobble = 0.012 * noise(place * 5.0, seed);
    let v = (place.y + wobble) / row;
    let line = v.floor();
    let u = (across + wobble) / (row * 2.6) + 0.5 * (line.rem_euclid(2.0));
    let column = u.floor();
    let (fu, fv) = (u - column, v - line);
    let edge = (fu.min(1.0 - fu) * 2.6).min(fv.min(1.0 - fv));
    let joint = 1.0 - ((edge - 0.03) / 0.09).clamp(0.0, 1.0);
    let own = noise(Vec3::new(column * 1.7 + 0.5, line * 1.3 + 0.5, 0.5), seed + 9);
    let grain = octaves(place * 14.0, 3, seed + 3);
    let soot = (octaves(place * 0.9, 3, seed + 5) * 1.3 + 0.45).clamp(0.0, 1.0);
    let clay = Vec3::new(0.27, 0.12, 0.075) * (1.0 + 0.6 * own + 0.5 * grain);
    let mortar = Vec3::new(0.30, 0.28, 0.25) * (0.9 + 0.3 * grain);
    let colour = clay.lerp(mortar, joint) * (0.42 + 0.58 * soot);
    let tilt = Vec3::new(own, noise(Vec3::new(column, line, 3.3), seed) * 0.7, own * 0.6) * 0.10;
    let groove = joint * 0.5 * if fv < 0.5 { -1.0 } else { 1.0 };
    let normal =
        (normal + tilt + Vec3::Y * groove * 0.35 + grain * 0.12 * Vec3::new(0.6, 1.0, -0.4)).normalize();
    Finish { colour, normal, mirror: 0.0, roughness: 0.0, glow: Vec3::ZERO }
}

fn wet_stone(place: Vec3, normal: Vec3) -> Finish {
    let scale = 1.15;
    let warp = 0.18 * noise(Vec3::new(place.x * 1.7, 0.0, place.z * 1.7), 12);
    let (u, v) = ((place.x + warp) * scale, (place.z - warp) * scale * 1.35);
    let line = v.floor();
    let u = u + 0.5 * line.rem_euclid(2.0);
    let column = u.floor();
    let (fu, fv) = (u - column, v - line);
    let edge = fu.min(1.0 - fu).min(fv.min(1.0 - fv));
    let joint = 1.0 - (edge / 0.055).clamp(0.0, 1.0);
    let own = noise(Vec3::new(column + 0.5, line + 0.5, 0.5), 21);
    let grain = octaves(place * 7.0, 3, 22);
    let pool =
        ((octaves(Vec3::new(place.x * 0.28, 0.3, place.z * 0.28), 3, 31) + 0.04) * 5.0).clamp(0.0, 1.0);
    let dry = Vec3::new(0.13, 0.125, 0.12) * (1.0 + 0.35 * own + 0.5 * grain) * (1.0 - 0.6 * joint);
    let rough_normal =
        (normal + Vec3::new(own, 0.0, grain) * 0.06 + Vec3::new(grain, 0.0, own) * 0.05).normalize();
    let ripple = Vec3::new(noise(place * 3.0, 51), 0.0, noise(place * 3.1, 52)) * 0.004;
    Finish {
        colour: dry * (1.0 - 0.55 * pool),
        normal: rough_normal.lerp(normal + ripple, pool).normalize(),
        mirror: 0.025 + 0.02 * pool,
        roughness: 0.09 * (1.0 - pool) + 0.006,
        glow: Vec3::ZERO,
    }
}

fn plaster(place: Vec3, normal: Vec3, tint: Vec3, seed: u32) -> Finish {
    let stain = octaves(place * Vec3::new(1.3, 0.5, 1.3), 4, seed);
    let grain = octaves(place * 11.0, 3, seed + 7);
    let damp = (0.6 - place.y * 0.5 + stain * 0.6).clamp(0.0, 1.0);
    let colour = tint * (1.0 + 0.5 * stain + 0.3 * grain) * (1.0 - 0.5 * damp);
    // Trowelled: shallow, and finer than the stains.
    let normal = bumped(normal, 13.0 * octaves_slope(place * 13.0, 2, seed), 0.006);
    Finish { colour, normal, mirror: 0.0, roughness: 0.0, glow: Vec3::ZERO }
}

/// Worn bright where it stands out, with verdigris in streaks that run down.
fn bronze(from_middle: Vec3, normal: Vec3, seed: u32) -> Finish {
    let around = from_middle.z.atan2(from_middle.x);
    let run = octaves(Vec3::new(around.cos() * 4.0, from_middle.y * 0.8, around.sin() * 4.0), 4, seed);
    let spot = octaves(from_middle * 9.0, 4, seed + 3);
    let green = ((run * 0.9 + spot * 0.6 + 0.12) * 1.7).clamp(0.0, 1.0) * 0.85;
    let metal = Vec3::new(0.20, 0.115, 0.05) * (1.0 + 0.4 * spot);
    let crust = Vec3::new(0.07, 0.17, 0.135) * (1.0 + 0.5 * spot);
    let normal = bumped(normal, 22.0 * octaves_slope(from_middle * 22.0, 2, seed + 5), 0.004);
    Finish {
        colour: metal.lerp(crust, green),
        normal,
        mirror: 0.1 * (1.0 - green),
        roughness: 0.045,
        glow: Vec3::ZERO,
    }
}

/// Beaten into shape, engraved with rings and spokes, dull where hands do not reach.
fn brass(from_middle: Vec3, normal: Vec3, turn: f32) -> Finish {
    // What is on it turns with it.
    let at = about_upright(from_middle, -turn);
    let dull = octaves(at * 5.0, 4, 211);
    let spot = octaves(at * 19.0, 3, 213);
    let scratch = octaves(at * Vec3::new(9.0, 90.0, 9.0) + dull, 2, 215);
    let line = |along: f32, wide: f32| 1.0 - ((along - along.round()).abs() / wide).clamp(0.0, 1.0);
    let spokes = line(at.z.atan2(at.x) * 18.0 / std::f32::consts::TAU, 0.035);
    let rings = line(at.y * 7.5, 0.04);
    let cut = spokes.max(rings);
    let tarnish = ((dull * 1.2 + spot * 0.5 + 0.25) * 1.4).clamp(0.0, 1.0);
    let metal = Vec3::new(0.34, 0.22, 0.075) * (1.0 + 0.35 * spot + 0.25 * scratch);
    let brown = Vec3::new(0.085, 0.058, 0.034) * (1.0 + 0.5 * spot);
    let slope = about_upright(13.0 * octaves_slope(at * 13.0, 2, 217), turn);
    Finish {
        colour: metal.lerp(brown, tarnish) * (1.0 - 0.75 * cut),
        normal: bumped(normal, slope, 0.006),
        mirror: 0.05 * (1.0 - tarnish) * (1.0 - cut),
        roughness: 0.12,
        glow: Vec3::ZERO,
    }
}

/// Polished; what comes through it is [`through`]'s.
fn signal(normal: Vec3) -> Finish {
    Finish { colour: Vec3::splat(0.02), normal, mirror: 0.03, roughness: 0.006, glow: Vec3::ZERO }
}

/// Old paint on boards, come off in patches, so that the wood shows.
fn peeling(place: Vec3, normal: Vec3, tint: Vec3, seed: u32) -> Finish {
    let bare = wood(place, normal, Vec3::new(0.075, 0.055, 0.04));
    let patch = octaves(place * Vec3::new(3.1, 4.3, 3.1), 4, seed) + 0.06;
    let left = (patch * 9.0).clamp(0.0, 1.0);
    let dirt = octaves(place * 6.0, 3, seed + 4);
    let colour = bare.colour.lerp(tint * (1.0 + 0.35 * dirt), left);
    Finish { colour, mirror: 0.0, ..bare }
}

fn cloth(place: Vec3, normal: Vec3, tint: Vec3, seed: u32) -> Finish {
    let folds = Vec3::new(6.5, 1.6, 6.5);
    let weave = octaves(place * 60.0, 2, seed + 3);
    let worn = octaves(place * 1.7, 3, seed + 5);
    let normal = bumped(normal, folds * octaves_slope(place * folds, 3, seed), 0.05);
    Finish {
        colour: tint * (1.0 + 0.10 * weave + 0.16 * worn),
        normal,
        mirror: 0.0,
        roughness: 0.0,
        glow: Vec3::ZERO,
    }
}

fn glass(from_middle: Vec3, normal: Vec3, tint: Vec3, turn: f32) -> Finish {
    let (sin, cos) = turn.sin_cos();
    let at = Vec3::new(
        from_middle.x * cos + from_middle.z * sin,
        from_middle.y,
        from_middle.z * cos - from_middle.x * sin,
    );
    let streak = octaves(at * Vec3::new(5.0, 17.0, 5.0), 3, 97);
    let bubble = ((noise(at * 70.0, 98) - 0.5) * 8.0).clamp(0.0, 1.0);
    let swirl = octaves(at * Vec3::new(9.0, 4.0, 9.0) + streak, 3, 99);
    let colour = tint * (1.0 + 0.7 * streak + 0.6 * swirl) + Vec3::new(0.05, 0.08, 0.07) * bubble;
    Finish { colour, normal, mirror: 0.07, roughness: 0.008, glow: Vec3::ZERO }
}

fn wood(place: Vec3, normal: Vec3, tint: Vec3) -> Finish {
    let plank = (place.y / 0.16).floor();
    let edge = (place.y / 0.16 - plank).min(1.0 - (place.y / 0.16 - plank));
    let groove = 1.0 - (edge / 0.06).clamp(0.0, 1.0);
    let grain = octaves(Vec3::new(place.x * 2.0, place.y * 40.0, place.z * 2.0), 3, 61);
    let own = noise(Vec3::new(plank, 0.5, (place.x * 0.4).floor()), 62);
    let colour = tint * (1.0 + 0.5 * grain + 0.4 * own) * (1.0 - 0.7 * groove);
    let normal = (normal + Vec3::Y * grain * 0.12).normalize();
    Finish { colour, normal, mirror: 0.02, roughness: 0.25, glow: Vec3::ZERO }
}

fn water(hit: &Hit, moment: f32) -> Finish {
    let flat = hit.place.xz();
    // Far away the ripples are finer than a pixel and average out.
    let near = 1.0 / (1.0 + hit.distance * 0.03);
    let wave = |scale: f32, speed: f32, seed: u32| {
        let at = Vec3::new(flat.x * scale, moment * speed, flat.y * scale * 2.4);
        Vec3::new(noise(at, seed), 0.0, noise(at, seed + 1))
    };
    let swell = wave(0.7, 0.035, 91) * 0.05 + wave(2.1, 0.06, 93) * 0.035 + wave(6.3, 0.11, 95) * 0.02;
    Finish {
        colour: Vec3::new(0.010, 0.016, 0.020),
        normal: (Vec3::Y + swell * near.max(0.25)).normalize(),
        mirror: 0.03,
        roughness: 0.012,
        glow: Vec3::ZERO,
    }
}
