//! Pixels of four floats, and moves, weighed for many places at a time on processors with AVX2.
//!
//! - Gives the same bits as the plain way in `resample`, from which it is called for whole blocks of places.
//! - Two neighbouring pixels fill a register; memory is asked for some rows of places before it is read.
//! - A processor without AVX2, or another architecture, has [`weighed`] and [`mixed`] say that nothing was done.
#![expect(
    unsafe_code,
    reason = "reading at scattered places waits for memory, and checks and half-filled registers leave too few reads \
              under way: safe code was measured at 1.7 of the reference's time, this at less than 1"
)]

/// Floats a pixel, and floats a move.
pub(crate) const FLOATS: usize = 4;
pub(crate) const MOVE_FLOATS: usize = 2;

/// Pixels to read from: rows of a width, one after the other.
#[derive(Clone, Copy)]
pub(crate) struct Rows<'a> {
    /// All floats of all pixels.
    pub(crate) floats: &'a [f32],
    /// Pixels a row.
    pub(crate) width: usize,
    /// How many pixels on from a place lies what is read some time later.
    pub(crate) ahead: isize,
}

impl Rows<'_> {
    /// Whether `N` pixels of so many floats from each start on, and those in the `N` − 1 rows below, are all there.
    fn hold<const N: usize>(self, starts: &[u32], floats: usize) -> bool {
        let furthest = starts.iter().fold(0, |most, start| most.max(*start)) as usize;
        furthest + (N - 1) * self.width + N <= self.floats.len() / floats
    }
}

/// Places whose four nearest pixels are mixed, down by `shares[1]` and then along by `shares[0]`. `false` where that
/// is left to the caller.
#[inline(always)]
pub(crate) fn mixed(rows: Rows<'_>, starts: &[u32], shares: [&[f32]; 2], out: &mut [f32]) -> bool {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && rows.hold::<2>(starts, FLOATS) {
        // SAFETY: the processor has AVX2, and the rows hold what the starts name.
        unsafe { avx2::mixed(rows, starts, shares, out) };
        return true;
    }
    false
}

/// As [`mixed`], of moves.
#[inline(always)]
pub(crate) fn mixed_moves(rows: Rows<'_>, starts: &[u32], shares: [&[f32]; 2], out: &mut [f32]) -> bool {
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && rows.hold::<2>(starts, MOVE_FLOATS) {
        // SAFETY: the processor has AVX2, and the rows hold what the starts name.
        unsafe { avx2::mixed_moves(rows, starts, shares, out) };
        return true;
    }
    false
}

/// Places each of which is a weighed sum of `N` × `N` pixels: down the columns by `weights[1]`, then along by
/// `weights[0]`, the even columns and the odd ones apart. `false` where that is left to the caller.
#[inline(always)]
pub(crate) fn weighed<const N: usize>(
    rows: Rows<'_>,
    starts: &[u32],
    weights: [&[[f32; N]]; 2],
    out: &mut [f32],
) -> bool {
    const { assert!(N.is_multiple_of(2), "two pixels fill a register") };
    #[cfg(target_arch = "x86_64")]
    if std::arch::is_x86_feature_detected!("avx2") && rows.hold::<N>(starts, FLOATS) {
        // SAFETY: the processor has AVX2, and the rows hold what the starts name.
        unsafe { avx2::weighed(rows, starts, weights, out) };
        return true;
    }
    false
}

#[cfg(target_arch = "x86_64")]
mod avx2 {
    use std::arch::x86_64::*;

    use super::{FLOATS, MOVE_FLOATS, Rows};
    use crate::buffer::prefetch::ask;

    /// So many neighbouring pixels lie in one line of memory.
    const LINE: usize = 4;

    /// Two neighbouring pixels.
    ///
    /// # Safety
    /// `from` points to the first float of at least two pixels.
    #[inline]
    #[target_feature(enable = "avx2")]
    unsafe fn pair(from: *const f32) -> __m256 {
        // SAFETY: the caller promises eight floats there.
        unsafe { _mm256_loadu_ps(from) }
    }

    #[inline]
    #[target_feature(enable = "avx2")]
    fn put(out: &mut [f32; FLOATS], pixel: __m128) {
        // SAFETY: a pixel is four floats.
        unsafe { _mm_storeu_ps(out.as_mut_ptr(), pixel) }
    }

    /// As [`super::mixed`].
    ///
    /// # Safety
    /// The rows hold what the starts name.
    #[target_feature(enable = "avx2")]
    pub(super) unsafe fn mixed(rows: Rows<'_>, starts: &[u32], [x, y]: [&[f32]; 2], out: &mut [f32]) {
        let (first, row) = (rows.floats.as_ptr(), rows.width * FLOATS);
        let places = starts.iter().zip(x).zip(y).zip(out.as_chunks_mut().0);
        for (index, (((start, x), y), out)) in places.enumerate() {
            let above = first.wrapping_add(*start as usize * FLOATS);
            if index.is_multiple_of(LINE) {
                ask(above.wrapping_offset(rows.ahead * FLOATS as isize));
            }
            // SAFETY: the caller promises that the rows hold this.
            let (above, below) = unsafe { (pair(above), pair(above.wrapping_add(row))) };
            let down = _mm256_mul_ps(_mm256_sub_ps(below, above), _mm256_set1_ps(*y));
            let columns = _mm256_add_ps(above, down);
            let (left, right) = (_mm256_castps256_ps128(columns), _mm256_extractf128_ps::<1>(columns));
            let along = _mm_mul_ps(_mm_sub_ps(right, left), _mm_set1_ps(*x));
            put(out, _mm_add_ps(left, along));
        }
    }

    /// As [`super::mixed_moves`].
    ///
    /// # Safety
    /// The rows hold what the starts name.
    #[target_feature(enable = "avx2")]
    pub(super) unsafe fn mixed_moves(rows: Rows<'_>, starts: &[u32], [x, y]: [&[f32]; 2], out: &mut [f32]) {
        let (first, row) = (rows.floats.as_ptr(), rows.width * MOVE_FLOATS);
        let places = starts.iter().zip(x).zip(y).zip(out.as_chunks_mut::<MOVE_FLOATS>().0);
        for (((start, x), y), out) in places {
            let above = first.wrapping_add(*start as usize * MOVE_FLOATS);
            // Moves are often read at places far from each other.
            ask(above.wrapping_offset(rows.ahead * MOVE_FLOATS as isize));
            // SAFETY: the caller promises that the rows hold this: two neighbouring moves are four floats.
            let (above, below) = unsafe { (_mm_loadu_ps(above), _mm_loadu_ps(above.wrapping_add(row))) };
            let down = _mm_mul_ps(_mm_sub_ps(below, above), _mm_set1_ps(*y));
            let left = _mm_add_ps(above, down);
            let right = _mm_movehl_ps(left, left);
            let along = _mm_mul_ps(_mm_sub_ps(right, left), _mm_set1_ps(*x));
            let both = _mm_castps_si128(_mm_add_ps(left, along));
            // SAFETY: a move is two floats, which the lower half of the register holds.
            unsafe { _mm_storel_epi64(out.as_mut_ptr().cast(), both) }
        }
    }

    /// As [`super::weighed`].
    ///
    /// # Safety
    /// The rows hold what the starts name.
    #[target_feature(enable = "avx2")]
    pub(super) unsafe fn weighed<const N: usize>(
        rows: Rows<'_>,
        starts: &[u32],
        [along, down]: [&[[f32; N]]; 2],
        out: &mut [f32],
    ) {
        let (first, row) = (rows.floats.as_ptr(), rows.width * FLOATS);
        let places = starts.iter().zip(along).zip(down).zip(out.as_chunks_mut().0);
        for (index, (((start, along), down), out)) in places.enumerate() {
            let top = first.wrapping_add(*start as usize * FLOATS);
            if index.is_multiple_of(LINE) {
                ask(top.wrapping_offset(rows.ahead * FLOATS as isize));
            }
            let mut sum = _mm256_setzero_ps();
            for column in (0..N).step_by(2) {
                let mut columns = _mm256_setzero_ps();
                for (number, weight) in down.iter().enumerate() {
                    // SAFETY: the caller promises that the rows hold this.
                    let taps = unsafe { pair(top.wrapping_add(number * row + column * FLOATS)) };
                    let share = _mm256_mul_ps(taps, _mm256_set1_ps(*weight));
                    columns = if number == 0 { share } else { _mm256_add_ps(columns, share) };
                }
                let weight = _mm256_set_m128(_mm_set1_ps(along[column + 1]), _mm_set1_ps(along[column]));
                let share = _mm256_mul_ps(columns, weight);
                sum = if column == 0 { share } else { _mm256_add_ps(sum, share) };
            }
            put(out, _mm_add_ps(_mm256_castps256_ps128(sum), _mm256_extractf128_ps::<1>(sum)));
        }
    }
}
