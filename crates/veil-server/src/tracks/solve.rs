//! Cameras solved from tracks: kept as files of the show, set down on a ground, and shown on the picture.

use std::path::PathBuf;

use axum::extract::{Query, State};
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::setup::Media;
use veil_core::solved::{CameraGoes, SolveError, SolveTask, SolvedCamera};
use veil_core::tracks::{Track, TrackId};
use veil_media::{inspect, read_solved, write_camera};
use veil_store::{ShotRecord, ShowRecord};

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::json::Json;
use crate::setups::{ShotPath, load, load_live, media_of};

/// The folder of a show that solved cameras are kept in.
const CAMERAS: &str = "cameras";

#[derive(Deserialize)]
pub(crate) struct SolveRequest {
    tracks: Vec<TrackId>,
    goes: CameraGoes,
    /// None is found.
    focal_mm: Option<f64>,
    sensor_width_mm: f64,
}

impl From<SolveError> for WebError {
    fn from(error: SolveError) -> Self {
        match error {
            SolveError::Cancelled => Self::Cancelled,
            told => Self::Bad(told.to_string()),
        }
    }
}

/// Solves a camera and keeps it beside the show's other files, under a name of its own.
pub(crate) async fn solve(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<SolveRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load_live(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let SolveRequest { tracks, goes, focal_mm, sensor_width_mm } = request;
            let named = |track: &&Track| tracks.contains(&track.id);
            let chosen: Vec<Track> = shot.setup.tracks.iter().filter(named).cloned().collect();
            let task = SolveTask { goes, focal_mm, sensor_width_mm };
            let solved = task.solve(&chosen, &shot.setup.picture, cancel)?;
            let file = Solved::fresh(&worker, shot)?;
            file.keep(&solved)?;
            file.told(&solved, None)
        })
        .await
}

#[derive(Deserialize)]
pub(crate) struct SetDownRequest {
    path: String,
    /// The points that come to lie on the ground; the first at the origin, the second along x.
    ground: Option<[String; 3]>,
    /// Two points, and how many metres they are apart.
    distance: Option<(String, String, f64)>,
}

/// Sets a solved camera's world down on a ground, and gives it a measure.
pub(crate) async fn set_down(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<SetDownRequest>,
) -> Result<Json<Value>, WebError> {
    let shot = load_live(&app, path).await?;
    blocking(move || {
        let file = Solved::kept(&app, shot, &request.path)?;
        let mut solved = file.read()?;
        if let Some([origin, along, third]) = &request.ground {
            solved.set_down([origin, along, third])?;
        }
        if let Some((from, to, metres)) = &request.distance {
            solved.measured([from, to], *metres)?;
        }
        file.keep(&solved)?;
        file.told(&solved, None)
    })
    .await
}

#[derive(Deserialize)]
pub(crate) struct SolvedQuery {
    path: String,
    frame: f64,
}

/// A solved camera's errors and points, and where these are seen at a frame.
pub(crate) async fn solved(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<SolvedQuery>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    blocking(move || {
        let file = Solved::kept(&app, shot, &query.path)?;
        let solved = file.read()?;
        file.told(&solved, Some(query.frame))
    })
    .await
}

/// The file of a solved camera.
struct Solved {
    app: App,
    shot: ShotRecord,
    show: ShowRecord,
    /// Below the show's folder.
    path: String,
}

impl Solved {
    /// One that is not there yet.
    fn fresh(app: &App, shot: ShotRecord) -> Result<Self, WebError> {
        let show = app.store.show(&shot.show)?;
        let name = |number: usize| format!("{CAMERAS}/{}-solved-{number}.gltf", shot.code);
        let folder = app.store.folder().show(&show.folder);
        let free = (1..).map(name).find(|name| !folder.join(name).exists());
        let path = free.ok_or_else(|| WebError::Internal("no name is free".into()))?;
        Ok(Self { app: app.clone(), shot, show, path })
    }

    /// One of the show's.
    fn kept(app: &App, shot: ShotRecord, path: &str) -> Result<Self, WebError> {
        let show = app.store.show(&shot.show)?;
        let is_kept = app.store.media(show.id)?.iter().any(|record| record.path == path);
        if !is_kept {
            return Err(WebError::Missing(format!("camera `{path}`")));
        }
        Ok(Self { app: app.clone(), shot, show, path: path.into() })
    }

    fn file(&self) -> PathBuf {
        self.app.store.folder().show(&self.show.folder).join(&self.path)
    }

    fn read(&self) -> Result<SolvedCamera, WebError> {
        Ok(read_solved(&self.file(), self.shot.setup.picture.fps)?)
    }

    /// Writes it, and lists it among the show's files; those who hold the one before read it anew.
    fn keep(&self, solved: &SolvedCamera) -> Result<(), WebError> {
        let picture = &self.shot.setup.picture;
        let size = [picture.width, picture.height].map(f64::from);
        write_camera(&self.file(), solved, size, picture.fps)?;
        self.app.store.list_media(self.show.id, &self.path, &json!(inspect(&self.file())?))?;
        self.app.forget_plates(&self.show.folder);
        Ok(())
    }

    fn told(&self, solved: &SolvedCamera, frame: Option<f64>) -> Result<Json<Value>, WebError> {
        let picture = &self.shot.setup.picture;
        let size = [picture.width, picture.height].map(f64::from);
        let camera = frame.and_then(|frame| solved.camera.at(frame));
        let seen = |place: [f64; 3]| camera.and_then(|camera| camera.project(place, size)).map(|(at, _)| at);
        let points = solved.points.iter().map(|point| {
            json!({
                "name": point.name, "place": point.place, "error": point.error, "fits": point.fits, "at": seen(point.place),
            })
        });
        let frames = solved.camera.frames.iter().zip(&solved.frame_errors);
        let frames: Vec<(i32, f64)> = frames.map(|(frame, error)| (frame.frame, *error)).collect();
        let lens = solved.camera.frames.first().map(|frame| frame.camera.lens.zoom(size) / size[0]);
        let record = self.app.store.media(self.show.id)?.into_iter().find(|record| record.path == self.path);
        let media: Option<Media> = record.as_ref().map(media_of);
        Ok(Json(json!({
            "path": self.path,
            "media": media,
            "error": solved.error(),
            // The focal length, as a share of the sensor's width.
            "focal": lens,
            "frames": frames,
            "points": points.collect::<Vec<Value>>(),
        })))
    }
}
