//! A lattice as a thing of its own: it ends at its border, and where it lies over itself some of it is in front.

use super::super::bent::{Bent, Inverse, Spot};
use super::{Corners, Mesh};
use crate::{Cancel, Cancelled, Window};

/// A border goes on so far beyond itself, in pixels, for pixels that it covers in part.
const BEYOND: f64 = 1.5;
/// It goes on by no more than this share of its cell.
const MOST: f64 = 0.25;
/// Room about a piece for that, in pixels.
const ROOM: f64 = 6.0;

/// Which cells lie in front of others.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Front {
    /// Those further down.
    Lower,
    /// Those further up.
    Upper,
    /// Those further right.
    Right,
    /// Those further left.
    Left,
}

/// A cell, and how far it goes on at its sides, in its own numbers: at the left and the right one, at the upper and the lower one.
struct Piece {
    cell: usize,
    beyond: [[f64; 2]; 2],
}

/// A lattice that has moved, seen for itself.
pub struct Sheet {
    mesh: Mesh,
    /// From the back to the front.
    pieces: Vec<Piece>,
    has_backs: bool,
}

impl Sheet {
    /// Of corners at rest and moved. None where there are not as many as there are corners, or no cell.
    pub fn new(corners: &Corners<'_>, front: Front, has_backs: bool) -> Option<Self> {
        let mesh = Mesh::new(corners)?;
        let [rows, columns] = corners.cells;
        let by_rows = || (0..rows).flat_map(|row| (0..columns).map(move |column| [row, column]));
        let by_columns = || (0..columns).flat_map(|column| (0..rows).map(move |row| [row, column]));
        let order: Vec<[usize; 2]> = match front {
            Front::Lower => by_rows().collect(),
            Front::Upper => by_rows().rev().collect(),
            Front::Right => by_columns().collect(),
            Front::Left => by_columns().rev().collect(),
        };
        // Cells of a mesh have a border round them.
        let cell = |[row, column]: [usize; 2]| (row + 1) * (columns + 2) + column + 1;
        let piece = |[row, column]: [usize; 2]| {
            let cell = cell([row, column]);
            let ends = [[column == 0, column + 1 == columns], [row == 0, row + 1 == rows]];
            Piece {
                cell,
                beyond: [0, 1]
                    .map(|axis| ends[axis].map(|ends| if ends { beyond(&mesh, cell, axis) } else { 0.0 })),
            }
        };
        let pieces = order.into_iter().map(piece).collect();
        Some(Self { mesh, pieces, has_backs })
    }

    /// The moves over a window; no numbers where it does not lie.
    pub fn over(&self, window: Window, cancel: &Cancel) -> Result<Inverse, Cancelled> {
        Inverse::over(self, window, cancel)
    }

    /// What holds all of it where it has moved: left, top, right, bottom.
    pub fn bounds_of_all(&self) -> [f64; 4] {
        let none = [f64::MAX, f64::MAX, f64::MIN, f64::MIN];
        (0..self.pieces.len()).map(|piece| self.bounds(piece)).fold(none, |all, own| {
            [all[0].min(own[0]), all[1].min(own[1]), all[2].max(own[2]), all[3].max(own[3])]
        })
    }
}

/// How much of a cell is [`BEYOND`], along one of its numbers.
fn beyond(mesh: &Mesh, cell: usize, axis: usize) -> f64 {
    let ends = if axis == 0 { [[0.0, 0.5], [1.0, 0.5]] } else { [[0.5, 0.0], [0.5, 1.0]] };
    let [a, b] = ends.map(|numbers| mesh.at(cell, numbers).moved());
    (BEYOND / (b[0] - a[0]).hypot(b[1] - a[1])).min(MOST)
}

impl Bent for Sheet {
    fn pieces(&self) -> usize {
        self.pieces.len()
    }

    fn at(&self, piece: usize, numbers: [f64; 2]) -> Spot {
        let Piece { cell, beyond } = &self.pieces[piece];
        let long = beyond.map(|[before, after]| 1.0 + before + after);
        let spot = self.mesh.at(*cell, [0, 1].map(|axis| numbers[axis] * long[axis] - beyond[axis][0]));
        let by =
            |slopes: [[f64; 2]; 2]| [0, 1].map(|axis: usize| slopes[axis].map(|slope| slope * long[axis]));
        Spot { rest_by: by(spot.rest_by), way_by: by(spot.way_by), ..spot }
    }

    fn bounds(&self, piece: usize) -> [f64; 4] {
        let [left, top, right, bottom] = self.mesh.bounds(self.pieces[piece].cell);
        [left - ROOM, top - ROOM, right + ROOM, bottom + ROOM]
    }

    fn exactness(&self, block: Window) -> f64 {
        self.mesh.exactness(block)
    }

    fn is_everywhere(&self) -> bool {
        false
    }

    fn has_backs(&self) -> bool {
        self.has_backs
    }
}
