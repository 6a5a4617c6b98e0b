//! A picture that is bent forward: places of a surface have one place at rest and another where they have moved, and each
//! pixel asks which place of the surface came to lie on it.
//!
//! - Shape: moves for each pixel; output `p` reads `p − moves(p)`.
//! - Units: places in pixels of the raster, pixel centres at halves.
//! - Inverse: piece by piece, Newton's method at the corners of blocks, from what the surface's own slopes foretell. A block
//!   is a bicubic through its corners where that agrees with the inverse half way between them, else it is cut in four, down
//!   to single pixels. So where nothing folds the inverse is as exact as is asked for, beside the seams of pieces too.
//! - Folds: of the places that come to lie on one pixel the one in the later piece counts.
//! - Where a surface does not reach nothing moves; one that is not meant to be everywhere has no numbers there.
//! - Blocks are counted from the raster's origin, so that a region is the crop of the whole, bit for bit.
//! - Source: Newton's method, any textbook of numerical analysis; the bicubic without twists of its own, Adini and Clough,
//!   "Analysis of plate bending by the finite element method", 1961.

pub(super) mod block;
mod inverse;
mod plane;
pub(super) mod sample;
mod triangle;

pub(super) use block::Rows;
pub use inverse::Inverse;
pub use plane::folded;

use crate::Window;

/// One place of a surface, and how it changes along the surface's two numbers.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spot {
    /// Where it is at rest.
    pub rest: [f64; 2],
    /// How far it has moved from there.
    pub way: [f64; 2],
    /// How the place at rest changes, by each number.
    pub rest_by: [[f64; 2]; 2],
    /// How the way changes.
    pub way_by: [[f64; 2]; 2],
}

impl Spot {
    /// Where it has moved.
    #[inline(always)]
    pub fn moved(&self) -> [f64; 2] {
        [self.rest[0] + self.way[0], self.rest[1] + self.way[1]]
    }

    /// How that changes, by each number.
    #[inline(always)]
    pub fn moved_by(&self) -> [[f64; 2]; 2] {
        let ([a, b], [c, d]) = (self.rest_by, self.way_by);
        [[a[0] + c[0], a[1] + c[1]], [b[0] + d[0], b[1] + d[1]]]
    }

    /// How much area the surface has here where it has moved, for one at rest; below zero where it lies on its back.
    pub fn area(&self) -> f64 {
        let area = |[u, v]: [[f64; 2]; 2]| u[0] * v[1] - u[1] * v[0];
        area(self.moved_by()) * area(self.rest_by).signum()
    }
}

/// A surface that is bent, in pieces that are smooth and go on smoothly some way beyond themselves.
pub trait Bent: Sync {
    /// How many pieces it has.
    fn pieces(&self) -> usize;

    /// The place of a piece at two numbers, each of them 0 at one side of it and 1 at the other.
    fn at(&self, piece: usize, numbers: [f64; 2]) -> Spot;

    /// What holds all of a piece where it has moved: left, top, right, bottom.
    fn bounds(&self, piece: usize) -> [f64; 4];

    /// How far off the inverse may be in a block of pixels, in pixels, half way between the places that are right.
    fn exactness(&self, block: Window) -> f64;

    /// Whether some piece lies on every pixel.
    fn is_everywhere(&self) -> bool {
        true
    }

    /// Whether what lies on its back is there.
    fn has_backs(&self) -> bool {
        true
    }
}
