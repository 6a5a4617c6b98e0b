//! Frame files out. A file is written beside its place, synced and then renamed, so it is whole or absent.

use std::io::{BufWriter, Write};
use std::path::{Path, PathBuf};
use std::str::FromStr;

use veil_core::signal::{Pixels, Signal};
use veil_pixels::{Field, Raster, Window};

use crate::MediaError;
use crate::exr_write::{Depth, Layer, LayerChannel, write_layers};
use crate::png_file::{self, PngBits};
use crate::sequence::Pattern;

/// Where frames are written, and in which form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OutputPattern {
    pattern: Pattern,
    form: Form,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Form {
    Exr,
    Png,
}

/// Why a text names no output.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum OutputError {
    /// Frames would be written over each other.
    #[error("`{0}` has no #### for the frame number; write name.####.exr")]
    NoNumber(String),
    /// The ending is not one that is written.
    #[error("`{0}` ends neither in .exr nor in .png")]
    Ending(String),
}

impl FromStr for OutputPattern {
    type Err = OutputError;

    fn from_str(text: &str) -> Result<Self, OutputError> {
        let pattern: Pattern = text.parse().map_err(|_| OutputError::NoNumber(text.into()))?;
        if !pattern.is_sequence() {
            return Err(OutputError::NoNumber(text.into()));
        }
        let lower = text.to_lowercase();
        let form = if lower.ends_with(".exr") {
            Form::Exr
        } else if lower.ends_with(".png") {
            Form::Png
        } else {
            return Err(OutputError::Ending(text.into()));
        };
        Ok(Self { pattern, form })
    }
}

impl OutputPattern {
    /// The file of a frame.
    pub fn file(&self, frame: i32) -> PathBuf {
        PathBuf::from(self.pattern.file(frame))
    }
}

/// Writes a file whole or not at all. Missing folders are made.
pub fn write_whole(
    path: &Path,
    write: impl FnOnce(&mut BufWriter<&std::fs::File>) -> Result<(), MediaError>,
) -> Result<(), MediaError> {
    let io = |source| MediaError::Io { path: path.into(), source };
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder).map_err(io)?;
    let file = tempfile::Builder::new().prefix(".writing-").tempfile_in(folder).map_err(io)?;
    {
        let mut buffered = BufWriter::with_capacity(1 << 18, file.as_file());
        write(&mut buffered)?;
        buffered.flush().map_err(io)?;
    }
    file.as_file().sync_all().map_err(io)?;
    set_ordinary_rights(file.as_file()).map_err(io)?;
    file.persist(path).map_err(|error| io(error.error))?;
    Ok(())
}

/// Temporary files are private; a frame is for others, too.
fn set_ordinary_rights(file: &std::fs::File) -> std::io::Result<()> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        file.set_permissions(std::fs::Permissions::from_mode(0o644))?;
    }
    #[cfg(not(unix))]
    let _ = file;
    Ok(())
}

/// Writes one frame: EXR with the signal's windows, pictures as half and fields and maps as float; PNG with
/// the display window, sixteen bits, sRGB.
pub fn write_frame(output: &OutputPattern, frame: i32, signal: &Signal) -> Result<PathBuf, MediaError> {
    let path = output.file(frame);
    write_whole(&path, |out| match output.form {
        Form::Exr => {
            let data = signal.domain.data;
            let layer = layer(&signal.over(data), data);
            write_layers(&path, signal.domain.display, vec![layer], out)
        }
        Form::Png => {
            let window = signal.domain.display;
            png_file::write(&path, &as_picture(&signal.over(window), window), PngBits::Sixteen, out)
        }
    })?;
    Ok(path)
}

fn layer(pixels: &Pixels, data: Window) -> Layer {
    let channel = |name: &str, depth: Depth, values: Vec<f32>| LayerChannel {
        name: name.into(),
        depth,
        values: Raster::from_pixels(data, values).unwrap_or_else(|| Field::clear(Window::EMPTY)),
    };
    let channels = match pixels {
        Pixels::Picture(raster) => ["R", "G", "B", "A"]
            .into_iter()
            .enumerate()
            .map(|(index, name)| {
                channel(name, Depth::Half, raster.pixels().iter().map(|pixel| pixel[index]).collect())
            })
            .collect(),
        Pixels::Field(raster) => vec![channel("Y", Depth::Float, raster.pixels().to_vec())],
        Pixels::Map(raster) => ["X", "Y"]
            .into_iter()
            .enumerate()
            .map(|(index, name)| {
                channel(name, Depth::Float, raster.pixels().iter().map(|m| m[index]).collect())
            })
            .collect(),
    };
    Layer { name: String::new(), data, channels, texts: Vec::new() }
}

/// Fields as grey, maps as x in red and y in green.
fn as_picture(pixels: &Pixels, window: Window) -> veil_pixels::Picture {
    let made = match pixels {
        Pixels::Picture(raster) => return raster.clone(),
        Pixels::Field(raster) => raster.pixels().iter().map(|v| [*v, *v, *v, 1.0]).collect(),
        Pixels::Map(raster) => raster.pixels().iter().map(|m| [m[0], m[1], 0.0, 1.0]).collect(),
    };
    Raster::from_pixels(window, made).unwrap_or_else(|| Raster::clear(window))
}
