//! Blocks of OpenEXR's ZIP methods, in which most plates and nearly all render passes come. They are most of what
//! reading or writing a frame takes, so they are made and undone here, without fresh memory for each block and many bytes
//! at once.
//!
//! Source: OpenEXR's technical introduction, and its `internal_zip.c`: the bytes of even places, then those of odd places,
//! each as its difference from the one before plus 128, deflated as a zlib stream.

use std::cell::RefCell;

use exr::compression::Compression;
use exr::error::{Error, Result};
use exr::meta::header::Header;
use libdeflater::{CompressionLvl, Compressor, Decompressor};
#[cfg(target_arch = "x86_64")]
use multiversion::multiversion;

/// How hard it is tried to make blocks small: frames of footage shrink by a twentieth more at 4, and take a fifth longer.
const LEVEL: i32 = 1;

/// What one thread keeps from block to block.
struct Scratch {
    inflater: Decompressor,
    deflater: Compressor,
    inflated: Vec<u8>,
    bytes: Vec<u8>,
}

thread_local! {
    static SCRATCH: RefCell<Scratch> = RefCell::new(Scratch {
        inflater: Decompressor::new(),
        deflater: Compressor::new(CompressionLvl::new(LEVEL).unwrap_or_default()),
        inflated: Vec::new(),
        bytes: Vec::new(),
    });
}

/// Whether a block of `size` bytes that is stored as `stored` is one of these. What would not become smaller stands as it
/// is, and where this machine's order of bytes is not the file's, the library turns them round.
pub(crate) fn is_zipped(header: &Header, stored: &[u8], size: usize) -> bool {
    cfg!(target_endian = "little")
        && stored.len() != size
        && matches!(header.compression, Compression::ZIP1 | Compression::ZIP16)
}

/// What `read` makes of the `size` bytes that a block holds; it must not unzip another one.
pub(crate) fn unzipped<T>(stored: &[u8], size: usize, read: impl FnOnce(&[u8]) -> T) -> Result<T> {
    SCRATCH.with_borrow_mut(|Scratch { inflater, inflated, bytes, .. }| {
        inflated.resize(size, 0);
        bytes.resize(size, 0);
        if inflater.zlib_decompress(stored, inflated) != Ok(size) {
            return Err(Error::Invalid("its zlib stream is damaged".into()));
        }
        undo(inflated, bytes);
        Ok(read(bytes))
    })
}

/// A block of these methods as it is stored; none where that would not make it smaller.
pub(crate) fn zipped(block: &[u8]) -> Option<Vec<u8>> {
    SCRATCH.with_borrow_mut(|Scratch { deflater, inflated, bytes, .. }| {
        inflated.resize(block.len(), 0);
        bytes.resize(block.len(), 0);
        take_apart(block, inflated);
        differences(inflated, bytes);
        // What does not fit into less than the block is not wanted.
        let mut stored = vec![0; block.len().saturating_sub(1)];
        let size = deflater.zlib_compress(bytes, &mut stored).ok()?;
        stored.truncate(size);
        Some(stored)
    })
}

/// The bytes of even places, then those of odd ones.
fn take_apart(block: &[u8], bytes: &mut [u8]) {
    let (even, odd) = bytes.split_at_mut(block.len().div_ceil(2));
    let (pairs, rest) = block.as_chunks::<2>();
    for ((even, odd), pair) in even.iter_mut().zip(odd).zip(pairs) {
        (*even, *odd) = (pair[0], pair[1]);
    }
    if let ([last], Some(even)) = (rest, even.last_mut()) {
        *even = *last;
    }
}

/// The first byte, then the difference of each from the one before, plus 128.
fn differences(bytes: &[u8], out: &mut [u8]) {
    let (Some((first, rest)), Some((out_first, out_rest))) = (bytes.split_first(), out.split_first_mut())
    else {
        return;
    };
    *out_first = *first;
    // In plain steps over slices, which go many bytes at once.
    for ((out, byte), before) in out_rest.iter_mut().zip(rest).zip(bytes) {
        *out = byte.wrapping_sub(*before).wrapping_add(128);
    }
}

/// Each byte is the sum of all up to it, less 128 for every one but the first; bytes wrap. The first half of these sums
/// belongs to even places, the second to odd ones; of an odd number the first half has one more.
fn undo(differences: &[u8], out: &mut [u8]) {
    let (even, odd) = differences.split_at(differences.len().div_ceil(2));
    // Both halves are summed side by side, so the sum of the first is wanted beforehand.
    let sum = even.iter().fold(128u8, |sum, byte| sum.wrapping_add(*byte));
    let mut before = [128, sum.wrapping_sub(if even.len().is_multiple_of(2) { 0 } else { 128 })];
    let (pairs, last) = out.as_chunks_mut::<2>();
    let done = undo_runs([even, odd], &mut before, pairs);
    let mut next = |half: usize, difference: u8| {
        before[half] = before[half].wrapping_add(difference).wrapping_sub(128);
        before[half]
    };
    for (pair, (even, odd)) in pairs[done..].iter_mut().zip(even[done..].iter().zip(&odd[done..])) {
        *pair = [next(0, *even), next(1, *odd)];
    }
    if let ([last], Some(even)) = (last, even.last()) {
        *last = next(0, *even);
    }
}

/// Bytes that go at once.
#[cfg(target_arch = "x86_64")]
const WIDE: usize = 16;

/// Differences added up, from what was there before them.
#[cfg(target_arch = "x86_64")]
#[inline(always)]
fn summed(differences: [u8; WIDE], before: &mut u8) -> safe_arch::m128i {
    use safe_arch::{
        add_i8_m128i as add, byte_shl_imm_u128_m128i as moved, extract_i16_as_i32_m128i, m128i,
        set_splat_i8_m128i,
    };
    // To flip the highest bit is to take 128 off.
    let one = m128i::from(differences) ^ set_splat_i8_m128i(i8::MIN);
    let two = add(one, moved::<1>(one));
    let four = add(two, moved::<2>(two));
    let eight = add(four, moved::<4>(four));
    let sums = add(eight, moved::<8>(eight));
    let all = add(sums, set_splat_i8_m128i(before.cast_signed()));
    *before = before.wrapping_add((extract_i16_as_i32_m128i::<7>(sums) >> 8) as u8);
    all
}

/// As many pairs as go sixteen at once, where this machine has registers for them; says how many those were.
#[cfg(target_arch = "x86_64")]
#[multiversion(targets("x86_64+avx512f+avx512bw+avx512vl", "x86_64+avx2"))]
fn undo_runs([even, odd]: [&[u8]; 2], before: &mut [u8; 2], pairs: &mut [[u8; 2]]) -> usize {
    use safe_arch::{unpack_high_i8_m128i, unpack_low_i8_m128i};
    let (even, odd) = (even.as_chunks::<WIDE>().0, odd.as_chunks::<WIDE>().0);
    let runs = pairs.as_chunks_mut::<WIDE>().0;
    let count = runs.len().min(even.len()).min(odd.len());
    for ((even, odd), run) in even.iter().zip(odd).zip(runs) {
        let [of_even, of_odd] = before;
        let (even, odd) = (summed(*even, of_even), summed(*odd, of_odd));
        let (low, high) = run.as_flattened_mut().split_at_mut(WIDE);
        low.copy_from_slice(&<[u8; WIDE]>::from(unpack_low_i8_m128i(even, odd)));
        high.copy_from_slice(&<[u8; WIDE]>::from(unpack_high_i8_m128i(even, odd)));
    }
    count * WIDE
}

#[cfg(not(target_arch = "x86_64"))]
fn undo_runs(_: [&[u8]; 2], _: &mut [u8; 2], _: &mut [[u8; 2]]) -> usize {
    0
}
