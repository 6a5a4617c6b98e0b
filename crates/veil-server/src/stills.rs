//! Kept stills: pictures to look back at and return to.

use axum::extract::{Path, State};
use serde::Deserialize;
use veil_core::setup::{Command, Earlier, FrameNumber, StageId};
use veil_store::StillRecord;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::json::Json;
use crate::setups::{ShotPath, ShotState, StepRequest, answer, load, load_live};

pub(crate) async fn list(State(app): State<App>, path: ShotPath) -> Result<Json<Vec<StillRecord>>, WebError> {
    let shot = load(&app, path).await?;
    let store = app.store.clone();
    blocking(move || Ok(Json(store.stills(shot.id)?))).await
}

#[derive(Deserialize)]
pub(crate) struct KeepRequest {
    stage: StageId,
    frame: FrameNumber,
}

pub(crate) async fn keep(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<KeepRequest>,
) -> Result<Json<StillRecord>, WebError> {
    let shot = load_live(&app, path).await?;
    let store = app.store.clone();
    blocking(move || Ok(Json(store.keep_still(&shot, request.stage, request.frame.get())?))).await
}

pub(crate) async fn leave(
    State(app): State<App>,
    Path((show, code, number)): Path<(String, String, i32)>,
) -> Result<Json<Vec<StillRecord>>, WebError> {
    let shot = load_live(&app, Path((show, code))).await?;
    let store = app.store.clone();
    blocking(move || {
        store.drop_still(shot.id, number)?;
        Ok(Json(store.stills(shot.id)?))
    })
    .await
}

/// The setup that a still is of becomes the live one, as one step.
pub(crate) async fn return_to(
    State(app): State<App>,
    Path((show, code, number)): Path<(String, String, i32)>,
    Json(request): Json<StepRequest>,
) -> Result<Json<ShotState>, WebError> {
    let shot = load_live(&app, Path((show, code))).await?;
    let (store, id, base) = (app.store.clone(), shot.id, request.base);
    let applied = blocking(move || {
        let setup = Box::new(store.still(id, number)?.1);
        Ok(store.edit(id, base, &Command::GoOnFrom { setup, once: Earlier::Still(number) })?)
    })
    .await?;
    answer(&app, shot, base, applied, request.folds).await
}
