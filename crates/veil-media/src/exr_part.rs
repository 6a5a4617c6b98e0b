//! One part of an OpenEXR file. Only what is asked for is decoded, and each of its lines is written where it belongs by
//! whichever thread decodes it.

use std::ops::Range;
use std::path::Path;
use std::sync::{Mutex, PoisonError};

use exr::block::chunk::{
    Chunk, CompressedBlock, CompressedScanLineBlock, CompressedTileBlock, TileCoordinates,
};
use exr::block::lines::LineIndex;
use exr::block::reader::ChunksReader;
use exr::block::{BlockIndex, UncompressedBlock};
use exr::meta::attribute::SampleType;
use exr::meta::header::Header;
use exr::meta::{BlockDescription, MetaData};
use half::slice::{HalfBitsSliceExt, HalfFloatSliceExt};
use veil_pixels::{Cancel, Pixel, Window};

use crate::MediaError;
use crate::exr_head::{data_window, open};
use crate::{exr_dwa, exr_zip};

/// What is stored of a part at its full size, to be read, and its window.
pub(crate) fn stored(path: &Path, part: usize) -> Result<(impl ChunksReader, MetaData, Window), MediaError> {
    let failed = |error| MediaError::exr(path, error);
    let reader = open(path)?;
    let header = reader.headers().get(part).ok_or_else(|| MediaError::broken(path, "a part is missing"))?;
    let window = data_window(path, header)?;
    MediaError::check_size(path, window.width(), window.height(), header.channels.bytes_per_pixel)?;
    if header.channels.list.iter().any(|channel| channel.sampling.0 != 1 || channel.sampling.1 != 1) {
        let why = "channels sampled at less than every pixel".into();
        return Err(MediaError::Unsupported { path: path.into(), why });
    }
    let is_wanted =
        move |tile: TileCoordinates, block: usize| block == part && tile.level_index == exr::math::Vec2(0, 0);
    let reader =
        reader.filter_chunks(false, |_, tile, block| is_wanted(tile, block.layer)).map_err(failed)?;
    let meta = reader.meta_data().clone();
    Ok((reader, meta, window))
}

/// Pixels beside each other in a part.
#[derive(Clone, Copy)]
pub(crate) struct Run {
    /// Down from the part's first row.
    pub(crate) row: usize,
    /// Its first pixel, from the part's first column.
    pub(crate) column: usize,
    /// How many there are.
    pub(crate) count: usize,
}

/// What is wanted of one part of a file.
pub(crate) struct Part<'a> {
    path: &'a Path,
    header: &'a Header,
    meta: &'a MetaData,
    window: Window,
    /// By their places in the header.
    channels: &'a [usize],
    /// Rows that are decoded together, over all of the width.
    band: usize,
}

/// Rows of scan lines are at least so many together, however few are stored together.
const FEWEST_ROWS: usize = 16;

impl<'a> Part<'a> {
    /// Rows are decoded together that are stored together, and whole steps of so many rows, counted from the origin where
    /// the part begins at one.
    pub(crate) fn new(
        path: &'a Path,
        meta: &'a MetaData,
        part: usize,
        window: Window,
        channels: &'a [usize],
        step: usize,
    ) -> Self {
        let header = &meta.headers[part];
        let stored = rows_of_a_chunk(header);
        let fewest = match header.blocks {
            BlockDescription::ScanLines => FEWEST_ROWS,
            BlockDescription::Tiles(_) => 1,
        };
        let band = (stored..).step_by(stored).find(|rows| *rows >= fewest && rows.is_multiple_of(step));
        Self { path, header, meta, window, channels, band: band.unwrap_or(stored) }
    }

    /// Which pixels the part has.
    pub(crate) fn window(&self) -> Window {
        self.window
    }

    /// Rows that are decoded together, over all of the width; the last ones may be fewer.
    pub(crate) fn band(&self) -> usize {
        self.band
    }

    /// Whether tiles are stored, of which some make a row, and no whole rows.
    pub(crate) fn is_tiled(&self) -> bool {
        matches!(self.header.blocks, BlockDescription::Tiles(_))
    }

    /// Which rows of the part a band has.
    pub(crate) fn rows_of(&self, number: usize) -> Range<usize> {
        number * self.band..((number + 1) * self.band).min(self.window.height())
    }

    /// Has `decode` fill bands from their chunks and the number of each, by other threads while this one still reads.
    pub(crate) fn fill<P: Pixel>(
        &self,
        chunks: impl ChunksReader,
        bands: Vec<&mut [P]>,
        cancel: &Cancel,
        decode: impl Fn(usize, Vec<Chunk>, &mut [P]) -> Result<(), MediaError> + Sync,
    ) -> Result<(), MediaError> {
        let why = Mutex::new(None);
        let note = |error: MediaError| {
            why.lock().unwrap_or_else(PoisonError::into_inner).get_or_insert(error);
        };
        let mut waiting: Vec<(Vec<Chunk>, Option<&mut [P]>)> =
            bands.into_iter().map(|band| (Vec::new(), Some(band))).collect();
        let is_done = || cancel.is_set() || why.lock().unwrap_or_else(PoisonError::into_inner).is_some();
        rayon::in_place_scope(|scope| {
            for chunk in chunks {
                if is_done() {
                    break;
                }
                let chunk = match chunk {
                    Ok(chunk) => chunk,
                    Err(error) => return note(MediaError::exr(self.path, error)),
                };
                let number = self.band_of(&chunk);
                let Some((come, band)) = number.and_then(|number| waiting.get_mut(number)) else {
                    return note(self.missing());
                };
                // Of what is there twice, the first counts.
                if come.iter().all(|known| place_of(known) != place_of(&chunk)) {
                    come.push(chunk);
                }
                if let Some(number) = number
                    && come.len() == self.chunks_of(number)
                    && let Some(band) = band.take()
                {
                    let (mut come, decode, note) = (std::mem::take(come), &decode, &note);
                    come.sort_by_key(place_of);
                    scope.spawn(move |_| {
                        let done = if cancel.is_set() {
                            Err(MediaError::Cancelled)
                        } else {
                            decode(number, come, band)
                        };
                        done.unwrap_or_else(note);
                    });
                }
            }
        });
        if cancel.is_set() {
            return Err(MediaError::Cancelled);
        }
        match why.into_inner().unwrap_or_else(PoisonError::into_inner) {
            Some(why) => Err(why),
            None if waiting.iter().any(|(_, band)| band.is_some()) => Err(self.missing()),
            None => Ok(()),
        }
    }

    /// How many chunks make a band.
    fn chunks_of(&self, number: usize) -> usize {
        let down = self.rows_of(number).len().div_ceil(rows_of_a_chunk(self.header));
        match self.header.blocks {
            BlockDescription::ScanLines => down,
            BlockDescription::Tiles(tiles) => down * self.window.width().div_ceil(tiles.tile_size.width()),
        }
    }

    /// Which band a chunk belongs to.
    fn band_of(&self, chunk: &Chunk) -> Option<usize> {
        let row = match &chunk.compressed_block {
            CompressedBlock::ScanLine(block) => {
                usize::try_from(i64::from(block.y_coordinate) - i64::from(self.window.y0)).ok()?
            }
            CompressedBlock::Tile(block) => {
                block.coordinates.tile_index.y().checked_mul(rows_of_a_chunk(self.header))?
            }
            CompressedBlock::DeepScanLine(_) | CompressedBlock::DeepTile(_) => return None,
        };
        Some(row / self.band)
    }

    /// Calls `take` with each run of pixels that chunks hold, in the order of the rows of each chunk, and that run of each
    /// channel. It gives none where that is no place of its own. All runs together have so many pixels.
    pub(crate) fn each_run(
        &self,
        chunks: Vec<Chunk>,
        pixels: usize,
        mut take: impl FnMut(Run, &[&[f32]]) -> Option<()>,
    ) -> Result<(), MediaError> {
        let mut taken = 0;
        for chunk in chunks {
            taken += self.each_run_of(chunk, &mut take)?;
        }
        if taken == pixels { Ok(()) } else { Err(self.missing()) }
    }

    /// As [`Self::each_run`], of one chunk; says how many pixels that was.
    fn each_run_of(
        &self,
        chunk: Chunk,
        take: impl FnMut(Run, &[&[f32]]) -> Option<()>,
    ) -> Result<usize, MediaError> {
        let failed = |error| MediaError::exr(self.path, error);
        exr_dwa::check(&chunk, self.header).map_err(failed)?;
        let index = self.index_of(&chunk).map_err(failed)?;
        let size = index.pixel_size.area() * self.header.channels.bytes_per_pixel;
        match &chunk.compressed_block {
            CompressedBlock::ScanLine(CompressedScanLineBlock { compressed_pixels_le: stored, .. })
            | CompressedBlock::Tile(CompressedTileBlock { compressed_pixels_le: stored, .. })
                if exr_zip::is_zipped(self.header, stored, size) =>
            {
                let read =
                    |bytes: exr_zip::Unzipped<'_>| self.each_run_of_block(index, Bytes::Zipped(bytes), take);
                exr_zip::unzipped(stored, size, read).map_err(failed)?
            }
            _ => {
                let block = UncompressedBlock::decompress_chunk(chunk, self.meta, false).map_err(failed)?;
                self.each_run_of_block(index, Bytes::Plain(&block.data), take)
            }
        }
    }

    /// Which pixels a chunk is of.
    fn index_of(&self, chunk: &Chunk) -> exr::error::Result<BlockIndex> {
        let place = self.header.get_block_data_indices(&chunk.compressed_block)?;
        let pixels = self.header.get_absolute_block_pixel_coordinates(place)?;
        pixels.validate(Some(self.header.layer_size))?;
        Ok(BlockIndex {
            layer: chunk.layer_index,
            pixel_position: pixels.position.to_usize("block's place")?,
            pixel_size: pixels.size,
            level: place.level_index,
        })
    }

    /// As [`Self::each_run`], of a block's bytes; says how many pixels that was.
    fn each_run_of_block(
        &self,
        index: BlockIndex,
        mut bytes: Bytes<'_>,
        mut take: impl FnMut(Run, &[&[f32]]) -> Option<()>,
    ) -> Result<usize, MediaError> {
        let list = &self.header.channels.list;
        let mut lines = vec![vec![0.0; index.pixel_size.0]; self.channels.len()];
        let mut halves = Vec::new();
        let mut taken = 0;
        for (range, at) in LineIndex::lines_in_block(index, &self.header.channels) {
            let mut places = (0..lines.len()).filter(|place| self.channels[*place] == at.channel);
            match places.next() {
                Some(first) => {
                    let kind = list[at.channel].sample_type;
                    bytes.floats(kind, &mut halves, &mut lines[first]).ok_or_else(|| self.missing())?;
                    for again in places {
                        let (before, after) = lines.split_at_mut(again);
                        after[0].copy_from_slice(&before[first]);
                    }
                }
                None => bytes.skip(range.len()).ok_or_else(|| self.missing())?,
            }
            if at.channel + 1 == list.len() {
                let lines: Vec<&[f32]> = lines.iter().map(Vec::as_slice).collect();
                let run = Run { row: at.position.1, column: at.position.0, count: at.sample_count };
                take(run, &lines).ok_or_else(|| self.missing())?;
                taken += at.sample_count;
            }
        }
        Ok(taken)
    }

    fn missing(&self) -> MediaError {
        MediaError::broken(self.path, "pixels are missing")
    }
}

/// Rows that are stored together.
fn rows_of_a_chunk(header: &Header) -> usize {
    match header.blocks {
        BlockDescription::ScanLines => header.compression.scan_lines_per_block(),
        BlockDescription::Tiles(tiles) => tiles.tile_size.height(),
    }
}

/// Where a chunk is among those of its part, by rows first.
fn place_of(chunk: &Chunk) -> (i64, usize) {
    match &chunk.compressed_block {
        CompressedBlock::ScanLine(block) => (i64::from(block.y_coordinate), 0),
        CompressedBlock::Tile(block) => {
            let index = block.coordinates.tile_index;
            (index.y() as i64, index.x())
        }
        CompressedBlock::DeepScanLine(_) | CompressedBlock::DeepTile(_) => (0, 0),
    }
}

/// The bytes of a block, to be had one line after the other, in this machine's order.
enum Bytes<'a> {
    Plain(&'a [u8]),
    Zipped(exr_zip::Unzipped<'a>),
}

impl Bytes<'_> {
    /// Writes the next bytes; none where there are not so many.
    fn next(&mut self, out: &mut [u8]) -> Option<()> {
        match self {
            Self::Plain(left) => {
                let (now, after) = left.split_at_checked(out.len())?;
                out.copy_from_slice(now);
                *left = after;
                Some(())
            }
            Self::Zipped(unzipped) => unzipped.next(out),
        }
    }

    /// Passes over so many bytes; none where there are not so many.
    fn skip(&mut self, count: usize) -> Option<()> {
        match self {
            Self::Plain(left) => {
                *left = left.get(count..)?;
                Some(())
            }
            Self::Zipped(unzipped) => unzipped.skip(count),
        }
    }

    /// Writes the next line, of samples of a kind, as floats; none where there are not so many. `halves` is room for them.
    fn floats(&mut self, kind: SampleType, halves: &mut Vec<u16>, line: &mut [f32]) -> Option<()> {
        match kind {
            SampleType::F16 => {
                halves.resize(line.len(), 0);
                self.next(bytemuck::cast_slice_mut(halves))?;
                halves.reinterpret_cast::<half::f16>().convert_to_f32_slice(line);
            }
            SampleType::F32 => self.next(bytemuck::cast_slice_mut(line))?,
            SampleType::U32 => {
                self.next(bytemuck::cast_slice_mut(line))?;
                line.iter_mut().for_each(|value| *value = value.to_bits() as f32);
            }
        }
        Some(())
    }
}
