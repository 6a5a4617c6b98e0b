//! Clips out, through the ffmpeg program: made of rendered frames.

use std::path::Path;

use serde::{Deserialize, Serialize};
use veil_core::setup::ColourSpace;
use veil_pixels::Cancel;

use crate::MediaError;
use crate::clip::{program, run};
use crate::write::set_ordinary_rights;

/// A clip to be made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Clip {
    pub(crate) codec: ClipCodec,
    pub(crate) numbers: ClipNumbers,
}

/// Which numbers a clip holds, and says that it does.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ClipNumbers {
    /// Their curve.
    #[serde(default)]
    pub tones: ClipTones,
    /// Which of them are black and white.
    #[serde(default)]
    pub range: ClipRange,
}

/// How a clip is compressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum ClipCodec {
    /// H.264 in MP4, opaque.
    H264,
    /// VP9 in WebM, with alpha.
    Vp9,
}

/// The curve of a clip's numbers.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum ClipTones {
    /// Of BT.709, as video has it.
    #[default]
    Bt709,
    /// Of sRGB, as screens of computers have it.
    Srgb,
}

impl ClipTones {
    pub(crate) const fn colour(self) -> ColourSpace {
        match self {
            Self::Bt709 => ColourSpace::Bt709,
            Self::Srgb => ColourSpace::Srgb,
        }
    }

    /// As H.273's transfer characteristics are called.
    const fn transfer(self) -> &'static str {
        match self {
            Self::Bt709 => "bt709",
            Self::Srgb => "iec61966-2-1",
        }
    }
}

/// Which numbers stand for black and white in a clip, of 8 bits: by BT.709's table of quantisation, or all there are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum ClipRange {
    /// 16 and 235.
    #[default]
    Limited,
    /// 0 and 255.
    Full,
}

impl ClipRange {
    const fn word(self) -> &'static str {
        match self {
            Self::Limited => "tv",
            Self::Full => "pc",
        }
    }
}

impl Clip {
    /// As video has it.
    pub(crate) fn of(codec: ClipCodec) -> Self {
        Self { codec, numbers: ClipNumbers::default() }
    }
}

/// Makes a clip of frames `name.######.png` from `first` on, whose numbers are of its curve, at so many frames a second.
pub(crate) fn assemble(
    path: &Path,
    clip: Clip,
    frames: &Path,
    first: i32,
    fps: f64,
    cancel: &Cancel,
) -> Result<(), MediaError> {
    let (range, transfer) = (clip.numbers.range.word(), clip.numbers.tones.transfer());
    let mut command = program("ffmpeg");
    command.args(["-framerate", &fps.to_string(), "-start_number", &first.to_string(), "-i"]).arg(frames);
    // An even size, and what the frames say of themselves replaced by what the clip says.
    let filter = format!(
        "setparams=color_trc={transfer}:color_primaries=bt709,\
         scale=in_range=pc:out_color_matrix=bt709:out_range={range},pad=ceil(iw/2)*2:ceil(ih/2)*2"
    );
    command.args(["-vf", &filter, "-color_primaries", "bt709", "-color_trc", transfer]);
    command.args(["-colorspace", "bt709", "-color_range", range]);
    match clip.codec {
        ClipCodec::H264 => {
            command.args(["-c:v", "libx264", "-crf", "14", "-preset", "medium", "-pix_fmt", "yuv420p"]);
            command.args(["-movflags", "+faststart+write_colr", "-f", "mp4"]);
        }
        ClipCodec::Vp9 => {
            command.args(["-c:v", "libvpx-vp9", "-crf", "18", "-b:v", "0", "-row-mt", "1"]);
            command.args(["-pix_fmt", "yuva420p", "-auto-alt-ref", "0", "-f", "webm"]);
        }
    }
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let partial =
        tempfile::Builder::new().prefix(".writing-").tempfile_in(folder).map_err(MediaError::io(folder))?;
    command.arg(partial.path());
    run(path, command, cancel)?;
    set_ordinary_rights(partial.as_file()).map_err(MediaError::io(path))?;
    partial.persist(path).map_err(|error| MediaError::Io { path: path.into(), source: error.error })?;
    Ok(())
}
