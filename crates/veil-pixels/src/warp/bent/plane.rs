//! Pieces of a surface as plane triangles: where it folds, and where no inverse is found.

use super::triangle::Triangle;
use super::{Bent, Spot};
use crate::{Cancel, Cancelled, Field, Raster, Window};

/// A piece is cut into so many quadrangles along each way to see where it lies on its back.
const FOLD_PIECES: usize = 8;
/// Triangles that stand for a piece are no further from it than this, in pixels.
const FLAT: f64 = 0.008;
/// A piece is cut into no more quadrangles along each way than this.
const MOST: f64 = 64.0;

/// The spots of a piece at so many steps along each way, row by row.
fn spots(bent: &impl Bent, piece: usize, steps: usize) -> Vec<Spot> {
    let share = |step: usize| step as f64 / steps as f64;
    let across = |row: usize| (0..=steps).map(move |column| [share(column), share(row)]);
    (0..=steps).flat_map(across).map(|numbers| bent.at(piece, numbers)).collect()
}

/// Into how many quadrangles along each way a piece is cut so that they lie near enough.
fn steps(bent: &impl Bent, piece: usize) -> usize {
    const STEPS: usize = 4;
    const WIDE: usize = STEPS + 1;
    let spots = spots(bent, piece, STEPS);
    let second = |at: usize, step: usize| {
        let [a, b, c] = [at - step, at, at + step].map(|at| &spots[at]);
        let far = |of: fn(&Spot) -> [f64; 2]| {
            let [x, y] = [0, 1].map(|axis| of(a)[axis] - 2.0 * of(b)[axis] + of(c)[axis]);
            x.hypot(y)
        };
        far(Spot::moved).max(far(|spot| spot.rest))
    };
    let along = (0..spots.len()).filter(|at| (1..STEPS).contains(&(at % WIDE))).map(|at| second(at, 1));
    let down = (WIDE..spots.len() - WIDE).map(|at| second(at, WIDE));
    let most = along.chain(down).fold(0.0, f64::max);
    // A chord of a bend is off by an eighth of its second difference.
    (STEPS as f64 * (most / 8.0 / (FLAT / 2.0)).sqrt().ceil()).clamp(1.0, MOST) as usize
}

/// The corners of each quadrangle of a square of so many along each side, row by row, as places in a row of all corners.
fn quads(steps: usize) -> impl Iterator<Item = [usize; 4]> {
    let wide = steps + 1;
    (0..steps).flat_map(move |row| {
        (0..steps).map(move |column| {
            let at = row * wide + column;
            [at, at + 1, at + wide, at + wide + 1]
        })
    })
}

fn halves([a, b, c, d]: [([f64; 2], [f64; 2]); 4]) -> impl Iterator<Item = Triangle> {
    [Triangle::of([a, b, c]), Triangle::of([b, d, c])].into_iter().flatten()
}

/// Whether some of a piece lies on its back.
pub(super) fn folds(bent: &impl Bent, piece: usize) -> bool {
    spots(bent, piece, FOLD_PIECES).iter().any(|spot| spot.area() <= 0.0)
}

/// Triangles over pixel centres that stand for a piece, with its numbers.
pub(super) fn triangles(bent: &impl Bent, piece: usize) -> Vec<Triangle> {
    let steps = steps(bent, piece);
    let share = |at: usize| at as f64 / steps as f64;
    let corner = |(at, spot): (usize, &Spot)| {
        (spot.moved().map(|at| at - 0.5), [share(at % (steps + 1)), share(at / (steps + 1))])
    };
    let spots = spots(bent, piece, steps);
    let corners: Vec<_> = spots.iter().enumerate().map(corner).collect();
    let is_there = |quad: &[usize; 4]| bent.has_backs() || quad.iter().any(|at| spots[*at].area() > 0.0);
    quads(steps).filter(is_there).flat_map(|quad| halves(quad.map(|at| corners[at]))).collect()
}

/// Whether some pixel of a window lies within the bounds of a piece.
pub(super) fn meets([left, top, right, bottom]: [f64; 4], window: Window) -> bool {
    left < f64::from(window.x1)
        && right > f64::from(window.x0)
        && top < f64::from(window.y1)
        && bottom > f64::from(window.y0)
}

/// 1 where a bent surface lies on its back, before or behind other parts of it, else 0.
pub fn folded(bent: &impl Bent, window: Window, cancel: &Cancel) -> Result<Field, Cancelled> {
    let mut field: Field = Raster::clear(window);
    if window.is_empty() {
        return Ok(field);
    }
    for piece in (0..bent.pieces()).filter(|piece| meets(bent.bounds(*piece), window)) {
        cancel.check()?;
        let spots = spots(bent, piece, FOLD_PIECES);
        for quad in quads(FOLD_PIECES) {
            let corners = quad.map(|at| &spots[at]);
            if corners.iter().all(|spot| spot.area() > 0.0) {
                continue;
            }
            let corners = corners.map(|spot| (spot.moved().map(|at| at - 0.5), [0.0; 2]));
            for triangle in halves(corners) {
                for y in triangle.rows(window.y0..=window.y1 - 1) {
                    for x in triangle.columns(y, window.x0..=window.x1 - 1) {
                        field.set(x, y, 1.0);
                    }
                }
            }
        }
    }
    Ok(field)
}
