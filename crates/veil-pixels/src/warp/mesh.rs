//! A picture moved by a lattice of places: each cell's corners have moved, and what lies between goes along smoothly.
//!
//! - Shape: moves for each pixel; output `p` reads `p − moves(p)`.
//! - Units: places in pixels of the raster.
//! - Surface: the natural cubic spline through all corners of a row and of a column, which goes on straight beyond the last
//!   of them; how far apart lines are, in the mean, at rest is how far apart its knots are. So a lattice that gets another
//!   line, with corners where its surface has them, keeps that surface ([`half_way`]). The same spline goes through the
//!   places at rest and through those that have moved.
//! - Inverse: the surface is taken as triangles so small that none of them is further than [`FLAT`] from it.
//! - Beyond the lattice a place goes as the border next to it goes.
//! - Where it folds, of the places that come to lie on one pixel the one in the later cell counts, row by row.
//! - Source: natural cubic splines and the error of a chord, de Boor, "A Practical Guide to Splines", 1978, chapters III
//!   and IV.

use crate::buffer::raster::Raster;
use crate::{Cancel, Cancelled, Map, Window};

/// No triangle is further from the surface than this, in pixels.
pub const FLAT: f64 = 0.008;
/// All cells of a line together are cut into no more pieces than this, or into one each.
const MOST_PIECES: usize = 2000;
/// So far beyond the border, in pixels, the lattice goes on.
const BEYOND: f64 = 100_000.0;
/// Rows of pixels that triangles are looked up for at once.
const BAND: i32 = 16;

/// A place at rest, and where it has moved.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Pair {
    rest: [f64; 2],
    moved: [f64; 2],
}

impl Pair {
    fn map(self, f: impl Fn([f64; 2]) -> [f64; 2]) -> Self {
        Self { rest: f(self.rest), moved: f(self.moved) }
    }

    /// A sum of places, each so many times.
    fn sum<const N: usize>(pairs: [Self; N], by: [f64; N]) -> Self {
        let of = |place: fn(&Self) -> [f64; 2]| {
            [0, 1].map(|axis| pairs.iter().zip(by).map(|(pair, by)| place(pair)[axis] * by).sum())
        };
        Self { rest: of(|pair| pair.rest), moved: of(|pair| pair.moved) }
    }

    /// The longer of both ways.
    fn length(self) -> f64 {
        let [a, b] = [self.rest, self.moved].map(|[x, y]| x.hypot(y));
        a.max(b)
    }
}

/// Places in lines, each of as many.
struct Grid {
    wide: usize,
    places: Vec<Pair>,
}

impl Grid {
    fn high(&self) -> usize {
        self.places.len() / self.wide
    }

    fn line(&self, number: usize) -> &[Pair] {
        &self.places[number * self.wide..(number + 1) * self.wide]
    }

    /// Lines become columns.
    fn turned(&self) -> Self {
        let at = |column: usize| (0..self.high()).map(move |line| self.places[line * self.wide + column]);
        Self { wide: self.high(), places: (0..self.wide).flat_map(at).collect() }
    }
}

/// How far apart neighbouring lines are at rest, in the mean over what crosses them.
fn steps(grid: &Grid) -> Vec<f64> {
    let mean = |step: usize| {
        let far = |line: usize| {
            let [a, b] = [0, 1].map(|side| grid.line(line)[step + side].rest);
            (b[0] - a[0]).hypot(b[1] - a[1])
        };
        (0..grid.high()).map(far).sum::<f64>() / grid.high() as f64
    };
    // Lines that lie on each other have a step all the same.
    (0..grid.wide - 1).map(|step| mean(step).max(1e-6)).collect()
}

/// The natural cubic spline through a line of places.
struct Spline<'a> {
    steps: &'a [f64],
    line: &'a [Pair],
    /// Second derivatives at each place.
    bends: Vec<Pair>,
}

impl<'a> Spline<'a> {
    fn through(line: &'a [Pair], steps: &'a [f64]) -> Self {
        const STRAIGHT: Pair = Pair { rest: [0.0; 2], moved: [0.0; 2] };
        let mut bends = vec![STRAIGHT; line.len()];
        // A tridiagonal system, solved forward and back.
        let mut above = vec![0.0; line.len()];
        for at in 1..line.len() - 1 {
            let [before, after] = [steps[at - 1], steps[at]];
            let slopes = Pair::sum(
                [line[at - 1], line[at], line[at + 1]],
                [6.0 / before, -6.0 / before - 6.0 / after, 6.0 / after],
            );
            let own = 2.0 * (before + after) - before * above[at - 1];
            above[at] = after / own;
            bends[at] = Pair::sum([slopes, bends[at - 1]], [1.0 / own, -before / own]);
        }
        for at in (1..line.len() - 1).rev() {
            bends[at] = Pair::sum([bends[at], bends[at + 1]], [1.0, -above[at]]);
        }
        Self { steps, line, bends }
    }

    /// The place at a share of the way from one to the next.
    fn at(&self, from: usize, t: f64) -> Pair {
        let (s, by) = (1.0 - t, self.steps[from] * self.steps[from] / 6.0);
        Pair::sum(
            [self.line[from], self.line[from + 1], self.bends[from], self.bends[from + 1]],
            [s, t, by * (s * s * s - s), by * (t * t * t - t)],
        )
    }

    /// How strongly it bends from one place to the next, at most, where the way is one long.
    fn bend(&self, from: usize) -> f64 {
        self.bends[from].length().max(self.bends[from + 1].length()) * self.steps[from] * self.steps[from]
    }
}

/// The places of a corner at rest and moved that a lattice gets half way from a line to the next, for each line that
/// crosses both: `lines` are those, from end to end.
pub fn half_way(lines: &[Vec<([f64; 2], [f64; 2])>], from: usize) -> Vec<([f64; 2], [f64; 2])> {
    let Some(wide) = lines.first().map(Vec::len).filter(|wide| *wide > 1) else { return Vec::new() };
    let places = lines.iter().flatten().map(|(rest, moved)| Pair { rest: *rest, moved: *moved }).collect();
    let grid = Grid { wide, places };
    let steps = steps(&grid);
    let made = (0..grid.high()).map(|line| Spline::through(grid.line(line), &steps).at(from, 0.5));
    made.map(|pair| (pair.rest, pair.moved)).collect()
}

/// Into how many pieces each step along lines is cut, so that straight pieces lie near enough.
fn pieces(grid: &Grid, steps: &[f64]) -> Vec<usize> {
    // Between two lines a curve is a mean of all whose weights are no more than this together.
    const BETWEEN: f64 = 1.6;
    let splines: Vec<Spline<'_>> =
        (0..grid.high()).map(|line| Spline::through(grid.line(line), steps)).collect();
    (0..steps.len())
        .map(|step| {
            let bend = BETWEEN * splines.iter().map(|spline| spline.bend(step)).fold(0.0, f64::max);
            // A cell's twist, which two triangles do not have, is half as far off as it is large a quarter of the way.
            let twists = (1..grid.high()).map(|line| {
                let [above, here] = [line - 1, line].map(|line| grid.line(line));
                let corners = [above[step], above[step + 1], here[step], here[step + 1]];
                Pair::sum(corners, [1.0, -1.0, -1.0, 1.0]).length()
            });
            let twist = BETWEEN * BETWEEN * twists.fold(0.0, f64::max);
            let wanted = (bend / (8.0 * FLAT / 2.0)).max(twist / (4.0 * FLAT / 2.0)).sqrt().ceil();
            (wanted as usize).clamp(1, (MOST_PIECES / steps.len()).max(1))
        })
        .collect()
}

/// Every line with places between its own, so many for each step.
fn finer(grid: &Grid, steps: &[f64], pieces: &[usize]) -> Grid {
    let line = |line: &[Pair]| -> Vec<Pair> {
        let spline = Spline::through(line, steps);
        let between = pieces.iter().enumerate().flat_map(|(step, count)| {
            let spline = &spline;
            (0..*count).map(move |piece| spline.at(step, piece as f64 / *count as f64))
        });
        between.chain(line.last().copied()).collect()
    };
    let places: Vec<Pair> = (0..grid.high()).flat_map(|number| line(grid.line(number))).collect();
    Grid { wide: pieces.iter().sum::<usize>() + 1, places }
}

/// With a place far beyond each end of every line, which has moved as the end has.
fn ended(grid: &Grid) -> Grid {
    let line = |line: &[Pair]| -> Vec<Pair> {
        let (first, last) = (line[0], line[line.len() - 1]);
        let way = [0, 1].map(|axis| last.rest[axis] - first.rest[axis]);
        let long = way[0].hypot(way[1]).max(1e-9);
        let far = |pair: Pair, side: f64| {
            pair.map(|at| [0, 1].map(|axis| at[axis] + side * way[axis] / long * BEYOND))
        };
        let mut all = vec![far(first, -1.0)];
        all.extend_from_slice(line);
        all.push(far(last, 1.0));
        all
    };
    Grid {
        wide: grid.wide + 2,
        places: (0..grid.high()).flat_map(|number| line(grid.line(number))).collect(),
    }
}

/// What is read at each place of a triangle: a sum of the place and a constant.
struct Triangle {
    corners: [[f64; 2]; 3],
    /// Moves by x, by y and at nothing.
    moves: [[f64; 3]; 2],
}

impl Triangle {
    /// None where it has no area.
    fn of(corners: [Pair; 3]) -> Option<Self> {
        let [a, b, c] = corners.map(|pair| pair.moved);
        let (along, across) = ([b[0] - a[0], b[1] - a[1]], [c[0] - a[0], c[1] - a[1]]);
        let area = along[0] * across[1] - along[1] * across[0];
        if area == 0.0 || !area.is_finite() {
            return None;
        }
        let moves = [0, 1].map(|axis| {
            let move_of = |pair: &Pair| pair.moved[axis] - pair.rest[axis];
            let [at, by, to] = corners.each_ref().map(move_of);
            let x = ((by - at) * across[1] - (to - at) * along[1]) / area;
            let y = ((to - at) * along[0] - (by - at) * across[0]) / area;
            [x, y, at - x * a[0] - y * a[1]]
        });
        Some(Self { corners: [a, b, c], moves })
    }

    fn rows(&self) -> [f64; 2] {
        let ys = self.corners.map(|corner| corner[1]);
        [ys.into_iter().fold(f64::MAX, f64::min), ys.into_iter().fold(f64::MIN, f64::max)]
    }

    /// From where to where it covers a row of pixels' middles.
    fn span(&self, y: f64) -> Option<[f64; 2]> {
        let mut span = [f64::MAX, f64::MIN];
        for side in 0..3 {
            let (from, to) = (self.corners[side], self.corners[(side + 1) % 3]);
            let (low, high) = (from[1].min(to[1]), from[1].max(to[1]));
            if !(low..=high).contains(&y) {
                continue;
            }
            let ends = if high > low {
                [from[0] + (to[0] - from[0]) * (y - from[1]) / (to[1] - from[1]); 2]
            } else {
                [from[0], to[0]]
            };
            for x in ends {
                span = [span[0].min(x), span[1].max(x)];
            }
        }
        (span[0] <= span[1]).then_some(span)
    }

    fn fill(&self, y: i32, first: i32, row: &mut [[f32; 2]]) {
        // What two triangles share is covered by both, whichever way it was rounded.
        const SLACK: f64 = 1e-6;
        let middle = f64::from(y) + 0.5;
        let Some([left, right]) = self.span(middle) else { return };
        let from = (left - 0.5 - SLACK).ceil().max(f64::from(first));
        let to = (right - 0.5 + SLACK).floor().min(f64::from(first) + row.len() as f64 - 1.0);
        if from > to {
            return;
        }
        let at = (from - f64::from(first)) as usize..=(to - f64::from(first)) as usize;
        for (x, out) in (from as i32..).zip(&mut row[at]) {
            let x = f64::from(x) + 0.5;
            *out = self.moves.map(|[by_x, by_y, still]| (by_x * x + by_y * middle + still) as f32);
        }
    }
}

/// A lattice that has moved, ready to be asked.
pub struct Mesh {
    triangles: Vec<Triangle>,
}

impl Mesh {
    /// Of `rows` by `columns` cells, with the places of their corners row by row. None where there are not as many as there
    /// are corners, or no cell.
    pub fn new(rows: usize, columns: usize, rest: &[[f64; 2]], moved: &[[f64; 2]]) -> Option<Self> {
        let corners = (rows + 1) * (columns + 1);
        if rows == 0 || columns == 0 || rest.len() != corners || moved.len() != corners {
            return None;
        }
        let places =
            rest.iter().zip(moved).map(|(rest, moved)| Pair { rest: *rest, moved: *moved }).collect();
        let grid = Grid { wide: columns + 1, places };
        let turned = grid.turned();
        let [across, down] = [steps(&grid), steps(&turned)];
        // First along lines, then along columns: each is a spline in one direction, so the order does not count.
        let fine = finer(&grid, &across, &pieces(&grid, &across)).turned();
        let fine = finer(&fine, &down, &pieces(&turned, &down)).turned();
        let whole = ended(&ended(&fine).turned()).turned();
        let cell = |line: usize, at: usize| {
            let (above, here) = (whole.line(line), whole.line(line + 1));
            let (a, b, c, d) = (above[at], above[at + 1], here[at], here[at + 1]);
            [Triangle::of([a, b, c]), Triangle::of([b, d, c])]
        };
        let lines = 0..whole.high() - 1;
        let triangles = lines.flat_map(|line| (0..whole.wide - 1).flat_map(move |at| cell(line, at)));
        Some(Self { triangles: triangles.flatten().collect() })
    }

    /// The moves over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Map, Cancelled> {
        let mut map: Map = Raster::clear(window);
        if window.is_empty() {
            return Ok(map);
        }
        let bands = self.bands(window);
        map.fill_rows(cancel, |y, row| {
            for triangle in &bands[((y - window.y0) / BAND) as usize] {
                self.triangles[*triangle as usize].fill(y, window.x0, row);
            }
        })?;
        Ok(map)
    }

    /// Which triangles touch each band of rows, in their order.
    fn bands(&self, window: Window) -> Vec<Vec<u32>> {
        let count = window.height().div_ceil(BAND as usize);
        let mut bands = vec![Vec::new(); count];
        for (number, triangle) in (0u32..).zip(&self.triangles) {
            let [top, bottom] = triangle.rows().map(|y| (y - f64::from(window.y0)) / f64::from(BAND));
            if bottom < 0.0 || top >= count as f64 {
                continue;
            }
            let last = (bottom.floor() as usize).min(count - 1);
            for band in &mut bands[top.floor().max(0.0) as usize..=last] {
                band.push(number);
            }
        }
        bands
    }
}
