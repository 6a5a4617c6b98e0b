//! The rack: tools kept, listed, put out and taken in as files.

use axum::extract::{Path, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use serde_json::value::RawValue;
use serde_json::{Value, json};
use veil_core::folds::Folds;
use veil_core::setup::{Command, StageId, Tool};
use veil_store::Store;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::Event;
use crate::frames::{png_response, small_picture};
use crate::json::Json;
use crate::setups::{ShotPath, ShotState, answer, load, load_live};

#[derive(Deserialize)]
pub(crate) struct RowsRequest {
    rows: Vec<StageId>,
}

/// What chosen rows would take from outside, by name.
pub(crate) async fn inputs(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<RowsRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let inputs = Tool::inputs_of(&shot.setup, &request.rows)?;
    Ok(Json(json!({ "inputs": inputs })))
}

#[derive(Deserialize)]
pub(crate) struct KeepRequest {
    stage: StageId,
}

/// Puts the tool of a row on the rack.
pub(crate) async fn keep(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<KeepRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load_live(&app, path).await?;
    let tool = Tool::from_row(&shot.setup, request.stage)
        .ok_or_else(|| WebError::Missing("such tool row".into()))?;
    let worker = app.clone();
    let seen = shot.clone();
    let picture = app.cpu.now(move |cancel| small_picture(&worker, &seen, request.stage, cancel)).await?;
    let store = app.store.clone();
    let (id, stage) = (shot.id, request.stage);
    let (kept, applied) = blocking(move || {
        let kept = store.keep_tool(&tool, &picture)?;
        let number = kept.tool.about.number;
        let revision = store.shot_by_id(id)?.revision;
        let applied = store.edit(id, revision, &Command::KeptAs { stage, number })?;
        Ok((kept, applied))
    })
    .await?;
    app.tell(Event::Shot { show: shot.show, code: shot.code, revision: applied.revision });
    Ok(Json(json!({ "id": kept.id, "number": kept.tool.about.number })))
}

#[derive(Deserialize)]
pub(crate) struct TakeRequest {
    stage: StageId,
    /// The tool's record on the rack.
    tool: i32,
    #[serde(default)]
    folds: Folds,
}

/// A tool's row takes another number of its tool, as one step.
pub(crate) async fn take(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<TakeRequest>,
) -> Result<Json<ShotState>, WebError> {
    let shot = load_live(&app, path).await?;
    let (store, id, base) = (app.store.clone(), shot.id, shot.revision);
    let (stage, record) = (request.stage, request.tool);
    let applied = blocking(move || Ok(store.edit(id, base, &taking(&store, stage, record)?)?)).await?;
    answer(&app, shot, base, applied, request.folds).await
}

/// The edit by which a row takes a tool of the rack.
pub(crate) fn taking(store: &Store, stage: StageId, record: i32) -> Result<Command, WebError> {
    let tool = Box::new(store.tool(record)?.tool);
    Ok(Command::TakeTool { stage, tool, scale_lengths: true })
}

pub(crate) async fn list(State(app): State<App>) -> Result<Json<Value>, WebError> {
    blocking(move || {
        let listed = app.store.tools()?.into_iter().map(
            |known| json!({ "id": known.newest.id, "tool": known.newest.tool, "numbers": known.numbers }),
        );
        Ok(Json(listed.collect()))
    })
    .await
}

/// A tool as a file to take elsewhere.
pub(crate) async fn file(State(app): State<App>, Path(id): Path<i32>) -> Result<Response, WebError> {
    let record = blocking(move || Ok(app.store.tool(id)?)).await?;
    let text =
        serde_json::to_string_pretty(&record.tool).map_err(|error| WebError::Internal(error.to_string()))?;
    let plain: String =
        record.tool.about.name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let disposition = format!("attachment; filename=\"{plain}-{}.json\"", record.tool.about.number);
    Ok((
        [(header::CONTENT_TYPE, "application/json".to_owned()), (header::CONTENT_DISPOSITION, disposition)],
        text,
    )
        .into_response())
}

/// Takes in a tool's file. It comes without a picture; the first shot that keeps it again gives it one.
pub(crate) async fn import(
    State(app): State<App>,
    Json(text): Json<Box<RawValue>>,
) -> Result<Json<Value>, WebError> {
    let tool =
        Tool::from_json(text.get()).map_err(|error| WebError::Bad(format!("this is no tool: {error}")))?;
    tool.check()?;
    let plain = veil_media::encode_png(&[31, 33, 32, 255], 1, 1)?;
    let kept = blocking(move || Ok(app.store.keep_tool(&tool, &plain)?)).await?;
    Ok(Json(json!({ "id": kept.id, "number": kept.tool.about.number })))
}

pub(crate) async fn picture(State(app): State<App>, Path(id): Path<i32>) -> Result<Response, WebError> {
    let picture = blocking(move || Ok(app.store.tool_picture(id)?)).await?;
    if !picture.starts_with(WEBP) {
        return Ok(png_response(picture));
    }
    Ok(([(header::CONTENT_TYPE, "image/webp")], picture).into_response())
}

/// What WebP files begin with, as all RIFF files do.
const WEBP: &[u8] = b"RIFF";
