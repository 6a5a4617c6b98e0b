//! Where a warp lays a picture over itself, and how far its places travel.
//!
//! - Shape: maps whose floats are places, x and y; a field of the same window.
//! - A warp folds where the way back from the result turns over: where the determinant of its Jacobian is not above 0.
//! - Source: any textbook of vector calculus (inverse function theorem); the differences are forward ones.
//! - Edges: the last column and row have the value of those before them.

use crate::{Cancel, Cancelled, Field, Map};

/// 1 where the picture is folded over, 0 elsewhere and where a place is no number.
pub fn folded(places: &Map, cancel: &Cancel) -> Result<Field, Cancelled> {
    let window = places.window();
    let (right, bottom) = (window.x1 - 1, window.y1 - 1);
    let at = |x: i32, y: i32| places.get(x, y).unwrap_or_default();
    Field::written(window, cancel, |y, row| {
        for (index, out) in row.iter_mut().enumerate() {
            let (x, y) = ((window.x0 + index as i32).min(right - 1), y.min(bottom - 1));
            let [here, along, below] = [at(x, y), at(x + 1, y), at(x, y + 1)];
            let (ax, ay) = (along[0] - here[0], along[1] - here[1]);
            let (bx, by) = (below[0] - here[0], below[1] - here[1]);
            *out = f32::from(ax.mul_add(by, -(ay * bx)) <= 0.0);
        }
    })
}

/// Adds to `travelled` how far each place is from where it was before. A place that is no number adds nothing.
pub fn travel(travelled: &mut Field, before: &Map, after: &Map, cancel: &Cancel) -> Result<(), Cancelled> {
    let x0 = travelled.window().x0;
    travelled.fill_rows(cancel, |y, row| {
        for (index, out) in row.iter_mut().enumerate() {
            let x = x0 + index as i32;
            let (Some(was), Some(is)) = (before.get(x, y), after.get(x, y)) else { continue };
            let step = (is[0] - was[0]).hypot(is[1] - was[1]);
            if step.is_finite() {
                *out += step;
            }
        }
    })
}
