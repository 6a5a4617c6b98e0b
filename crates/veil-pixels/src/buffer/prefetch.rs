//! Memory asked for before it is read.
#![expect(
    unsafe_code,
    reason = "a blur in strips and reads at scattered places wait for memory a third of their time, measured against \
              the reference; no safe call asks for memory early"
)]

/// Bytes that come together.
const LINE: usize = 64;

/// Asks for a pixel's memory to be brought near; any address may be asked for. Does nothing where there is no such
/// instruction.
#[inline(always)]
pub(crate) fn ask<P>(pixel: *const P) {
    #[cfg(target_arch = "x86_64")]
    {
        use std::arch::x86_64::{_MM_HINT_T0, _mm_prefetch};
        // SAFETY: asking reads and writes nothing and fails for no address; every x86-64 can.
        unsafe { _mm_prefetch::<_MM_HINT_T0>(pixel.cast()) }
    }
    #[cfg(not(target_arch = "x86_64"))]
    let _ = pixel;
}

/// As [`ask`], for a run of pixels.
pub(crate) fn ask_all<P>(pixels: &[P]) {
    pixels.chunks((LINE / size_of::<P>()).max(1)).for_each(|line| ask(line.as_ptr()));
}
