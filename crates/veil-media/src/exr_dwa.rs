//! Blocks of OpenEXR's DWA method, looked at before they are decoded.
//!
//! A block begins with eleven numbers of 64 bits, some of which say how large its parts become. The library that decodes
//! asks for that much memory before it reads on, and a process that asks for too much is ended; so numbers beyond what
//! the block's pixels can need are refused first.
//!
//! Source: OpenEXR's `internal_dwa_compressor.h`, `DataSizesSingle`.

use exr::block::chunk::{Chunk, CompressedBlock, CompressedScanLineBlock, CompressedTileBlock};
use exr::compression::Compression;
use exr::error::{Error, Result};
use exr::meta::header::Header;

/// Places of the numbers that say how large a part becomes: what is not transformed, run lengths before and after, and
/// the counts of both kinds of coefficients.
const SIZES: [usize; 5] = [1, 6, 7, 8, 9];
/// No part becomes larger than the block's pixels, of four bytes each, with some to spare.
const AT_MOST_TIMES: u64 = 4;
/// What small blocks may need beyond that.
const TO_SPARE: u64 = 64 << 10;

/// Refuses a block whose parts are said to become larger than its pixels are.
pub(crate) fn check(chunk: &Chunk, header: &Header) -> Result<()> {
    if !matches!(header.compression, Compression::DWAA(_) | Compression::DWAB(_)) {
        return Ok(());
    }
    let (CompressedBlock::ScanLine(CompressedScanLineBlock { compressed_pixels_le: bytes, .. })
    | CompressedBlock::Tile(CompressedTileBlock { compressed_pixels_le: bytes, .. })) =
        &chunk.compressed_block
    else {
        return Ok(());
    };
    let place = header.get_block_data_indices(&chunk.compressed_block)?;
    let size = header.get_absolute_block_pixel_coordinates(place)?.size;
    let pixels = size.0 as u64 * size.1 as u64 * header.channels.bytes_per_pixel as u64;
    // What would not become smaller stands as it is.
    if bytes.len() as u64 == pixels {
        return Ok(());
    }
    let (numbers, _) = bytes.as_chunks::<8>();
    let most = pixels * AT_MOST_TIMES + TO_SPARE;
    let too_large =
        |place: usize| numbers.get(place).is_some_and(|number| u64::from_le_bytes(*number) > most);
    if SIZES.into_iter().any(too_large) {
        return Err(Error::Invalid("a block says that it becomes larger than its pixels".into()));
    }
    Ok(())
}
