//! The render queue: one render at a time, frame by frame.

use std::time::Instant;

use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::Response;
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::bakes::UseOfBakes;
use veil_core::setup::{Frames, StageId};
use veil_core::signal::Scale;
use veil_media::{ClipNumbers, MadeFrames, OutputPattern, RenderJob};
use veil_pixels::Cancel;
use veil_store::{FailedFrame, Id, NewRender, Progress, RenderRecord, RenderState};

use crate::App;
use crate::cpu::{blocking, guarded};
use crate::error::WebError;
use crate::event::Event;
use crate::json::Json;
use crate::setups::{ShotPath, load};

#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "lowercase")]
enum Form {
    Exr,
    Png,
    Tif,
    Jpg,
    Mp4,
    WebM,
}

#[derive(Deserialize)]
pub(crate) struct RenderRequest {
    /// The final row where it is not said.
    stage: Option<StageId>,
    /// `1001-1048`.
    frames: String,
    form: Form,
    #[serde(default = "full")]
    scale: u32,
    /// Which numbers a clip holds.
    #[serde(default)]
    numbers: ClipNumbers,
    /// Whether bakes stand in for what they were made of; all is worked out anew where they do not.
    #[serde(default = "ignored")]
    bakes: UseOfBakes,
}

const fn full() -> u32 {
    1
}

const fn ignored() -> UseOfBakes {
    UseOfBakes::Ignored
}

pub(crate) async fn add(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<RenderRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let frames: Frames = request.frames.parse().map_err(WebError::Bad)?;
    let scale = Scale::one_to(request.scale).ok_or_else(|| WebError::Bad("this is no proxy scale".into()))?;
    let last = shot.setup.final_id().ok_or_else(|| WebError::Missing("final row".into()))?;
    let stage = request.stage.unwrap_or(last);
    let row = shot.setup.stage(stage).ok_or_else(|| WebError::Missing("such row".into()))?;
    let plain: String =
        row.name.chars().take(LONGEST_ROW).map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let ending = match request.form {
        Form::Exr => "####.exr",
        Form::Png => "####.png",
        Form::Tif => "####.tif",
        Form::Jpg => "####.jpg",
        Form::Mp4 => "mp4",
        Form::WebM => "webm",
    };
    let setup = match request.bakes {
        UseOfBakes::Used => shot.setup.clone(),
        UseOfBakes::Ignored => shot.setup.clone().without_bakes(),
    };
    let numbers = match request.form {
        Form::Mp4 | Form::WebM => Some(json!(request.numbers).to_string()),
        Form::Exr | Form::Png | Form::Tif | Form::Jpg => None,
    };
    let store = app.store.clone();
    let id = blocking(move || {
        let new = NewRender {
            shot: shot.id,
            setup: &setup,
            stage,
            frames,
            scale: scale.divisor(),
            folder: &format!("{}/{}", shot.folder, shot.code),
            row: &plain,
            file: &format!("{}.{ending}", shot.code),
            numbers: numbers.as_deref(),
        };
        Ok(store.queue_render(&new)?)
    })
    .await?;
    app.queue.notify_one();
    Ok(Json(json!({ "id": id })))
}

pub(crate) async fn cancel(State(app): State<App>, Path(id): Path<Id>) -> Result<Json<Value>, WebError> {
    let running = app.running.lock().unwrap_or_else(std::sync::PoisonError::into_inner).get(&id).cloned();
    match running {
        Some(cancel) => cancel.set(),
        None => {
            let worker = app.clone();
            blocking(move || {
                let render = worker.store.render(id)?;
                if render.state == RenderState::Queued {
                    note(&worker, &render, &progress_of(&render, RenderState::Cancelled), 0.0)?;
                }
                Ok(())
            })
            .await?;
        }
    }
    Ok(Json(json!({})))
}

/// As much of a row's name as the folder of its render has.
const LONGEST_ROW: usize = 60;

/// Makes the frames that failed, are missing, or would look different now; the others are kept.
pub(crate) async fn retry(State(app): State<App>, Path(id): Path<Id>) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    blocking(move || {
        let render = worker.store.render(id)?;
        worker.store.set_attempts(id, 0)?;
        let queued = Progress { state: RenderState::Queued, done: 0, kept: 0, failed: Vec::new(), beyond: 0 };
        note(&worker, &render, &queued, 0.0)
    })
    .await?;
    app.queue.notify_one();
    Ok(Json(json!({})))
}

/// Works through the queue until the server ends. A render that was running when it ended goes on.
pub(crate) fn start(app: &App) {
    // On a full disk the server starts all the same; such a render goes on, and only says so too early.
    if let Err(error) = app.store.wait_again() {
        tracing::error!(%error, "renders that were running cannot be noted as waiting");
    }
    let app = app.clone();
    tokio::spawn(async move {
        let stopping = app.stopping();
        while !stopping.load(std::sync::atomic::Ordering::Relaxed) {
            let worker = app.clone();
            let next = blocking(move || Ok(worker.store.next_render()?)).await;
            match next {
                Ok(Some(render)) => {
                    let worker = app.clone();
                    if let Err(error) = blocking(move || run(&worker, &render)).await {
                        tracing::error!(%error, "a render stopped");
                        app.queue.notified().await;
                    }
                }
                Ok(None) => app.queue.notified().await,
                Err(error) => {
                    tracing::error!(%error, "the render queue cannot be read");
                    app.queue.notified().await;
                }
            }
        }
    });
}

/// A render as it was last noted, in another state.
fn progress_of(render: &RenderRecord, state: RenderState) -> Progress {
    let RenderRecord { done, kept, beyond, .. } = *render;
    Progress { state, done, kept, failed: render.failed.clone(), beyond }
}

fn note(app: &App, render: &RenderRecord, progress: &Progress, rate: f64) -> Result<(), WebError> {
    app.store.note_render(render.id, progress)?;
    app.tell(Event::Render { id: render.id, total: render.frames.count(), rate, progress: progress.clone() });
    Ok(())
}

fn job_of(app: &App, render: &RenderRecord) -> Result<RenderJob, WebError> {
    let output = app.store.folder().renders().join(&render.output);
    let bad = |error: veil_media::OutputError| WebError::Bad(error.to_string());
    let mut output: OutputPattern = output.to_string_lossy().parse().map_err(bad)?;
    if output.clip().is_some() {
        let said = app.store.clip_numbers(render.id)?;
        let numbers = said.and_then(|said| serde_json::from_str(&said).ok()).unwrap_or_default();
        output = output.with_numbers(numbers).map_err(bad)?;
    }
    let scale = Scale::one_to(render.scale).unwrap_or(Scale::FULL);
    Ok(RenderJob { setup: render.setup.clone(), stage: render.stage, scale, output })
}

fn run(app: &App, render: &RenderRecord) -> Result<(), WebError> {
    let job = job_of(app, render)?;
    let cancel = Cancel::new();
    let running = || app.running.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    running().insert(render.id, cancel.clone());
    let done = make_frames(app, render, &job, &cancel);
    running().remove(&render.id);
    match done {
        // What cannot be noted, such as on a full disk, must not keep the queue.
        Err(error) => {
            let failed = FailedFrame { frame: render.frames.first, message: error.to_string() };
            let progress = Progress { failed: vec![failed], ..progress_of(render, RenderState::Failed) };
            note(app, render, &progress, 0.0)
        }
        done => done,
    }
}

/// How often a render may end the whole program at the same frame before it is left alone.
const MOST_ATTEMPTS: i32 = 3;

fn make_frames(app: &App, render: &RenderRecord, job: &RenderJob, cancel: &Cancel) -> Result<(), WebError> {
    let attempts = app.store.begin_render(render.id)?;
    let mut progress =
        Progress { state: RenderState::Running, done: 0, kept: 0, failed: Vec::new(), beyond: 0 };
    if attempts >= MOST_ATTEMPTS {
        progress.done = render.done;
        progress.state = RenderState::Failed;
        let message =
            format!("this frame has ended the program {attempts} times; `make again` tries it once more");
        let frame = render.frames.first + render.done + render.failed.len() as i32;
        progress.failed = vec![FailedFrame { frame, message }];
        return note(app, render, &progress, 0.0);
    }
    let plates = app.plates(&render.folder)?;
    let renders = app.store.folder().renders();
    let mut made = MadeFrames::of(folder_of(app, render).as_path()).map_err(|error| error.below(&renders))?;
    let content = |frame: i32| job.content(&app.engine, &*plates, frame).ok();
    let clip = job.output.clip().filter(|clip| clip.exists());
    let all_known = |made: &MadeFrames| {
        let mut frames = render.frames.first..=render.frames.last;
        frames.all(|frame| content(frame).is_some_and(|content| made.knows(frame, &content)))
    };
    if clip.is_some() && all_known(&made) {
        progress.done = render.frames.count() as i32;
        progress.kept = progress.done;
        progress.state = RenderState::Done;
        return note(app, render, &progress, 0.0);
    }
    let started = Instant::now();
    for frame in render.frames.first..=render.frames.last {
        let file = job.output.file(frame);
        let content = content(frame);
        if content.as_ref().is_some_and(|content| made.holds(frame, content, &file)) {
            progress.done += 1;
            progress.kept += 1;
            continue;
        }
        if progress.done == progress.kept {
            // Where it would end the program.
            note(app, render, &progress, 0.0)?;
        }
        let drawn =
            guarded(|| Ok(app.cpu.rest().install(|| job.frame(&app.engine, &*plates, frame, cancel))));
        match drawn {
            Ok(Ok(written)) => {
                progress.beyond += written.beyond as i64;
                if let Some(content) = content {
                    made.note(frame, &content, &file).map_err(|error| error.below(&renders))?;
                }
                if progress.done == progress.kept {
                    app.store.set_attempts(render.id, 1)?;
                }
                progress.done += 1;
            }
            Ok(Err(error)) if error.is_cancelled() => {
                // A render that ends with the server goes on when it is back.
                if app.stopping().load(std::sync::atomic::Ordering::Relaxed) {
                    app.store.set_attempts(render.id, 0)?;
                } else {
                    progress.state = RenderState::Cancelled;
                }
                return note(app, render, &progress, 0.0);
            }
            Ok(Err(error)) => {
                let message = error.below(&renders).to_string();
                progress.failed.push(FailedFrame { frame, message });
            }
            Err(error) => progress.failed.push(FailedFrame { frame, message: error.to_string() }),
        }
        note(app, render, &progress, rate(&progress, started))?;
    }
    if progress.failed.is_empty()
        && let Err(error) = job.finish(render.frames, cancel)
    {
        let message = error.below(&renders).to_string();
        progress.failed.push(FailedFrame { frame: render.frames.last, message });
    }
    progress.state = if progress.failed.is_empty() { RenderState::Done } else { RenderState::Failed };
    note(app, render, &progress, rate(&progress, started))
}

/// Frames a second, of those that were made.
fn rate(progress: &Progress, started: Instant) -> f64 {
    f64::from(progress.done - progress.kept) / started.elapsed().as_secs_f64().max(1e-3)
}

/// A render's own folder.
pub(crate) fn folder_of(app: &App, render: &RenderRecord) -> std::path::PathBuf {
    let output = app.store.folder().renders().join(&render.output);
    output.parent().map_or(output.clone(), std::path::Path::to_owned)
}

/// A rendered frame as it came out, for looking at.
pub(crate) async fn result_frame(
    State(app): State<App>,
    Path((id, frame)): Path<(Id, i32)>,
    asked: HeaderMap,
) -> Result<Response, WebError> {
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let render = worker.store.render(id)?;
            let media = crate::results::media_of(&render)?;
            // A clip counts its frames from 1.
            let is_clip = !render.output.contains('#');
            let frame = if is_clip { frame - render.frames.first + 1 } else { frame };
            crate::media::rendered_picture(&worker, &media, frame, &asked, cancel)
        })
        .await
}
