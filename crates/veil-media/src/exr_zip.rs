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
        undo_differences(inflated);
        interleave(inflated, bytes);
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

/// One in each of four lanes of sixteen bits.
const ONES: u64 = 0x0001_0001_0001_0001;
/// The low byte of each lane.
const LOW: u64 = 0xff * ONES;

/// Each byte becomes the sum of all up to it, less 128 for every one but the first; bytes wrap.
///
/// Eight bytes at once, those of even and of odd places in lanes of their own: times [`ONES`], a lane becomes the sum of
/// all lanes up to it, and no sum overflows its lane.
fn undo_differences(bytes: &mut [u8]) {
    let (runs, rest) = bytes.as_chunks_mut::<32>();
    let mut before = 128u8;
    for run in runs {
        let (words, _) = run.as_chunks_mut::<8>();
        for word in words {
            // To flip the highest bit is to take 128 off.
            let differences = u64::from_le_bytes(*word) ^ (0x80 * (ONES | ONES << 8));
            let even = (differences & LOW).wrapping_mul(ONES);
            let odd = (differences >> 8 & LOW).wrapping_mul(ONES);
            let (to_even, to_odd) = (even.wrapping_add(odd << 16), even.wrapping_add(odd));
            let start = u64::from(before) * ONES;
            let summed = |sums: u64| sums.wrapping_add(start) & LOW;
            *word = (summed(to_even) | summed(to_odd) << 8).to_le_bytes();
            before = before.wrapping_add((to_odd >> 48) as u8);
        }
    }
    for byte in rest {
        *byte = byte.wrapping_sub(128).wrapping_add(before);
        before = *byte;
    }
}

/// The first half to even places, the second to odd ones; of an odd number the first half has one more.
fn interleave(halves: &[u8], out: &mut [u8]) {
    let (even, odd) = halves.split_at(halves.len().div_ceil(2));
    let (pairs, last) = out.as_chunks_mut::<2>();
    for (pair, (even, odd)) in pairs.iter_mut().zip(even.iter().zip(odd)) {
        *pair = [*even, *odd];
    }
    if let ([last], Some(even)) = (last, even.last()) {
        *last = *even;
    }
}
