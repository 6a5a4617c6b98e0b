//! Numbers that outlines have, spread about them.
//!
//! - Inside a closed outline and on any the number is its own; further off it becomes that of the ground, which it is from
//!   `reach` pixels on. Where several reach they are weighed by how near they are.
//! - Source: inverse distance weighting within a radius (Shepard 1968, in the form of Franke and Nielson 1980), with the ground
//!   as one more of the weights.
//! - Worked out at places [`APART`] pixels from each other, counted from (0, 0), and between them evenly.

use crate::{Cancel, Cancelled, Field, Raster, Window};

/// The number is worked out at places so far from each other, in pixels.
const APART: i32 = 4;

/// An outline that has a number.
#[derive(Clone, Debug, PartialEq)]
pub struct Numbered {
    /// In pixels of the raster.
    pub places: Vec<[f64; 2]>,
    /// Whether it closes.
    pub closed: bool,
    /// On it, and inside of it where it closes.
    pub number: f32,
}

impl Numbered {
    fn sides(&self) -> impl Iterator<Item = [[f64; 2]; 2]> {
        let last = self.places.last().zip(self.places.first()).filter(|_| self.closed);
        let within = self.places.windows(2).map(|pair| [pair[0], pair[1]]);
        within.chain(last.map(|(last, first)| [*last, *first]))
    }

    /// How far off a place is; 0 inside.
    fn far(&self, [x, y]: [f64; 2]) -> f64 {
        let (mut nearest, mut inside) = (f64::INFINITY, false);
        for [a, b] in self.sides() {
            let (way, off) = ([b[0] - a[0], b[1] - a[1]], [x - a[0], y - a[1]]);
            let length_sq = way[0].mul_add(way[0], way[1] * way[1]);
            let along = if length_sq > 0.0 { (off[0] * way[0] + off[1] * way[1]) / length_sq } else { 0.0 };
            let along = along.clamp(0.0, 1.0);
            nearest = nearest.min((off[0] - along * way[0]).hypot(off[1] - along * way[1]));
            inside ^= (a[1] > y) != (b[1] > y) && off[0] < way[0] * off[1] / way[1];
        }
        if self.closed && inside { 0.0 } else { nearest }
    }
}

/// The number at each pixel's middle; `ground` where no outline reaches. `reach` is above 0.
pub fn spread(
    outlines: &[Numbered],
    ground: f32,
    reach: f64,
    window: Window,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    let low = |at: i32| at.div_euclid(APART);
    let coarse = Window::new(low(window.x0), low(window.y0), low(window.x1) + 2, low(window.y1) + 2);
    let middle = |at: i32| f64::from(at * APART) + 0.5;
    let places = Raster::written(coarse, cancel, |y, row| {
        for (x, out) in (coarse.x0..).zip(row) {
            *out = at(outlines, ground, reach, [middle(x), middle(y)]);
        }
    })?;
    Raster::written(window, cancel, |y, row| {
        let (above, down) = (low(y), y.rem_euclid(APART) as f32 / APART as f32);
        let rows = [places.row(above), places.row(above + 1)];
        for (x, out) in (window.x0..).zip(row) {
            let (from, right) = ((low(x) - coarse.x0) as usize, x.rem_euclid(APART) as f32 / APART as f32);
            let [up, low] = rows.map(|row| row[from] + (row[from + 1] - row[from]) * right);
            *out = up + (low - up) * down;
        }
    })
}

fn at(outlines: &[Numbered], ground: f32, reach: f64, place: [f64; 2]) -> f32 {
    let (mut weights, mut sum) = (1.0, f64::from(ground));
    for outline in outlines {
        let far = outline.far(place);
        if far < reach {
            // Near enough to be the outline's own without dividing by nothing.
            let weight = ((reach - far) / far.max(reach * 1e-4)).powi(2);
            weights += weight;
            sum += weight * f64::from(outline.number);
        }
    }
    (sum / weights) as f32
}
