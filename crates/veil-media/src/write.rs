//! Frame files out. A file is written beside its place, synced and then renamed, so it is whole or absent.

use std::io::{BufWriter, Seek, Write};
use std::path::{Path, PathBuf};
use std::str::FromStr;

use veil_core::setup::{ColourSpace, Frames, PictureFormat, Working};
use veil_core::signal::{Pixels, Signal};
use veil_pixels::{Cancel, Cancelled, Field, Raster, Window};

use crate::MediaError;
use crate::clip_write::{Clip, ClipCodec, ClipNumbers, assemble};
use crate::exr_head::{TIME_CODE, time_of, time_of_frame};
use crate::exr_write::{About, Depth, Layer, LayerChannel, write_layers};
use crate::form::StillForm;
use crate::sequence::Pattern;
use crate::still_write::write_still;

/// Where frames are written, and in which form.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct OutputPattern {
    pattern: Pattern,
    form: Form,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Form {
    Exr,
    Png(Bits),
    Tiff(Bits),
    Jpeg,
    Hdr,
    Clip(Clip),
}

/// Bits of a channel, where a form leaves the choice.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bits {
    /// Whole numbers, sRGB.
    Eight,
    /// Whole numbers, sRGB.
    Sixteen,
    /// Floats, scene-linear.
    Float,
}

/// Why a text names no output.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum OutputError {
    /// Frames would be written over each other.
    #[error("`{0}` has no #### for the frame number; write name.####.exr")]
    NoNumber(String),
    /// A clip is one file.
    #[error("`{0}` is a clip, which holds all of its frames; write name.mp4")]
    Number(String),
    /// The ending is not one that is written.
    #[error("`{0}` ends in none of .exr, .png, .tif, .jpg, .hdr, .mp4 and .webm")]
    Ending(String),
    /// Only clips have a choice of tones and range.
    #[error("`{0}` is no clip, whose tones and range could be chosen")]
    NoClip(String),
    /// The form cannot hold that many bits.
    #[error("`{0}` cannot hold so many bits: PNG holds 8 or 16, TIFF 8, 16 or 32")]
    Bits(String),
}

impl FromStr for OutputPattern {
    type Err = OutputError;

    fn from_str(text: &str) -> Result<Self, OutputError> {
        let pattern: Pattern = text.parse().map_err(|_| OutputError::NoNumber(text.into()))?;
        let ending = text.rsplit_once('.').map(|(_, ending)| ending.to_lowercase()).unwrap_or_default();
        let form = match ending.as_str() {
            "exr" => Form::Exr,
            "png" => Form::Png(Bits::Sixteen),
            "tif" | "tiff" => Form::Tiff(Bits::Float),
            "jpg" | "jpeg" => Form::Jpeg,
            "hdr" => Form::Hdr,
            "mp4" => Form::Clip(Clip::of(ClipCodec::H264)),
            "webm" => Form::Clip(Clip::of(ClipCodec::Vp9)),
            _ => return Err(OutputError::Ending(text.into())),
        };
        match (form, pattern.is_sequence()) {
            (Form::Clip(_), true) => Err(OutputError::Number(text.into())),
            (Form::Clip(_), false) | (_, true) => Ok(Self { pattern, form }),
            (_, false) => Err(OutputError::NoNumber(text.into())),
        }
    }
}

impl OutputPattern {
    /// The same with another number of bits.
    pub fn with_bits(self, bits: Bits) -> Result<Self, OutputError> {
        let form = match (self.form, bits) {
            (Form::Png(_), Bits::Eight | Bits::Sixteen) => Form::Png(bits),
            (Form::Tiff(_), _) => Form::Tiff(bits),
            _ => return Err(OutputError::Bits(self.pattern.to_string())),
        };
        Ok(Self { form, ..self })
    }

    /// The same with other numbers in a clip.
    pub fn with_numbers(self, numbers: ClipNumbers) -> Result<Self, OutputError> {
        match self.form {
            Form::Clip(clip) => Ok(Self { form: Form::Clip(Clip { numbers, ..clip }), ..self }),
            _ => Err(OutputError::NoClip(self.pattern.to_string())),
        }
    }

    /// The file of a frame; of a clip, the frame's own file until the clip is made.
    pub fn file(&self, frame: i32) -> PathBuf {
        match self.form {
            Form::Clip(_) => self.frames_folder().join(format!("frame.{frame:06}.png")),
            _ => PathBuf::from(self.pattern.file(frame)),
        }
    }

    /// What numbers in the files stand for, when pictures are of a working space.
    pub fn colour(&self, working: Working) -> ColourSpace {
        match (self.form, working) {
            (Form::Png(_) | Form::Jpeg | Form::Tiff(Bits::Eight | Bits::Sixteen), _) => ColourSpace::Srgb,
            (Form::Clip(clip), _) => clip.numbers.tones.colour(),
            (_, Working::Bt709) => ColourSpace::Linear,
            (_, Working::AcesCg) => ColourSpace::AcesCg,
        }
    }

    /// The one file that all frames end in; none where each has its own.
    pub fn clip(&self) -> Option<PathBuf> {
        matches!(self.form, Form::Clip(_)).then(|| PathBuf::from(self.pattern.file(0)))
    }

    fn frames_folder(&self) -> PathBuf {
        PathBuf::from(format!("{}.frames", self.pattern.file(0)))
    }

    /// Makes the clip of its frames, which go; nothing to do for other forms.
    pub fn finish(&self, frames: Frames, fps: f64, cancel: &Cancel) -> Result<(), MediaError> {
        let Form::Clip(clip) = self.form else { return Ok(()) };
        let (path, folder) = (PathBuf::from(self.pattern.file(0)), self.frames_folder());
        assemble(&path, clip, &folder.join("frame.%06d.png"), frames.first, fps, cancel)?;
        std::fs::remove_dir_all(&folder).map_err(MediaError::io(&folder))
    }
}

/// Writes a file whole or not at all. Missing folders are made.
pub fn write_whole<T>(
    path: &Path,
    write: impl FnOnce(&mut BufWriter<&std::fs::File>) -> Result<T, MediaError>,
) -> Result<T, MediaError> {
    let io = |source| MediaError::Io { path: path.into(), source };
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder).map_err(io)?;
    let file = tempfile::Builder::new().prefix(".writing-").tempfile_in(folder).map_err(io)?;
    let written = {
        let mut buffered = BufWriter::with_capacity(1 << 18, file.as_file());
        let written = write(&mut buffered)?;
        buffered.flush().map_err(io)?;
        written
    };
    file.as_file().sync_all().map_err(io)?;
    set_ordinary_rights(file.as_file()).map_err(io)?;
    file.persist(path).map_err(|error| io(error.error))?;
    Ok(written)
}

/// Temporary files are private; a frame is for others, too.
pub(crate) fn set_ordinary_rights(file: &std::fs::File) -> std::io::Result<()> {
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        file.set_permissions(std::fs::Permissions::from_mode(0o644))?;
    }
    #[cfg(not(unix))]
    let _ = file;
    Ok(())
}

/// A frame that was written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Written {
    /// Its file; of a clip, the frame's own until the clip is made.
    pub file: PathBuf,
    /// How many values were beyond what the file holds, where that is more than white.
    pub beyond: usize,
}

/// Writes one frame of a shot's pictures. An EXR has the signal's windows, pictures as half and fields and maps as float,
/// the shot's rate and pixels and `words` in its header; other forms have the display window.
pub fn write_frame(
    output: &OutputPattern,
    frame: i32,
    signal: &Signal,
    shot: &PictureFormat,
    words: &[(String, String)],
) -> Result<Written, MediaError> {
    let (path, working) = (output.file(frame), shot.working);
    let beyond = write_whole(&path, |out| {
        if output.form == Form::Exr {
            return write_exr(&path, frame, signal, shot, words, out);
        }
        let window = signal.domain.display;
        let picture = as_picture(&signal.over(window), window);
        let (from, to) = (working.space(), output.colour(working).space());
        let picture =
            from.converted(to, &picture, &Cancel::new()).map_err(|_: Cancelled| MediaError::Cancelled)?;
        match output.form {
            Form::Exr | Form::Clip(_) => write_still(&path, &picture, StillForm::Png, Bits::Sixteen, out),
            Form::Png(bits) => write_still(&path, &picture, StillForm::Png, bits, out),
            Form::Tiff(bits) => write_still(&path, &picture, StillForm::Tiff, bits, out),
            Form::Jpeg => write_still(&path, &picture, StillForm::Jpeg, Bits::Eight, out),
            Form::Hdr => write_still(&path, &picture, StillForm::Hdr, Bits::Float, out),
        }
        .map(|()| 0)
    })?;
    Ok(Written { file: path, beyond })
}

fn write_exr(
    path: &Path,
    frame: i32,
    signal: &Signal,
    shot: &PictureFormat,
    words: &[(String, String)],
    out: impl Write + Seek,
) -> Result<usize, MediaError> {
    let data = signal.domain.data;
    let mut layer = layer_of("", &signal.over(data), data, Depth::Half);
    let is_time = |(name, _): &&(String, String)| name == TIME_CODE;
    let time_code = words.iter().find(is_time).and_then(|(_, said)| time_of(said));
    layer.texts = words.iter().filter(|word| !is_time(word)).cloned().collect();
    let about = About {
        display: signal.domain.display,
        colours: shot.working.primaries(),
        aspect: shot.aspect,
        fps: Some(shot.fps),
        time_code: time_code.or_else(|| time_of_frame(frame, shot.fps)),
    };
    write_layers(path, about, vec![layer], out)
}

/// A layer of pixels; those of a picture are kept as `depth` says, of a field or map as float.
pub(crate) fn layer_of(name: &str, pixels: &Pixels, data: Window, depth: Depth) -> Layer {
    fn plane<P>(pixels: &[P], data: Window, of: impl Fn(&P) -> f32) -> Field {
        Raster::from_pixels(data, pixels.iter().map(of).collect())
            .unwrap_or_else(|| Field::clear(Window::EMPTY))
    }
    let channel = |name: &str, depth: Depth, values: Field| LayerChannel { name: name.into(), depth, values };
    let channels = match pixels {
        Pixels::Picture(raster) => ["R", "G", "B", "A"]
            .into_iter()
            .enumerate()
            .map(|(index, name)| channel(name, depth, plane(raster.pixels(), data, |pixel| pixel[index])))
            .collect(),
        Pixels::Field(raster) => vec![channel("Y", Depth::Float, raster.clone())],
        Pixels::Map(raster) => ["X", "Y"]
            .into_iter()
            .enumerate()
            .map(|(index, name)| channel(name, Depth::Float, plane(raster.pixels(), data, |m| m[index])))
            .collect(),
    };
    Layer { name: name.into(), data, channels, texts: Vec::new() }
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
