//! Live progress, as server-sent events.

use std::convert::Infallible;

use axum::extract::State;
use axum::response::Sse;
use axum::response::sse::{Event as Sent, KeepAlive};
use futures_util::{Stream, StreamExt};
use tokio_stream::wrappers::BroadcastStream;

use crate::App;
use crate::event::Event;

pub(crate) async fn stream(State(app): State<App>) -> Sse<impl Stream<Item = Result<Sent, Infallible>>> {
    let events = BroadcastStream::new(app.events.subscribe())
        .take_while(|event| std::future::ready(!matches!(event, Ok(Event::Stopping))))
        .map(|event| event.unwrap_or(Event::Missed))
        .filter_map(|event| std::future::ready(Sent::default().json_data(event).ok()))
        .map(Ok);
    Sse::new(events).keep_alive(KeepAlive::default())
}
