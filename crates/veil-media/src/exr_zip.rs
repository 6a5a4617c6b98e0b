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

use crate::byte_sums::undo_runs;

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

/// What `read` makes of the `size` bytes that a block holds, an even number; it must not unzip another one.
pub(crate) fn unzipped<T>(stored: &[u8], size: usize, read: impl FnOnce(Unzipped<'_>) -> T) -> Result<T> {
    SCRATCH.with_borrow_mut(|Scratch { inflater, inflated, .. }| {
        inflated.resize(size, 0);
        if inflater.zlib_decompress(stored, inflated) != Ok(size) {
            return Err(Error::Invalid("its zlib stream is damaged".into()));
        }
        Ok(read(Unzipped::new(inflated)))
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

/// The bytes of a block that are still differences, to be had one run after the other.
///
/// Each byte is the sum of all differences up to it, less 128 for every one but the first; bytes wrap. The first half of
/// these sums belongs to even places, the second to odd ones.
pub(crate) struct Unzipped<'a> {
    /// What is left of both halves.
    halves: [&'a [u8]; 2],
    /// The sums up to there.
    before: [u8; 2],
}

impl<'a> Unzipped<'a> {
    /// Of an even number of differences: each sample is of two bytes or of four.
    fn new(differences: &'a [u8]) -> Self {
        let (even, odd) = differences.split_at(differences.len() / 2);
        // Both halves are summed side by side, so the sum of the first is wanted beforehand.
        let sum = sum_from(128, even);
        Self { halves: [even, odd], before: [128, sum] }
    }

    /// Writes the next bytes, an even number; none where there are not so many.
    pub(crate) fn next(&mut self, bytes: &mut [u8]) -> Option<()> {
        let halves = self.step(bytes.len() / 2)?;
        let pairs = bytes.as_chunks_mut::<2>().0;
        let done = undo_runs(halves, &mut self.before, pairs);
        for (pair, (even, odd)) in
            pairs[done..].iter_mut().zip(halves[0][done..].iter().zip(&halves[1][done..]))
        {
            self.before = [sum_from(self.before[0], &[*even]), sum_from(self.before[1], &[*odd])];
            *pair = self.before;
        }
        Some(())
    }

    /// Passes over so many bytes, an even number; none where there are not so many.
    pub(crate) fn skip(&mut self, bytes: usize) -> Option<()> {
        let [even, odd] = self.step(bytes / 2)?;
        self.before = [sum_from(self.before[0], even), sum_from(self.before[1], odd)];
        Some(())
    }

    /// The next differences of both halves.
    fn step(&mut self, pairs: usize) -> Option<[&'a [u8]; 2]> {
        let [(even, more_even), (odd, more_odd)] =
            [self.halves[0].split_at_checked(pairs)?, self.halves[1].split_at_checked(pairs)?];
        self.halves = [more_even, more_odd];
        Some([even, odd])
    }
}

/// What a sum becomes by differences to each of which 128 was added.
fn sum_from(before: u8, differences: &[u8]) -> u8 {
    let sum = differences.iter().fold(before, |sum, byte| sum.wrapping_add(*byte));
    if differences.len().is_multiple_of(2) { sum } else { sum.wrapping_sub(128) }
}
