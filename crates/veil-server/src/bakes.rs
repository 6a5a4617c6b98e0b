//! Bakes: made in the background, stopped, and how much of them still fits. And what each row costs.

use axum::extract::{Query, State};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use veil_core::bakes::BakeState;
use veil_core::engine::{EngineError, OnFault, Request, Spent};
use veil_core::setup::{Command, Frames, StageId};
use veil_pixels::Cancel;
use veil_store::ShotRecord;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::{Event, Going};
use crate::json::Json;
use crate::setups::{ShotPath, load, load_live};

/// Most bytes held while it is measured what rows cost.
const MEASURING_BYTES: u64 = 512 << 20;

#[derive(Deserialize)]
pub(crate) struct BakeRequest {
    stage: StageId,
    /// The whole range where it is not said.
    frames: Option<Frames>,
}

/// Starts to bake a row.
pub(crate) async fn start(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<BakeRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load_live(&app, path).await?;
    let row = shot.setup.stage(request.stage).ok_or_else(|| WebError::Missing("such row".into()))?;
    let (frames, name) = (request.frames.unwrap_or(shot.setup.picture.frames), row.name.clone());
    let cancel = Cancel::new();
    let key = (shot.id, request.stage);
    if app.baking().contains_key(&key) {
        return Err(WebError::Bad(format!("`{name}` is being baked already")));
    }
    app.baking().insert(key, cancel.clone());
    let worker = app.clone();
    tokio::spawn(async move {
        let baker = worker.clone();
        let (stage, total) = (request.stage, frames.count());
        let (show, code) = (shot.show.clone(), shot.code.clone());
        let done = blocking(move || make(&baker, &shot, request.stage, frames, &cancel)).await;
        worker.baking().remove(&key);
        if let Err(error) = done {
            tracing::error!(%error, "a bake stopped");
            let (going, message) = (Going::Failed, error.to_string());
            worker.tell(Event::Bake { show, code, stage, going, done: 0, total, message });
        }
    });
    Ok(Json(json!({ "frames": frames })))
}

pub(crate) async fn stop(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<BakeRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    if let Some(cancel) = app.baking().get(&(shot.id, request.stage)) {
        cancel.set();
    }
    Ok(Json(json!({})))
}

fn make(
    app: &App,
    shot: &ShotRecord,
    stage: StageId,
    frames: Frames,
    cancel: &Cancel,
) -> Result<(), WebError> {
    let plates = app.plates(&shot.folder)?;
    let tell = |going: Going, done: usize, message: String| {
        let (show, code) = (shot.show.clone(), shot.code.clone());
        app.tell(Event::Bake { show, code, stage, going, done, total: frames.count(), message });
    };
    for (done, frame) in (frames.first..=frames.last).enumerate() {
        tell(Going::Running, done, String::new());
        let made = app.cpu.rest().install(|| app.engine.bake(&shot.setup, &*plates, stage, frame, cancel));
        match made {
            Ok(()) => {}
            Err(EngineError::Cancelled) => {
                tell(Going::Stopped, done, String::new());
                return Ok(());
            }
            Err(error) => {
                tell(Going::Failed, done, format!("frame {frame}: {error}"));
                return Ok(());
            }
        }
    }
    // What the row became meanwhile decides whether the bake fits; the mark is set all the same.
    let now = app.store.shot(&shot.show, &shot.code)?;
    let marked = app.store.edit(now.id, now.revision, &Command::Bake { stage, frames: Some(frames) })?;
    let (show, code) = (shot.show.clone(), shot.code.clone());
    app.tell(Event::Shot { show, code, revision: marked.revision });
    tell(Going::Done, frames.count(), String::new());
    Ok(())
}

#[derive(Serialize)]
pub(crate) struct RowBake {
    stage: StageId,
    #[serde(flatten)]
    state: BakeState,
}

/// Every row's bake, and how much of it still fits.
pub(crate) async fn states(State(app): State<App>, path: ShotPath) -> Result<Json<Vec<RowBake>>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |_| {
            let plates = worker.plates(&shot.folder)?;
            let baked = shot.setup.stages.iter().filter(|row| row.bake.is_some());
            let state = |stage: StageId| worker.engine.bake_state(&shot.setup, &*plates, stage);
            let rows = baked.filter_map(|row| Some(RowBake { stage: row.id, state: state(row.id)? }));
            Ok(Json(rows.collect()))
        })
        .await
}

#[derive(Deserialize)]
pub(crate) struct CostQuery {
    stage: u32,
    frame: i32,
    /// Over the whole range, not at this frame alone.
    #[serde(default)]
    range: bool,
}

/// Milliseconds of each row that a row needs, worked out with nothing held; over the range, the mean of its frames.
pub(crate) async fn costs(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<CostQuery>,
) -> Result<Json<Vec<Spent>>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let plates = worker.plates(&shot.folder)?;
            let engine = worker.engine.afresh(MEASURING_BYTES);
            let range = shot.setup.picture.frames;
            let frames = if query.range { range } else { Frames { first: query.frame, last: query.frame } };
            let mut spent: Vec<Spent> = Vec::new();
            for frame in frames.first..=frames.last {
                let whole = Request::whole(StageId(query.stage), f64::from(frame));
                let request = Request { on_fault: OnFault::Bypass, ..whole };
                for row in engine.answer(&shot.setup, &*plates, request, cancel)?.spent {
                    match spent.iter_mut().find(|known| known.stage == row.stage) {
                        Some(known) => {
                            known.ms += row.ms;
                            known.pixels += row.pixels;
                        }
                        None => spent.push(row),
                    }
                }
            }
            for row in &mut spent {
                row.ms /= frames.count() as f64;
                row.pixels /= frames.count();
            }
            Ok(Json(spent))
        })
        .await
}
