//! Pictures of a setup: the viewer's frame, thumbnails, effect meters, and numbers under the pointer.

use axum::extract::{Query, State};
use axum::http::{HeaderValue, header};
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use serde_json::value::RawValue;
use serde_json::{Value, json};
use std::time::Instant;
use veil_core::bakes::UseOfBakes;
use veil_core::engine::{Answer, Holding, OnFault, Request, Travelled, Trial};
use veil_core::setup::{Command, Edit, FrameNumber, Setup, StageId};
use veil_core::signal::{Pixels, Scale};
use veil_core::view::{Backing, Look, Screen, View, bytes, difference, laid_on_picture};
use veil_pixels::{Cancel, Progress, Window};
use veil_store::ShotRecord;

use crate::App;
use crate::error::WebError;
use crate::event::{Event, Going};
use crate::json::Json;
use crate::results;
use crate::setups::{ShotPath, command_of, load};
use crate::shots::{setup_of, setup_on};

#[derive(Clone, Deserialize)]
pub(crate) struct FrameQuery {
    stage: u32,
    frame: f64,
    #[serde(default = "full")]
    scale: u32,
    #[serde(default)]
    look: Look,
    #[serde(default)]
    exposure: f32,
    #[serde(default)]
    screen: Screen,
    /// Pixels across on the screen, where those are fewer than the picture has: no more are sent.
    #[serde(default)]
    across: Option<u32>,
    /// Commands that are tried and not kept, as JSON: what is being dragged, or a stage off to compare.
    #[serde(default)]
    trial: Option<String>,
    /// The version that is looked at; the live setup where none of the three is said.
    #[serde(default)]
    version: Option<i32>,
    /// The kept still that is looked at, with its own row and frame.
    #[serde(default)]
    still: Option<i32>,
    /// A plate of the show, by its record, that is looked at beside the shot.
    #[serde(default)]
    reference: Option<i32>,
    /// A render of the shot, by its record, that is looked at beside it.
    #[serde(default)]
    render: Option<i32>,
    /// A row that takes a tool of the rack, as row and record, to see what would come of it: `12:3`.
    #[serde(default)]
    taking: Option<String>,
    /// What lies behind where nothing covers it.
    #[serde(default)]
    backing: Backing,
    /// A row that lies behind instead.
    #[serde(default)]
    behind: Option<u32>,
    /// Another such query, as JSON: what is looked at is how far the two differ.
    #[serde(default)]
    against: Option<String>,
}

const fn full() -> u32 {
    1
}

/// One to this many: thumbnails and effect meters.
const THUMB_SCALE: u32 = 8;
/// One to this many: pictures on the shot wall and the rack.
const STILL_SCALE: u32 = 3;

impl FrameQuery {
    /// A row's picture at a frame, as it comes.
    pub(crate) fn of(stage: u32, frame: f64) -> Self {
        Self {
            stage,
            frame,
            scale: 1,
            look: Look::Colour,
            exposure: 0.0,
            screen: Screen::Srgb,
            across: None,
            trial: None,
            version: None,
            still: None,
            reference: None,
            render: None,
            taking: None,
            backing: Backing::Black,
            behind: None,
            against: None,
        }
    }

    fn request(&self) -> Result<Request, WebError> {
        let scale = Scale::one_to(self.scale)
            .ok_or_else(|| WebError::Bad(format!("one to {} is no proxy scale", self.scale)))?;
        if !self.exposure.is_finite() {
            return Err(WebError::Bad("exposure must be a number".into()));
        }
        let frame = FrameNumber::try_from(self.frame).map_err(|error| WebError::Bad(error.to_string()))?;
        Ok(Request {
            stage: StageId(self.stage),
            frame: frame.get(),
            scale,
            window: None,
            on_fault: OnFault::Bypass,
            bakes: UseOfBakes::Used,
            holding: self.trial.as_deref().map_or(Holding::Kept, |tried| Holding::Trial(Trial::of(tried))),
        })
    }

    /// The same at one to so many.
    pub(crate) fn at_scale(self, scale: u32) -> Self {
        Self { scale, ..self }
    }

    /// What it is compared with, at its own scale.
    fn compared(&self) -> Result<Option<Self>, WebError> {
        let Some(text) = &self.against else { return Ok(None) };
        let other: Self = serde_json::from_str(text)
            .map_err(|error| WebError::Bad(format!("this is nothing to compare with: {error}")))?;
        Ok(Some(other.at_scale(self.scale)))
    }

    /// How it is looked at, in the usual working colours.
    pub(crate) fn view(&self) -> View {
        View { look: self.look, exposure: self.exposure, screen: self.screen, ..View::default() }
    }

    /// The setup with the trial commands done.
    fn tried(&self, setup: Setup) -> Result<Setup, WebError> {
        let Some(text) = &self.trial else { return Ok(setup) };
        let commands: Vec<Box<RawValue>> = serde_json::from_str(text)
            .map_err(|error| WebError::Bad(format!("this is no trial: {error}")))?;
        commands.iter().try_fold(setup, |setup, value| {
            let command: Command = command_of(value)?;
            Ok(Edit::of(&command, &setup)?.0)
        })
    }
}

/// Which setup a query looks at, and which row and frame of it.
pub(crate) fn looked_at(
    app: &App,
    shot: &ShotRecord,
    query: &FrameQuery,
) -> Result<(Setup, Request), WebError> {
    let request = query.request()?;
    if let Some(number) = query.still {
        let (still, setup) = app.store.still(shot.id, number)?;
        return Ok((setup, Request { stage: StageId(still.stage), frame: still.frame, ..request }));
    }
    if let Some(record) = query.reference {
        let setup = setup_on(&app.store, shot.show_id, record, "")?;
        let plate = setup.stages[0].id;
        return Ok((setup, Request { stage: plate, ..request }));
    }
    if let Some(id) = query.render {
        let render = app.store.render(id)?;
        let media = results::media_of(&render)?;
        let since = media.frames.map_or(0, |frames| frames.first - render.frames.first);
        let setup = setup_of(media, shot.setup.picture, "")?;
        let (stage, frame) = (setup.stages[0].id, request.frame + f64::from(since));
        return Ok((setup, Request { stage, frame, ..request }));
    }
    if let Some(number) = query.version {
        return Ok((app.store.version(shot.id, number)?, request));
    }
    let setup = query.tried(shot.setup.clone())?;
    let Some(taking) = &query.taking else { return Ok((setup, request)) };
    let bad = || WebError::Bad(format!("`{taking}` names no row and tool"));
    let (stage, record) = taking.split_once(':').ok_or_else(bad)?;
    let (stage, record) = (stage.parse().map_err(|_| bad())?, record.parse().map_err(|_| bad())?);
    let command = crate::tools::taking(&app.store, StageId(stage), record)?;
    Ok((Edit::of(&command, &setup)?.0, request))
}

pub(crate) fn answered(
    app: &App,
    shot: &ShotRecord,
    query: &FrameQuery,
    cancel: &Cancel,
) -> Result<(Answer, Request), WebError> {
    let (setup, request) = looked_at(app, shot, query)?;
    let plates = match query.render {
        Some(_) => app.rendered(),
        None => app.plates(&shot.folder)?,
    };
    Ok((app.engine.answer(&setup, &*plates, request, cancel)?, request))
}

/// The pixels of an answer as they are looked at: beside what they are compared with, or with what lies behind them.
fn seen(
    app: &App,
    shot: &ShotRecord,
    query: &FrameQuery,
    answer: &Answer,
    cancel: &Cancel,
) -> Result<Pixels, WebError> {
    let Some(other) = query.compared()? else { return backed(app, shot, query, answer, cancel) };
    let (against, _) = answered(app, shot, &other, cancel)?;
    let (one, other) = (answer.signal.over(answer.window), against.signal.over(answer.window));
    difference(&one, &other).ok_or_else(|| {
        let names = [&one, &other].map(|pixels| pixels.kind().word());
        WebError::Bad(format!(
            "a {} and a {} do not differ in numbers: choose two of a kind",
            names[0], names[1]
        ))
    })
}

/// The pixels of an answer with what lies behind them.
fn backed(
    app: &App,
    shot: &ShotRecord,
    query: &FrameQuery,
    answer: &Answer,
    cancel: &Cancel,
) -> Result<Pixels, WebError> {
    let pixels = answer.signal.over(answer.window);
    let Pixels::Picture(picture) = &pixels else { return Ok(pixels) };
    if query.look != Look::Colour {
        return Ok(pixels);
    }
    let Some(row) = query.behind else {
        let scale = query.request()?.scale;
        return Ok(if query.backing == Backing::Black {
            pixels
        } else {
            Pixels::Picture(query.backing.behind(picture, scale))
        });
    };
    let (behind, _) = answered(app, shot, &FrameQuery { stage: row, ..query.clone() }, cancel)?;
    Ok(match behind.signal.over(answer.window) {
        Pixels::Picture(behind) => Pixels::Picture(laid_on_picture(picture, &behind)),
        Pixels::Field(_) | Pixels::Map(_) => pixels,
    })
}

/// The picture as RGBA bytes, with its size, cost and faults in headers.
pub(crate) async fn frame(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Response, WebError> {
    let shot = load(&app, path).await?;
    app.look_at(&shot.code);
    let worker = app.clone();
    let (show, code, listeners) = (shot.show.clone(), shot.code.clone(), app.clone());
    let tell = move |progress: Option<Progress>| {
        let going = if progress.is_some() { Going::Running } else { Going::Done };
        let Progress { done, of: total } = progress.unwrap_or(Progress { done: 0, of: 0 });
        listeners.tell(Event::Making { show: show.clone(), code: code.clone(), going, done, total });
    };
    let work = move |cancel: &Cancel| {
        let started = Instant::now();
        let (answer, request) = answered(&worker, &shot, &query, cancel)?;
        let pixels = sent(&seen(&worker, &shot, &query, &answer, cancel)?, query.across, cancel)?;
        let working = shot.setup.picture.working;
        let view = View { working, ..query.view() };
        let body = bytes(&pixels, view, &worker.screens);
        let about = json!({
            "width": pixels.window().width(),
            "height": pixels.window().height(),
            "scale": request.scale.divisor(),
            "ms": started.elapsed().as_secs_f64() * 1e3,
            "kind": pixels.kind(),
            "data": corners(answer.signal.domain.data),
            "faults": answer.faults,
            "revision": shot.revision,
        });
        Ok(with_about(body, &about))
    };
    app.cpu.now_telling(work, tell).await
}

/// What is sent of the pixels: all of them, or the means of what each of fewer pixels covers.
fn sent(pixels: &Pixels, across: Option<u32>, cancel: &Cancel) -> Result<Pixels, WebError> {
    let (wide, high) = (pixels.window().width() as u64, pixels.window().height() as u64);
    match across {
        Some(across) if across > 0 && u64::from(across) < wide => {
            let down = (high * u64::from(across)).div_ceil(wide) as u32;
            pixels.shrunk(across, down, cancel).map_err(|_| WebError::Cancelled)
        }
        _ => Ok(pixels.clone()),
    }
}

fn corners(window: Window) -> [i32; 4] {
    [window.x0, window.y0, window.x1, window.y1]
}

/// JSON beside a body, escaped to plain ASCII for a header.
pub(crate) fn with_about(body: Vec<u8>, about: &Value) -> Response {
    let escaped: String = about
        .to_string()
        .chars()
        .map(|c| if c.is_ascii() { c.to_string() } else { format!("\\u{:04x}", (c as u32).min(0xffff)) })
        .collect();
    let mut response = ([(header::CONTENT_TYPE, "application/octet-stream")], body).into_response();
    if let Ok(value) = HeaderValue::from_str(&escaped) {
        response.headers_mut().insert("x-about", value);
    }
    response
}

/// A row's picture as a thumbnail, made when nobody waits for a larger one.
pub(crate) async fn thumb(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Response, WebError> {
    small(&app, path, query.at_scale(THUMB_SCALE)).await
}

/// A row's picture at the size the shot wall shows.
pub(crate) async fn still(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Response, WebError> {
    small(&app, path, query.at_scale(STILL_SCALE)).await
}

async fn small(app: &App, path: ShotPath, query: FrameQuery) -> Result<Response, WebError> {
    let shot = load(app, path).await?;
    let worker = app.clone();
    let png = app
        .cpu
        .later(move |cancel| {
            let (answer, _) = answered(&worker, &shot, &query, cancel)?;
            let pixels = answer.signal.over(answer.window);
            let working = shot.setup.picture.working;
            let view = View { exposure: thumb_exposure(&pixels), working, ..View::default() };
            png_of(&bytes(&pixels, view, &worker.screens), answer.window)
        })
        .await?;
    Ok(png_response(png))
}

/// A map is brightened or dimmed until its longest moves can be seen, however small or large they are.
fn thumb_exposure(pixels: &Pixels) -> f32 {
    match pixels {
        Pixels::Map(map) => {
            let longest = veil_pixels::warp::displace::Moves::new(map.clone()).longest();
            if longest > 0.0 {
                (veil_core::view::WHEEL_REACH / longest).log2().clamp(-24.0, 24.0)
            } else {
                0.0
            }
        }
        Pixels::Picture(_) | Pixels::Field(_) => 0.0,
    }
}

pub(crate) fn png_response(png: Vec<u8>) -> Response {
    let headers = [(header::CONTENT_TYPE, "image/png"), (header::CACHE_CONTROL, "private, max-age=3600")];
    (headers, png).into_response()
}

/// Opaque RGBA bytes as a PNG.
pub(crate) fn png_of(rgba: &[u8], window: Window) -> Result<Vec<u8>, WebError> {
    veil_media::encode_png(rgba, window.width() as u32, window.height() as u32).map_err(WebError::Media)
}

/// A picture of a row at thumbnail scale, for the rack and the wall.
pub(crate) fn small_picture(
    app: &App,
    shot: &ShotRecord,
    stage: StageId,
    cancel: &Cancel,
) -> Result<Vec<u8>, WebError> {
    let frames = shot.setup.picture.frames;
    let frame = f64::from(frames.first) + (frames.count() / 3) as f64;
    let query = FrameQuery::of(stage.0, frame).at_scale(STILL_SCALE);
    let (answer, _) = answered(app, shot, &query, cancel)?;
    let pixels = answer.signal.over(answer.window);
    let view = View { working: shot.setup.picture.working, ..View::default() };
    png_of(&bytes(&pixels, view, &app.screens), answer.window)
}

/// How much a row changes its main input.
pub(crate) async fn effect(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let request = query.at_scale(THUMB_SCALE).request()?;
            let plates = worker.plates(&shot.folder)?;
            let effect = worker.engine.effect(&shot.setup, &*plates, request, cancel)?;
            Ok(Json(json!({ "effect": effect })))
        })
        .await
}

/// Which passes come with a row's picture, and what became of them on the way; null where there are none.
pub(crate) async fn passes(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Json<Option<Travelled>>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |_| {
            let plates = worker.plates(&shot.folder)?;
            // A row whose input is in error has no passes to speak of; its fault is told with the picture.
            Ok(Json(worker.engine.travelled(&shot.setup, &*plates, query.request()?).unwrap_or_default()))
        })
        .await
}

#[derive(Deserialize)]
pub(crate) struct ProbeQuery {
    /// In full-resolution pixels.
    x: i32,
    /// See x.
    y: i32,
    #[serde(flatten)]
    frame: FrameText,
}

/// The same as [`FrameQuery`], whose numbers come as text when they are flattened.
#[derive(Deserialize)]
pub(crate) struct FrameText {
    stage: String,
    frame: String,
}

impl FrameText {
    fn query(&self) -> Result<FrameQuery, WebError> {
        let bad = |_| WebError::Bad("stage and frame must be numbers".into());
        let frame =
            self.frame.parse::<f64>().map_err(|_| WebError::Bad("stage and frame must be numbers".into()))?;
        let stage = self.stage.parse().map_err(bad)?;
        Ok(FrameQuery::of(stage, frame))
    }
}

/// The floats of one pixel of full resolution.
pub(crate) async fn probe(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<ProbeQuery>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    let window = Window::new(query.x, query.y, query.x.saturating_add(1), query.y.saturating_add(1));
    app.cpu
        .now(move |cancel| {
            let request = Request { window: Some(window), ..query.frame.query()?.request()? };
            let plates = worker.plates(&shot.folder)?;
            let answer = worker.engine.answer(&shot.setup, &*plates, request, cancel)?;
            let pixels = answer.signal.over(window);
            Ok(Json(json!({ "kind": pixels.kind(), "values": pixels.first() })))
        })
        .await
}

#[derive(Deserialize)]
pub(crate) struct RegionQuery {
    x0: i32,
    y0: i32,
    x1: i32,
    y1: i32,
    #[serde(flatten)]
    frame: FrameText,
}

/// Least, mean and most over a box of full-resolution pixels.
pub(crate) async fn region(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<RegionQuery>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    let picture = shot.setup.picture;
    let asked = Window::new(query.x0, query.y0, query.x1, query.y1);
    let window = asked.intersect(Window::sized(picture.width, picture.height));
    app.cpu
        .now(move |cancel| {
            let request = Request { window: Some(window), ..query.frame.query()?.request()? };
            let plates = worker.plates(&shot.folder)?;
            let answer = worker.engine.answer(&shot.setup, &*plates, request, cancel)?;
            let found = answer.signal.over(window).statistics(window);
            let found = found.ok_or_else(|| WebError::Bad("the box holds no pixel of the picture".into()))?;
            Ok(Json(json!({ "least": found.least, "mean": found.mean, "most": found.most })))
        })
        .await
}

/// Which frames of the range are held at a scale.
pub(crate) async fn held(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Json<Vec<i32>>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let request = query.request()?;
            let plates = worker.plates(&shot.folder)?;
            let frames = shot.setup.picture.frames;
            let mut held = Vec::new();
            for frame in frames.first..=frames.last {
                cancel.check().map_err(|_| WebError::Cancelled)?;
                let at = Request { frame: f64::from(frame), ..request };
                if worker.engine.holds(&shot.setup, &*plates, at) {
                    held.push(frame);
                }
            }
            Ok(Json(held))
        })
        .await
}
