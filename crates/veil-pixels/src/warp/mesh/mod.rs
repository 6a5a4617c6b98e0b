//! A picture moved by a lattice of places: each cell's corners have moved, and what lies between goes along smoothly.
//!
//! - Shape: moves for each pixel; output `p` reads `p − moves(p)`.
//! - Units: places in pixels of the raster.
//! - Surface: through the corners, or near them ([`Through`]); how far apart lines are, in the mean, at rest is how far
//!   apart its knots are. The places at rest are always gone through; what a corner has moved is added by either kind.
//! - A lattice that gets another line, with what [`cut`] gives for its corners, keeps its surface.
//! - Beyond the lattice a place goes as the border next to it goes.
//! - Inverse and folds: [`super::bent`].
//! - Source: Catmull and Rom, "A class of local interpolating splines", 1974; B-splines, de Boor, "A Practical Guide to
//!   Splines", 1978, chapters IX and X.

mod lines;
mod places;
mod sheet;

use lines::{Basis, Lines, Shares, solved};

pub use lines::Through;
pub use places::Places;
pub use sheet::{Front, Sheet};

use multiversion::multiversion;

use super::bent::{self, Bent, Inverse, Spot};
use crate::{Cancel, Cancelled, Field, Window};

/// So far beyond the border, in pixels, the lattice goes on.
const BEYOND: f64 = 100_000.0;
/// The inverse is no further off than this, in pixels, half way between what is right.
const EXACT: f64 = 0.002;

/// Corners of cells at rest and moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Corners<'a> {
    /// Rows and columns of cells.
    pub cells: [usize; 2],
    /// Where the corners are at rest, row by row.
    pub rest: &'a [[f64; 2]],
    /// Where they have moved, in the same order.
    pub moved: &'a [[f64; 2]],
    /// When each line of corners along a row's and along a column's side was added, 0 for those that were there at first;
    /// empty where all were.
    pub added: [&'a [u32]; 2],
    /// How the surface goes by them.
    pub through: Through,
}

/// Values of two axes at rest and two of what has moved, as lanes.
type Lanes = [f64; 4];

fn lanes(f: impl Fn(usize) -> f64) -> Lanes {
    [f(0), f(1), f(2), f(3)]
}

impl Corners<'_> {
    /// Whether there are as many places as there are corners, and a cell.
    fn fit(&self) -> bool {
        let [rows, columns] = self.cells;
        let corners = (rows + 1) * (columns + 1);
        let lines = [rows + 1, columns + 1];
        rows > 0
            && columns > 0
            && self.rest.len() == corners
            && self.moved.len() == corners
            && self.added.iter().zip(lines).all(|(added, lines)| added.is_empty() || added.len() == lines)
    }

    /// The lines of corners along rows' sides, then along columns'.
    fn lines(&self) -> [Lines; 2] {
        let [rows, columns] = self.cells;
        let wide = columns + 1;
        let far = |from: usize, to: usize| {
            let [a, b] = [from, to].map(|at| self.rest[at]);
            (b[0] - a[0]).hypot(b[1] - a[1])
        };
        let down = |row: usize| {
            (0..wide).map(|at| far(row * wide + at, (row + 1) * wide + at)).sum::<f64>() / wide as f64
        };
        let across = |column: usize| {
            (0..=rows).map(|row| far(row * wide + column, row * wide + column + 1)).sum::<f64>()
                / (rows + 1) as f64
        };
        // Lines that lie on each other have a step all the same.
        let knots = |steps: &mut dyn Iterator<Item = f64>| {
            let mut at = 0.0;
            let later = steps.map(|step| {
                at += step.max(1e-6);
                at
            });
            std::iter::once(0.0).chain(later).collect::<Vec<f64>>()
        };
        let [added_rows, added_columns] = self.added.map(<[u32]>::to_vec);
        let of = |knots: Vec<f64>, added: Vec<u32>| {
            let added = if added.is_empty() { vec![0; knots.len()] } else { added };
            Lines { knots, added }
        };
        [
            of(knots(&mut (0..rows).map(down)), added_rows),
            of(knots(&mut (0..columns).map(across)), added_columns),
        ]
    }

    /// Rest and way of each corner, a row after the other.
    fn grid(&self) -> Vec<Lanes> {
        let both = self.rest.iter().zip(self.moved);
        both.map(|(rest, moved)| [rest[0], rest[1], moved[0] - rest[0], moved[1] - rest[1]]).collect()
    }
}

/// Sums of a grid's rows, one for each of the shares.
fn by_rows(grid: &[Lanes], wide: usize, rest: &Shares, ways: &Shares) -> Vec<Lanes> {
    let sum = |line: usize, column: usize| {
        let shares =
            rest[line].iter().zip(&ways[line]).enumerate().filter(|(_, (a, b))| **a != 0.0 || **b != 0.0);
        shares.fold([0.0; 4], |sum, (row, (rest, way))| {
            let place = &grid[row * wide + column];
            lanes(|lane| sum[lane] + place[lane] * if lane < 2 { *rest } else { *way })
        })
    };
    (0..rest.len())
        .flat_map(|line| (0..wide).map(move |column| (line, column)))
        .map(|(line, column)| sum(line, column))
        .collect()
}

fn turned(grid: &[Lanes], wide: usize) -> Vec<Lanes> {
    (0..wide).flat_map(|column| grid.iter().skip(column).step_by(wide).copied()).collect()
}

/// Sums of a grid's columns.
fn by_columns(grid: &[Lanes], wide: usize, rest: &Shares, ways: &Shares) -> Vec<Lanes> {
    let high = grid.len() / wide;
    turned(&by_rows(&turned(grid, wide), high, rest, ways), high)
}

/// A cell as a bicubic: by powers of the way across and, in each, of the way down.
type Cell = [[Lanes; 4]; 4];

/// The cubic with these values and slopes at both ends, by its powers.
fn cubic(from: Lanes, to: Lanes, starts: Lanes, ends: Lanes) -> [Lanes; 4] {
    [
        from,
        starts,
        lanes(|lane| 3.0 * (to[lane] - from[lane]) - 2.0 * starts[lane] - ends[lane]),
        lanes(|lane| 2.0 * (from[lane] - to[lane]) + starts[lane] + ends[lane]),
    ]
}

/// What a surface has at each corner: its value, its slope across, down, and both.
struct Known {
    wide: usize,
    values: [Vec<Lanes>; 4],
    /// Knots along rows' sides and along columns'.
    knots: [Vec<f64>; 2],
}

impl Known {
    fn of(corners: &Corners<'_>) -> Self {
        let wide = corners.cells[1] + 1;
        let [down, across] = corners.lines();
        let basis = |lines: &Lines| (lines.basis(Through::Corners), lines.basis(corners.through));
        let ((rest_down, way_down), (rest_across, way_across)) = (basis(&down), basis(&across));
        let grid = corners.grid();
        let lines_of = |rest: &Shares, ways: &Shares| by_rows(&grid, wide, rest, ways);
        let values = lines_of(&rest_down.values, &way_down.values);
        let slopes = lines_of(&rest_down.slopes, &way_down.slopes);
        let own = |of: &[Lanes]| by_columns(of, wide, &rest_across.values, &way_across.values);
        let slope = |of: &[Lanes]| by_columns(of, wide, &rest_across.slopes, &way_across.slopes);
        Self {
            wide,
            values: [own(&values), slope(&values), own(&slopes), slope(&slopes)],
            knots: [down.knots, across.knots],
        }
    }

    fn cell(&self, row: usize, column: usize) -> Cell {
        let steps =
            [self.knots[0][row + 1] - self.knots[0][row], self.knots[1][column + 1] - self.knots[1][column]];
        let at = |corner: usize, what: usize| {
            let place = (row + corner / 2) * self.wide + column + corner % 2;
            let scale = [1.0, steps[1], steps[0], steps[0] * steps[1]][what];
            lanes(|lane| self.values[what][place][lane] * scale)
        };
        // Down each side, and how that changes across.
        let side = |corner: usize, what: usize| {
            cubic(at(corner, what), at(corner + 2, what), at(corner, what + 2), at(corner + 2, what + 2))
        };
        let [left, right, left_by, right_by] = [side(0, 0), side(1, 0), side(0, 1), side(1, 1)];
        let across =
            [0, 1, 2, 3].map(|power| cubic(left[power], right[power], left_by[power], right_by[power]));
        [0, 1, 2, 3].map(|x| [0, 1, 2, 3].map(|y| across[y][x]))
    }
}

/// A lattice that has moved, ready to be asked.
pub struct Mesh {
    /// With those beyond the border.
    cells: Vec<Cell>,
}

impl Mesh {
    /// Of corners at rest and moved. None where there are not as many as there are corners, or no cell.
    pub fn new(corners: &Corners<'_>) -> Option<Self> {
        if !corners.fit() {
            return None;
        }
        let known = Known::of(corners);
        let [rows, columns] = corners.cells;
        let inside: Vec<Cell> = (0..rows)
            .flat_map(|row| (0..columns).map(move |column| (row, column)))
            .map(|(row, column)| known.cell(row, column))
            .collect();
        Some(Self { cells: with_border(corners, &inside) })
    }

    /// The moves over a window.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Inverse, Cancelled> {
        Inverse::over(self, window, cancel)
    }

    /// What holds all of a piece at rest: left, top, right, bottom.
    fn bounds_at_rest(&self, piece: usize) -> [f64; 4] {
        within(&self.cells[piece], net)
    }

    /// 1 where it is folded over.
    pub fn folded(&self, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
        bent::folded(self, window, cancel)
    }
}

/// All cells with those beyond the border, which go on outward in the direction of the lines at rest and have moved as the
/// border has.
fn with_border(corners: &Corners<'_>, inside: &[Cell]) -> Vec<Cell> {
    let [rows, columns] = corners.cells;
    let wide = columns + 1;
    let outward = |from: usize, to: usize| -> [f64; 2] {
        let [a, b] = [from, to].map(|at| corners.rest[at]);
        let way = [b[0] - a[0], b[1] - a[1]];
        let long = way[0].hypot(way[1]).max(1e-9);
        way.map(|axis| axis / long * BEYOND)
    };
    let along_row = |row: usize| outward(row * wide, row * wide + columns);
    let along_column = |column: usize| outward(column, rows * wide + column);
    let cell = |row: usize, column: usize| {
        let inner = [row.clamp(1, rows) - 1, column.clamp(1, columns) - 1];
        let mut cell = inside[inner[0] * columns + inner[1]];
        let beyond = |at: usize, cells: usize| i32::from(at > cells) - i32::from(at == 0);
        let (down, across) = (beyond(row, rows), beyond(column, columns));
        if across != 0 {
            let ways = [inner[0], inner[0] + 1].map(along_row);
            cell = continued(&cell, across, ways);
        }
        if down != 0 {
            let ways = [inner[1], inner[1] + 1].map(along_column);
            cell = transposed(&continued(&transposed(&cell), down, ways));
        }
        cell
    };
    (0..rows + 2)
        .flat_map(|row| (0..columns + 2).map(move |column| (row, column)))
        .map(|(row, column)| cell(row, column))
        .collect()
}

fn transposed(cell: &Cell) -> Cell {
    [0, 1, 2, 3].map(|x| [0, 1, 2, 3].map(|y| cell[y][x]))
}

/// The cell beyond a side of another: as that side is, and outward along the ways of both lines that end it. Its numbers begin at
/// that side, where they have to be exact.
fn continued(cell: &Cell, side: i32, ways: [[f64; 2]; 2]) -> Cell {
    const NOTHING: Lanes = [0.0; 4];
    let border = if side < 0 {
        cell[0]
    } else {
        [0, 1, 2, 3].map(|y| lanes(|lane| cell.iter().map(|powers| powers[y][lane]).sum()))
    };
    let way = |by: [f64; 2]| [by[0] * f64::from(side), by[1] * f64::from(side), 0.0, 0.0];
    let outward = [way(ways[0]), way([0, 1].map(|axis| ways[1][axis] - ways[0][axis])), NOTHING, NOTHING];
    [border, outward, [NOTHING; 4], [NOTHING; 4]]
}

impl Bent for Mesh {
    fn pieces(&self) -> usize {
        self.cells.len()
    }

    fn at(&self, piece: usize, numbers: [f64; 2]) -> Spot {
        let [own, by_u, by_v] = bicubic(&self.cells[piece], numbers);
        let rest = |of: Lanes| [of[0], of[1]];
        let way = |of: Lanes| [of[2], of[3]];
        Spot {
            rest: rest(own),
            way: way(own),
            rest_by: [rest(by_u), rest(by_v)],
            way_by: [way(by_u), way(by_v)],
        }
    }

    fn bounds(&self, piece: usize) -> [f64; 4] {
        within(&self.cells[piece], |cell, corner, axis| net(cell, corner, axis) + net(cell, corner, axis + 2))
    }

    fn exactness(&self, _block: Window) -> f64 {
        EXACT
    }
}

/// What holds a cell: it lies within the corners of its Bezier net.
fn within(cell: &Cell, corner: impl Fn(&Cell, [usize; 2], usize) -> f64) -> [f64; 4] {
    let mut bounds = [f64::MAX, f64::MAX, f64::MIN, f64::MIN];
    for x in 0..4 {
        for y in 0..4 {
            for axis in 0..2 {
                let at = corner(cell, [x, y], axis);
                bounds[axis] = bounds[axis].min(at);
                bounds[axis + 2] = bounds[axis + 2].max(at);
            }
        }
    }
    bounds
}

/// The value of a cell at two numbers, and its slopes by both.
#[multiversion(targets("x86_64+avx2+fma", "aarch64+neon"))]
fn bicubic(cell: &Cell, [s, t]: [f64; 2]) -> [Lanes; 3] {
    let (mut across, mut slopes) = ([[0.0; 4]; 4], [[0.0; 4]; 4]);
    for power in 0..4 {
        for lane in 0..4 {
            let (a, b, c, d) =
                (cell[0][power][lane], cell[1][power][lane], cell[2][power][lane], cell[3][power][lane]);
            across[power][lane] = ((d * s + c) * s + b) * s + a;
            slopes[power][lane] = (3.0 * d * s + 2.0 * c) * s + b;
        }
    }
    let mut made = [[0.0; 4]; 3];
    for lane in 0..4 {
        let (a, b, c, d) = (across[0][lane], across[1][lane], across[2][lane], across[3][lane]);
        made[0][lane] = ((d * t + c) * t + b) * t + a;
        made[2][lane] = (3.0 * d * t + 2.0 * c) * t + b;
        let (a, b, c, d) = (slopes[0][lane], slopes[1][lane], slopes[2][lane], slopes[3][lane]);
        made[1][lane] = ((d * t + c) * t + b) * t + a;
    }
    made
}

/// A corner of a bicubic's Bezier net.
fn net(cell: &Cell, [x, y]: [usize; 2], lane: usize) -> f64 {
    // By powers: how many ways there are to choose so many of the corner's number, by those of three.
    const SHARES: [[f64; 4]; 4] =
        [[1.0, 0.0, 0.0, 0.0], [1.0, 1.0 / 3.0, 0.0, 0.0], [1.0, 2.0 / 3.0, 1.0 / 3.0, 0.0], [1.0; 4]];
    (0..4)
        .flat_map(|i| (0..4).map(move |j| (i, j)))
        .map(|(i, j)| SHARES[x][i] * SHARES[y][j] * cell[i][j][lane])
        .sum()
}

/// A way across a lattice.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Along {
    /// A line more lies beside rows.
    Rows,
    /// A line more lies beside columns.
    Columns,
}

/// What a lattice has once a line of corners is added or taken away.
pub struct Cut {
    /// All corners at rest.
    pub rest: Vec<[f64; 2]>,
    /// Where all have moved.
    pub moved: Vec<[f64; 2]>,
    /// When each line along that way was added.
    pub added: Vec<u32>,
}

impl Corners<'_> {
    /// With other lines along one way; `change` is told the corners and how many there are across.
    fn changed(&self, along: Along, lines: &Lines, change: impl Fn(&[Lanes], usize) -> Vec<Lanes>) -> Cut {
        let [rows, columns] = self.cells.map(|cells| cells + 1);
        let made = match along {
            Along::Rows => change(&self.grid(), columns),
            Along::Columns => turned(&change(&turned(&self.grid(), columns), rows), rows),
        };
        Cut {
            rest: made.iter().map(|corner| [corner[0], corner[1]]).collect(),
            moved: made.iter().map(|[x, y, by_x, by_y]| [x + by_x, y + by_y]).collect(),
            added: lines.added.clone(),
        }
    }
}

/// A row or column of cells cut half way, so that the surface stays as it is. None where there is no such cell, or the
/// corners do not fit.
pub fn cut(corners: &Corners<'_>, along: Along, cell: usize) -> Option<Cut> {
    let way = usize::from(along == Along::Columns);
    if !corners.fit() || cell >= corners.cells[way] {
        return None;
    }
    let lines = &corners.lines()[way];
    let more = lines.cut(cell);
    Some(corners.changed(along, &more, |grid, wide| {
        let step = lines.knots[cell + 1] - lines.knots[cell];
        // What a curve has half way, by its values and slopes at both ends.
        let with_half = |basis: &Basis| -> Shares {
            let [values, slopes] =
                [&basis.values, &basis.slopes].map(|shares| [&shares[cell], &shares[cell + 1]]);
            let half = |at: usize| {
                (values[0][at] + values[1][at]) / 2.0 + step / 8.0 * (slopes[0][at] - slopes[1][at])
            };
            let mut shares = basis.values.clone();
            shares.insert(cell + 1, (0..lines.knots.len()).map(half).collect());
            shares
        };
        let (rest, way) = (lines.basis(Through::Corners), lines.basis(corners.through));
        let values = by_rows(grid, wide, &with_half(&rest), &with_half(&way));
        drawn_toward(values, wide, &more, corners.through)
    }))
}

/// A line of corners between others taken away, so that the surface stays near to what it is. None where there is no such line,
/// or the corners do not fit.
pub fn joined(corners: &Corners<'_>, along: Along, line: usize) -> Option<Cut> {
    let way = usize::from(along == Along::Columns);
    if !corners.fit() || !(1..corners.cells[way]).contains(&line) {
        return None;
    }
    let lines = &corners.lines()[way];
    let fewer = lines.without(line);
    Some(corners.changed(along, &fewer, |grid, wide| {
        let without = |shares: &Shares| {
            let mut shares = shares.clone();
            shares.remove(line);
            shares
        };
        let (rest, way) = (lines.basis(Through::Corners), lines.basis(corners.through));
        let values = by_rows(grid, wide, &without(&rest.values), &without(&way.values));
        drawn_toward(values, wide, &fewer, corners.through)
    }))
}

/// The corners that give a surface its values at lines, which are rows.
fn drawn_toward(values: Vec<Lanes>, wide: usize, lines: &Lines, through: Through) -> Vec<Lanes> {
    if through == Through::Corners {
        return values;
    }
    let (basis, mut made) = (lines.basis(through), values.clone());
    for column in 0..wide {
        for lane in 2..4 {
            let wanted: Vec<f64> =
                values.iter().skip(column).step_by(wide).map(|value| value[lane]).collect();
            for (line, value) in solved(&basis.values, &wanted).into_iter().enumerate() {
                made[line * wide + column][lane] = value;
            }
        }
    }
    made
}
