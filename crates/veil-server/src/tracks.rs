//! Tracks: followed in the background, frame by frame, and stopped.

use axum::Json;
use axum::extract::State;
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::engine::{EngineError, OnFault, Request};
use veil_core::setup::Command;
use veil_core::signal::Scale;
use veil_core::tracks::{Following, Track, TrackSample, image};
use veil_pixels::{Cancel, Field};
use veil_store::ShotRecord;

use crate::App;
use crate::bakes::Going;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::events::Event;
use crate::setups::{ShotPath, load, load_live};

/// Which way, and how far.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Way {
    /// To the end of the range.
    On,
    /// To its start.
    Back,
    /// One frame on.
    OneOn,
    /// One frame back.
    OneBack,
}

#[derive(Deserialize)]
pub(crate) struct FollowRequest {
    track: Track,
    way: Way,
}

/// Starts to follow a point from where it begins; what was found the other way stays.
pub(crate) async fn follow(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<FollowRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load_live(&app, path).await?;
    let FollowRequest { track, way } = request;
    track.check().map_err(|why| WebError::Bad(format!("the track `{}` {why}", track.name)))?;
    if shot.setup.stage(track.stage).is_none() {
        return Err(WebError::Missing("such row".into()));
    }
    let cancel = Cancel::new();
    if app.tracking().contains_key(&shot.id) {
        return Err(WebError::Bad("a point of this shot is being followed already".into()));
    }
    app.tracking().insert(shot.id, cancel.clone());
    let worker = app.clone();
    tokio::spawn(async move {
        let done = blocking(move || {
            let id = shot.id;
            let made = run(&worker, &shot, track, way, &cancel);
            worker.tracking().remove(&id);
            made
        })
        .await;
        if let Err(error) = done {
            tracing::error!(%error, "a track stopped");
        }
    });
    Ok(Json(json!({})))
}

pub(crate) async fn stop(State(app): State<App>, path: ShotPath) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    if let Some(cancel) = app.tracking().get(&shot.id) {
        cancel.set();
    }
    Ok(Json(json!({})))
}

/// The frames after the first, in the order they are gone through.
fn frames(shot: &ShotRecord, track: &Track, way: Way) -> Vec<i32> {
    let range = shot.setup.picture.frames;
    let begins = track.begins;
    match way {
        Way::On => (begins + 1..=range.last).collect(),
        Way::Back => (range.first..begins).rev().collect(),
        Way::OneOn => (begins + 1..=range.last).take(1).collect(),
        Way::OneBack => (range.first..begins).rev().take(1).collect(),
    }
}

fn run(app: &App, shot: &ShotRecord, mut track: Track, way: Way, cancel: &Cancel) -> Result<(), WebError> {
    let frames = frames(shot, &track, way);
    let name = track.name.clone();
    let tell = |going: Going, done: usize, message: String| {
        let (show, code) = (shot.show.clone(), shot.code.clone());
        app.tell(Event::Track { show, code, name: name.clone(), going, done, total: frames.len(), message });
    };
    let plates = app.plates(&shot.folder)?;
    let seen = |frame: i32| -> Result<Field, EngineError> {
        app.cpu.rest().install(|| {
            let request = Request {
                stage: track.stage,
                frame: f64::from(frame),
                scale: Scale::FULL,
                window: None,
                on_fault: OnFault::Bypass,
                bakes: Default::default(),
            };
            let answer = app.engine.answer(&shot.setup, &*plates, request, cancel)?;
            image(&answer.signal.over(answer.window), shot.setup.picture.working, cancel)
                .map_err(|_| EngineError::Cancelled)
        })
    };
    let followed = follow_through(&track, &frames, &seen, |done| tell(Going::Running, done, String::new()));
    let samples = match followed {
        Ok(samples) => samples,
        Err(error) => {
            tell(Going::Failed, 0, error.to_string());
            return Ok(());
        }
    };
    let (stopped, found) = (samples.len() < frames.len(), samples.iter().flatten().count());
    // What was found this way before goes.
    let other = |frame: &i32| match way {
        Way::On => *frame <= track.begins,
        Way::Back => *frame >= track.begins,
        Way::OneOn | Way::OneBack => true,
    };
    track.samples.retain(|frame, _| other(frame));
    let first = TrackSample { at: track.at, scale: 1.0, turn: 0.0, likeness: 1.0 };
    track.samples.insert(track.begins, first);
    for (frame, sample) in frames.iter().zip(&samples) {
        match sample {
            Some(sample) => track.samples.insert(*frame, *sample),
            None => track.samples.remove(frame),
        };
    }
    let now = app.store.shot(&shot.show, &shot.code)?;
    let kept = app.store.edit(now.id, now.revision, &Command::PutTrack { track: Box::new(track) })?;
    let (show, code) = (shot.show.clone(), shot.code.clone());
    app.tell(Event::Shot { show, code, revision: kept.revision });
    let message = format!("found in {found} of {} frames", samples.len());
    tell(if stopped { Going::Stopped } else { Going::Done }, samples.len(), message);
    Ok(())
}

/// Where the point is in each frame, in their order, as far as it was not called off.
fn follow_through(
    track: &Track,
    frames: &[i32],
    seen: &dyn Fn(i32) -> Result<Field, EngineError>,
    tell: impl Fn(usize),
) -> Result<Vec<Option<TrackSample>>, EngineError> {
    let begun = Following::begin(track, &seen(track.begins)?).map_err(|_| EngineError::Cancelled)?;
    let Some(mut following) = begun else { return Ok(vec![None; frames.len()]) };
    let mut found = Vec::with_capacity(frames.len());
    for (done, frame) in frames.iter().enumerate() {
        tell(done);
        match seen(*frame) {
            Ok(image) => found.push(following.step(&image).map_err(|_| EngineError::Cancelled)?),
            Err(EngineError::Cancelled) => return Ok(found),
            Err(error) => return Err(error),
        }
    }
    Ok(found)
}
