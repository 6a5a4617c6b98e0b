//! The way of an electric arc: broken lines between places, with branches.
//!
//! - Shape: strokes to be drawn, the main one first.
//! - Units: lengths in pixels of the raster that they are drawn on, if `pixels_a_step` is 1; depth in units of which one is
//!   a wholly new way.
//! - Between two places the middle is moved sideways by up to a share of their distance, and so on with both halves, until
//!   the pieces are as short as asked; each half as far as its own length allows, so that the way is as rough at every size.
//!   Source: Fournier, Fussell and Carpenter, "Computer Rendering of Stochastic Models", 1982 (midpoint displacement).
//! - How far a middle is moved comes from a noise over the depth that is its own, so that a way crawls as the depth grows.
//! - A branch leaves the way at an angle, reaches as far as a share of what is left of it, and gets thinner and darker by a
//!   factor for each generation.

use crate::noise::{gradient_noise, mixed};
use crate::shape::strokes::{Dot, Stroke};

/// An arc.
#[derive(Clone, Debug, PartialEq)]
pub struct Arc {
    /// The places it strikes through, from its start on; nothing is drawn for fewer than two.
    pub through: Vec<[f64; 2]>,
    /// How far a middle is moved for each pixel between two places, in the mean.
    pub roughness: f64,
    /// The length of the shortest pieces.
    pub detail: f64,
    /// Which of the ways.
    pub seed: u32,
    /// How far it has crawled.
    pub depth: f64,
    /// Its width at the start.
    pub width: f64,
    /// The share of the width that is left at the end.
    pub taper: f64,
    /// Length of the soft edge that it will be drawn with.
    pub softness: f64,
    /// How bright it is.
    pub light: f64,
    /// What leaves it.
    pub branches: Branches,
}

/// What leaves an arc.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Branches {
    /// How many leave the main way; each branch has fewer in turn, as its length is to that.
    pub count: u32,
    /// How far they reach, as a share of what is left of the way they leave.
    pub reach: f64,
    /// The mean angle they leave at, in radians.
    pub spread: f64,
    /// Times width and light for each generation, 0–1.
    pub decay: f64,
    /// How many generations there are.
    pub generations: u32,
}

/// No way is halved more often.
const MOST_HALVINGS: u32 = 12;
/// No arc has more branches, whatever is asked for.
const MOST_BRANCHES: usize = 600;
/// Branches are left out, the last ones first, once all strokes cover so many pixels: it keeps a wide and much branched arc
/// to about a second.
const MOST_PIXELS: f64 = 3e7;
/// Kinks shorter than this share of a stroke's width and edge cannot be seen.
const SEEN_KINK: f64 = 0.3;
/// Brings the noise to a mean size of about a half.
const NOISE_SPREAD: f64 = 2.0;

/// Numbers that are the same for the same seed, each from 0 to 1.
struct Chances(u32);

impl Chances {
    fn next(&mut self) -> f64 {
        self.0 = mixed(self.0.wrapping_add(0x9e37_79b9));
        f64::from(self.0) / f64::from(u32::MAX)
    }
}

/// A number from 0 to 1 that has nothing to do with that of another seed or number.
pub fn chance(seed: u32, number: u32) -> f64 {
    Chances(mixed(seed ^ number.wrapping_mul(0xcb1a_b31f))).next()
}

fn length([x, y]: [f64; 2]) -> f64 {
    x.hypot(y)
}

fn less(a: [f64; 2], b: [f64; 2]) -> [f64; 2] {
    [a[0] - b[0], a[1] - b[1]]
}

/// A way that branches leave.
struct Way {
    places: Vec<[f64; 2]>,
    width: f64,
    light: f64,
    taper: f64,
}

impl Arc {
    /// The strokes of the arc, `pixels_a_step` pixels of it being one of the raster.
    pub fn strokes(&self, pixels_a_step: f64) -> Vec<Stroke> {
        let mut drawn = Vec::new();
        let whole: f64 = self.through.windows(2).map(|pair| length(less(pair[1], pair[0]))).sum();
        if self.through.len() < 2 || !whole.is_finite() {
            return drawn;
        }
        let places = self.way(&self.through, self.width, mixed(self.seed));
        let main = Way { places, width: self.width, light: self.light, taper: self.taper };
        let mut pixels = self.pixels(&main);
        let mut ways = vec![(main, mixed(self.seed ^ 0x51ab), self.branches.count)];
        for generation in 0..=self.branches.generations {
            let mut next = Vec::new();
            for (way, seed, count) in &ways {
                drawn.push(way.stroke(pixels_a_step));
                if generation == self.branches.generations {
                    continue;
                }
                let mut chances = Chances(*seed);
                for number in 0..*count {
                    if drawn.len() + next.len() >= MOST_BRANCHES || pixels > MOST_PIXELS {
                        break;
                    }
                    let seed = mixed(seed ^ (number + 1).wrapping_mul(0x85eb_ca6b));
                    if let Some(branch) = self.branch(way, &mut chances, seed) {
                        let share = branch.reach() / whole.max(1e-9);
                        let fewer = (f64::from(self.branches.count) * share).round() as u32;
                        pixels += self.pixels(&branch);
                        next.push((branch, seed, fewer));
                    }
                }
            }
            ways = next;
        }
        drawn
    }

    /// How many pixels a way covers, about.
    fn pixels(&self, way: &Way) -> f64 {
        let long: f64 = way.places.windows(2).map(|pair| length(less(pair[1], pair[0]))).sum();
        let wide = way.width + self.softness + 2.0;
        (long + wide) * wide
    }

    /// A broken way of some width through places.
    fn way(&self, through: &[[f64; 2]], width: f64, seed: u32) -> Vec<[f64; 2]> {
        let detail = self.detail.max(SEEN_KINK * (width + self.softness)).max(0.25);
        let mut places = vec![through[0]];
        for (number, pair) in through.windows(2).enumerate() {
            let away = length(less(pair[1], pair[0]));
            let halvings = (away / detail).log2().ceil().clamp(0.0, f64::from(MOST_HALVINGS)) as u32;
            self.broken([pair[0], pair[1]], halvings, mixed(seed ^ number as u32), &mut places);
        }
        places
    }

    /// Adds the places of a broken line after its first.
    fn broken(&self, [from, to]: [[f64; 2]; 2], halvings: u32, seed: u32, out: &mut Vec<[f64; 2]>) {
        if halvings == 0 {
            return out.push(to);
        }
        let way = less(to, from);
        let sway = NOISE_SPREAD * f64::from(gradient_noise(seed, [self.depth, 0.5, 0.5]));
        let middle = [0, 1].map(|axis| {
            let across = [-way[1], way[0]][axis];
            (from[axis] + to[axis]) / 2.0 + across * sway * self.roughness
        });
        self.broken([from, middle], halvings - 1, mixed(seed ^ 0x27d4_eb2f), out);
        self.broken([middle, to], halvings - 1, mixed(seed ^ 0x1656_67b1), out);
    }

    /// A branch of a way; none where the way is too short.
    fn branch(&self, way: &Way, chances: &mut Chances, seed: u32) -> Option<Way> {
        let (where_, side, wide, far) = (chances.next(), chances.next(), chances.next(), chances.next());
        let last = way.places.len() - 1;
        let at = ((where_ * 0.9 + 0.02) * last as f64) as usize;
        let from = way.places[at];
        // The way it would go on, over more than one of its kinks.
        let ahead = way.places[(at + last / 8 + 1).min(last)];
        let on = less(ahead, from);
        let left = length(less(way.places[last], from));
        let reach = left * self.branches.reach * (0.4 + 0.6 * far);
        let size = length(on);
        if size <= 0.0 || reach < self.detail.max(0.25) {
            return None;
        }
        let turn = self.branches.spread * (0.5 + wide) * if side < 0.5 { -1.0 } else { 1.0 };
        let (sin, cos) = turn.sin_cos();
        let to = [
            from[0] + (on[0] * cos - on[1] * sin) / size * reach,
            from[1] + (on[0] * sin + on[1] * cos) / size * reach,
        ];
        let thinner = way.width_at(at as f64 / last as f64) * self.branches.decay;
        Some(Way {
            places: self.way(&[from, to], thinner, seed),
            width: thinner,
            light: way.light * self.branches.decay,
            taper: self.taper.min(0.35),
        })
    }
}

impl Way {
    fn reach(&self) -> f64 {
        length(less(self.places[self.places.len() - 1], self.places[0]))
    }

    fn width_at(&self, share: f64) -> f64 {
        self.width * (1.0 + (self.taper - 1.0) * share)
    }

    fn stroke(&self, pixels_a_step: f64) -> Stroke {
        let last = (self.places.len() - 1).max(1) as f64;
        let dot = |(number, place): (usize, &[f64; 2])| Dot {
            at: place.map(|along| (along / pixels_a_step) as f32),
            width: (self.width_at(number as f64 / last) / pixels_a_step) as f32,
            light: self.light as f32,
        };
        self.places.iter().enumerate().map(dot).collect()
    }
}
