//! What can go wrong with what is kept.

use veil_core::setup::{ChangeError, CommandError};

use crate::folder::MOST_LETTERS;

/// Why the store gives nothing, or kept nothing.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// Something that is named is not there.
    #[error("there is no {0}")]
    Missing(String),
    /// Another program uses the data folder.
    #[error(
        "the data folder `{0}` is used by another brazen-veil; end that one, or give this one another folder with --data"
    )]
    InUse(String),
    /// The data folder cannot be written to.
    #[error("the data folder `{folder}` cannot be written to: {source}")]
    ReadOnly {
        /// Where.
        folder: String,
        /// Why.
        source: std::io::Error,
    },
    /// A name is taken.
    #[error("{0} is there already")]
    Taken(String),
    /// A name that could not be a folder or stand in an address.
    #[error("`{}` cannot be a name; use 1 to {MOST_LETTERS} letters, digits, spaces, - and _", shortened(.0))]
    Name(String),
    /// A number that is none of those that are meant.
    #[error("{0}")]
    Value(String),
    /// What the program brought along stays.
    #[error("`{0}` comes with the program and stays on the rack")]
    Shipped(String),
    /// The command does not fit the setup.
    #[error(transparent)]
    Command(#[from] CommandError),
    /// A kept edit no longer fits.
    #[error("the history no longer fits the setup: {0}")]
    History(#[from] ChangeError),
    /// Somebody else changed the same thing a moment ago.
    #[error("refused: `{0}` was done in another window a moment ago, where this would change the same")]
    Collision(String),
    /// There is nothing to undo or redo.
    #[error("there is nothing to {0}")]
    NothingTo(&'static str),
    /// A kept document cannot be read.
    #[error("a kept document cannot be read: {0}")]
    Document(#[from] serde_json::Error),
    /// The database failed.
    #[error("the database failed: {0}")]
    Database(#[from] diesel::result::Error),
    /// The database could not be opened.
    #[error("the database could not be opened: {0}")]
    Pool(#[from] diesel::r2d2::PoolError),
    /// The database could not be brought up to date.
    #[error("the database could not be brought up to date: {0}")]
    Migration(Box<dyn std::error::Error + Send + Sync>),
    /// The data folder failed.
    #[error("the data folder failed: {0}")]
    Folder(#[from] std::io::Error),
}

/// As much of a name as a sentence can hold.
fn shortened(name: &str) -> String {
    let start: String = name.chars().take(MOST_LETTERS).collect();
    if start.len() < name.len() { format!("{start}…") } else { start }
}
