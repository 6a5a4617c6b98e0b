//! What hardly moves beside the rest.

/// What moves less than this share of the median hardly moves.
const DULL: f32 = 0.2;
/// Where half of all goes no further than this, in pixels, nothing is dull beside it.
const STILL: f32 = 0.5;

/// How far something has to go, in pixels, so that it is not dull beside others, by how far all go; none where next to nothing
/// moves. Changes their order.
pub(crate) fn least(ways: &mut [f32]) -> Option<f32> {
    if ways.is_empty() {
        return None;
    }
    let (_, median, _) = ways.select_nth_unstable_by(ways.len() / 2, f32::total_cmp);
    (*median > STILL).then_some(DULL * *median)
}
