//! Readers of libraries, kept from taking the program with them.

use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;

use crate::MediaError;

/// Runs a reader of a library, whose panic on a hostile file becomes an error.
pub(crate) fn guarded<T>(path: &Path, f: impl FnOnce() -> Result<T, MediaError>) -> Result<T, MediaError> {
    catch_unwind(AssertUnwindSafe(f))
        .unwrap_or_else(|_| Err(MediaError::broken(path, "the file contradicts itself")))
}
