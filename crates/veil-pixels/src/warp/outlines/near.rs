//! What a plate leaves of ways at places, made up for in what lies near them.
//!
//! - Source: Wendland, "Piecewise polynomial, positive definite and compactly supported radial functions of minimal degree",
//!   1995; one after another, each finer, Floater and Iske, "Multistep scattered data interpolation using compactly supported
//!   radial basis functions", 1996. The equations are solved by conjugate gradients, Hestenes and Stiefel, 1952.

use std::collections::HashMap;
use std::hash::{BuildHasherDefault, Hasher};

use super::plate::Way;

/// Steps of the solver before what is left is left to the next, finer, one.
const STEPS: usize = 400;
/// What is left is no more than this share of what there was.
const LEFT: f64 = 1e-9;

/// Bumps at places that reach no further than a radius and together have values there.
pub(super) struct Near {
    radius: f64,
    places: Vec<[f64; 2]>,
    weights: Vec<[f64; 2]>,
    /// What holds all that they reach: the least and the most by both axes.
    bounds: [[f64; 2]; 2],
    /// The places in each square of the radius.
    squares: Squares,
}

type Squares = HashMap<u64, Vec<u32>, BuildHasherDefault<Mixed>>;

/// The numbers of a square lie so near each other that a product spreads them well enough, and much sooner than what withstands
/// bad intentions.
#[derive(Default)]
struct Mixed(u64);

impl Hasher for Mixed {
    fn finish(&self) -> u64 {
        self.0
    }

    fn write(&mut self, bytes: &[u8]) {
        bytes.iter().for_each(|byte| self.write_u64(u64::from(*byte)));
    }

    fn write_u64(&mut self, number: u64) {
        // The golden ratio's share of all numbers, Knuth, "The Art of Computer Programming", volume 3, section 6.4.
        let product = (self.0 ^ number).wrapping_mul(0x9e37_79b9_7f4a_7c15);
        self.0 = product ^ (product >> 32);
    }
}

impl Near {
    pub(super) fn through(places: Vec<[f64; 2]>, values: &[[f64; 2]], radius: f64) -> Self {
        let mut squares = Squares::default();
        for (number, place) in (0..).zip(&places) {
            squares.entry(key(square(*place, radius))).or_default().push(number);
        }
        let bounds = [0, 1].map(|axis| {
            places.iter().fold([f64::MAX, f64::MIN], |[least, most], place| {
                [least.min(place[axis] - radius), most.max(place[axis] + radius)]
            })
        });
        let mut made = Self { radius, bounds, weights: vec![[0.0; 2]; places.len()], places, squares };
        made.weights = made.solved(values);
        made
    }

    /// Calls `f` with each place within reach, and how far it is by x and y.
    fn about(&self, [x, y]: [f64; 2], mut f: impl FnMut(usize, [f64; 2])) {
        let [across, down] = &self.bounds;
        if !((across[0]..=across[1]).contains(&x) && (down[0]..=down[1]).contains(&y)) {
            return;
        }
        let [column, row] = square([x, y], self.radius);
        for row in row - 1..=row + 1 {
            for column in column - 1..=column + 1 {
                for number in self.squares.get(&key([column, row])).into_iter().flatten() {
                    let [ox, oy] = self.places[*number as usize];
                    let way = [(x - ox) / self.radius, (y - oy) / self.radius];
                    if way[0] * way[0] + way[1] * way[1] < 1.0 {
                        f(*number as usize, way);
                    }
                }
            }
        }
    }

    pub(super) fn add(&self, place: [f64; 2], to: &mut Way) {
        self.about(place, |number, [dx, dy]| {
            let far = (dx * dx + dy * dy).sqrt();
            let less = 1.0 - far;
            let (bump, steep) = (less.powi(4) * (4.0 * far + 1.0), -20.0 * less.powi(3) / self.radius);
            for axis in 0..2 {
                let weight = self.weights[number][axis];
                to.value[axis] += weight * bump;
                to.by[0][axis] += weight * steep * dx;
                to.by[1][axis] += weight * steep * dy;
            }
        });
    }

    /// The weights that give values at the places.
    fn solved(&self, values: &[[f64; 2]]) -> Vec<[f64; 2]> {
        let rows: Vec<Vec<(usize, f64)>> = self
            .places
            .iter()
            .map(|place| {
                let mut row = Vec::new();
                self.about(*place, |number, [dx, dy]| {
                    let far = (dx * dx + dy * dy).sqrt();
                    row.push((number, (1.0 - far).powi(4) * (4.0 * far + 1.0)));
                });
                row
            })
            .collect();
        let times = |of: &[f64]| -> Vec<f64> {
            rows.iter().map(|row| row.iter().map(|(number, share)| share * of[*number]).sum()).collect()
        };
        let one = |axis: usize| {
            let dot = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f64>();
            let mut left: Vec<f64> = values.iter().map(|value| value[axis]).collect();
            let (mut made, mut way) = (vec![0.0; left.len()], left.clone());
            let mut size = dot(&left, &left);
            let enough = size * LEFT * LEFT;
            for _ in 0..STEPS {
                if size <= enough {
                    break;
                }
                let ahead = times(&way);
                let by = size / dot(&way, &ahead);
                made.iter_mut().zip(&way).for_each(|(made, way)| *made += by * way);
                left.iter_mut().zip(&ahead).for_each(|(left, ahead)| *left -= by * ahead);
                let next = dot(&left, &left);
                way.iter_mut().zip(&left).for_each(|(way, left)| *way = left + next / size * *way);
                size = next;
            }
            made
        };
        one(0).into_iter().zip(one(1)).map(|(x, y)| [x, y]).collect()
    }
}

const fn key([column, row]: [i32; 2]) -> u64 {
    ((column as u32 as u64) << 32) | row as u32 as u64
}

fn square(place: [f64; 2], radius: f64) -> [i32; 2] {
    place.map(|at| (at / radius).floor() as i32)
}
