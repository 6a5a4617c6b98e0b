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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Window;

    /// By mathematics: x − a·sin(kx) turns back where a·k·cos(kx) > 1, a share of arccos(1/(a·k))/π of each period.
    #[test]
    fn a_sine_folds_where_it_is_steeper_than_one() {
        let window = Window::sized(1000, 3);
        let k = std::f32::consts::TAU / 200.0;
        for steepness in [0.9f32, 1.5, 4.0] {
            let places = Map::from_fn(window, |x, y| {
                let x = x as f32 + 0.5;
                [x - steepness / k * (k * x).sin(), y as f32 + 0.5]
            });
            let found = folded(&places, &Cancel::new()).unwrap();
            let share = found.pixels().iter().sum::<f32>() / found.pixels().len() as f32;
            let wanted = if steepness > 1.0 { (1.0 / steepness).acos() / std::f32::consts::PI } else { 0.0 };
            assert!((share - wanted).abs() < 0.005, "{steepness}: {share} {wanted}");
        }
    }

    #[test]
    fn a_turn_and_a_stretch_fold_nothing_and_travel_adds_up() {
        let window = Window::sized(20, 10);
        let placed = |by: f32| Map::from_fn(window, |x, y| [3.0 * y as f32 + by, -2.0 * x as f32 + 2.0 * by]);
        assert!(folded(&placed(0.0), &Cancel::new()).unwrap().pixels().iter().all(|value| *value == 0.0));
        let mut travelled = Field::clear(window);
        for by in [0.0, 1.0, 0.0] {
            travel(&mut travelled, &placed(by), &placed(1.0), &Cancel::new()).unwrap();
        }
        assert!(travelled.pixels().iter().all(|value| (value - 2.0 * 5.0f32.sqrt()).abs() < 1e-4));
    }
}
