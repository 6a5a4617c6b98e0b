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
            let made = std::fs::create_dir_all(root.join(part));
            made.map_err(|source| StoreError::ReadOnly { folder: root.display().to_string(), source })?;
        }
        Ok(Self { root: root.canonicalize()? })
    }

    /// Keeps others from using the folder, for as long as what it gives is held; the system lets go of it when the program
    /// ends, however that ends.
    pub fn lock(&self) -> Result<FolderLock, StoreError> {
        let folder = || self.root.display().to_string();
        let file = std::fs::File::options().create(true).append(true).open(self.root.join(".lock"));
        let file = file.map_err(|source| StoreError::ReadOnly { folder: folder(), source })?;
        match file.try_lock() {
            Ok(()) => Ok(FolderLock { _file: file }),
            Err(std::fs::TryLockError::WouldBlock) => Err(StoreError::InUse(folder())),
            // Some network disks know no locks; they are used without.
            Err(std::fs::TryLockError::Error(_)) => Ok(FolderLock { _file: file }),
        }
    }

    /// Removes what writers left that were ended while they wrote; nobody may be writing. Gives how many there were.
    pub fn sweep(&self) -> usize {
        ["media", "renders", "bakes"].into_iter().map(|part| swept(&self.root.join(part))).sum()
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

/// Held by the program that uses a data folder.
#[derive(Debug)]
pub struct FolderLock {
    _file: std::fs::File,
}

/// What files and folders begin with until they are whole.
const UNFINISHED: [&str; 2] = [".writing-", ".making-"];

fn swept(folder: &Path) -> usize {
    let Ok(entries) = std::fs::read_dir(folder) else { return 0 };
    let mut count = 0;
    for entry in entries.flatten() {
        let (path, name) = (entry.path(), entry.file_name());
        // Links lead to folders of others.
        let is_folder = entry.file_type().is_ok_and(|kind| kind.is_dir());
        if UNFINISHED.iter().any(|start| name.to_string_lossy().starts_with(start)) {
            let removed =
                if is_folder { std::fs::remove_dir_all(&path) } else { std::fs::remove_file(&path) };
            count += usize::from(removed.is_ok());
        } else if is_folder {
            count += swept(&path);
        }
    }
    count
}

/// Longest name.
pub(crate) const MOST_LETTERS: usize = 60;

/// Whether a text can be a folder's name and stand in an address.
pub(crate) fn check_name(name: &str) -> Result<(), StoreError> {
    let fine = |c: char| c.is_alphanumeric() || matches!(c, ' ' | '-' | '_');
    let edge = name.trim() == name && !name.is_empty() && name.chars().count() <= MOST_LETTERS;
    if edge && name.chars().all(fine) { Ok(()) } else { Err(StoreError::Name(name.into())) }
}
