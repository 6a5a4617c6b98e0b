//! Live progress, as server-sent events.

use std::convert::Infallible;

use axum::extract::State;
use axum::response::Sse;
use axum::response::sse::{Event as Sent, KeepAlive};
use futures_util::{Stream, StreamExt};
use serde::Serialize;
use tokio_stream::wrappers::BroadcastStream;
use veil_core::setup::StageId;
use veil_store::{Id, Progress};

use crate::App;
use crate::bakes::Going;

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
    /// So many frames of a clip that comes in are there.
    Decoding { show: String, file: String, frames: usize },
    /// The demo show's footage went on.
    Demo { code: String, done: usize, total: usize },
    /// The listener fell behind, and has not heard all.
    Missed,
    /// The server ends.
    Stopping,
}

pub(crate) async fn stream(State(app): State<App>) -> Sse<impl Stream<Item = Result<Sent, Infallible>>> {
    let events = BroadcastStream::new(app.events.subscribe())
        .take_while(|event| std::future::ready(!matches!(event, Ok(Event::Stopping))))
        .map(|event| event.unwrap_or(Event::Missed))
        .filter_map(|event| std::future::ready(Sent::default().json_data(event).ok()))
        .map(Ok);
    Sse::new(events).keep_alive(KeepAlive::default())
}
