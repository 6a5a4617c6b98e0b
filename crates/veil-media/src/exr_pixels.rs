//! The pixels of an OpenEXR file. Only the part that holds what is asked for is decoded, and each of its lines is written
//! where it belongs by whichever thread decodes it.

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
use half::slice::HalfFloatSliceExt;
use veil_core::signal::{Pixels, SignalKind};
use veil_pixels::sample::resize::{block_means, block_means_of};
use veil_pixels::{Cancel, Picture, Pixel, Raster, Rgba, Window};

use crate::MediaError;
use crate::exr_head::{data_window, open};
use crate::guard::guarded;
use crate::{exr_dwa, exr_zip};

/// Reads a signal whose floats are these channels of a part, by their places in its header. A float without a channel is
/// 0, a picture's alpha 1.
pub(crate) fn read_signal(
    path: &Path,
    part: usize,
    floats: &[Option<usize>],
    kind: SignalKind,
    cancel: &Cancel,
) -> Result<Pixels, MediaError> {
    Ok(match kind {
        SignalKind::Field => Pixels::Field(read_floats(path, part, floats, cancel)?),
        SignalKind::Map => Pixels::Map(read_floats(path, part, floats, cancel)?),
        SignalKind::Picture => Pixels::Picture(read_floats(path, part, floats, cancel)?),
    })
}

fn read_floats<P: Pixel>(
    path: &Path,
    part: usize,
    floats: &[Option<usize>],
    cancel: &Cancel,
) -> Result<Raster<P>, MediaError> {
    let channels: Vec<usize> = floats.iter().copied().flatten().collect();
    let sources = sources_of::<P>(floats, &channels);
    read_lines(path, part, &channels, cancel, |_, lines, pixels: &mut [P]| {
        put_together(&sources, lines, pixels);
    })
}

/// Where each float of a pixel is among the channels that are read, or what it is without.
fn sources_of<P: Pixel>(floats: &[Option<usize>], channels: &[usize]) -> Vec<Result<usize, f32>> {
    let place = |wanted: usize| channels.iter().position(|channel| *channel == wanted);
    (0..P::CHANNELS)
        .map(|float| {
            let absent = if float == 3 { 1.0 } else { 0.0 };
            floats.get(float).copied().flatten().and_then(place).ok_or(absent)
        })
        .collect()
}

/// Pixels of lines, each of which is a channel.
fn put_together<P: Pixel>(sources: &[Result<usize, f32>], lines: &[Vec<f32>], pixels: &mut [P]) {
    let out = P::floats_mut(pixels);
    if let ([Ok(0), Ok(1), Ok(2), Ok(3)], [r, g, b, a]) = (sources, lines) {
        for ((((out, r), g), b), a) in out.as_chunks_mut().0.iter_mut().zip(r).zip(g).zip(b).zip(a) {
            *out = [*r, *g, *b, *a];
        }
        return;
    }
    for (float, source) in sources.iter().enumerate() {
        let places = out[float..].iter_mut().step_by(P::CHANNELS);
        match source {
            Ok(line) => places.zip(&lines[*line]).for_each(|(out, value)| *out = *value),
            Err(absent) => places.for_each(|out| *out = *absent),
        }
    }
}

/// A raster over the window of a part. `write` makes a run of a row's pixels, whose number it is given, from that run of
/// each channel that is asked for, in the order in which they are; a channel that is asked for twice is given twice.
pub(crate) fn read_lines<P: Pixel>(
    path: &Path,
    part: usize,
    channels: &[usize],
    cancel: &Cancel,
    write: impl Fn(i32, &[Vec<f32>], &mut [P]) + Sync,
) -> Result<Raster<P>, MediaError> {
    read_some_lines(path, part, channels, |_| true, cancel, write)
}

/// As [`read_lines`], but rows that are stored together are clear where none of them is wanted.
pub(crate) fn read_some_lines<P: Pixel>(
    path: &Path,
    part: usize,
    channels: &[usize],
    is_wanted: impl Fn(i32) -> bool + Sync,
    cancel: &Cancel,
    write: impl Fn(i32, &[Vec<f32>], &mut [P]) + Sync,
) -> Result<Raster<P>, MediaError> {
    guarded(path, || {
        let (chunks, meta, window) = stored(path, part)?;
        let part = Part { path, header: &meta.headers[part], meta: &meta, window, channels };
        Raster::written_apart(window, part.rows_of_a_band(), |bands| {
            part.fill(chunks, bands, cancel, |number, chunks, pixels| {
                let y = window.y0 + (number * part.rows_of_a_band()) as i32;
                if !(y..y + (pixels.len() / window.width()) as i32).any(&is_wanted) {
                    pixels.fill(P::default());
                    return Ok(());
                }
                part.write_band(number, chunks, pixels, &write)
            })
        })
    })
}

/// A picture made smaller as it is read: the mean of each block of so many by so many pixels, of the blocks that are
/// counted from the origin, once `change` had each whole run of pixels.
pub(crate) fn read_smaller(
    path: &Path,
    part: usize,
    floats: &[Option<usize>],
    divisor: u32,
    change: &(dyn Fn(&mut [Rgba]) + Sync),
    cancel: &Cancel,
) -> Result<Picture, MediaError> {
    let channels: Vec<usize> = floats.iter().copied().flatten().collect();
    let sources = sources_of::<Rgba>(floats, &channels);
    guarded(path, || {
        let (chunks, meta, window) = stored(path, part)?;
        let part = Part { path, header: &meta.headers[part], meta: &meta, window, channels: &channels };
        let (rows, step) = (part.rows_of_a_band(), divisor as usize);
        let write = |_: i32, lines: &[Vec<f32>], pixels: &mut [Rgba]| put_together(&sources, lines, pixels);
        if !rows.is_multiple_of(step) || window.y0.rem_euclid(divisor as i32) != 0 {
            // A block is of two bands.
            let mut whole = Raster::written_apart(window, rows, |bands| {
                part.fill(chunks, bands, cancel, |number, chunks, pixels| {
                    part.write_band(number, chunks, pixels, write)
                })
            })?;
            whole.fill_rows(cancel, |_, row| change(row))?;
            return Ok(block_means(&whole, divisor, cancel)?);
        }
        let (smaller, wide) = (window.scaled_down(divisor), window.width());
        Raster::written_apart(smaller, rows / step, |bands| {
            part.fill(chunks, bands, cancel, |number, chunks, made| {
                let mut band = Rgba::pool().take(rows.min(window.height() - number * rows) * wide);
                let read = part.write_band(number, chunks, &mut band, write);
                if read.is_ok() {
                    change(&mut band);
                    let mut sums = vec![Rgba::default(); wide];
                    for (lines, row) in band.chunks(step * wide).zip(made.chunks_mut(smaller.width())) {
                        block_means_of(lines.chunks(wide), window.x0, divisor, &mut sums, row);
                    }
                }
                Rgba::pool().give(band);
                read
            })
        })
    })
}

/// Decodes every block of a file.
pub(crate) fn decode_all(path: &Path, cancel: &Cancel) -> Result<(), MediaError> {
    let parts = guarded(path, || Ok(open(path)?.headers().len()))?;
    for part in 0..parts {
        read_lines::<f32>(path, part, &[], cancel, |_, _, pixels| pixels.fill(0.0))?;
    }
    Ok(())
}

/// Reads every chunk of a file as it is stored, without decoding it.
pub(crate) fn read_chunks(path: &Path, cancel: &Cancel) -> Result<(), MediaError> {
    guarded(path, || {
        let reader = open(path)?;
        for header in reader.headers() {
            let window = data_window(path, header)?;
            MediaError::check_size(path, window.width(), window.height(), header.channels.bytes_per_pixel)?;
        }
        let failed = |error| MediaError::exr(path, error);
        for chunk in reader.all_chunks(false).map_err(failed)? {
            cancel.check().map_err(|_| MediaError::Cancelled)?;
            chunk.map_err(failed)?;
        }
        Ok(())
    })
}

/// What is stored of a part at its full size, to be read, and its window.
fn stored(path: &Path, part: usize) -> Result<(impl ChunksReader, MetaData, Window), MediaError> {
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

/// What is wanted of one part of a file.
struct Part<'a> {
    path: &'a Path,
    header: &'a Header,
    meta: &'a MetaData,
    window: Window,
    /// By their places in the header.
    channels: &'a [usize],
}

impl Part<'_> {
    /// Rows that are stored together, over all of the width.
    fn rows_of_a_band(&self) -> usize {
        match self.header.blocks {
            BlockDescription::ScanLines => self.header.compression.scan_lines_per_block(),
            BlockDescription::Tiles(tiles) => tiles.tile_size.height(),
        }
    }

    /// Has `decode` fill bands from their chunks and the number of each, by other threads while this one still reads.
    fn fill<P: Pixel>(
        &self,
        chunks: impl ChunksReader,
        bands: Vec<&mut [P]>,
        cancel: &Cancel,
        decode: impl Fn(usize, Vec<Chunk>, &mut [P]) -> Result<(), MediaError> + Sync,
    ) -> Result<(), MediaError> {
        let (whole, why) = (self.chunks_of_a_band(), Mutex::new(None));
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
                come.push(chunk);
                if come.len() == whole
                    && let (Some(number), Some(band)) = (number, band.take())
                {
                    let (come, decode, note) = (std::mem::take(come), &decode, &note);
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
    fn chunks_of_a_band(&self) -> usize {
        match self.header.blocks {
            BlockDescription::ScanLines => 1,
            BlockDescription::Tiles(tiles) => self.window.width().div_ceil(tiles.tile_size.width()),
        }
    }

    /// Which band a chunk belongs to.
    fn band_of(&self, chunk: &Chunk) -> Option<usize> {
        match &chunk.compressed_block {
            CompressedBlock::ScanLine(block) => {
                let down = i64::from(block.y_coordinate) - i64::from(self.window.y0);
                usize::try_from(down).ok().map(|down| down / self.rows_of_a_band())
            }
            CompressedBlock::Tile(block) => Some(block.coordinates.tile_index.y()),
            CompressedBlock::DeepScanLine(_) | CompressedBlock::DeepTile(_) => None,
        }
    }

    /// Writes all pixels of a band from its chunks.
    fn write_band<P: Pixel>(
        &self,
        number: usize,
        chunks: Vec<Chunk>,
        pixels: &mut [P],
        write: impl Fn(i32, &[Vec<f32>], &mut [P]),
    ) -> Result<(), MediaError> {
        let first = number * self.rows_of_a_band();
        let mut written = 0;
        for chunk in chunks {
            written += self.write_chunk(chunk, first, pixels, &write)?;
        }
        if written == pixels.len() { Ok(()) } else { Err(self.missing()) }
    }

    /// Writes what a chunk holds of a band that begins at a row, and says how many pixels that was.
    fn write_chunk<P: Pixel>(
        &self,
        chunk: Chunk,
        first: usize,
        band: &mut [P],
        write: impl Fn(i32, &[Vec<f32>], &mut [P]),
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
                exr_zip::unzipped(stored, size, |bytes| self.write_block(index, bytes, first, band, write))
                    .map_err(failed)?
            }
            _ => {
                let block = UncompressedBlock::decompress_chunk(chunk, self.meta, false).map_err(failed)?;
                self.write_block(index, &block.data, first, band, write)
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

    /// Writes what a block's bytes hold of a band that begins at a row, and says how many pixels that was.
    fn write_block<P: Pixel>(
        &self,
        index: BlockIndex,
        bytes: &[u8],
        first: usize,
        band: &mut [P],
        write: impl Fn(i32, &[Vec<f32>], &mut [P]),
    ) -> Result<usize, MediaError> {
        let list = &self.header.channels.list;
        let mut lines: Vec<Vec<f32>> = self.channels.iter().map(|_| vec![0.0; index.pixel_size.0]).collect();
        let mut written = 0;
        for (range, at) in LineIndex::lines_in_block(index, &self.header.channels) {
            for (place, _) in self.channels.iter().enumerate().filter(|(_, wanted)| **wanted == at.channel) {
                let line = bytes.get(range.clone()).ok_or_else(|| self.missing())?;
                to_floats(line, list[at.channel].sample_type, &mut lines[place]);
            }
            if at.channel + 1 == list.len() {
                let row = at.position.1.checked_sub(first).map(|row| row * self.window.width());
                let run = row.map(|row| row + at.position.0..row + at.position.0 + at.sample_count);
                let pixels = run.and_then(|run| band.get_mut(run)).ok_or_else(|| self.missing())?;
                write(self.window.y0 + at.position.1 as i32, &lines, pixels);
                written += pixels.len();
            }
        }
        Ok(written)
    }

    fn missing(&self) -> MediaError {
        MediaError::broken(self.path, "pixels are missing")
    }
}

/// A decompressed line's bytes, which are in this machine's order.
fn to_floats(bytes: &[u8], kind: SampleType, out: &mut [f32]) {
    match kind {
        SampleType::F16 => {
            let (halves, _) = bytes.as_chunks::<2>();
            let halves: Vec<half::f16> = halves.iter().map(|b| half::f16::from_ne_bytes(*b)).collect();
            halves.convert_to_f32_slice(out);
        }
        SampleType::F32 => {
            let (floats, _) = bytes.as_chunks::<4>();
            out.iter_mut().zip(floats).for_each(|(out, bytes)| *out = f32::from_ne_bytes(*bytes));
        }
        SampleType::U32 => {
            let (numbers, _) = bytes.as_chunks::<4>();
            out.iter_mut().zip(numbers).for_each(|(out, bytes)| *out = u32::from_ne_bytes(*bytes) as f32);
        }
    }
}
