//! Memory asked for before it is read.
#![expect(
    unsafe_code,
    reason = "reading at scattered places waited for memory a fifth of its time, measured against the reference; \
              no safe call asks for memory early"
)]

/// Asks for a pixel's memory to be brought near. Does nothing where there is no such pixel, or no such instruction.
#[inline(always)]
pub(crate) fn prefetch<P>(pixels: &[P], at: usize) {
    #[cfg(target_arch = "x86_64")]
    if let Some(pixel) = pixels.get(at) {
        use std::arch::x86_64::{_MM_HINT_T0, _mm_prefetch};
        // SAFETY: the address is that of a pixel; asking for it reads and writes nothing, and every x86-64 can.
        unsafe { _mm_prefetch::<_MM_HINT_T0>(std::ptr::from_ref(pixel).cast()) }
    }
    #[cfg(not(target_arch = "x86_64"))]
    let _ = (pixels, at);
}
