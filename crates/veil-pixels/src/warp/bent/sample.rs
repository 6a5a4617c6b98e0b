//! The place of a piece that lies on a pixel, by Newton's method.

use super::{Bent, Spot};

/// Steps before a place is given up.
const STEPS: usize = 12;
/// Numbers that lead so far beyond a piece are given up; it goes on smoothly for some way only.
const BEYOND: f64 = 3.0;

/// A value, how it changes by x and how by y; its lanes are both numbers of the piece, and the moves.
#[derive(Clone, Copy)]
pub(in crate::warp) struct Sample {
    pub(in crate::warp) value: [f64; 4],
    pub(in crate::warp) by: [[f64; 4]; 2],
}

#[inline(always)]
pub(super) fn lanes(f: impl Fn(usize) -> f64) -> [f64; 4] {
    [f(0), f(1), f(2), f(3)]
}

impl Sample {
    /// The place that has moved to a place, looked for from two numbers. None where none is found.
    #[inline(always)]
    pub(super) fn at(bent: &impl Bent, piece: usize, to: [f64; 2], from: [f64; 2]) -> Option<Self> {
        // What is left after a step is its square times how strongly the surface bends.
        const NEAR: f64 = 0.02;
        let mut numbers = from;
        for _ in 0..STEPS {
            let spot = bent.at(piece, numbers);
            let moved = spot.moved();
            let way = [to[0] - moved[0], to[1] - moved[1]];
            let [u, v] = spot.moved_by();
            let share = 1.0 / (u[0] * v[1] - u[1] * v[0]);
            let back = [[v[1] * share, -u[1] * share], [-v[0] * share, u[0] * share]];
            let step = [back[0][0] * way[0] + back[1][0] * way[1], back[0][1] * way[0] + back[1][1] * way[1]];
            numbers = [numbers[0] + step[0], numbers[1] + step[1]];
            // What is no number is not within either.
            if !numbers.iter().all(|number| (number - 0.5).abs() < BEYOND) {
                return None;
            }
            // Where much of the surface lies on few pixels the step is the longer of both.
            let [u, v] = spot.rest_by;
            let at_rest = [u[0] * step[0] + v[0] * step[1], u[1] * step[0] + v[1] * step[1]];
            let far = (way[0].abs() + way[1].abs()).max(at_rest[0].abs() + at_rest[1].abs());
            if far < NEAR {
                return (spot.area() > 0.0).then(|| Self::of(&spot, numbers, step, back));
            }
        }
        None
    }

    #[inline(always)]
    fn of(spot: &Spot, numbers: [f64; 2], step: [f64; 2], back: [[f64; 2]; 2]) -> Self {
        let [u, v] = spot.way_by;
        let by = back.map(|[a, b]| [a, b, u[0] * a + v[0] * b, u[1] * a + v[1] * b]);
        let moves = [0, 1].map(|axis| spot.way[axis] + u[axis] * step[0] + v[axis] * step[1]);
        Self { value: [numbers[0], numbers[1], moves[0], moves[1]], by }
    }

    pub(super) fn numbers(&self) -> [f64; 2] {
        [self.value[0], self.value[1]]
    }

    pub(super) fn moves(&self) -> [f32; 2] {
        [self.value[2] as f32, self.value[3] as f32]
    }
}
