//! Cells of a lattice, and places of the surface through its corners.
//!
//! - Between corners the surface is Catmull and Rom's (1974); beyond the border it goes on as evenly as the last two cells do.

/// Rows and columns of cells.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Grid {
    pub(super) rows: usize,
    pub(super) columns: usize,
}

impl Grid {
    pub(super) fn cells(self) -> usize {
        self.rows * self.columns
    }

    pub(super) fn points(self) -> usize {
        (self.rows + 1) * (self.columns + 1)
    }

    /// The corners of a cell: upper left, upper right, lower left, lower right.
    pub(super) fn corners(self, cell: usize) -> [usize; 4] {
        let (row, column) = (cell / self.columns, cell % self.columns);
        let first = row * (self.columns + 1) + column;
        [first, first + 1, first + self.columns + 1, first + self.columns + 2]
    }

    /// A corner by row and column, or one beyond the border.
    fn at(self, points: &[[f64; 2]], row: isize, column: isize) -> [f64; 2] {
        let wide = self.columns + 1;
        let inner = |at: isize, last: usize| at.clamp(0, last as isize);
        let (r, c) = (inner(row, self.rows), inner(column, self.columns));
        let of = |r: isize, c: isize| points[r as usize * wide + c as usize];
        // On as evenly as the last two cells go, or straight on from the only one.
        let on = |last: isize, step: isize, cells: usize, at: &dyn Fn(isize) -> [f64; 2]| {
            let (own, within) = (at(last), at(last + step));
            if cells == 1 {
                return [0, 1].map(|axis| 2.0 * own[axis] - within[axis]);
            }
            let further = at(last + 2 * step);
            [0, 1].map(|axis| 3.0 * (own[axis] - within[axis]) + further[axis])
        };
        let along =
            |r: isize| if c == column { of(r, c) } else { on(c, c - column, self.columns, &|c| of(r, c)) };
        if r == row { along(r) } else { on(r, r - row, self.rows, &along) }
    }

    /// Places of a cell's surface, as many along its sides as `side` says, by x and by y.
    pub(super) fn places(
        self,
        points: &[[f64; 2]],
        cell: usize,
        [wide, high]: [usize; 2],
        by: f64,
    ) -> [Vec<f32>; 2] {
        let (row, column) = ((cell / self.columns) as isize, (cell % self.columns) as isize);
        let near: [[[f64; 2]; 4]; 4] = std::array::from_fn(|down| {
            std::array::from_fn(|along| self.at(points, row + down as isize - 1, column + along as isize - 1))
        });
        let across: Vec<[f64; 4]> = (0..wide).map(|at| shares((at as f64 + 0.5) / wide as f64)).collect();
        let mut made = [0, 1].map(|_| Vec::with_capacity(wide * high));
        for at in 0..high {
            let down = shares((at as f64 + 0.5) / high as f64);
            for axis in 0..2 {
                let line: [f64; 4] =
                    std::array::from_fn(|along| (0..4).map(|row| down[row] * near[row][along][axis]).sum());
                made[axis].extend(across.iter().map(|share| {
                    ((share[0] * line[0] + share[1] * line[1] + share[2] * line[2] + share[3] * line[3]) / by)
                        as f32
                }));
            }
        }
        made
    }

    /// The mean sides of a cell: the way along it, and down.
    pub(super) fn sides(self, points: &[[f64; 2]], cell: usize) -> [[f64; 2]; 2] {
        let [a, b, c, d] = self.corners(cell).map(|at| points[at]);
        [
            [0, 1].map(|axis| (b[axis] - a[axis] + d[axis] - c[axis]) / 2.0),
            [0, 1].map(|axis| (c[axis] - a[axis] + d[axis] - b[axis]) / 2.0),
        ]
    }
}

/// What a place between two of four has of each, in Catmull and Rom's curve.
fn shares(t: f64) -> [f64; 4] {
    [
        0.5 * t * (-1.0 + t * (2.0 - t)),
        0.5 * (2.0 + t * t * (3.0 * t - 5.0)),
        0.5 * t * (1.0 + t * (4.0 - 3.0 * t)),
        0.5 * t * t * (t - 1.0),
    ]
}
