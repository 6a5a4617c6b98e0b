//! The data folder.

use std::path::{Path, PathBuf};

use crate::StoreError;

/// `veil.db`, `media/`, `renders/`, `bakes/`, `incoming/`.
#[derive(Clone, Debug)]
pub struct DataFolder {
    root: PathBuf,
}

impl DataFolder {
    /// Uses a folder, which is made where it is missing.
    pub fn at(root: impl Into<PathBuf>) -> Result<Self, StoreError> {
        let root: PathBuf = root.into();
        for part in ["media", "renders", "bakes", "incoming"] {
            std::fs::create_dir_all(root.join(part))?;
        }
        Ok(Self { root: root.canonicalize()? })
    }

    /// The database.
    pub fn database(&self) -> PathBuf {
        self.root.join("veil.db")
    }

    /// The folder of a show's media.
    pub fn show(&self, folder: &str) -> PathBuf {
        self.root.join("media").join(folder)
    }

    /// Where renders go.
    pub fn renders(&self) -> PathBuf {
        self.root.join("renders")
    }

    /// Where files are that have not wholly arrived.
    pub fn incoming(&self) -> PathBuf {
        self.root.join("incoming")
    }

    /// Where bakes are.
    pub fn bakes(&self) -> PathBuf {
        self.root.join("bakes")
    }

    /// The folder itself.
    pub fn root(&self) -> &Path {
        &self.root
    }
}

/// Longest name.
pub(crate) const MOST_LETTERS: usize = 60;

/// Whether a text can be a folder's name and stand in an address.
pub(crate) fn check_name(name: &str) -> Result<(), StoreError> {
    let fine = |c: char| c.is_alphanumeric() || matches!(c, ' ' | '-' | '_');
    let edge = name.trim() == name && !name.is_empty() && name.chars().count() <= MOST_LETTERS;
    if edge && name.chars().all(fine) { Ok(()) } else { Err(StoreError::Name(name.into())) }
}
