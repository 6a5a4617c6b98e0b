//! What warps share.

use veil_pixels::displace::Moves;
use veil_pixels::{Map, Raster};

use crate::engine::{Context, StageError};

/// Moves longer than this many pixels of the raster lead out of any picture.
const MOST_MOVE: f32 = 65_536.0;

/// A map times a strength by axis, the row's amount and its matte. What is no number moves nothing.
pub(super) fn moved(context: &Context<'_>, map: &Map, by: [f32; 2]) -> Result<Moves, StageError> {
    let window = map.window();
    let [x, y] = by.map(|strength| strength * context.amount());
    let limited = |length: f32| if length.is_nan() { 0.0 } else { length.clamp(-MOST_MOVE, MOST_MOVE) };
    let matte = context.matte(window)?;
    let moves = Raster::written(window, context.cancel(), |line, row| {
        let moves = row.iter_mut().zip(map.row(line));
        match &matte {
            None => moves.for_each(|(out, m)| *out = [limited(m[0] * x), limited(m[1] * y)]),
            Some(matte) => {
                for ((out, m), coverage) in moves.zip(matte.row(line)) {
                    *out = [limited(m[0] * x * coverage), limited(m[1] * y * coverage)];
                }
            }
        }
    })?;
    Ok(Moves::new(moves))
}
