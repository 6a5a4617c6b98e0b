//! The pixels of an OpenEXR file, at full size or as means of blocks.

use std::ops::Range;
use std::path::Path;

use exr::block::chunk::Chunk;
use veil_core::signal::{Pixels, SignalKind};
use veil_pixels::sample::resize::block_means;
use veil_pixels::{Cancel, Picture, Pixel, Raster, Rgba, Window};

use crate::MediaError;
use crate::exr_head::{data_window, open};
use crate::exr_part::{Part, Run, stored};
use crate::guard::guarded;

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
fn put_together<P: Pixel>(sources: &[Result<usize, f32>], lines: &[&[f32]], pixels: &mut [P]) {
    let out = P::floats_mut(pixels);
    if let ([Ok(0), Ok(1), Ok(2), Ok(3)], [r, g, b, a]) = (sources, lines) {
        for ((((out, r), g), b), a) in out.as_chunks_mut().0.iter_mut().zip(*r).zip(*g).zip(*b).zip(*a) {
            *out = [*r, *g, *b, *a];
        }
        return;
    }
    for (float, source) in sources.iter().enumerate() {
        let places = out[float..].iter_mut().step_by(P::CHANNELS);
        match source {
            Ok(line) => places.zip(lines[*line]).for_each(|(out, value)| *out = *value),
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
    write: impl Fn(i32, &[&[f32]], &mut [P]) + Sync,
) -> Result<Raster<P>, MediaError> {
    guarded(path, || {
        let (chunks, meta, window) = stored(path, part)?;
        let part = Part::new(path, &meta, part, window, channels, 1);
        Raster::written_apart(window, part.band(), |bands| {
            part.fill(chunks, bands, cancel, |number, chunks, pixels| {
                write_band(&part, number, chunks, pixels, &write)
            })
        })
    })
}

/// A picture made smaller as it is read, once `change` had each run of its values: see [`read_smaller_planes`].
pub(crate) fn read_smaller(
    path: &Path,
    part: usize,
    floats: &[Option<usize>],
    divisor: u32,
    change: &(dyn Fn(&mut [f32]) + Sync),
    cancel: &Cancel,
) -> Result<Picture, MediaError> {
    let channels: Vec<usize> = floats.iter().copied().flatten().collect();
    let planes = Planes {
        count: channels.len(),
        make: |_: i32, lines: &[&[f32]], plane: usize, run: &mut [f32]| {
            run.copy_from_slice(lines[plane]);
            change(run);
        },
        sources: sources_of::<Rgba>(floats, &channels),
        is_wanted: |_: i32| true,
    };
    read_smaller_planes(path, part, &channels, divisor, &planes, cancel)
}

/// What the floats of smaller pixels are made of.
pub(crate) struct Planes<M, W> {
    /// Values of a pixel that means are made of.
    pub count: usize,
    /// Makes a run of one of these in a row, whose number it is given, from that run of each channel.
    pub make: M,
    /// For each float of a pixel, which value it is the mean of, or what it is without.
    pub sources: Vec<Result<usize, f32>>,
    /// Whether a row is wanted: those that are decoded together are clear where none of them is.
    pub is_wanted: W,
}

/// As [`read_lines`], made smaller as it is read: the mean of each block of so many by so many pixels, of the blocks that
/// are counted from the origin.
pub(crate) fn read_smaller_planes<P: Pixel>(
    path: &Path,
    part: usize,
    channels: &[usize],
    divisor: u32,
    planes: &Planes<impl Fn(i32, &[&[f32]], usize, &mut [f32]) + Sync, impl Fn(i32) -> bool + Sync>,
    cancel: &Cancel,
) -> Result<Raster<P>, MediaError> {
    guarded(path, || {
        let (chunks, meta, window) = stored(path, part)?;
        if window.y0.rem_euclid(divisor as i32) != 0 {
            // Blocks do not begin where what is stored does.
            let whole = read_smaller_planes(path, part, channels, 1, planes, cancel)?;
            return Ok(block_means(&whole, divisor, cancel)?);
        }
        let part = Part::new(path, &meta, part, window, channels, divisor as usize);
        Raster::written_apart(window.scaled_down(divisor), part.band() / divisor as usize, |bands| {
            part.fill(chunks, bands, cancel, |number, chunks, made| {
                if part.rows_of(number).any(|row| (planes.is_wanted)(window.y0 + row as i32)) {
                    Means::new(&part, number, divisor, planes.count).write(chunks, planes, made)
                } else {
                    made.fill(P::default());
                    Ok(())
                }
            })
        })
    })
}

/// Writes all pixels of a band from its chunks.
fn write_band<P: Pixel>(
    part: &Part<'_>,
    number: usize,
    chunks: Vec<Chunk>,
    pixels: &mut [P],
    write: impl Fn(i32, &[&[f32]], &mut [P]),
) -> Result<(), MediaError> {
    let (first, Window { y0, .. }) = (part.rows_of(number).start, part.window());
    let wide = part.window().width();
    part.each_run(chunks, pixels.len(), |Run { row, column, count }, lines| {
        let start = (row.checked_sub(first)? * wide).checked_add(column)?;
        write(y0 + row as i32, lines, pixels.get_mut(start..start + count)?);
        Some(())
    })
}

/// A band of a part on its way to means of blocks.
struct Means<'a> {
    part: &'a Part<'a>,
    rows: Range<usize>,
    divisor: u32,
    /// Blocks above each other that are summed at a time.
    steps: usize,
    /// For each value, and each of these, the sums down the blocks of a whole line.
    sums: Vec<Vec<f32>>,
    /// A run that is to be added.
    run: Vec<f32>,
}

impl<'a> Means<'a> {
    fn new(part: &'a Part<'a>, number: usize, divisor: u32, values: usize) -> Self {
        let wide = part.window().width();
        // Scan lines come row after row; of tiles all that are beside each other come before the next ones.
        let steps = if part.is_tiled() { part.band() / divisor as usize } else { 1 };
        Self {
            part,
            rows: part.rows_of(number),
            divisor,
            steps,
            sums: vec![vec![0.0; wide * steps]; values],
            run: vec![0.0; wide],
        }
    }

    /// Writes all means of the band.
    fn write<P: Pixel>(
        mut self,
        chunks: Vec<Chunk>,
        planes: &Planes<impl Fn(i32, &[&[f32]], usize, &mut [f32]), impl Fn(i32) -> bool>,
        made: &mut [P],
    ) -> Result<(), MediaError> {
        let (y0, wide, step) = (self.part.window().y0, self.part.window().width(), self.divisor as usize);
        let held = self.steps * step;
        self.part.each_run(chunks, self.rows.len() * wide, |Run { row, column, count }, lines| {
            let place = row.checked_sub(self.rows.start)? % held;
            let start = place / step * wide + column;
            for (plane, sums) in self.sums.iter_mut().enumerate() {
                let sums = sums.get_mut(start..start + count)?;
                if place.is_multiple_of(step) {
                    (planes.make)(y0 + row as i32, lines, plane, sums);
                } else {
                    let run = self.run.get_mut(..count)?;
                    (planes.make)(y0 + row as i32, lines, plane, run);
                    sums.iter_mut().zip(run).for_each(|(sum, value)| *sum += *value);
                }
            }
            if column + count == wide && (place + 1 == held || row + 1 == self.rows.end) {
                self.finish(row - place, place + 1, &planes.sources, made);
            }
            Some(())
        })
    }

    /// Writes the means of so many rows from one on, which are summed.
    fn finish<P: Pixel>(&self, first: usize, rows: usize, sources: &[Result<usize, f32>], made: &mut [P]) {
        let (x0, wide, step) = (self.part.window().x0, self.part.window().width(), self.divisor as usize);
        let narrow = self.part.window().scaled_down(self.divisor).width();
        let mut means = vec![vec![0.0; narrow]; self.sums.len()];
        let lines = made.chunks_mut(narrow).skip((first - self.rows.start) / step);
        for (at, line) in lines.take(rows.div_ceil(step)).enumerate() {
            let high = step.min(rows - at * step);
            for (sums, means) in self.sums.iter().zip(&mut means) {
                means_along(&sums[at * wide..(at + 1) * wide], x0, self.divisor, high, means);
            }
            let means: Vec<&[f32]> = means.iter().map(Vec::as_slice).collect();
            put_together(sources, &means, line);
        }
    }
}

/// The means of blocks from the sums of their columns of so many rows; the first of these columns is `x0`.
fn means_along(sums: &[f32], x0: i32, divisor: u32, high: usize, means: &mut [f32]) {
    let step = divisor as i32;
    if step == 1 && high == 1 {
        means.copy_from_slice(sums);
        return;
    }
    if step == 2 && x0.rem_euclid(2) == 0 {
        let share = 1.0 / (2 * high) as f32;
        let (pairs, rest) = sums.as_chunks::<2>();
        means.iter_mut().zip(pairs).for_each(|(mean, [left, right])| *mean = (left + right) * share);
        if let ([alone], Some(mean)) = (rest, means.last_mut()) {
            *mean = alone * (1.0 / high as f32);
        }
        return;
    }
    // The first block may begin before the sums do, the last may end behind them.
    let mut rest = sums;
    for (x, mean) in (x0.div_euclid(step)..).zip(means) {
        let wide = ((x + 1) * step - (x * step).max(x0)) as usize;
        let (columns, after) = rest.split_at(wide.min(rest.len()));
        *mean = columns.iter().sum::<f32>() * (1.0 / (columns.len() * high) as f32);
        rest = after;
    }
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
