//! Shows: made, renamed, and the demo show added.

use axum::extract::{Path, State};
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::setup::Working;
use veil_store::NewShow;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::Event;
use crate::json::Json;

#[derive(Deserialize)]
pub(crate) struct NewShowRequest {
    name: String,
    #[serde(default)]
    working: Working,
    #[serde(default = "usual_rate")]
    fps: f64,
    #[serde(default = "usual_size")]
    size: [u32; 2],
}

fn usual_rate() -> f64 {
    NewShow::usual("").fps
}

fn usual_size() -> [u32; 2] {
    NewShow::usual("").size
}

pub(crate) async fn make(
    State(app): State<App>,
    Json(request): Json<NewShowRequest>,
) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    let made = blocking(move || {
        let NewShowRequest { name, working, fps, size } = request;
        Ok(worker.store.make_show(&NewShow { name: name.trim(), working, fps, size })?)
    })
    .await?;
    app.tell(Event::Shows);
    Ok(Json(json!({ "name": made.name })))
}

#[derive(Deserialize)]
pub(crate) struct RenameRequest {
    name: String,
}

pub(crate) async fn rename(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<RenameRequest>,
) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    let renamed = blocking(move || {
        let show = worker.store.show(&show)?;
        Ok(worker.store.rename_show(show.id, request.name.trim())?)
    })
    .await?;
    app.tell(Event::Shows);
    Ok(Json(json!({ "name": renamed.name })))
}

/// Adds the demo show, whose footage is drawn from now on.
pub(crate) async fn add_demo(State(app): State<App>) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    blocking(move || worker.make_demo(None).map(drop).map_err(|error| WebError::Internal(error.to_string())))
        .await?;
    app.tell(Event::Shows);
    Ok(Json(json!({ "name": veil_demo::SHOW })))
}
