//! A picture between two, along their motion.
//!
//! - Shape: two rasters, what moves each to the other, and the share of the way from the first to the second.
//! - Units: moves in pixels.
//! - A place is looked for in both: where what is there comes by on its way. What is found in one only, as it comes into sight or
//!   is covered, is taken from that one; where both have something else there, what is seen in both counts.
//! - Edges: rasters and moves go on as at their border.
//! - The problem and its measure: Baker, Scharstein, Lewis, Roth, Black and Szeliski, "A Database and Evaluation Methodology for
//!   Optical Flow", 2011.

use super::agree::sureness;
use crate::buffer::raster::Pixel;
use crate::sample::resample::{Filter, Sampler, Scratch};
use crate::{Cancel, Cancelled, Edge, Map, Raster, Window};

/// How often a place is looked for again from where the last look led.
const LOOKS: usize = 4;
/// A look that leads so many pixels beside a place has found it, and one beyond the other has not.
const FOUND: f32 = 0.5;
const LOST: f32 = 1.5;
/// What is found but not seen in the other picture counts so little.
const UNSURE: f32 = 0.02;
/// Pixels from one place that is looked for to the next, where those about agree; counted from the origin.
const STEP: i32 = 4;
/// How much places that agree differ at most: in pixels, and in how much the second picture counts.
const AGREES: [f32; 2] = [1.2, 0.1];

/// Two pictures' motion to each other.
#[derive(Clone, Copy)]
pub struct Motion<'a> {
    /// From the first to the second.
    pub forth: &'a Map,
    /// From the second to the first.
    pub back: &'a Map,
}

/// What is found of a pixel: how far off it is read in the first picture, by x and y, and in the second, and how much that counts.
type Seen = [f32; 5];

/// What is found of a row of pixels.
#[derive(Default)]
struct Row {
    /// Of places in two rows about it, from the first column on, and the upper row.
    about: Option<(i32, [Vec<Seen>; 2])>,
    pixels: Vec<Seen>,
}

impl Motion<'_> {
    /// The picture a share of the way from `first` to `second`, over a window.
    pub fn midway<P: Pixel>(
        self,
        [first, second]: [&Raster<P>; 2],
        share: f32,
        filter: Filter,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let samplers = [first, second].map(|one| Sampler::new(one, one.window(), Edge::Hold));
        let begin = || (Scratch::default(), Row::default(), vec![P::default(); window.width()]);
        Raster::written_with(window, cancel, begin, |(scratch, seen, other), y, row: &mut [P]| {
            self.look(seen, share, window, y);
            let seen = &seen.pixels;
            for (side, sampler, out) in [(0, samplers[0], &mut *row), (2, samplers[1], &mut other[..])] {
                let places = |start: usize, xs: &mut [f32], ys: &mut [f32]| {
                    let first = window.x0 as f32 + start as f32 + 0.5;
                    for (at, ((x, to_y), seen)) in xs.iter_mut().zip(ys).zip(&seen[start..]).enumerate() {
                        *x = first + at as f32 + seen[side];
                        *to_y = y as f32 + 0.5 + seen[side + 1];
                    }
                };
                sampler.read_run_with(scratch, filter, places, out);
            }
            for ((out, other), seen) in row.iter_mut().zip(&*other).zip(seen) {
                *out = out.mix(*other, seen[4]);
            }
        })
    }

    /// Of each pixel the value that counts more, as it is: for what must not be averaged.
    pub fn nearest<P: Pixel>(
        self,
        [first, second]: [&Raster<P>; 2],
        share: f32,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let samplers = [first, second].map(|one| Sampler::new(one, one.window(), Edge::Hold));
        Raster::written_with(window, cancel, Row::default, |seen, y, row: &mut [P]| {
            self.look(seen, share, window, y);
            for ((x, out), seen) in (window.x0..).zip(row).zip(&seen.pixels) {
                let side = usize::from(seen[4] > 0.5);
                let [right, down] = [seen[2 * side], seen[2 * side + 1]];
                *out = samplers[side].at(Filter::Nearest, x as f32 + 0.5 + right, y as f32 + 0.5 + down);
            }
        })
    }

    /// Looks for a row of pixels in both pictures: for each by itself where those about do not agree.
    fn look(self, row: &mut Row, share: f32, window: Window, y: i32) {
        let ways = [self.forth, self.back].map(Ways::of);
        let (above, columns) =
            (y.div_euclid(STEP), window.x0.div_euclid(STEP)..=window.x1.div_euclid(STEP) + 1);
        if row.about.as_ref().is_none_or(|(known, _)| *known != above) {
            let along = |row: i32| {
                let places: Vec<[i32; 2]> =
                    columns.clone().map(|column| [column * STEP, row * STEP]).collect();
                seen(&ways, share, &places)
            };
            let upper = match row.about.take() {
                Some((known, [_, lower])) if known + 1 == above => lower,
                _ => along(above),
            };
            row.about = Some((above, [upper, along(above + 1)]));
        }
        let Some((_, [upper, lower])) = &row.about else { return };
        row.pixels.clear();
        let mut alone: Vec<[i32; 2]> = Vec::new();
        let down = (y - above * STEP) as f32 / STEP as f32;
        for (number, column) in columns.enumerate().take(upper.len() - 1) {
            let corners = [upper[number], upper[number + 1], lower[number], lower[number + 1]];
            let [left, right] = [0, 1].map(|side| mixed(&corners[side], &corners[side + 2], down));
            let own = (column * STEP).max(window.x0)..((column + 1) * STEP).min(window.x1);
            if !agree(&corners) {
                alone.extend(own.clone().map(|x| [x, y]));
            }
            row.pixels.extend(own.map(|x| mixed(&left, &right, (x - column * STEP) as f32 / STEP as f32)));
        }
        for (seen, [x, _]) in seen(&ways, share, &alone).into_iter().zip(alone) {
            row.pixels[(x - window.x0) as usize] = seen;
        }
    }
}

fn mixed(from: &Seen, to: &Seen, share: f32) -> Seen {
    std::array::from_fn(|at| from[at] + (to[at] - from[at]) * share)
}

fn agree(corners: &[Seen; 4]) -> bool {
    (0..5).all(|at| {
        let of = corners.each_ref().map(|corner| corner[at]);
        let (least, most) = of.iter().fold((f32::MAX, f32::MIN), |(a, b), own| (a.min(*own), b.max(*own)));
        most - least <= AGREES[usize::from(at == 4)]
    })
}

/// What is found of each of some pixels.
fn seen(ways: &[Ways<'_>; 2], share: f32, pixels: &[[i32; 2]]) -> Vec<Seen> {
    let places: Vec<[f32; 2]> = pixels.iter().map(|pixel| pixel.map(|at| at as f32 + 0.5)).collect();
    let [a, b] =
        [(0, share), (1, 1.0 - share)].map(|(side, gone)| look(&ways[side], &ways[1 - side], gone, &places));
    let both = a.into_iter().zip(b).map(|((first, own), (second, others))| {
        // The nearer a picture is in time, the more it counts.
        let (own, others) = (own * (1.0 - share), others * share);
        let all = own + others;
        // Found in neither, each is read where the last look led.
        let counts = if all > f32::MIN_POSITIVE { others / all } else { share };
        [first[0], first[1], second[0], second[1], counts]
    });
    both.collect()
}

/// How far off what comes by each place after a share of its way begins, and how much it counts. All are looked for side by side:
/// each look waits for the one before.
fn look(own: &Ways<'_>, other: &Ways<'_>, gone: f32, places: &[[f32; 2]]) -> Vec<([f32; 2], f32)> {
    let mut found = vec![([0.0f32; 2], f32::MAX); places.len()];
    for _ in 0..LOOKS {
        for ((off, beside), [x, y]) in found.iter_mut().zip(places) {
            let ahead = own.at([x + off[0], y + off[1]]).map(|way| -gone * way);
            let apart = [ahead[0] - off[0], ahead[1] - off[1]];
            (*off, *beside) = (ahead, apart[0] * apart[0] + apart[1] * apart[1]);
        }
    }
    for ((off, counts), [x, y]) in found.iter_mut().zip(places) {
        let is_found = 1.0 - ((counts.sqrt() - FOUND) / (LOST - FOUND)).clamp(0.0, 1.0);
        let at = [x + off[0], y + off[1]];
        let way = own.at(at);
        let end = [at[0] + way[0], at[1] + way[1]];
        let sure = if own.holds(end) { sureness(way, other.at(end)) } else { 0.0 };
        *counts = is_found * (UNSURE + sure);
    }
    found
}

/// Moves, to be asked between their pixels.
struct Ways<'a> {
    pixels: &'a [[f32; 2]],
    window: Window,
    width: usize,
    /// The last column and row.
    last: [f32; 2],
}

impl<'a> Ways<'a> {
    fn of(map: &'a Map) -> Self {
        let window = map.window();
        let last = [window.width(), window.height()].map(|count| count.saturating_sub(1) as f32);
        Self { pixels: map.pixels(), window, width: window.width(), last }
    }

    fn holds(&self, [x, y]: [f32; 2]) -> bool {
        let Window { x0, y0, x1, y1 } = self.window;
        x >= x0 as f32 && x <= x1 as f32 && y >= y0 as f32 && y <= y1 as f32
    }

    /// The move at a place; beyond the border that of the border.
    fn at(&self, [x, y]: [f32; 2]) -> [f32; 2] {
        let x = (x - self.window.x0 as f32 - 0.5).clamp(0.0, self.last[0]);
        let y = (y - self.window.y0 as f32 - 0.5).clamp(0.0, self.last[1]);
        let (column, row) = (x as usize, y as usize);
        let (right, down) = (x - column as f32, y - row as f32);
        let next = if right > 0.0 { 1 } else { 0 };
        let first = row * self.width + column;
        let below = if down > 0.0 { first + self.width } else { first };
        let Some([a, b, c, d]) = self.corners([first, first + next, below, below + next]) else {
            return [0.0; 2];
        };
        [0, 1].map(|axis| {
            let upper = a[axis] + (b[axis] - a[axis]) * right;
            let lower = c[axis] + (d[axis] - c[axis]) * right;
            upper + (lower - upper) * down
        })
    }

    fn corners(&self, numbers: [usize; 4]) -> Option<[[f32; 2]; 4]> {
        let [a, b, c, d] = numbers.map(|number| self.pixels.get(number).copied());
        Some([a?, b?, c?, d?])
    }
}
