//! Single places carried by a lattice that has moved, from rest and back.

use super::super::bent::{Bent, Spot};
use super::{Corners, Mesh};

/// A place is met when its surface is as near as this, in pixels.
const MET: f64 = 1e-7;
/// Newton's steps for a piece.
const STEPS: usize = 16;
/// Where in a piece Newton's method begins: in its middle, and where that does not lead there as the piece bends much, elsewhere.
const STARTS: [[f64; 2]; 5] = [[0.5, 0.5], [0.2, 0.2], [0.8, 0.2], [0.2, 0.8], [0.8, 0.8]];
/// Numbers of a piece may lie so far beyond its sides, since both pieces beside a seam hold it.
const SEAM: f64 = 1e-6;

/// One of the two places that a place of a surface has.
type Side = fn(&Spot) -> ([f64; 2], [[f64; 2]; 2]);

fn at_rest(spot: &Spot) -> ([f64; 2], [[f64; 2]; 2]) {
    (spot.rest, spot.rest_by)
}

fn moved(spot: &Spot) -> ([f64; 2], [[f64; 2]; 2]) {
    (spot.moved(), spot.moved_by())
}

/// A lattice that carries places.
pub struct Places {
    mesh: Mesh,
    cells: [usize; 2],
    /// The pieces with what holds each at rest, and moved. Those beyond the border come last: they are so large that a seam of
    /// theirs is wide.
    pieces: Vec<(usize, [[f64; 4]; 2])>,
}

impl Places {
    /// Of corners at rest and moved. None where there are not as many as there are corners, or no cell.
    pub fn new(corners: &Corners<'_>) -> Option<Self> {
        let mesh = Mesh::new(corners)?;
        let wide = corners.cells[1] + 2;
        let is_beyond = |piece: usize| {
            let (row, column) = (piece / wide, piece % wide);
            row == 0 || row > corners.cells[0] || column == 0 || column > corners.cells[1]
        };
        let bounds = |piece: usize| (piece, [mesh.bounds_at_rest(piece), mesh.bounds(piece)]);
        let mut pieces: Vec<_> = (0..mesh.pieces()).map(bounds).collect();
        pieces.sort_by_key(|(piece, _)| is_beyond(*piece));
        Some(Self { mesh, cells: corners.cells, pieces })
    }

    /// Where a place at rest has moved. Beyond the lattice it goes as the border next to it. None where the surface has no room
    /// for it.
    pub fn carried(&self, place: [f64; 2]) -> Option<[f64; 2]> {
        self.found(place, 0, at_rest).map(|spot| spot.moved())
    }

    /// Which place at rest has moved to a place; where the surface is folded one of those.
    pub fn back(&self, place: [f64; 2]) -> Option<[f64; 2]> {
        self.found(place, 1, moved).map(|spot| spot.rest)
    }

    /// Where the surface has moved at numbers of rows and columns from its first corner, each from 0 to as many as there are.
    pub fn of_numbers(&self, [down, across]: [f64; 2]) -> [f64; 2] {
        let [rows, columns] = self.cells;
        let cell = |number: f64, cells: usize| (number.floor().max(0.0) as usize).min(cells - 1);
        let (row, column) = (cell(down, rows), cell(across, columns));
        // Pieces have a border round them.
        let piece = (row + 1) * (columns + 2) + column + 1;
        self.mesh.at(piece, [across - column as f64, down - row as f64]).moved()
    }

    fn found(&self, place: [f64; 2], which: usize, side: Side) -> Option<Spot> {
        let holds = |(_, bounds): &&(usize, [[f64; 4]; 2])| {
            let [left, top, right, bottom] = bounds[which];
            (left - 1.0..=right + 1.0).contains(&place[0]) && (top - 1.0..=bottom + 1.0).contains(&place[1])
        };
        let from = |start: &[f64; 2]| {
            self.pieces.iter().filter(holds).find_map(|(piece, _)| self.met(*piece, *start, place, side))
        };
        STARTS.iter().find_map(from)
    }

    /// Newton's method from a start in a piece; none where it leads out of the piece.
    fn met(&self, piece: usize, start: [f64; 2], place: [f64; 2], side: Side) -> Option<Spot> {
        let mut numbers = start;
        for _ in 0..STEPS {
            let spot = self.mesh.at(piece, numbers);
            let (at, [u, v]) = side(&spot);
            let off = [place[0] - at[0], place[1] - at[1]];
            if off[0].hypot(off[1]) < MET {
                let within = |number: &f64| (-SEAM..=1.0 + SEAM).contains(number);
                return numbers.iter().all(within).then_some(spot);
            }
            let room = u[0] * v[1] - u[1] * v[0];
            if room == 0.0 {
                return None;
            }
            let step = [(off[0] * v[1] - off[1] * v[0]) / room, (u[0] * off[1] - u[1] * off[0]) / room];
            // Not far out of the piece, where its cubics say nothing.
            numbers = [0, 1].map(|axis| (numbers[axis] + step[axis]).clamp(-0.5, 1.5));
        }
        None
    }
}
