//! What the program can fail with.

use std::path::{Path, PathBuf};

/// An error to print, with the file at fault.
#[derive(Debug, thiserror::Error)]
pub(crate) enum ProgramError {
    #[error("`{}`: {source}", .path.display())]
    Io { path: PathBuf, source: std::io::Error },
    #[error("`{}` is neither a setup nor a tool: {why}", .path.display())]
    NoDocument { path: PathBuf, why: String },
    #[error("`{}`: {source}", .path.display())]
    Setup { path: PathBuf, source: veil_core::setup::SetupError },
    #[error("`{}`: {source}", .path.display())]
    Tool { path: PathBuf, source: veil_core::setup::ToolError },
    #[error(transparent)]
    Media(#[from] veil_media::MediaError),
    #[error(transparent)]
    Output(#[from] veil_media::OutputError),
    #[error(transparent)]
    Serve(#[from] veil_server::ServeError),
    #[error(transparent)]
    Store(#[from] veil_store::StoreError),
    #[error("{0}")]
    Bad(String),
    #[error("{count} of {total} frames could not be rendered")]
    Frames { count: usize, total: usize },
}

impl ProgramError {
    pub(crate) fn io(path: &Path) -> impl FnOnce(std::io::Error) -> Self + '_ {
        move |source| Self::Io { path: path.into(), source }
    }
}
