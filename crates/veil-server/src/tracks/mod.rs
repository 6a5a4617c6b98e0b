//! Tracks: followed in the background, frame by frame, and stopped; found, read and written as tables.

mod run;
mod sight;
pub(crate) mod solve;

use axum::extract::{Query, State};
use axum::http::header;
use axum::response::IntoResponse;
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::controls::{CarriedBy, KeyedPoints, ShapePoint};
use veil_core::engine::EngineError;
use veil_core::setup::{FrameNumber, Setup, StageId};
use veil_core::track_table;
use veil_core::tracks::Track;
use veil_pixels::track::corners;
use veil_pixels::{Cancel, Window};

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::{Event, Going};
use crate::json::Json;
use crate::setups::{ShotPath, load, load_live};

use run::{Way, run};
use sight::{Begin, Sight};

#[derive(Deserialize)]
pub(crate) struct FollowRequest {
    tracks: Vec<Track>,
    way: Way,
    /// The frame they are followed from: where points and regions begin, and where surfaces are known.
    frame: i32,
}

impl FollowRequest {
    /// What the tracks begin with, which is the same for all of them.
    fn begin(&self, setup: &Setup) -> Result<Begin, WebError> {
        let first = self.tracks.first().ok_or_else(|| WebError::Bad("no track is named".into()))?;
        let begin = Begin { stage: first.stage, without: first.without, frame: self.frame };
        for track in &self.tracks {
            let frame = if track.surface.is_some() && track.samples.contains_key(&self.frame) {
                self.frame
            } else {
                track.begins
            };
            let own = Begin { stage: track.stage, without: track.without, frame };
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
            let sight = Sight::new(&worker, &shot, &*plates, cancel);
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
    drawn: Vec<DrawnPoints>,
    frame: FrameNumber,
}

/// Points as they are drawn, and the track that they go with.
#[derive(Deserialize)]
struct DrawnPoints {
    carried: CarriedBy,
    points: Vec<ShapePoint>,
}

/// Where points that go with tracks are seen at a frame.
pub(crate) async fn placed(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<PlacedRequest>,
) -> Result<Json<Vec<Vec<ShapePoint>>>, WebError> {
    let shot = load(&app, path).await?;
    let frame = request.frame.get();
    let seen = |DrawnPoints { carried, points }: DrawnPoints| {
        let drawn = KeyedPoints { carried: Some(carried), ..KeyedPoints::still(frame, points) };
        drawn.seen(frame, &shot.setup)
    };
    Ok(Json(request.drawn.into_iter().map(seen).collect()))
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
