//! Motion where it is not known, as what is known of it goes on there.
//!
//! - Shape: a map and a field of its window, above 0 where the map is not known; elsewhere it stays as it is.
//! - What most of the known motion has in common, a shift, turn, growth and shear, goes on as it is; what the rest has besides, as a
//!   membrane between what is known of it ([`crate::fill::membrane`]).
//! - Where nothing is known, it stays as it is everywhere.
//! - Source of the fit: as of [`crate::clean`]'s levels, an iteratively reweighted least squares fit.

use crate::fill::membrane;
use crate::warp::perspective::Homography;
use crate::{Cancel, Cancelled, Field, Map, Raster};

/// So many places are fitted to, about.
const PLACES: usize = 4000;
const ROUNDS: usize = 12;
/// Nothing is measured finer, in pixels.
const FINEST: f64 = 0.05;

/// A shift along an axis, and how it grows to the right and down.
type Plane = [f64; 3];

/// Known moves, gone on with.
pub fn gone_on(moves: &Map, unknown: &Field, cancel: &Cancel) -> Result<Map, Cancelled> {
    let window = moves.window();
    let is_known = |x: i32, y: i32| unknown.get(x, y).is_none_or(|share| share <= 0.0);
    let apart = ((window.area() / PLACES) as f64).sqrt().ceil().max(1.0) as usize;
    let places: Vec<[i32; 2]> = (window.y0..window.y1)
        .step_by(apart)
        .flat_map(|y| (window.x0..window.x1).step_by(apart).map(move |x| [x, y]))
        .filter(|[x, y]| is_known(*x, *y))
        .collect();
    if places.len() < 3 {
        return Ok(moves.clone());
    }
    let known: Vec<([f64; 2], [f32; 2])> = places
        .iter()
        .filter_map(|[x, y]| Some(([f64::from(*x), f64::from(*y)], moves.get(*x, *y)?)))
        .collect();
    let planes = [0, 1].map(|axis| fitted(&known, axis));
    let common = |x: i32, y: i32| planes.map(|[a, b, c]| (a + b * f64::from(x) + c * f64::from(y)) as f32);
    let with = |moves: &Map, sign: f32| {
        Raster::written(window, cancel, |y, row: &mut [[f32; 2]]| {
            for ((out, own), x) in row.iter_mut().zip(moves.row(y)).zip(window.x0..) {
                let common = common(x, y);
                *out = [0, 1].map(|axis| own[axis] + sign * common[axis]);
            }
        })
    };
    let made = with(&membrane(&with(moves, -1.0)?, unknown, cancel)?, 1.0)?;
    Raster::written(window, cancel, |y, row: &mut [[f32; 2]]| {
        for (((out, own), made), x) in row.iter_mut().zip(moves.row(y)).zip(made.row(y)).zip(window.x0..) {
            *out = if is_known(x, y) { *own } else { *made };
        }
    })
}

/// What most places have in common along an axis.
fn fitted(known: &[([f64; 2], [f32; 2])], axis: usize) -> Plane {
    let share = 1.0 / known.len().max(1) as f64;
    let middle = [0, 1].map(|at| known.iter().map(|(place, _)| place[at] * share).sum::<f64>());
    let of = |(place, moves): &([f64; 2], [f32; 2])| {
        ([place[0] - middle[0], place[1] - middle[1]], f64::from(moves[axis]))
    };
    let mut usual: Vec<f64> = known.iter().map(|one| of(one).1).collect();
    let half = usual.len() / 2;
    let mut plane: Plane = [*usual.select_nth_unstable_by(half, f64::total_cmp).1, 0.0, 0.0];
    for _ in 0..ROUNDS {
        let off = |([x, y], value): ([f64; 2], f64)| plane[0] + plane[1] * x + plane[2] * y - value;
        let mut far: Vec<f64> = known.iter().map(|one| off(of(one)).abs()).collect();
        let scale = (3.0 * *far.select_nth_unstable_by(half, f64::total_cmp).1).max(FINEST);
        let (mut matrix, mut right) = ([[0.0; 3]; 3], [0.0; 3]);
        for one in known {
            let ([x, y], value) = of(one);
            let weight = 1.0 / (1.0 + (off(([x, y], value)) / scale).powi(2)).powi(2);
            let row = [1.0, x, y];
            for a in 0..3 {
                right[a] += weight * row[a] * value;
                (0..3).for_each(|b| matrix[a][b] += weight * row[a] * row[b]);
            }
        }
        // Places on one line say nothing of what lies beside it.
        let Some(inverse) = Homography::from_rows(matrix).inverse() else { break };
        plane = inverse.rows().map(|row| row.iter().zip(right).map(|(a, b)| a * b).sum());
    }
    [plane[0] - plane[1] * middle[0] - plane[2] * middle[1], plane[1], plane[2]]
}
