//! The motion between two frames of raw floats, for `bench/flow.py`, which knows what it is to be.

use std::fs;
use std::path::Path;

use serde_json::json;
use veil_media::MediaError;
use veil_pixels::flow::{Fineness, flow};
use veil_pixels::{Cancel, Field, Raster, Window};

use crate::Done;
use crate::error::ProgramError;
use crate::out::say;
use crate::timed::{HEIGHT, WIDTH, median};

/// Finds the motion from `from` to `to` in a folder, writes it as `moves` and says how long it took.
pub(crate) fn motion(folder: &Path, times: usize) -> Done {
    let (from, to) = (frame(&folder.join("from"))?, frame(&folder.join("to"))?);
    // The first one takes its memory from the system.
    let mut moves = flow(&from, &to, Fineness::Fine, &Cancel::new()).ok();
    let ms = median(times, &mut || moves = flow(&from, &to, Fineness::Fine, &Cancel::new()).ok());
    let moves = moves.ok_or_else(|| ProgramError::Bad("was called off".into()))?;
    let bytes: Vec<u8> = moves.pixels().as_flattened().iter().flat_map(|float| float.to_le_bytes()).collect();
    let file = folder.join("moves");
    fs::write(&file, bytes).map_err(|source| MediaError::Io { path: file, source })?;
    say!("{:#}", json!({ "ms": ms }));
    Ok(())
}

/// Levels of 256, from raw floats of the bench's size.
fn frame(file: &Path) -> Result<Field, ProgramError> {
    let bytes = fs::read(file).map_err(|source| MediaError::Io { path: file.into(), source })?;
    let floats = bytes.as_chunks::<4>().0.iter().map(|float| f32::from_le_bytes(*float)).collect();
    let of_size = Raster::from_pixels(Window::sized(WIDTH, HEIGHT), floats);
    of_size
        .ok_or_else(|| ProgramError::Bad(format!("{} does not hold {WIDTH}x{HEIGHT} floats", file.display())))
}
