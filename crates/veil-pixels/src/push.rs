//! A field as the length of a move.
//!
//! - Shape: a field, or two of them, to a map.
//! - Units: the map is value for value what the field holds, about the value that means no move; a strength makes pixels
//!   of it. Angles in radians, counter-clockwise as seen; places in pixels of the raster.
//! - Sources: by hand. Outward from a point a map spreads and does not turn; turned by 90° it turns and does not spread.

use crate::{Cancel, Cancelled, Field, Map, Raster, Window};

/// Which way a field pushes.
#[derive(Clone, Debug)]
pub enum Direction<'a> {
    /// All the same way.
    Angle(f32),
    /// Away from a place, and by so much turned from that; at the place itself nowhere.
    Outward([f32; 2], f32),
    /// The way that a map points, and by so much turned from that; nowhere where it points nowhere.
    Along(&'a Map, f32),
}

/// A vector turned counter-clockwise as seen; y is down.
#[inline(always)]
pub fn turned([x, y]: [f32; 2], (sin, cos): (f32, f32)) -> [f32; 2] {
    [x * cos + y * sin, y * cos - x * sin]
}

#[inline(always)]
fn of_length_one([x, y]: [f32; 2]) -> [f32; 2] {
    let length = (x * x + y * y).sqrt();
    if length > 0.0 && length.is_finite() { [x / length, y / length] } else { [0.0; 2] }
}

/// The map of a field, `still` being the value that moves nothing.
pub fn push(
    field: &Field,
    still: f32,
    direction: &Direction<'_>,
    window: Window,
    cancel: &Cancel,
) -> Result<Map, Cancelled> {
    let skip = |of: Window| (window.x0 - of.x0) as usize;
    Raster::written(window, cancel, |y, row| {
        let values = field.row(y)[skip(field.window())..].iter().map(|value| value - still);
        match direction {
            Direction::Angle(angle) => {
                let way = turned([1.0, 0.0], angle.sin_cos());
                for (out, value) in row.iter_mut().zip(values) {
                    *out = way.map(|along| along * value);
                }
            }
            Direction::Outward(centre, turn) => {
                let (by, down) = (turn.sin_cos(), y as f32 + 0.5 - centre[1]);
                for ((x, out), value) in (window.x0..).zip(row).zip(values) {
                    let way = of_length_one([x as f32 + 0.5 - centre[0], down]);
                    *out = turned(way, by).map(|along| along * value);
                }
            }
            Direction::Along(map, turn) => {
                let by = turn.sin_cos();
                let ways = &map.row(y)[skip(map.window())..];
                for ((out, way), value) in row.iter_mut().zip(ways).zip(values) {
                    *out = turned(of_length_one(*way), by).map(|along| along * value);
                }
            }
        }
    })
}

/// The map whose x is one field and whose y another; 0 where there is none.
pub fn pair(x: Option<&Field>, y: Option<&Field>, window: Window, cancel: &Cancel) -> Result<Map, Cancelled> {
    Raster::written(window, cancel, |line, row| {
        row.fill([0.0; 2]);
        for (axis, field) in [x, y].into_iter().enumerate() {
            if let Some(field) = field {
                row.iter_mut().zip(field.row(line)).for_each(|(out, value)| out[axis] = *value);
            }
        }
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Divergence and curl, y down, by central differences at a place away from the centre.
    fn divergence_and_curl(map: &Map, x: i32, y: i32) -> [f32; 2] {
        let at = |x, y| map.get(x, y).unwrap();
        let along = |axis: usize| (at(x + 1, y)[axis] - at(x - 1, y)[axis]) / 2.0;
        let down = |axis: usize| (at(x, y + 1)[axis] - at(x, y - 1)[axis]) / 2.0;
        [along(0) + down(1), along(1) - down(0)]
    }

    /// By mathematics: v = (x, y) has divergence 2 and no curl; turned by 90° it has curl and no divergence; with x and y
    /// swapped it has neither.
    #[test]
    fn outward_spreads_turned_twists_and_swapped_is_a_saddle() {
        let (window, cancel) = (Window::sized(80, 60), Cancel::new());
        let centre = [31.0, 22.0];
        // The field is the distance, so that the map is the place itself.
        let distance =
            Raster::from_fn(window, |x, y| (x as f32 + 0.5 - centre[0]).hypot(y as f32 + 0.5 - centre[1]));
        let of = |direction| push(&distance, 0.0, &direction, window, &cancel).unwrap();
        let quarter = std::f32::consts::FRAC_PI_2;
        let outward = of(Direction::Outward(centre, 0.0));
        let twist = of(Direction::Outward(centre, quarter));
        let swapped = outward.map(&cancel, |[x, y]| [y, x]).unwrap();
        for (x, y) in [(50, 40), (12, 9), (60, 20), (31, 50)] {
            for (map, wanted) in [(&outward, [2.0, 0.0]), (&twist, [0.0, -2.0]), (&swapped, [0.0, 0.0])] {
                let got = divergence_and_curl(map, x, y);
                assert!(
                    (got[0] - wanted[0]).abs() < 1e-3 && (got[1] - wanted[1]).abs() < 1e-3,
                    "{got:?} not {wanted:?}"
                );
            }
        }
        let along = of(Direction::Along(&outward, quarter));
        assert!(
            along
                .pixels()
                .iter()
                .zip(twist.pixels())
                .all(|(a, b)| (0..2).all(|axis| (a[axis] - b[axis]).abs() < 1e-4))
        );
    }

    #[test]
    fn up_is_up_and_the_still_value_moves_nothing() {
        let (window, cancel) = (Window::sized(2, 1), Cancel::new());
        let field = Raster::from_fn(window, |x, _| if x == 0 { 0.5 } else { 0.75 });
        let up = push(&field, 0.5, &Direction::Angle(std::f32::consts::FRAC_PI_2), window, &cancel).unwrap();
        assert_eq!(up.get(0, 0).unwrap().map(f32::abs), [0.0, 0.0]);
        let [x, y] = up.get(1, 0).unwrap();
        assert!(x.abs() < 1e-6 && (y + 0.25).abs() < 1e-6, "{x} {y}");
    }
}
