//! Folders elsewhere that the program was started with.

use std::io::ErrorKind;
use std::path::{Path, PathBuf};

use crate::error::ServeError;

/// A folder elsewhere that footage may be used from, with all below it.
#[derive(Clone, Debug)]
pub(crate) struct Outside(PathBuf);

impl Outside {
    /// As it is given; it must be there.
    pub(crate) fn of(folder: &Path) -> Result<Self, ServeError> {
        let failed = |source| ServeError::Media { folder: folder.display().to_string(), source };
        let found = folder.canonicalize().map_err(failed)?;
        if !found.is_dir() {
            return Err(failed(ErrorKind::NotADirectory.into()));
        }
        Ok(Self(found))
    }

    /// Whether a folder, as it really is, is this one or below it.
    pub(crate) fn holds(&self, real: &Path) -> bool {
        real.starts_with(&self.0)
    }

    /// As it really is.
    pub(crate) fn path(&self) -> &Path {
        &self.0
    }
}
