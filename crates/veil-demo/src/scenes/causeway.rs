//! SG040: the caretaker walks along the causeway, the camera on its stand turning after him; and the same turn without him.

use glam::Vec3;

use super::{hill, knob, post, sway};
use crate::camera::Camera;
use crate::parts::{Part, Shape, Stuff, Thing};
use crate::random::noise;
use crate::scene::{Lamp, Scene};

/// How many frames later the take without him was shot: waves and sky are no longer the same.
const LATER: f32 = 2900.0;

/// On a stand: it turns, and stays where it is, so that all of a picture moves as one plane would.
pub(crate) fn camera(moment: f32) -> Camera {
    let sway = |seed: u32, size: f32| sway(moment, seed, size);
    Camera {
        place: Vec3::new(0.0, 1.75, 9.2),
        target: Vec3::new(-0.42 + 0.0074 * moment + sway(401, 0.02), 1.45 + sway(402, 0.02), 0.0),
        roll: sway(403, 0.003),
        focal_mm: 35.0,
        sensor_width_mm: 36.0,
        f_number: 5.6,
        focus_m: 9.2,
    }
}

/// How high the causeway stands.
const TOP: f32 = 0.34;
const LAMPS: [Vec3; 2] = [Vec3::new(-2.55, 2.62, -1.7), Vec3::new(2.45, 2.62, -1.7)];
/// Of a low wall behind the causeway: its middle and half its size.
const WALL: [Vec3; 2] = [Vec3::new(0.15, 0.61, -2.45), Vec3::new(1.75, 0.81, 0.2)];

/// Painted knobs on posts and wall, two near either side of the frame and two nearer its middle.
pub(crate) fn marks() -> Vec<Vec3> {
    let on_wall = |x: f32, y: f32| WALL[0] + Vec3::new(x, y, WALL[1].z);
    let on_post = |lamp: Vec3, y: f32| Vec3::new(lamp.x, y, lamp.z + 0.055);
    vec![
        on_post(LAMPS[0], 2.3),
        on_post(LAMPS[1], 2.3),
        on_post(LAMPS[1], 0.75),
        on_post(LAMPS[0], 0.75),
        on_wall(-1.4, 0.6),
        on_wall(1.4, 0.6),
    ]
}

pub(crate) fn places(moment: f32) -> Vec<(&'static str, Vec3)> {
    let names = ["upper left knob", "upper right knob", "lower right knob", "lower left knob"];
    let known = names.into_iter().zip(marks());
    known.chain([("caretaker's head", Walker::at(moment).head())]).collect()
}

pub(crate) fn scene(moment: f32) -> Scene {
    let mut scene = place();
    scene.extend(walking(moment));
    lit(scene, moment)
}

pub(crate) fn scene_without_him(moment: f32) -> Scene {
    lit(place(), moment + LATER)
}

fn lit(parts: Vec<Part>, moment: f32) -> Scene {
    let warm = |middle: Vec3| Lamp { middle, radius: 0.14, light: Vec3::new(3.0, 1.85, 0.85) };
    let mut lamps: Vec<Lamp> = LAMPS.into_iter().map(warm).collect();
    lamps.push(Lamp { middle: Vec3::new(-3.5, 4.2, 6.0), radius: 0.8, light: Vec3::new(5.5, 6.4, 8.0) });
    let dusk = (Vec3::new(-0.6, 0.3, 0.4).normalize(), Vec3::new(0.4, 0.24, 0.16));
    Scene::new(parts, lamps, dusk, moment)
}

/// All but him. Nothing in it moves but the water.
fn place() -> Vec<Part> {
    let block = |middle: Vec3, half: Vec3| Shape::Block { middle, half, turn: (0.0, 1.0) };
    let turned = |middle: Vec3, half: Vec3, by: f32| Shape::Block { middle, half, turn: by.sin_cos() };
    let crate_wood = Stuff::Wood { tint: Vec3::new(0.13, 0.09, 0.055) };
    let mut parts = vec![
        Part::still(Thing::Water, Stuff::Water, Shape::Level { y: 0.0 }),
        Part::still(
            Thing::Causeway,
            Stuff::WetStone,
            block(Vec3::new(0.0, TOP - 0.5, 0.0), Vec3::new(40.0, 0.5, 1.15)),
        ),
        Part::still(Thing::Walls, Stuff::Brick { row: 0.075, seed: 411 }, block(WALL[0], WALL[1])),
        Part::still(
            Thing::Walls,
            Stuff::Plaster { tint: Vec3::new(0.3, 0.27, 0.23), seed: 413 },
            block(WALL[0] + Vec3::Y * (WALL[1].y + 0.05), Vec3::new(1.82, 0.05, 0.26)),
        ),
        Part::still(
            Thing::Pier,
            crate_wood,
            turned(Vec3::new(-1.55, TOP + 0.25, -1.0), Vec3::new(0.3, 0.25, 0.25), 0.3),
        ),
        Part::still(
            Thing::Pier,
            crate_wood,
            turned(Vec3::new(-1.5, TOP + 0.68, -1.02), Vec3::new(0.22, 0.18, 0.2), -0.2),
        ),
        Part::still(
            Thing::Pier,
            crate_wood,
            turned(Vec3::new(3.35, TOP + 0.22, -0.8), Vec3::new(0.32, 0.22, 0.26), -0.35),
        ),
        Part::still(
            Thing::Hut,
            Stuff::Peeling { tint: Vec3::new(0.22, 0.24, 0.25), seed: 417 },
            block(Vec3::new(-5.6, 1.9, -9.0), Vec3::new(1.7, 1.9, 1.4)),
        ),
    ];
    // Beyond the wall the water goes on to the far shore.
    let hills =
        [(-34.0, 26.0, 7.0, 421), (-4.0, 20.0, 4.0, 422), (26.0, 24.0, 7.6, 423), (50.0, 26.0, 9.5, 424)];
    parts.extend(hills.into_iter().map(|(x, width, height, seed)| hill(x, width, height, seed)));
    for lamp in LAMPS {
        parts.push(post(Thing::Pier, Vec3::new(lamp.x, -0.6, lamp.z), 3.1));
        let glow = Stuff::Glow { light: Vec3::new(5.5, 3.3, 1.5) };
        parts.push(Part::still(Thing::Lamps, glow, Shape::Ball { middle: lamp, radius: 0.085 }));
        let hood = Shape::Frustum { foot: lamp + Vec3::Y * 0.1, height: 0.12, low: 0.17, high: 0.03 };
        parts.push(Part::still(Thing::Lamps, Stuff::Copper, hood));
    }
    for (number, x) in [-7.2, -4.9, 5.0, 7.4].into_iter().enumerate() {
        parts.push(post(Thing::Pier, Vec3::new(x, -0.6, -1.9 - 0.2 * number as f32), 1.9));
    }
    // Floats of glass that hang from the wall, and stones at the water's edge.
    for (number, x) in [-0.9f32, -0.35, 0.5, 1.15].into_iter().enumerate() {
        let radius = 0.1 + 0.025 * (number % 3) as f32;
        let middle = WALL[0] + Vec3::new(x, 0.47 - 0.07 * number as f32, WALL[1].z + radius);
        let tint =
            [Vec3::new(0.05, 0.2, 0.13), Vec3::new(0.2, 0.11, 0.03), Vec3::new(0.04, 0.1, 0.2)][number % 3];
        let glass = Stuff::Glass { tint, middle, turn: number as f32 };
        parts.push(Part::still(Thing::Float, glass, Shape::Ball { middle, radius }));
    }
    for number in 0..14 {
        let at = number as f32;
        let spread = |seed: u32| noise(Vec3::new(at * 3.7, 0.5, 0.5), seed);
        let radius = 0.11 + 0.2 * spread(431).abs();
        let middle = Vec3::new(-5.2 + 0.8 * at + spread(432) * 0.7, 0.02, 1.3 + 0.4 * spread(433));
        parts.push(Part::still(Thing::Causeway, Stuff::WetStone, Shape::Ball { middle, radius }));
    }
    parts.extend(marks().into_iter().map(|middle| knob(Thing::Pier, middle, 0.035)));
    parts
}

/// Metres that he goes in a frame, frames of two steps, and where he is at the shot's middle.
const PACE: f32 = 0.05;
const STRIDE: f32 = 26.0;
const MIDWAY: (f32, f32) = (60.0, 0.1);

/// How he stands at a moment: he walks to the right, a little toward the camera.
#[derive(Clone, Copy)]
struct Walker {
    hip: Vec3,
    /// Where he is in his stride, in radians.
    step: f32,
    moment: f32,
}

/// What he is made of, and what of it each shape is.
type Dressed = (Stuff, Shape);

impl Walker {
    fn at(moment: f32) -> Self {
        let step = moment * std::f32::consts::TAU / STRIDE;
        let along = (moment - MIDWAY.0) * PACE + MIDWAY.1;
        let bob = 0.022 * (2.0 * step).cos();
        Self { hip: Vec3::new(along, TOP + 0.92 + bob, 0.15 + 0.04 * along), step, moment }
    }

    /// So far forward, up and to his right from his hip.
    fn off_hip(&self, forward: f32, up: f32, right: f32) -> Vec3 {
        self.hip + Vec3::new(forward, up, right)
    }

    fn head(&self) -> Vec3 {
        self.off_hip(0.05, 0.78, 0.0)
    }

    fn dressed(&self) -> Vec<Dressed> {
        let mut all = self.legs();
        all.extend(self.coat());
        all.extend(self.arms());
        all.extend(self.face());
        all.extend(self.scarf());
        all
    }

    fn legs(&self) -> Vec<Dressed> {
        let cloth = Stuff::Cloth { tint: Vec3::new(0.04, 0.042, 0.05), seed: 441 };
        let leather = Stuff::Plaster { tint: Vec3::new(0.045, 0.03, 0.02), seed: 442 };
        let leg = |right: f32, step: f32| {
            let hip = self.off_hip(0.0, -0.05, right);
            let lifted = 0.16 * step.cos().max(0.0);
            let ground = TOP + 0.07;
            let foot = Vec3::new(self.hip.x + 0.33 * step.sin(), ground + lifted, self.hip.z + right);
            let bent = 0.07 + 0.16 * step.cos().max(0.0);
            let knee = (hip + foot) * 0.5 + Vec3::new(bent, 0.02, 0.0);
            let toe = foot + Vec3::new(0.13, -0.03 + 0.05 * step.sin().max(0.0), 0.0);
            [
                (cloth, Shape::Rod { from: hip, to: knee, radius: 0.085 }),
                (cloth, Shape::Ball { middle: knee, radius: 0.082 }),
                (cloth, Shape::Rod { from: knee, to: foot, radius: 0.068 }),
                (leather, Shape::Ball { middle: foot, radius: 0.072 }),
                (leather, Shape::Rod { from: foot, to: toe, radius: 0.06 }),
                (leather, Shape::Ball { middle: toe, radius: 0.06 }),
            ]
        };
        [leg(0.1, self.step), leg(-0.1, self.step + std::f32::consts::PI)].concat()
    }

    fn coat(&self) -> Vec<Dressed> {
        let coat = Stuff::Cloth { tint: Vec3::new(0.085, 0.068, 0.07), seed: 443 };
        let leather = Stuff::Plaster { tint: Vec3::new(0.055, 0.034, 0.022), seed: 444 };
        let round = |up: f32, height: f32, low: f32, high: f32| Shape::Frustum {
            foot: self.off_hip(0.01, up, 0.0),
            height,
            low,
            high,
        };
        let swing = 0.05 * (self.step * 2.0).sin();
        let mut all = vec![
            (coat, round(-0.42, 0.5, 0.265, 0.215)),
            (leather, round(0.06, 0.05, 0.222, 0.222)),
            (coat, round(0.1, 0.42, 0.215, 0.2)),
            (coat, Shape::Ball { middle: self.off_hip(0.01, 0.5, 0.0), radius: 0.2 }),
            (coat, round(0.56, 0.12, 0.14, 0.12)),
        ];
        // The skirt falls in folds and swings as he goes.
        for fold in 0..9 {
            let around = fold as f32 * std::f32::consts::TAU / 9.0;
            let (sin, cos) = around.sin_cos();
            let from = self.off_hip(0.01 + 0.2 * cos, 0.05, 0.2 * sin);
            let to = self.off_hip(0.01 + 0.26 * cos + swing - 0.04, -0.43, 0.26 * sin);
            all.push((coat, Shape::Rod { from, to, radius: 0.032 }));
        }
        for row in 0..4 {
            let middle = self.off_hip(0.205, 0.14 + 0.09 * row as f32, 0.07);
            all.push((Stuff::Copper, Shape::Ball { middle, radius: 0.014 }));
        }
        all
    }

    fn arms(&self) -> Vec<Dressed> {
        let coat = Stuff::Cloth { tint: Vec3::new(0.085, 0.068, 0.07), seed: 443 };
        let skin = Stuff::Plaster { tint: Vec3::new(0.36, 0.22, 0.16), seed: 445 };
        let arm = |right: f32, step: f32| {
            let swing = 0.42 * step.sin();
            let shoulder = self.off_hip(0.01, 0.52, right * 0.19);
            let elbow = shoulder + Vec3::new(0.28 * swing.sin() - 0.03, -0.28 * swing.cos(), right * 0.06);
            let hand = elbow + Vec3::new(0.24 * (swing + 0.35).sin(), -0.24 * (swing + 0.35).cos(), 0.0);
            [
                (coat, Shape::Ball { middle: shoulder, radius: 0.1 }),
                (coat, Shape::Rod { from: shoulder, to: elbow, radius: 0.076 }),
                (coat, Shape::Ball { middle: elbow, radius: 0.074 }),
                (coat, Shape::Rod { from: elbow, to: hand, radius: 0.062 }),
                (skin, Shape::Ball { middle: hand, radius: 0.055 }),
            ]
        };
        [arm(1.0, self.step + std::f32::consts::PI), arm(-1.0, self.step)].concat()
    }

    fn face(&self) -> Vec<Dressed> {
        let skin = Stuff::Plaster { tint: Vec3::new(0.36, 0.22, 0.16), seed: 445 };
        let beard = Stuff::Cloth { tint: Vec3::new(0.13, 0.085, 0.055), seed: 446 };
        let cap = Stuff::Cloth { tint: Vec3::new(0.05, 0.07, 0.12), seed: 447 };
        let dark = Stuff::Plaster { tint: Vec3::new(0.02, 0.016, 0.014), seed: 448 };
        let at = |forward: f32, up: f32, right: f32| self.head() + Vec3::new(forward, up, right);
        let ball = |middle: Vec3, radius: f32| Shape::Ball { middle, radius };
        vec![
            (skin, ball(self.head(), 0.115)),
            (skin, ball(at(0.118, -0.012, 0.0), 0.021)),
            (skin, ball(at(0.0, -0.01, 0.112), 0.026)),
            (dark, ball(at(0.1, 0.018, 0.042), 0.012)),
            (beard, ball(at(0.056, -0.088, 0.0), 0.068)),
            (beard, ball(at(0.04, -0.07, 0.05), 0.045)),
            (cap, ball(at(-0.012, 0.05, 0.0), 0.113)),
            (cap, Shape::Frustum { foot: at(-0.012, 0.042, 0.0), height: 0.036, low: 0.117, high: 0.114 }),
        ]
    }

    /// About his neck, its end behind him in the wind.
    fn scarf(&self) -> Vec<Dressed> {
        const PIECES: usize = 6;
        let wool = Stuff::Cloth { tint: Vec3::new(0.26, 0.07, 0.05), seed: 449 };
        let joint = |at: usize| {
            let along = at as f32 / PIECES as f32;
            let gust =
                |seed: u32| noise(Vec3::new((self.moment - along * 6.0) * 0.11, 0.5, 0.5), seed) * along;
            self.off_hip(-0.1 - 0.5 * along, 0.58 - 0.16 * along + 0.2 * gust(451), 0.06 + 0.24 * gust(452))
        };
        let neck = self.off_hip(0.02, 0.56, 0.0);
        let mut all = vec![(wool, Shape::Frustum { foot: neck, height: 0.1, low: 0.15, high: 0.105 })];
        for at in 0..PIECES {
            all.push((wool, Shape::Rod { from: joint(at), to: joint(at + 1), radius: 0.036 }));
            all.push((wool, Shape::Ball { middle: joint(at + 1), radius: 0.036 }));
        }
        all
    }
}

/// His parts, each with how far it goes in a frame and how far it is from where its texture rests.
fn walking(moment: f32) -> Vec<Part> {
    let middles = |moment: f32| {
        let dressed = Walker::at(moment).dressed();
        dressed.into_iter().map(|(_, shape)| shape.extent().map_or(Vec3::ZERO, |extent| extent.middle))
    };
    let ways = middles(moment).zip(middles(moment + 1.0)).zip(middles(0.0));
    let parts = Walker::at(moment).dressed().into_iter().zip(ways);
    parts
        .map(|((stuff, shape), ((now, next), rests))| Part {
            velocity: next - now,
            moved: now - rests,
            ..Part::still(Thing::Caretaker, stuff, shape)
        })
        .collect()
}
