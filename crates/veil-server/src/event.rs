//! What listeners are told of.

use serde::Serialize;
use veil_core::setup::StageId;
use veil_store::{Id, Progress};

/// How something that takes long goes on.
#[derive(Clone, Copy, Debug, Serialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Going {
    Running,
    Done,
    Stopped,
    Failed,
}

/// What listeners are told.
#[derive(Clone, Debug, Serialize)]
#[serde(tag = "what", rename_all = "lowercase")]
pub(crate) enum Event {
    /// A setup has a new revision.
    Shot { show: String, code: String, revision: i64 },
    /// A render went on.
    Render {
        id: Id,
        total: usize,
        /// Frames a second.
        rate: f64,
        #[serde(flatten)]
        progress: Progress,
    },
    /// Shows or shots have come, gone or been renamed.
    Shows,
    /// A row's bake went on.
    Bake {
        show: String,
        code: String,
        stage: StageId,
        going: Going,
        done: usize,
        total: usize,
        message: String,
    },
    /// Something that is followed went on.
    Track {
        show: String,
        code: String,
        name: String,
        going: Going,
        done: usize,
        total: usize,
        message: String,
    },
    /// A picture that somebody waits for went on.
    Making { show: String, code: String, going: Going, done: u32, total: u32 },
    /// So many frames of a clip that comes in are there.
    Decoding { show: String, file: String, frames: usize },
    /// The demo show's footage went on.
    Demo { code: String, done: usize, total: usize },
    /// The listener fell behind, and has not heard all.
    Missed,
    /// The server ends.
    Stopping,
}
