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
