//! Tracks: followed in the background, frame by frame, and stopped; found, read and written as tables.

use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use rayon::prelude::*;
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::controls::CarriedBy;
use veil_core::engine::{EngineError, OnFault, Request};
use veil_core::setup::{Command, FrameNumber, Setup, StageId};
use veil_core::signal::Pixels;
use veil_core::track_table;
use veil_core::tracks::{Following, Seen, Track, TrackSample, image};
use veil_pixels::track::corners;
use veil_pixels::{Cancel, Field, Window};
use veil_store::ShotRecord;

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::{Event, Going};
use crate::json::Json;
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
    tracks: Vec<Track>,
    way: Way,
}

impl FollowRequest {
    /// What the tracks begin with, which is the same for all of them.
    fn begin(&self, setup: &Setup) -> Result<Begin, WebError> {
        let first = self.tracks.first().ok_or_else(|| WebError::Bad("no track is named".into()))?;
        let begin = Begin { stage: first.stage, without: first.without, frame: first.begins };
        for track in &self.tracks {
            let own = Begin { stage: track.stage, without: track.without, frame: track.begins };
            track.check().map_err(|why| WebError::Bad(format!("the track `{}` {why}", track.name)))?;
            if own != begin {
                let name = &track.name;
                let why = "does not begin at the frame and in the picture of the others";
                return Err(WebError::Bad(format!("the track `{name}` {why}")));
            }
        }
        let rows = [Some(begin.stage), begin.without].into_iter().flatten();
        match rows.into_iter().find(|row| setup.stage(*row).is_none()) {
            Some(_) => Err(WebError::Missing("such row".into())),
            None => Ok(begin),
        }
    }
}

/// In which row's picture, without what, and from which frame on.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Begin {
    stage: StageId,
    without: Option<StageId>,
    frame: i32,
}

/// Starts to follow what begins at one frame; what was found the other way stays.
pub(crate) async fn follow(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<FollowRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load_live(&app, path).await?;
    let begin = request.begin(&shot.setup)?;
    let cancel = Cancel::new();
    if app.tracking().contains_key(&shot.id) {
        return Err(WebError::Bad("something of this shot is being followed already".into()));
    }
    app.tracking().insert(shot.id, cancel.clone());
    let worker = app.clone();
    tokio::spawn(async move {
        let (follower, id) = (worker.clone(), shot.id);
        let (show, code) = (shot.show.clone(), shot.code.clone());
        let done = blocking(move || run(&follower, &shot, request, begin, &cancel)).await;
        worker.tracking().remove(&id);
        if let Err(error) = done {
            tracing::error!(%error, "a track stopped");
            let (going, message) = (Going::Failed, error.to_string());
            worker.tell(Event::Track {
                show,
                code,
                name: "a track".into(),
                going,
                done: 0,
                total: 0,
                message,
            });
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

#[derive(Deserialize)]
pub(crate) struct FindQuery {
    stage: StageId,
    frame: i32,
    most: usize,
    /// Left, top, right and bottom of a box they must lie in.
    within: Option<String>,
}

/// Points found by themselves are at least this far apart, in pixels.
const APART: f64 = 24.0;
/// Most of them at once.
const MOST_FOUND: usize = 60;

/// Places of a row's picture that can be followed well, the best first.
pub(crate) async fn find(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FindQuery>,
) -> Result<Json<Vec<[f64; 2]>>, WebError> {
    let shot = load(&app, path).await?;
    let within = query.within.as_deref().map(boxed).transpose()?;
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let plates = worker.plates(&shot.folder)?;
            let sight = Sight { app: &worker, shot: &shot, plates: &*plates, cancel };
            let image = sight.image(query.stage, query.frame)?;
            let counts =
                |x: i32, y: i32| within.is_none_or(|window| window.contains(Window::new(x, y, x + 1, y + 1)));
            let found = corners(&image, query.most.min(MOST_FOUND), APART, counts, cancel);
            found.map(Json).map_err(|_| EngineError::Cancelled.into())
        })
        .await
}

fn boxed(text: &str) -> Result<Window, WebError> {
    let numbers: Result<Vec<i32>, _> = text.split(',').map(str::parse).collect();
    match numbers.as_deref() {
        Ok([x0, y0, x1, y1]) => Ok(Window::new(*x0, *y0, *x1, *y1)),
        _ => Err(WebError::Bad(format!("`{text}` is no box; four whole numbers are"))),
    }
}

#[derive(Deserialize)]
pub(crate) struct PlacedRequest {
    carried: Vec<CarriedBy>,
    frame: FrameNumber,
}

/// What carries places along with tracks, from the frame they go from to this one; none where a track was found nowhere.
pub(crate) async fn placed(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<PlacedRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let rows = |by: &CarriedBy| by.at(request.frame.get(), &shot.setup).map(|by| by.rows());
    Ok(Json(json!(request.carried.iter().map(rows).collect::<Vec<_>>())))
}

/// All tracks of a shot as a table.
pub(crate) async fn table(State(app): State<App>, path: ShotPath) -> Result<impl IntoResponse, WebError> {
    let shot = load(&app, path).await?;
    let text = track_table::written(&shot.setup.tracks).map_err(|error| WebError::Bad(error.to_string()))?;
    let name = format!("attachment; filename=\"{}-tracks.csv\"", shot.code);
    Ok((
        [(header::CONTENT_TYPE, "text/csv; charset=utf-8".to_owned()), (header::CONTENT_DISPOSITION, name)],
        text,
    ))
}

#[derive(Deserialize)]
pub(crate) struct ReadRequest {
    stage: StageId,
    text: String,
}

/// The tracks of a table, to be put in.
pub(crate) async fn read_table(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<ReadRequest>,
) -> Result<Json<Vec<Track>>, WebError> {
    let shot = load(&app, path).await?;
    if shot.setup.stage(request.stage).is_none() {
        return Err(WebError::Missing("such row".into()));
    }
    let read = track_table::read(request.text.as_bytes(), request.stage);
    read.map(Json).map_err(|error| WebError::Bad(error.to_string()))
}

/// Where the frames are seen that something is followed through.
struct Sight<'a> {
    app: &'a App,
    shot: &'a ShotRecord,
    plates: &'a dyn veil_core::plates::Plates,
    cancel: &'a Cancel,
}

impl Sight<'_> {
    fn pixels(&self, stage: StageId, frame: i32) -> Result<Pixels, EngineError> {
        let request = Request { on_fault: OnFault::Bypass, ..Request::whole(stage, f64::from(frame)) };
        let answer = self.app.engine.answer(&self.shot.setup, self.plates, request, self.cancel)?;
        Ok(answer.signal.over(answer.window))
    }

    /// What is followed of a row.
    fn image(&self, stage: StageId, frame: i32) -> Result<Field, EngineError> {
        let working = self.shot.setup.picture.working;
        image(&self.pixels(stage, frame)?, working, self.cancel).map_err(|_| EngineError::Cancelled)
    }

    /// The coverage of what does not count.
    fn without(&self, begin: Begin, frame: i32) -> Result<Option<Field>, EngineError> {
        let Some(row) = begin.without else { return Ok(None) };
        match self.pixels(row, frame)? {
            Pixels::Field(field) => Ok(Some(field)),
            _ => self.image(row, frame).map(Some),
        }
    }
}

impl Way {
    /// The frames after the first, in the order they are gone through.
    fn frames(self, shot: &ShotRecord, begins: i32) -> Vec<i32> {
        let range = shot.setup.picture.frames;
        match self {
            Self::On => (begins + 1..=range.last).collect(),
            Self::Back => (range.first..begins).rev().collect(),
            Self::OneOn => (begins + 1..=range.last).take(1).collect(),
            Self::OneBack => (range.first..begins).rev().take(1).collect(),
        }
    }

    /// Whether what was known of a frame stays when this way is gone.
    const fn keeps(self, frame: i32, begins: i32) -> bool {
        match self {
            Self::On => frame <= begins,
            Self::Back => frame >= begins,
            Self::OneOn | Self::OneBack => true,
        }
    }
}

fn run(
    app: &App,
    shot: &ShotRecord,
    request: FollowRequest,
    begin: Begin,
    cancel: &Cancel,
) -> Result<(), WebError> {
    let FollowRequest { tracks, way } = request;
    let frames = way.frames(shot, begin.frame);
    let name = match tracks.as_slice() {
        [only] => only.name.clone(),
        all => format!("{} tracks", all.len()),
    };
    let tell = |going: Going, done: usize, message: String| {
        let (show, code) = (shot.show.clone(), shot.code.clone());
        app.tell(Event::Track { show, code, name: name.clone(), going, done, total: frames.len(), message });
    };
    let plates = app.plates(&shot.folder)?;
    let sight = Sight { app, shot, plates: &*plates, cancel };
    let followed = app.cpu.rest().install(|| {
        follow_through(&sight, &tracks, begin, &frames, |done| tell(Going::Running, done, String::new()))
    });
    let found = match followed {
        Ok(found) => found,
        Err(error) => {
            tell(Going::Failed, 0, error.to_string());
            return Ok(());
        }
    };
    let done = found.first().map_or(0, Vec::len);
    let seen = found.iter().flatten().flatten().count();
    let count = tracks.len();
    let commands = tracks.into_iter().zip(found).map(|(track, samples)| {
        let found: Vec<_> = frames.iter().copied().zip(samples).collect();
        let begins = track.begins;
        let track = track.with_found(&found, |frame| way.keeps(frame, begins));
        Command::PutTrack { track: Box::new(track) }
    });
    let command = Command::Together { commands: commands.collect() };
    let now = app.store.shot(&shot.show, &shot.code)?;
    let kept = app.store.edit(now.id, now.revision, &command)?;
    let (show, code) = (shot.show.clone(), shot.code.clone());
    app.tell(Event::Shot { show, code, revision: kept.revision });
    let message = if seen == 0 {
        "found in no frame: what is to be followed has no texture there, or leaves the picture".into()
    } else {
        format!("found in {seen} of {} frames", done * count)
    };
    tell(if done < frames.len() { Going::Stopped } else { Going::Done }, done, message);
    Ok(())
}

/// Where each track is in each frame, in their order, as far as it was not called off.
fn follow_through(
    sight: &Sight<'_>,
    tracks: &[Track],
    begin: Begin,
    frames: &[i32],
    tell: impl Fn(usize),
) -> Result<Vec<Vec<Option<TrackSample>>>, EngineError> {
    let seen =
        |frame: i32| Ok::<_, EngineError>((sight.image(begin.stage, frame)?, sight.without(begin, frame)?));
    let (image, without) = seen(begin.frame)?;
    let first = Seen { image: &image, without: without.as_ref() };
    let begun: Result<Vec<_>, _> =
        tracks.iter().map(|track| Following::begin(track, first, sight.cancel)).collect();
    let mut following = begun.map_err(|_| EngineError::Cancelled)?;
    let mut found = vec![Vec::with_capacity(frames.len()); tracks.len()];
    for (done, frame) in frames.iter().enumerate() {
        tell(done);
        let (image, without) = match seen(*frame) {
            Ok(seen) => seen,
            Err(EngineError::Cancelled) => return Ok(found),
            Err(error) => return Err(error),
        };
        let now = Seen { image: &image, without: without.as_ref() };
        let step = |one: &mut Option<Following>| match one {
            Some(one) => one.step(now, sight.cancel),
            None => Ok(None),
        };
        let steps: Result<Vec<_>, _> = following.par_iter_mut().map(step).collect();
        match steps {
            Ok(steps) => found.iter_mut().zip(steps).for_each(|(found, step)| found.push(step)),
            Err(_) => return Ok(found),
        }
    }
    Ok(found)
}
