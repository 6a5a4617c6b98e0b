//! A file read to its end, to know that it can be.

use std::path::Path;

use veil_pixels::Cancel;

use crate::exr_read::{channel_counts, read_channels};
use crate::{MediaError, png_file};

/// Decodes every channel of a file, as reading all of it would. An error tells what is wrong, by the file's name.
pub fn read_through(path: &Path, cancel: &Cancel) -> Result<(), MediaError> {
    let is_png = path.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("png"));
    if is_png {
        return png_file::read(path).map(|_| ());
    }
    for (part, channels) in channel_counts(path)?.into_iter().enumerate() {
        read_channels(path, part, &(0..channels).collect::<Vec<_>>(), cancel)?;
    }
    Ok(())
}
