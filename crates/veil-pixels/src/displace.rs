//! A signal moved by a map, and softened by how far it went.
//!
//! - Shape: the result covers the window of `moves`.
//! - Units: `moves` in pixels of the raster, x right and y down; output `p` reads `p − moves(p)`.
//! - Softness: a pixel that moved by `d` pixels is read from the signal blurred by σ = `softness · d`.
//!   The blur is taken from a stack of Gaussians an octave apart; between two of them the result is
//!   their mixture with exactly the variance σ², so that softness has no steps.
//! - Where the move is zero the pixel is the input bit for bit.
//! - Edges: as the [`Edge`] says, outside the data window.

use crate::blur::{Sigma, gaussian};
use crate::raster::Pixel;
use crate::resample::{Filter, Sampler};
use crate::{Cancel, Cancelled, Edge, Map, Raster, Window};

/// How a signal is moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Displacement {
    /// Standard deviation of the blur for each pixel of move; 0 keeps the picture sharp.
    pub softness: f32,
    /// How the picture is read between pixels, where it is sharp.
    pub filter: Filter,
    /// What lies outside the data window.
    pub edge: Edge,
}

/// σ of the least blurred level of the stack, in pixels; below it a blur can hardly be seen.
const LEAST_SIGMA: f32 = 0.7;
/// No pixel is softened by more than this σ, in pixels of the raster.
const MOST_SIGMA: f32 = 128.0;

impl Displacement {
    /// How far beyond a pixel the result reads when the longest move is `longest` pixels.
    pub fn reach(self, longest: f32) -> i32 {
        let mut reach = self.filter.reach();
        for step in sigma_steps(&stack_sigmas(self.softness * longest)) {
            reach += step.reach().0;
        }
        longest.ceil() as i32 + reach + 3
    }

    /// Moves `source` by `moves`.
    ///
    /// `data` is where the signal exists; `source` must hold what [`Edge::reads_window`] of the
    /// window of `moves`, grown by [`Self::reach`], names.
    pub fn apply<P: Pixel>(
        self,
        source: &Raster<P>,
        data: Window,
        moves: &Map,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        let stack = Stack::new(self, source, data, moves, cancel)?;
        let mut made = Raster::clear(moves.window());
        made.fill_rows(cancel, |y, row| match self.filter {
            Filter::Nearest => stack.read_row(Filter::Nearest, moves, y, row),
            Filter::Linear => stack.read_row(Filter::Linear, moves, y, row),
            Filter::Cubic => stack.read_row(Filter::Cubic, moves, y, row),
        })?;
        Ok(made)
    }
}

/// The longest move in a map, in the map's own pixels; 0 for an empty one. A move that is not a number counts as 0.
pub fn longest_move(moves: &Map) -> f32 {
    use rayon::prelude::*;
    moves
        .pixels()
        .par_chunks(1 << 14)
        .map(|run| run.iter().fold(0.0f32, |most, m| most.max(length_sq(*m))))
        .reduce(|| 0.0, f32::max)
        .sqrt()
}

/// The smallest window outside which every move is zero.
pub fn moved_window(moves: &Map) -> Window {
    let window = moves.window();
    let mut found = Window::EMPTY;
    for y in window.y0..window.y1 {
        let row = moves.row(y);
        let Some(first) = row.iter().position(|m| *m != [0.0, 0.0]) else { continue };
        let last = row.iter().rposition(|m| *m != [0.0, 0.0]).unwrap_or(first);
        found = found.union(Window::new(window.x0 + first as i32, y, window.x0 + last as i32 + 1, y + 1));
    }
    found
}

#[inline(always)]
fn length_sq(m: [f32; 2]) -> f32 {
    m[0] * m[0] + m[1] * m[1]
}

/// σ of each blurred level up to `widest`, doubling.
fn stack_sigmas(widest: f32) -> Vec<f32> {
    let mut sigmas = Vec::new();
    let widest = widest.min(MOST_SIGMA);
    let mut sigma = LEAST_SIGMA;
    let mut covered = 0.0;
    while covered < widest {
        sigmas.push(sigma);
        covered = sigma;
        sigma *= 2.0;
    }
    sigmas
}

/// The blur that leads from each level to the next.
fn sigma_steps(sigmas: &[f32]) -> Vec<Sigma> {
    let below = std::iter::once(0.0).chain(sigmas.iter().copied());
    sigmas
        .iter()
        .zip(below)
        .map(|(sigma, below)| Sigma::round((sigma * sigma - below * below).sqrt()))
        .collect()
}

/// Where a blurred signal exists so that its edge mode continues it: a mirrored or repeated one stays so, the
/// others change up to as far as the blur reaches.
fn spread_data(data: Window, edge: Edge, step: Sigma) -> Window {
    let (x, y) = step.reach();
    match edge {
        Edge::Mirror | Edge::Repeat => data,
        Edge::Clear | Edge::Hold => data.grow(x + 1, y + 1),
    }
}

/// One level: the signal blurred, held where it is read.
struct Level<P: Pixel> {
    variance: f32,
    picture: Raster<P>,
    /// Where the blurred signal exists, for reading outside of it by the edge mode.
    data: Window,
}

struct Stack<'a, P: Pixel> {
    sharp: &'a Raster<P>,
    data: Window,
    edge: Edge,
    softness_sq: f32,
    blurred: Vec<Level<P>>,
}

impl<'a, P: Pixel> Stack<'a, P> {
    fn new(
        how: Displacement,
        sharp: &'a Raster<P>,
        data: Window,
        moves: &Map,
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let longest = longest_move(moves);
        let sigmas = stack_sigmas(how.softness * longest);
        let reads = moved_window(moves).grow(longest.ceil() as i32 + 2, longest.ceil() as i32 + 2);
        let steps = sigma_steps(&sigmas);
        // Each level is blurred from the one below, so each must reach as far as those above it need.
        let mut wanted = vec![reads; sigmas.len()];
        for index in (1..sigmas.len()).rev() {
            let (x, y) = steps[index].reach();
            wanted[index - 1] = wanted[index].grow(x, y);
        }
        let mut blurred: Vec<Level<P>> = Vec::with_capacity(sigmas.len());
        for ((sigma, step), wanted) in sigmas.iter().zip(steps).zip(wanted) {
            let (below, below_data) = match blurred.last() {
                Some(level) => (&level.picture, level.data),
                None => (sharp, data),
            };
            let level_data = spread_data(below_data, how.edge, step);
            let window = how.edge.reads_window(wanted, level_data);
            let picture = gaussian(below, below_data, how.edge, step, window, cancel)?;
            blurred.push(Level { variance: sigma * sigma, picture, data: level_data });
        }
        Ok(Self { sharp, data, edge: how.edge, softness_sq: how.softness * how.softness, blurred })
    }

    #[inline(always)]
    fn read_row(&self, filter: Filter, moves: &Map, y: i32, row: &mut [P]) {
        let sharp = Sampler::new(self.sharp, self.data, self.edge);
        let window = self.sharp.window();
        let still = self.sharp.row(y);
        for ((x, out), m) in (moves.window().x0..).zip(row).zip(moves.row(y)) {
            if *m == [0.0, 0.0] && x >= window.x0 && x < window.x1 && !still.is_empty() {
                *out = still[(x - window.x0) as usize];
                continue;
            }
            let (from_x, from_y) = (x as f32 + 0.5 - m[0], y as f32 + 0.5 - m[1]);
            let variance = self.softness_sq * length_sq(*m);
            *out = self.read(filter, &sharp, variance, from_x, from_y);
        }
    }

    #[inline(always)]
    fn read(&self, filter: Filter, sharp: &Sampler<'_, P>, variance: f32, x: f32, y: f32) -> P {
        if self.blurred.is_empty() {
            return sharp.at(filter, x, y);
        }
        let above =
            self.blurred.partition_point(|level| level.variance < variance).min(self.blurred.len() - 1);
        let upper = &self.blurred[above];
        let soft =
            |level: &Level<P>| Sampler::new(&level.picture, level.data, self.edge).at(Filter::Linear, x, y);
        let (lower_variance, lower) = match above.checked_sub(1) {
            Some(below) => (self.blurred[below].variance, soft(&self.blurred[below])),
            None => (0.0, sharp.at(filter, x, y)),
        };
        let share = ((variance - lower_variance) / (upper.variance - lower_variance)).clamp(0.0, 1.0);
        lower.mix(soft(upper), share)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SHARP: Displacement = Displacement { softness: 0.0, filter: Filter::Cubic, edge: Edge::Hold };

    /// Common practice, as the words define it: a map value times the strength is the distance moved;
    /// (3, 0) at strength 2 moves the picture six pixels to the right.
    #[test]
    fn a_move_of_six_to_the_right_carries_the_dot_six_to_the_right() {
        let data = Window::sized(32, 16);
        let mut dot = Raster::clear(data);
        dot.set(10, 7, 1.0);
        let moves = Raster::flat(data, [3.0 * 2.0, 0.0]);
        let moved = SHARP.apply(&dot, data, &moves, &Cancel::new()).unwrap();
        assert_eq!(moved.get(16, 7), Some(1.0));
        assert_eq!(moved.get(10, 7), Some(0.0));
    }

    #[test]
    fn a_map_of_zeros_is_the_input_bit_for_bit_even_beside_infinities() {
        let data = Window::sized(21, 9);
        let mut picture = Raster::from_fn(data, |x, y| [x as f32 * 0.3, -(y as f32), 1e30, 1.0]);
        picture.set(4, 4, [f32::INFINITY, 0.0, 0.0, 1.0]);
        let still = Raster::clear(data);
        let soft = Displacement { softness: 2.0, ..SHARP };
        assert_eq!(soft.apply(&picture, data, &still, &Cancel::new()).unwrap(), picture);
    }

    #[test]
    fn softness_spreads_an_edge_by_its_share_of_the_move() {
        let data = Window::sized(201, 5);
        let mut dot = Raster::clear(data);
        for y in 0..5 {
            dot.set(100, y, 1.0f32);
        }
        for (distance, softness) in [(2.0f32, 1.0f32), (6.0, 0.5), (8.0, 0.8), (10.0, 0.33)] {
            let how = Displacement { softness, ..SHARP };
            let moves = Raster::flat(data, [distance, 0.0]);
            let moved = how.apply(&dot, data, &moves, &Cancel::new()).unwrap();
            let row = moved.row(2);
            let sum: f32 = row.iter().sum();
            let mean: f32 = row.iter().enumerate().map(|(x, v)| x as f32 * v).sum::<f32>() / sum;
            let variance: f32 =
                row.iter().enumerate().map(|(x, v)| (x as f32 - mean).powi(2) * v).sum::<f32>() / sum;
            let wanted = (softness * distance).powi(2);
            assert!((mean - 100.0 - distance).abs() < 0.01, "mean {mean}");
            assert!((variance - wanted).abs() < 0.06 * wanted + 0.1, "{variance} for {wanted}");
        }
    }
}
