//! What can be wrong with a file.

use std::path::{Path, PathBuf};

use crate::form::Form;

/// A file that gives no pixels, named.
#[derive(Debug, thiserror::Error)]
pub enum MediaError {
    /// It cannot be read at all.
    #[error("`{}` cannot be read: {source}", .path.display())]
    Io {
        /// The file.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// Its contents are damaged or no picture.
    #[error("`{}` is damaged or no picture: {why}", .path.display())]
    Broken {
        /// The file.
        path: PathBuf,
        /// What the reader said.
        why: String,
    },
    /// It is a picture of a form that is not read here.
    #[error("`{}` is not supported: {why}", .path.display())]
    Unsupported {
        /// The file.
        path: PathBuf,
        /// Which form.
        why: String,
    },
    /// It is larger than is read.
    #[error("`{}` is {width}x{height}; pictures up to {LARGEST_SIDE} a side and 1 GiB decoded are read", .path.display())]
    TooLarge {
        /// The file.
        path: PathBuf,
        /// Columns.
        width: usize,
        /// Rows.
        height: usize,
    },
    /// It lacks what is asked for.
    #[error("`{}` has no {what}", .path.display())]
    Missing {
        /// The file.
        path: PathBuf,
        /// What is missing.
        what: String,
    },
    /// The path leads out of the folder.
    #[error("the path `{0}` leads out of the show's folder")]
    Outside(String),
    /// A program that it needs is not installed.
    #[error("`{}` needs the program {program}, which is not installed here; on Debian: apt-get install ffmpeg", .path.display())]
    NoProgram {
        /// The file.
        path: PathBuf,
        /// The program.
        program: String,
    },
    /// The work was given up.
    #[error("cancelled")]
    Cancelled,
}

impl From<veil_pixels::Cancelled> for MediaError {
    fn from(_: veil_pixels::Cancelled) -> Self {
        Self::Cancelled
    }
}

/// Largest side of a picture.
pub(crate) const LARGEST_SIDE: usize = 32_768;
/// Most bytes that a picture may take when it is decoded.
pub(crate) const LARGEST_BYTES: usize = 1 << 30;

impl MediaError {
    /// The same, with the file named as it is called below a folder: where that is, is nobody's business who reads this.
    pub fn below(mut self, folder: &Path) -> Self {
        if let Self::Io { path, .. }
        | Self::Broken { path, .. }
        | Self::Unsupported { path, .. }
        | Self::TooLarge { path, .. }
        | Self::Missing { path, .. }
        | Self::NoProgram { path, .. } = &mut self
            && let Ok(short) = path.strip_prefix(folder)
        {
            *path = short.to_owned();
        }
        self
    }

    pub(crate) fn io(path: &Path) -> impl FnOnce(std::io::Error) -> Self + '_ {
        move |source| Self::Io { path: path.into(), source }
    }

    /// A file whose ending says nothing.
    pub(crate) fn unknown(path: &Path) -> Self {
        Self::Unsupported {
            path: path.into(),
            why: format!("files are read that end in {}", Form::endings()),
        }
    }

    pub(crate) fn broken(path: &Path, why: impl std::fmt::Display) -> Self {
        Self::Broken { path: path.into(), why: why.to_string() }
    }

    pub(crate) fn exr(path: &Path, error: exr::error::Error) -> Self {
        match error {
            exr::error::Error::Io(source) if source.kind() != std::io::ErrorKind::UnexpectedEof => {
                Self::Io { path: path.into(), source }
            }
            exr::error::Error::NotSupported(why) => Self::Unsupported { path: path.into(), why: why.into() },
            exr::error::Error::Aborted => Self::Cancelled,
            other => Self::broken(path, other),
        }
    }

    /// `Err` when a picture of this size is larger than is read.
    pub(crate) fn check_size(
        path: &Path,
        width: usize,
        height: usize,
        bytes_a_pixel: usize,
    ) -> Result<(), Self> {
        let bytes = width.saturating_mul(height).saturating_mul(bytes_a_pixel);
        if width > LARGEST_SIDE || height > LARGEST_SIDE || bytes > LARGEST_BYTES {
            return Err(Self::TooLarge { path: path.into(), width, height });
        }
        Ok(())
    }
}
