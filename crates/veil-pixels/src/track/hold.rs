//! Corners of a lattice held together while each is pulled.
//!
//! - The steps are those of least squares of what all pixels want, together with the bending of the whole way gone: second
//!   differences along rows and columns, and across cells, as of a thin plate (Bookstein 1989) on the lattice.
//! - Solved by conjugate gradients, Hestenes and Stiefel, 1952, each corner by its own pull first.

use super::grid::Grid;

/// Steps of the solver.
const MOST: usize = 120;
/// What is left is no more than this share of what there was.
const LEFT: f64 = 1e-5;
/// Corners stay where they are by this share of what pulls the others in the mean, where nothing else is known.
const STAYS: f64 = 1e-4;

/// What holds corners together.
pub(super) struct Hold {
    pub(super) grid: Grid,
    /// 0 to 1.
    pub(super) stiffness: f64,
}

type Pair = [f64; 2];

/// What a cell wants of its corners: upper left, upper right, lower left, lower right.
#[derive(Clone, Default)]
pub(super) struct Pull {
    /// By x and by y.
    wants: [Pair; 4],
    /// How surely, of each two corners: by x and x, x and y, y and y.
    sure: [[[f64; 3]; 4]; 4],
}

impl Pull {
    /// Adds sums of a row that lies so far down the cell, 0 to 1: of what is sure by the left side's share twice, both sides' and
    /// the right one's twice, and of what is wanted by either.
    pub(super) fn add_row(&mut self, down: f64, sure: &[[f32; 3]; 3], wants: &[[f32; 2]; 2]) {
        let shares = [1.0 - down, down];
        for a in 0..4 {
            let own = shares[a / 2];
            self.wants[a].iter_mut().zip(wants[a % 2]).for_each(|(sum, by)| *sum += own * f64::from(by));
            for b in 0..4 {
                let share = own * shares[b / 2];
                let sums = sure[a % 2 + b % 2];
                self.sure[a][b].iter_mut().zip(sums).for_each(|(sum, by)| *sum += share * f64::from(by));
            }
        }
    }

    /// Adds another's, times a share.
    pub(super) fn add(&mut self, other: &Self, share: f64) {
        let flat = self.sure.as_flattened_mut().as_flattened_mut();
        flat.iter_mut()
            .zip(other.sure.as_flattened().as_flattened())
            .for_each(|(sum, own)| *sum += share * own);
        let wants = self.wants.as_flattened_mut();
        wants.iter_mut().zip(other.wants.as_flattened()).for_each(|(sum, own)| *sum += share * own);
    }
}

impl Hold {
    /// The step of each corner, of what cells want in their order and how far corners have come.
    pub(super) fn steps<'a>(&self, cells: impl Iterator<Item = &'a Pull>, gone: &[Pair]) -> Vec<Pair> {
        let cells: Vec<([usize; 4], &Pull)> =
            cells.enumerate().map(|(cell, pull)| (self.grid.corners(cell), pull)).collect();
        let mut sure = vec![[0.0; 3]; gone.len()];
        let mut pull = vec![[0.0; 2]; gone.len()];
        for (corners, cell) in &cells {
            for (a, at) in corners.iter().enumerate() {
                sure[*at].iter_mut().zip(cell.sure[a][a]).for_each(|(sum, own)| *sum += own);
                pull[*at].iter_mut().zip(cell.wants[a]).for_each(|(sum, own)| *sum += own);
            }
        }
        let all: f64 = sure.iter().map(|sure| (sure[0] + sure[2]) / 2.0).sum();
        let pulled = sure.iter().filter(|sure| sure[0] + sure[2] > 0.0).count();
        if pulled == 0 {
            return vec![[0.0; 2]; gone.len()];
        }
        let mean = all / pulled as f64;
        // From what leaves corners nearly free to what moves all of them as one.
        let (weight, stays) = (mean * 10f64.powf(5.0 * self.stiffness - 4.0), mean * STAYS);
        let times = |of: &[Pair]| -> Vec<Pair> {
            let mut made: Vec<Pair> = of.iter().map(|way| way.map(|by| by * stays)).collect();
            for (corners, cell) in &cells {
                for (a, to) in corners.iter().enumerate() {
                    for (b, from) in corners.iter().enumerate() {
                        let ([xx, xy, yy], [x, y]) = (cell.sure[a][b], of[*from]);
                        made[*to][0] += xx * x + xy * y;
                        made[*to][1] += xy * x + yy * y;
                    }
                }
            }
            self.bend(of, weight, &mut made);
            made
        };
        let mut bent = vec![[0.0; 2]; gone.len()];
        self.bend(gone, weight, &mut bent);
        let mut left: Vec<Pair> = pull.iter().zip(&bent).map(|(a, b)| [a[0] - b[0], a[1] - b[1]]).collect();
        // A corner alone: what bends has at most twenty of the weight there.
        let alone = |left: &[Pair]| -> Vec<Pair> {
            let own = |(of, sure): (&Pair, &[f64; 3])| {
                let more = stays + 10.0 * weight;
                let (a, b, c) = (sure[0] + more, sure[1], sure[2] + more);
                let share = 1.0 / (a * c - b * b);
                [share * (c * of[0] - b * of[1]), share * (a * of[1] - b * of[0])]
            };
            left.iter().zip(&sure).map(own).collect()
        };
        let dot =
            |a: &[Pair], b: &[Pair]| a.iter().zip(b).map(|(a, b)| a[0] * b[0] + a[1] * b[1]).sum::<f64>();
        let mut made = vec![[0.0; 2]; gone.len()];
        let mut sooner = alone(&left);
        let mut way = sooner.clone();
        let mut size = dot(&left, &sooner);
        let enough = size * LEFT * LEFT;
        for _ in 0..MOST {
            if size <= enough || size <= 0.0 {
                break;
            }
            let ahead = times(&way);
            let by = size / dot(&way, &ahead);
            add(&mut made, &way, by);
            add(&mut left, &ahead, -by);
            sooner = alone(&left);
            let next = dot(&left, &sooner);
            let again = next / size;
            way.iter_mut()
                .zip(&sooner)
                .for_each(|(way, own)| *way = [0, 1].map(|axis| own[axis] + again * way[axis]));
            size = next;
        }
        made
    }

    /// Adds what bending ways so costs at each corner, times a weight.
    fn bend(&self, ways: &[Pair], weight: f64, to: &mut [Pair]) {
        let (rows, wide) = (self.grid.rows + 1, self.grid.columns + 1);
        let mut meet = |corners: &[(usize, f64)], weight: f64| {
            for axis in 0..2 {
                let sum: f64 = corners.iter().map(|(at, share)| share * ways[*at][axis]).sum();
                corners.iter().for_each(|(at, share)| to[*at][axis] += weight * share * sum);
            }
        };
        for row in 0..rows {
            for column in 0..wide {
                let at = row * wide + column;
                if column + 2 < wide {
                    meet(&[(at, 1.0), (at + 1, -2.0), (at + 2, 1.0)], weight);
                }
                if row + 2 < rows {
                    meet(&[(at, 1.0), (at + wide, -2.0), (at + 2 * wide, 1.0)], weight);
                }
                if column + 1 < wide && row + 1 < rows {
                    meet(&[(at, 1.0), (at + 1, -1.0), (at + wide, -1.0), (at + wide + 1, 1.0)], 2.0 * weight);
                }
            }
        }
    }
}

fn add(to: &mut [Pair], of: &[Pair], by: f64) {
    to.iter_mut().zip(of).for_each(|(to, of)| *to = [to[0] + by * of[0], to[1] + by * of[1]]);
}
