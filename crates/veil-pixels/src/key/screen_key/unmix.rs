//! The coverage along edges, from what the figure looks like near them.
//!
//! - Of all shares of figure and screen, the one that the figure's colours near by make likeliest, when they are spread
//!   normally: the projection along which screen and figure are told apart best. Source: Fisher, "The Use of Multiple
//!   Measurements in Taxonomic Problems", 1936; for mattes Chuang and others, "A Bayesian Approach to Digital Matting",
//!   2001.
//! - A figure goes lighter and darker more easily than it changes its hue, so its spread is widened by that.
//! - The colour difference is right where the figure's two other channels are alike. It is left only as far as what is
//!   seen speaks against it: not where a mixture does not explain the pixel, not by less than the spread, and not beyond
//!   what the excess of the figure's own colours allows.
//! - Where there can be no edge, as [`Places`] says, what is mostly figure is wholly figure.

use crate::{Cancel, Cancelled, Field, Raster, Rgba};

use super::before::{Before, Screen, eased};
use super::moments::{Looks, Moments};
use super::places::{Noise, Places};

/// How much deeper than it seems an edge may reach, for a pixel to be surely of the figure; and how much deeper it does
/// for a figure whose excess is 0.
const SURELY_DEEPER: f32 = 1.6;
const DEEPER: f32 = 1.5;
const MOST_DEEPER: f32 = 2.8;

/// How edges are worked out.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Edges {
    /// How much of what is worked out anew counts, 0–1.
    pub refine: f32,
    /// From this coverage on what is no edge is wholly figure, 0–1; at 1 nothing is.
    pub solid: f32,
}

/// How much lighter or darker a figure goes, of its brightness, and how far in hue.
const LIGHTER: f64 = 0.4;
const HUE: f64 = 0.03;
/// Deviations from the whole up to which it is whole, and from which on it is not.
const WHOLE: [f64; 2] = [1.0, 2.0];
/// The same from the colour difference, when it would be lowered.
const LOWER: [f64; 2] = [0.4, 1.2];
/// Squared deviations up to which a mixture explains a pixel, and from which on it does not.
const EXPLAINED: [f64; 2] = [4.0, 10.0];
/// Deviations of the excess that a figure's own colours may have.
const EXCESS: f64 = 1.5;

/// The coverage where figure and screen mix, from what `matte` says by each pixel alone.
pub fn unmixed(
    before: Before<'_>,
    matte: &Field,
    places: &Places,
    noise: Noise,
    edges: Edges,
    cancel: &Cancel,
) -> Result<Field, Cancelled> {
    let Before { picture, behind, screen } = before;
    let window = picture.window();
    let most = places.most;
    let sure: Field = Raster::written(window, cancel, |y, row| {
        for ((soft, places), out) in places.soft.row(y).iter().zip(places.distances.row(y)).zip(row) {
            // Deep inside is too far off to count.
            let counts = *soft > 0.6 && places[1] < most;
            *out = if counts {
                (1.0 - Places::mixed(*places, SURELY_DEEPER)) * eased(*soft, 0.6, 0.75)
            } else {
                0.0
            };
        }
    })?;
    let looks = Looks::of(picture, &sure, screen, cancel)?;
    let solid = [(edges.solid - 0.1).max(0.0), (edges.solid + 0.05).min(1.0)];
    Raster::written(window, cancel, |y, row| {
        let line = (y - window.y0) as usize;
        let (seen, behind, alone) = (picture.row(y), behind.row(y), matte.row(y));
        let distances = places.distances.row(y);
        for (column, out) in row.iter_mut().enumerate() {
            let plain = alone[column];
            if plain <= 0.0 {
                *out = 0.0;
                continue;
            }
            let whole = if edges.solid < 1.0 { plain.max(eased(plain, solid[0], solid[1])) } else { plain };
            let widest = Places::mixed(distances[column], MOST_DEEPER);
            if widest <= 0.0 || distances[column][2] >= most {
                *out = if widest > 0.0 { plain } else { whole };
                continue;
            }
            let near = looks.near(column, line);
            let pixel = Pixel { seen: seen[column], behind: behind[column], plain, noise, screen };
            let found = plain + (pixel.share(&near) - plain) * edges.refine;
            *out = whole + (found - whole) * Places::mixed(distances[column], pixel.deeper(&near));
        }
    })
}

/// A pixel of an edge.
struct Pixel {
    seen: Rgba,
    behind: Rgba,
    plain: f32,
    noise: Noise,
    screen: Screen,
}

/// A symmetric matrix of three: first row, then what is left of the second, then of the third.
#[derive(Clone, Copy)]
struct Symmetric([f64; 6]);

impl Symmetric {
    /// None where it says too little: where some direction is hardly spread at all beside the others.
    fn inverse(self) -> Option<Self> {
        let [a, b, c, d, e, f] = self.0;
        let [p, q, r] = [d * f - e * e, c * e - b * f, b * e - c * d];
        let determinant = a * p + b * q + c * r;
        let enough = determinant > 1e-12 * ((a + d + f) / 3.0).powi(3);
        enough.then(|| {
            Self([p, q, r, a * f - c * c, b * c - a * e, a * d - b * b].map(|value| value / determinant))
        })
    }

    fn by(self, [x, y, z]: [f64; 3]) -> [f64; 3] {
        let [a, b, c, d, e, f] = self.0;
        [a * x + b * y + c * z, b * x + d * y + e * z, c * x + e * y + f * z]
    }
}

fn dot(a: [f64; 3], b: [f64; 3]) -> f64 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

/// From 0 at `from` to 1 at `to`.
fn risen(value: f64, [from, to]: [f64; 2]) -> f64 {
    ((value - from) / (to - from)).clamp(0.0, 1.0)
}

impl Pixel {
    /// How much of it is figure; what it is by itself where nothing is known of what is near.
    fn share(&self, near: &Moments) -> f32 {
        let known = f64::from(near.known());
        if known <= 0.0 {
            return self.plain;
        }
        let found = self.likeliest(near).map(|(share, trust)| {
            let plain = f64::from(self.plain);
            (plain + (share - plain) * trust * known) as f32
        });
        found.filter(|share| share.is_finite()).unwrap_or(self.plain)
    }

    /// The likeliest share, and how far it is to be trusted.
    fn likeliest(&self, near: &Moments) -> Option<(f64, f64)> {
        let plain = f64::from(self.plain);
        let of = |[r, g, b, _]: Rgba| [f64::from(r), f64::from(g), f64::from(b)];
        let (seen, behind, mean) = (of(self.seen), of(self.behind), near.mean());
        let spread = self.spread(near);
        let less = |a: [f64; 3], b: [f64; 3]| [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
        let way = less(behind, mean);
        let toward = spread.inverse()?.by(way);
        // How many deviations, squared, lie between figure and screen.
        let apart = dot(way, toward).max(1e-9);
        let share = (1.0 - dot(less(seen, mean), toward) / apart).clamp(0.0, 1.0);
        let left: [f64; 3] =
            std::array::from_fn(|at| seen[at] - share * mean[at] - (1.0 - share) * behind[at]);
        let explained = 1.0 - risen(self.deviations(left, share, spread, behind)?, EXPLAINED);
        let deviation = apart.sqrt();
        let share = 1.0 - (1.0 - share) * risen((1.0 - share) * deviation, WHOLE);
        let mut share = self.allowed(share, near);
        if share < plain {
            share = plain + (share - plain) * risen((plain - share) * deviation, LOWER);
        }
        Some((share, explained * (apart / 9.0).min(1.0)))
    }

    /// How much deeper than it seems the edge reaches: by colour difference alone a figure that lacks the screen's channel
    /// is whole before its edge ends.
    fn deeper(&self, near: &Moments) -> f32 {
        let lacks = -near.excess()[1].0 as f32 / self.screen.excess(self.behind).max(1e-6);
        (DEEPER * (1.0 + lacks)).min(MOST_DEEPER)
    }

    /// How the figure's colours are spread, with what they may do besides and with noise.
    fn spread(&self, near: &Moments) -> Symmetric {
        let mean = near.mean();
        let grey = (mean[0] + mean[1] + mean[2]) / 3.0;
        let hue = (HUE * (grey.abs() + 0.02)).powi(2);
        let mut spread = near.spread();
        let places = [(0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (2, 2)];
        for (value, (row, column)) in spread.iter_mut().zip(places) {
            *value += LIGHTER * LIGHTER * (mean[row] * mean[column] + grey * grey / 4.0);
            if row == column {
                *value += hue + f64::from(self.noise.channels[row]).powi(2);
            }
        }
        Symmetric(spread)
    }

    /// How many deviations, squared, what a mixture leaves is off.
    fn deviations(&self, left: [f64; 3], share: f64, spread: Symmetric, behind: [f64; 3]) -> Option<f64> {
        let mut around = spread.0.map(|value| value * share * share);
        for (channel, at) in [0, 3, 5].into_iter().enumerate() {
            around[at] += f64::from(self.noise.channels[channel]).powi(2) + (0.01 * behind[channel]).powi(2);
        }
        Some(dot(left, Symmetric(around).inverse()?.by(left)))
    }

    /// The share as near as the excess of the figure's own colours lets it come: the colour difference is lowered only for
    /// figures that lack the screen's channel, and raised only for those that have more of it.
    fn allowed(&self, share: f64, near: &Moments) -> f64 {
        let (seen, whole) =
            (f64::from(self.screen.excess(self.seen)), f64::from(self.screen.excess(self.behind)));
        let [(above, above_by), (below, below_by)] = near.excess();
        let with = |own: f64| (1.0 - (seen - own) / (whole - own).max(1e-9)).clamp(0.0, 1.0);
        let highest = with((above + EXCESS * above_by).clamp(0.0, 0.6 * whole.max(0.0)));
        let lowest = with((below - EXCESS * below_by).min(0.0));
        let plain = f64::from(self.plain);
        share.clamp(lowest.min(plain), highest.max(plain))
    }
}
