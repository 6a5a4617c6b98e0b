//! A field of ways that is dear to work out, as squares of bicubics that are as small as they have to be.

use rayon::prelude::*;

use super::plate::Way;
use crate::warp::bent::block::{Block, Cubic, Holds};
use crate::warp::bent::sample::Sample;
use crate::{Cancel, Cancelled, Window};

/// The side of a tile, in pixels.
pub(super) const TILE: i32 = 64;
/// Squares are counted in shares of a pixel, so many to one: where outlines have corners a way turns within less than a pixel.
const SHARES: i32 = 16;
/// Steps of squares in a tile.
const STEPS: i32 = TILE * SHARES;

/// The place of a number of steps.
fn place(steps: i32) -> f64 {
    f64::from(steps) / f64::from(SHARES)
}

/// A tile's squares: the first is all of it.
struct Tile {
    squares: Vec<Square>,
    cubics: Vec<Cubic>,
    /// The least and the most of its ways by both axes.
    ways: [[f64; 2]; 2],
}

enum Square {
    /// The number of its bicubic.
    One(u32),
    /// The numbers of its quarters.
    Four([u32; 4]),
}

/// A square half as wide is taken to be so many times less off; it is more where no bump has its middle.
const HALVED: f64 = 2.5;

/// A field over a window of places, in tiles.
pub(super) struct Sheet {
    first: [i32; 2],
    wide: usize,
    tiles: Vec<Tile>,
}

impl Sheet {
    /// Of what `way` gives, as exactly as `exact` says for a window of places; where it says nothing that is too large.
    pub(super) fn over(
        window: Window,
        way: &(impl Fn([f64; 2]) -> Way + Sync),
        exact: &(impl Fn(Window) -> Option<f64> + Sync),
        cancel: &Cancel,
    ) -> Result<Self, Cancelled> {
        let first = [window.x0, window.y0].map(|at| at.div_euclid(TILE));
        let last = [window.x1, window.y1].map(|at| (at - 1).div_euclid(TILE));
        let wide = (last[0] - first[0] + 1).max(0) as usize;
        let count = wide * (last[1] - first[1] + 1).max(0) as usize;
        let steps = |at: [usize; 2]| [0, 1].map(|axis| (first[axis] + at[axis] as i32) * STEPS);
        let corner = |number: usize| {
            cancel.check()?;
            Ok(sample(way(steps([number % (wide + 1), number / (wide + 1)]).map(place))))
        };
        let corners = (0..(wide + 1) * (count / wide.max(1) + 1)).into_par_iter().map(corner);
        let corners = corners.collect::<Result<Vec<_>, Cancelled>>()?;
        let tile = |number: usize| {
            cancel.check()?;
            let at = [number % wide, number / wide];
            let above = at[1] * (wide + 1) + at[0];
            let below = above + wide + 1;
            let own = [above, above + 1, below, below + 1].map(|corner| corners[corner]);
            Ok(Tile::made(steps(at), own, way, exact))
        };
        let tiles = (0..count).into_par_iter().map(tile).collect::<Result<Vec<_>, Cancelled>>()?;
        Ok(Self { first, wide, tiles })
    }

    pub(super) fn count(&self) -> usize {
        self.tiles.len()
    }

    /// The first corner of a tile.
    pub(super) fn corner(&self, tile: usize) -> [f64; 2] {
        let at = [tile % self.wide, tile / self.wide];
        [0, 1].map(|axis| f64::from((self.first[axis] + at[axis] as i32) * TILE))
    }

    /// The least and the most of a tile's ways by both axes.
    pub(super) fn ways(&self, tile: usize) -> [[f64; 2]; 2] {
        self.tiles[tile].ways
    }

    /// The way of a place; beyond all tiles that of the nearest.
    pub(super) fn at(&self, place: [f64; 2]) -> Way {
        let high = self.tiles.len() / self.wide;
        let own = [0, 1].map(|axis| place[axis] - f64::from(self.first[axis] * TILE));
        let tile = |axis: usize, count: usize| {
            ((own[axis] / f64::from(TILE)).floor().max(0.0) as usize).min(count - 1)
        };
        let [column, row] = [tile(0, self.wide), tile(1, high)];
        let within = [own[0] - (column * TILE as usize) as f64, own[1] - (row * TILE as usize) as f64];
        self.tiles[row * self.wide + column].at(within.map(|at| at.clamp(0.0, f64::from(TILE))))
    }
}

impl Tile {
    fn at(&self, place: [f64; 2]) -> Way {
        let (mut number, mut from, mut half) = (0, [0.0, 0.0], f64::from(TILE) / 2.0);
        loop {
            match &self.squares[number] {
                Square::One(cubic) => {
                    let within = [0, 1].map(|axis| (place[axis] - from[axis]) * f64::from(SHARES));
                    let [value, by_x, by_y] = self.cubics[*cubic as usize].moves_at(within);
                    return Way { value, by: [by_x, by_y].map(|by| by.map(|by| by * f64::from(SHARES))) };
                }
                Square::Four(quarters) => {
                    let beyond = [0, 1].map(|axis| place[axis] >= from[axis] + half);
                    number = quarters[usize::from(beyond[0]) + 2 * usize::from(beyond[1])] as usize;
                    from = [0, 1].map(|axis| from[axis] + if beyond[axis] { half } else { 0.0 });
                    half /= 2.0;
                }
            }
        }
    }

    fn made(
        [x, y]: [i32; 2],
        corners: [Sample; 4],
        way: &impl Fn([f64; 2]) -> Way,
        exact: &impl Fn(Window) -> Option<f64>,
    ) -> Self {
        let mut made = Self { squares: Vec::new(), cubics: Vec::new(), ways: [[f64::MAX, f64::MIN]; 2] };
        made.take(&Block { x, y, size: STEPS, corners }, f64::MAX, way, exact);
        made
    }

    /// Takes a square, in quarters where it has to be; gives its number. It is no further off than `foretold`.
    fn take(
        &mut self,
        block: &Block,
        foretold: f64,
        way: &impl Fn([f64; 2]) -> Way,
        exact: &impl Fn(Window) -> Option<f64>,
    ) -> u32 {
        let number = self.squares.len() as u32;
        self.squares.push(Square::One(self.cubics.len() as u32));
        let far = |at: i32| (at + SHARES - 1).div_euclid(SHARES);
        let Window { x0, y0, x1, y1 } = block.window();
        let pixels = Window::new(x0.div_euclid(SHARES), y0.div_euclid(SHARES), far(x1), far(y1));
        let exact_here = exact(pixels);
        let is_foretold = block.size == 1 || exact_here.is_some_and(|exact| foretold <= exact);
        let found = (!is_foretold).then(|| {
            block.half_way().map(|[x, y]| {
                let by = f64::from(SHARES);
                sample(way([place(block.x) + x / by, place(block.y) + y / by]))
            })
        });
        let off = found.as_ref().map(|found| block.off(found));
        let Some((found, off)) =
            found.zip(off).filter(|(_, off)| exact_here.is_none_or(|exact| *off > exact))
        else {
            let cubic = block.cubic(Holds::All);
            let bounds = cubic.bounds();
            for (ways, own) in self.ways.iter_mut().zip(bounds) {
                *ways = [ways[0].min(f64::from(own[0])), ways[1].max(f64::from(own[1]))];
            }
            self.cubics.push(cubic);
            return number;
        };
        let quarters = block.quarters(found);
        let numbers = quarters.each_ref().map(|quarter| self.take(quarter, off / HALVED, way, exact));
        self.squares[number as usize] = Square::Four(numbers);
        number
    }
}

/// A way as the moves of a sample, which has no numbers of a piece.
fn sample(way: Way) -> Sample {
    let own = |of: [f64; 2]| [0.0, 0.0, of[0], of[1]];
    Sample { value: own(way.value), by: way.by.map(|by| own(by.map(|by| by / f64::from(SHARES)))) }
}
