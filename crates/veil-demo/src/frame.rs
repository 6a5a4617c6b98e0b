//! One frame of a shot: the plate and its passes, written as one OpenEXR file.

use std::path::Path;

use glam::{Vec2, Vec3, Vec4};
use rayon::prelude::*;
use veil_media::{About, Depth, Layer, LayerChannel, MediaError, write_layers, write_whole};
use veil_pixels::colour::space::BT709;
use veil_pixels::key::cryptomatte::{Id, murmur3_32};
use veil_pixels::{Picture, Raster, Window};

use crate::ball::{Among, Ball};
use crate::camera::{Eye, Ray};
use crate::film;
use crate::parts::{Stuff, Thing};
use crate::random::Random;
use crate::scene::{Between, Hit, Leeway, Scene};
use crate::shots::Shot;
use crate::surface::{lit, sky, through};
use crate::truth;

/// Rays through lens and shutter for each pixel.
const SAMPLES: u32 = 5;
/// Share of a frame that the shutter is open.
const SHUTTER: f32 = 0.5;
/// How far a pixel's rays stand from its middle, in pixels: what keeps edges one to three pixels wide.
const SOFTNESS: f32 = 0.8;
/// Ranks of the Cryptomatte that are written.
const RANKS: usize = 4;
/// Depth and position where there is only sky.
const FAR: f32 = 10_000.0;

/// What chance in a frame is drawn by.
const fn lot(shot: Shot, frame: i32) -> i32 {
    frame + 100_000 * shot.take()
}

/// What one pixel holds.
#[derive(Clone, Copy, Default)]
struct Pixel {
    plate: [f32; 3],
    depth: f32,
    position: [f32; 3],
    motion: [f32; 2],
    ranks: [(u32, f32); RANKS],
    /// Light and coverage of the person in it, premultiplied, as it is before it is recorded.
    figure: [f32; 4],
}

/// Cameras and scenes of a frame: at the middle of the shutter, one frame later, and over the shutter.
struct Moments {
    eye: Eye,
    next_eye: Eye,
    scene: Scene,
    shutter: Vec<(Eye, Scene)>,
    leeway: Leeway,
    offsets: Vec<Vec2>,
    /// Bits of each part's ID, and of the sky's.
    ids: Vec<u32>,
    sky_id: u32,
}

impl Moments {
    fn new(shot: Shot, since: f32) -> Self {
        let plan = shot.plan();
        let eye = |moment: f32| shot.camera(moment).eye(plan.width, plan.height);
        let open = |sample: u32| since + SHUTTER * ((sample as f32 + 0.5) / SAMPLES as f32 - 0.5);
        let scene = shot.scene(since);
        let shutter: Vec<(Eye, Scene)> =
            (0..SAMPLES).map(|sample| (eye(open(sample)), shot.scene(open(sample)))).collect();
        let id_of = |thing: Thing| Id::of(thing.name()).bits();
        Self {
            eye: eye(since),
            next_eye: eye(since + 1.0),
            offsets: (0..SAMPLES).map(offset).collect(),
            ids: scene.parts.iter().map(|part| id_of(part.thing)).collect(),
            sky_id: id_of(Thing::Sky),
            leeway: Leeway::over(&scene, &shutter.iter().map(|(_, scene)| scene).collect::<Vec<_>>()),
            scene,
            shutter,
        }
    }
}

/// Draws a frame and writes it, whole or not at all.
pub(crate) fn draw(shot: Shot, frame: i32, file: &Path, turn: &(dyn Fn() + Sync)) -> Result<(), MediaError> {
    let plan = shot.plan();
    let window = Window::sized(plan.width, plan.height);
    let moments = Moments::new(shot, (frame - plan.frames.first) as f32);
    let bands = bands(window, lot(shot, frame), &moments, turn, &|pixels| passes_of(pixels));
    let layers = layers(&bands, window, &moments.scene, truth::camera_text(shot, frame));
    write_whole(file, |out| write_layers(file, About::still(window, BT709), layers, out))?;
    Ok(())
}

/// A frame as it is drawn.
pub struct DrawnFrame {
    /// What the camera records.
    pub plate: Picture,
    /// The person in it, alone: light and coverage as they are before they are recorded.
    pub figure: Picture,
}

/// Draws a window of a frame of a shot, and writes nothing.
pub fn drawn_part(shot: Shot, frame: i32, window: Window) -> DrawnFrame {
    let plan = shot.plan();
    let window = window.intersect(Window::sized(plan.width, plan.height));
    let moments = Moments::new(shot, (frame - plan.frames.first) as f32);
    let pixels = bands(window, lot(shot, frame), &moments, &|| {}, &|pixels| pixels.to_vec()).concat();
    let picture = |of: &dyn Fn(&Pixel) -> [f32; 4]| {
        Raster::from_pixels(window, pixels.iter().map(of).collect()).unwrap_or_else(|| Raster::clear(window))
    };
    DrawnFrame {
        plate: picture(&|pixel| [pixel.plate[0], pixel.plate[1], pixel.plate[2], 1.0]),
        figure: picture(&|pixel| pixel.figure),
    }
}

/// What is made of each band of pixels, from the top down.
fn bands<T: Send>(
    window: Window,
    frame: i32,
    moments: &Moments,
    turn: &(dyn Fn() + Sync),
    made_of: &(dyn Fn(&[Pixel]) -> T + Sync),
) -> Vec<T> {
    let (width, height) = (window.width(), window.height());
    let band = |band: usize| {
        turn();
        let rows = TILE.min(height - band * TILE);
        let mut pixels = vec![Pixel::default(); rows * width];
        let top = window.y0 + (band * TILE) as i32;
        for left in (0..width).step_by(TILE) {
            let tile = [window.x0 + left as i32, top];
            let rows = pixels.chunks_mut(width).map(|row| &mut row[left..width.min(left + TILE)]);
            draw_tile(moments, frame, tile, rows);
        }
        made_of(&pixels)
    };
    (0..height.div_ceil(TILE)).into_par_iter().map(band).collect()
}

/// Side of the tiles for which the parts that may be met are found beforehand, in pixels.
const TILE: usize = 16;

/// Draws the rows of a tile: first what is seen in all its pixels, so that little has to be asked what keeps light
/// off them, and then how that is lit.
fn draw_tile<'a>(moments: &Moments, frame: i32, tile: [i32; 2], rows: impl Iterator<Item = &'a mut [Pixel]>) {
    let near = near_tile(moments, tile);
    let glances = Glances::over(moments, frame, tile, &near);
    let mut seen = Vec::with_capacity(TILE * TILE);
    for (y, row) in rows.enumerate() {
        for (x, pixel) in row.iter_mut().enumerate() {
            seen.push((glances.seen(moments, [x, y], &near), pixel));
        }
    }
    let dark =
        Dark::over(moments, seen.iter().flat_map(|(seen, _)| std::iter::once(&seen.met).chain(&seen.others)));
    for (seen, pixel) in seen {
        *pixel = seen.recorded(moments, &near, &dark);
    }
}

/// The first ray of a pixel, and how its next ones are chosen.
struct Glance<'a> {
    middle: Vec2,
    random: Random,
    turn: Vec2,
    sample: usize,
    met: Met<'a>,
}

impl<'a> Glance<'a> {
    fn at(moments: &'a Moments, [x, y]: [i32; 2], frame: i32, near: &Among) -> Self {
        let mut random = Random::new([x, y, frame].map(|part| part as u32));
        let middle = Vec2::new(x as f32 + 0.5, y as f32 + 0.5);
        let turn = Vec2::from_angle(random.next() * std::f32::consts::TAU);
        // Pixels beside each other begin with other moments of the shutter.
        let sample = (x + 2 * y).rem_euclid(SAMPLES as i32) as usize;
        let met = Met::at(moments, middle, turn, sample, &mut random, near);
        Self { middle, random, turn, sample, met }
    }
}

/// The first rays of a tile's pixels and of those about it. Where all of a neighbourhood meet one surface, the pixel in
/// its middle shows nothing else, and needs no further ray.
struct Glances<'a> {
    all: Vec<Glance<'a>>,
    /// The part that each first ray met, close together.
    parts: Vec<Option<u32>>,
    /// Whether each pixel is looked at by all its rays.
    all_rays: bool,
}

/// Pixels on each side whose first rays tell what a pixel shows.
const ABOUT: usize = 2;
const GLANCED: usize = TILE + 2 * ABOUT;
/// What is narrower than this, or moves or is blurred by more, might be missed by first rays; in pixels.
const NARROW: f32 = 1.5;
const WIDE: f32 = 2.5;

impl<'a> Glances<'a> {
    fn over(moments: &'a Moments, frame: i32, [left, top]: [i32; 2], near: &Among) -> Self {
        let place = |at: usize| {
            [left + (at % GLANCED) as i32 - ABOUT as i32, top + (at / GLANCED) as i32 - ABOUT as i32]
        };
        let all: Vec<Glance<'a>> =
            (0..GLANCED * GLANCED).map(|at| Glance::at(moments, place(at), frame, near)).collect();
        let parts = all.iter().map(|glance| glance.met.hit.map(|hit| hit.part as u32)).collect();
        let slips_through = |part: &usize| {
            let part = &moments.scene.parts[*part];
            part.shape.extent().is_some_and(|extent| {
                let distance = (extent.middle - moments.eye.place()).length();
                let (from, to) = ((distance - extent.radius).max(0.2), distance + extent.radius);
                extent.narrowest * moments.eye.pixels_a_metre(to) < NARROW
                    || part.velocity.length() * moments.eye.pixels_a_metre(from) > WIDE
                    || moments.eye.blur(from).min(moments.eye.blur(to)) > WIDE
            })
        };
        Self { all, parts, all_rays: near.parts().iter().any(slips_through) }
    }

    fn seen(&self, moments: &'a Moments, [x, y]: [usize; 2], near: &Among) -> Seen<'a> {
        let glance = &self.all[(y + ABOUT) * GLANCED + x + ABOUT];
        let own = self.parts[(y + ABOUT) * GLANCED + x + ABOUT];
        let same = |row: usize| self.parts[row * GLANCED + x..][..=2 * ABOUT] == [own; 2 * ABOUT + 1];
        if !self.all_rays && !glance.met.is_fine() && (y..=y + 2 * ABOUT).all(same) {
            return Seen::by(moments, glance, 1, near);
        }
        Seen::by(moments, glance, SAMPLES as usize, near)
    }
}

fn near_tile(moments: &Moments, [left, top]: [i32; 2]) -> Among {
    let corner = Vec2::new(left as f32, top as f32);
    let middle = moments.eye.ray(corner + TILE as f32 / 2.0);
    let angle = moments.eye.ray(corner - 4.0).along.angle_between(middle.along) * 1.05;
    moments.scene.near(middle.from, middle.along, angle, &moments.leeway)
}

/// A surface that some of a pixel's rays met. It is lit once, where the first of them met it: light over a
/// surface changes slowly against a pixel, and lighting is most of the cost. Waves mirror something else at each
/// place, so water is lit for no more than two rays at a time; what comes through glass in lead, whose lines are
/// finer than a pixel, is looked at for each.
#[derive(Clone)]
struct Met<'a> {
    share: f32,
    /// What comes through it.
    through: Vec3,
    scene: &'a Scene,
    ray: Ray,
    hit: Option<Hit>,
}

impl<'a> Met<'a> {
    fn at(
        moments: &'a Moments,
        middle: Vec2,
        turn: Vec2,
        sample: usize,
        random: &mut Random,
        near: &Among,
    ) -> Self {
        let (eye, scene) = &moments.shutter[sample];
        let ray = eye.lens_ray(middle + turn.rotate(moments.offsets[sample]), random);
        let hit = scene.hit_among(ray, near);
        let through = hit.map_or(Vec3::ZERO, |hit| through(scene, &hit));
        Self { share: 1.0, through, scene, ray, hit }
    }

    fn stuff(&self) -> Option<Stuff> {
        self.hit.map(|hit| self.scene.parts[hit.part].stuff)
    }

    /// Whether it changes within a pixel.
    fn is_fine(&self) -> bool {
        matches!(self.stuff(), Some(Stuff::Water | Stuff::Signal { .. }))
    }
}

/// What keeps light off the parts that a tile shows.
struct Dark(Vec<(usize, Between)>);

impl Dark {
    fn over<'a>(moments: &Moments, met: impl Iterator<Item = &'a Met<'a>>) -> Self {
        let mut reach: Vec<(usize, Vec3, Vec3)> = Vec::new();
        for hit in met.filter_map(|met| met.hit.as_ref()) {
            match reach.iter_mut().find(|(part, ..)| *part == hit.part) {
                Some((_, low, high)) => (*low, *high) = (low.min(hit.place), high.max(hit.place)),
                None => reach.push((hit.part, hit.place, hit.place)),
            }
        }
        let between = |(part, low, high): (usize, Vec3, Vec3)| {
            // A little more, since light is looked for from just off the surface.
            let places = Ball { middle: (low + high) * 0.5, radius: (high - low).length() * 0.5 + 0.01 };
            (part, moments.scene.between_lights_and(Some(places), &moments.leeway))
        };
        Self(reach.into_iter().map(between).collect())
    }

    fn about<'a>(&'a self, scene: &'a Scene, part: usize) -> &'a Between {
        self.0.iter().find(|(known, _)| *known == part).map_or(scene.between(part), |(_, between)| between)
    }
}

/// What a pixel sees before it is lit.
struct Seen<'a> {
    middle: Vec2,
    random: Random,
    met: Met<'a>,
    /// What others of its rays met.
    others: Vec<Met<'a>>,
    shows: Shows,
    ranks: [(u32, f32); RANKS],
}

impl<'a> Seen<'a> {
    /// By a pixel's first ray and so many others that there are `rays` of them.
    fn by(moments: &'a Moments, first: &Glance<'a>, rays: usize, near: &Among) -> Self {
        let (middle, mut random) = (first.middle, first.random.clone());
        let mut ranks: [(u32, f32); RANKS] = [(0, 0.0); RANKS];
        let mut met = Met { share: 0.0, through: Vec3::ZERO, ..first.met.clone() };
        let mut others: Vec<Met<'a>> = Vec::new();
        let share = 1.0 / rays as f32;
        for number in 0..rays {
            let sample = (first.sample + number) % SAMPLES as usize;
            let mut ray = match number {
                0 => first.met.clone(),
                _ => Met::at(moments, middle, first.turn, sample, &mut random, near),
            };
            (ray.share, ray.through) = (share, ray.through * share);
            let id = ray.hit.map_or(moments.sky_id, |hit| moments.ids[hit.part]);
            if let Some(rank) = ranks.iter_mut().find(|rank| rank.0 == id || rank.1 == 0.0) {
                *rank = (id, rank.1 + share);
            }
            let most = if matches!(ray.stuff(), Some(Stuff::Water)) { 1.5 * share } else { 1.0 };
            let same = |met: &&mut Met<'_>| {
                met.hit.map(|hit| hit.part) == ray.hit.map(|hit| hit.part) && met.share < most
            };
            match std::iter::once(&mut met).chain(&mut others).find(same) {
                Some(met) => (met.share, met.through) = (met.share + share, met.through + ray.through),
                None => others.push(ray),
            }
        }
        ranks.sort_by(|a, b| b.1.total_cmp(&a.1));
        let shows = if rays == 1 { Shows::One(met.hit.map(|hit| hit.part)) } else { Shows::Several };
        Self { middle, random, met, others, shows, ranks }
    }

    fn recorded(mut self, moments: &Moments, near: &Among, dark: &Dark) -> Pixel {
        let (mut light, mut figure) = (Vec3::ZERO, Vec4::ZERO);
        for met in std::iter::once(self.met).chain(self.others) {
            let seen = met.through
                + met.share
                    * match met.hit {
                        None => sky(met.ray.along, met.scene.moment),
                        Some(hit) => {
                            let between = dark.about(met.scene, hit.part);
                            lit(met.scene, met.ray, &hit, between, &mut self.random, 1)
                        }
                    };
            light += seen;
            if met.hit.is_some_and(|hit| met.scene.parts[hit.part].thing == Thing::Caretaker) {
                figure += seen.extend(met.share);
            }
        }
        let mut pixel = Pixel {
            plate: film::recorded(light, &mut self.random).to_array(),
            figure: figure.to_array(),
            ranks: self.ranks,
            ..Pixel::default()
        };
        truth_at(moments, self.middle, near, self.shows, &mut pixel);
        pixel
    }
}

/// Where a sample stands about the pixel's middle: evenly round it twice, farther out with each. Each pixel turns
/// them all anew.
fn offset(sample: u32) -> Vec2 {
    let (share, radius) = (sample as f32 / SAMPLES as f32, (sample as f32 + 0.5) / SAMPLES as f32);
    Vec2::from_angle(share * 2.0 * std::f32::consts::TAU) * radius.sqrt() * SOFTNESS
}

/// What a pixel shows.
#[derive(Clone, Copy)]
enum Shows {
    /// One part, or only sky, from side to side.
    One(Option<usize>),
    /// Perhaps more.
    Several,
}

/// Depth, position and motion of what stands at the middle of the pixel at the middle of the shutter.
fn truth_at(moments: &Moments, middle: Vec2, near: &Among, shows: Shows, pixel: &mut Pixel) {
    let (ray, scene) = (moments.eye.ray(middle), &moments.scene);
    let alone = match shows {
        Shows::One(Some(part)) => scene.met(ray, part),
        _ => None,
    };
    let met = match shows {
        Shows::One(None) => None,
        _ => alone.or_else(|| scene.nearest(ray, near)),
    };
    let (place, velocity) = match met {
        Some((distance, part)) => {
            let place = ray.from + ray.along * distance;
            (place, scene.parts[part].goes(place))
        }
        None => (ray.from + ray.along * FAR, Vec3::ZERO),
    };
    pixel.depth = moments.eye.project(place).1;
    pixel.position = place.to_array();
    pixel.motion = (moments.next_eye.project(place + velocity).0 - middle).to_array();
}

type Value = fn(&Pixel) -> f32;

/// Its name, how it is kept, and what of a pixel it is.
type Channel = (&'static str, Depth, Value);

/// Its name and its channels.
type Pass = (&'static str, &'static [Channel]);

const fn id<const RANK: usize>(pixel: &Pixel) -> f32 {
    f32::from_bits(pixel.ranks[RANK].0)
}

const fn share<const RANK: usize>(pixel: &Pixel) -> f32 {
    pixel.ranks[RANK].1
}

/// The parts of a frame's file, and the channels of each.
const PASSES: [Pass; 6] = [
    (
        "plate",
        &[
            ("R", Depth::Half, |p| p.plate[0]),
            ("G", Depth::Half, |p| p.plate[1]),
            ("B", Depth::Half, |p| p.plate[2]),
        ],
    ),
    ("depth", &[("Z", Depth::Float, |p| p.depth)]),
    (
        "position",
        &[
            ("X", Depth::Half, |p| p.position[0]),
            ("Y", Depth::Half, |p| p.position[1]),
            ("Z", Depth::Half, |p| p.position[2]),
        ],
    ),
    ("motion", &[("X", Depth::Half, |p| p.motion[0]), ("Y", Depth::Half, |p| p.motion[1])]),
    (
        "things00",
        &[
            ("R", Depth::Float, id::<0>),
            ("G", Depth::Float, share::<0>),
            ("B", Depth::Float, id::<1>),
            ("A", Depth::Float, share::<1>),
        ],
    ),
    (
        "things01",
        &[
            ("R", Depth::Float, id::<2>),
            ("G", Depth::Float, share::<2>),
            ("B", Depth::Float, id::<3>),
            ("A", Depth::Float, share::<3>),
        ],
    ),
];

/// What the parts that begin with it are of, each with two ranks.
const CRYPTOMATTE: &str = "things";

/// The values of each channel of each part.
type Values = [Vec<Vec<f32>>; PASSES.len()];

/// Taken while the pixels are at hand: later each of them would have to be fetched for each channel.
fn passes_of(pixels: &[Pixel]) -> Values {
    PASSES
        .map(|(_, channels)| channels.iter().map(|(.., value)| pixels.iter().map(value).collect()).collect())
}

fn layers(bands: &[Values], window: Window, scene: &Scene, camera: String) -> Vec<Layer> {
    let mut texts = cryptomatte_texts(scene);
    texts.push(("camera".to_owned(), camera));
    let mut layer = |(pass, (name, channels)): (usize, &Pass)| Layer {
        name: (*name).into(),
        data: window,
        channels: (0..)
            .zip(*channels)
            .map(|(number, (name, depth, _)): (usize, _)| {
                let values: Vec<&[f32]> = bands.iter().map(|band| band[pass][number].as_slice()).collect();
                LayerChannel {
                    name: (*name).into(),
                    depth: *depth,
                    values: Raster::from_pixels(window, values.concat())
                        .unwrap_or_else(|| Raster::clear(window)),
                }
            })
            .collect(),
        texts: if pass == 0 { std::mem::take(&mut texts) } else { Vec::new() },
    };
    PASSES.iter().enumerate().map(&mut layer).collect()
}

/// The header's part of a Cryptomatte, per its specification.
fn cryptomatte_texts(scene: &Scene) -> Vec<(String, String)> {
    let key = &format!("{:08x}", murmur3_32(CRYPTOMATTE.as_bytes(), 0))[..7];
    let mut things: Vec<Thing> = scene.parts.iter().map(|part| part.thing).chain([Thing::Sky]).collect();
    things.sort();
    things.dedup();
    let names =
        things.iter().map(|thing| format!("\"{}\":\"{:08x}\"", thing.name(), Id::of(thing.name()).bits()));
    let manifest = format!("{{{}}}", names.collect::<Vec<_>>().join(","));
    [
        ("name", CRYPTOMATTE.to_owned()),
        ("hash", "MurmurHash3_32".to_owned()),
        ("conversion", "uint32_to_float32".to_owned()),
        ("manifest", manifest),
    ]
    .into_iter()
    .map(|(what, value)| (format!("cryptomatte/{key}/{what}"), value))
    .collect()
}
