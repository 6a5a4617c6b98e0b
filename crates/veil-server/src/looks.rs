//! Other ways to look at a row: its values counted, where it folds, how far it travels, where its places come from.

use axum::extract::{Query, State};
use axum::response::Response;
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::engine::WayTo;
use veil_core::findings::{self, Finding};
use veil_core::scopes::{Scopes, scopes};
use veil_core::setup::StageId;
use veil_core::shape::kind_of;
use veil_core::signal::{Pixels, SignalKind};
use veil_core::view::{self, View};
use veil_pixels::warp::fold::{folded, travel};
use veil_pixels::{Cancel, Field, Map, Window};
use veil_store::ShotRecord;

use crate::App;
use crate::error::WebError;
use crate::frames::{FrameQuery, answered, looked_at, with_about};
use crate::json::Json;
use crate::setups::{ShotPath, load};

/// One to this many: what is looked at as a whole.
const WHOLE_SCALE: u32 = 3;
/// What is striped to be seen: folds, and what hardly moves.
const TINT: [u8; 3] = [236, 122, 94];
/// One to this many: travel over a whole range.
const TRAVEL_SCALE: u32 = 8;
/// Columns and rows of the places that grips are carried by.
const CARRY: [u32; 2] = [97, 55];

#[derive(Deserialize)]
pub(crate) struct BoxQuery {
    /// Four numbers with commas between, in full-resolution pixels: left, top, right, bottom.
    #[serde(default)]
    within: Option<String>,
}

impl BoxQuery {
    fn window(&self) -> Result<Option<Window>, WebError> {
        let Some(text) = &self.within else { return Ok(None) };
        let numbers: Vec<i32> = text.split(',').filter_map(|number| number.parse().ok()).collect();
        match numbers[..] {
            [x0, y0, x1, y1] => Ok(Some(Window::new(x0, y0, x1, y1))),
            _ => Err(WebError::Bad(format!("`{text}` is no box"))),
        }
    }
}

/// What values the picture has, as a whole or within a box.
pub(crate) async fn counted(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
    Query(asked): Query<BoxQuery>,
) -> Result<Json<Scopes>, WebError> {
    let within = asked.window()?;
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let query = query.at_scale(if within.is_some() { 1 } else { WHOLE_SCALE });
            let (answer, _) = answered(&worker, &shot, &query, cancel)?;
            let view = View { working: shot.setup.picture.working, ..query.view() };
            let window = within.map_or(answer.window, |within| within.intersect(answer.window));
            if window.is_empty() {
                return Err(WebError::Bad("the box holds no pixel of the picture".into()));
            }
            Ok(Json(scopes(&answer.signal.over(window), view, &worker.screens)))
        })
        .await
}

/// A tint where the shown row's warps lay its picture over itself, and the share that they do.
pub(crate) async fn folds(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Response, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let query = query.at_scale(2);
            let places = places(&worker, &shot, &query, WayTo::Head, cancel)?;
            let Some(places) = places else { return Err(WebError::Missing("such row".into())) };
            let mut field = folded(&places, cancel).map_err(|_| WebError::Cancelled)?;
            if let Some(bent) = bent(&worker, &shot, &query, cancel)? {
                field
                    .fill_rows(cancel, |y, row| {
                        for (out, bent) in row.iter_mut().zip(bent.row(y)) {
                            *out = out.max(*bent);
                        }
                    })
                    .map_err(|_| WebError::Cancelled)?;
            }
            let told = json!({ "share": view::mean(&field) });
            Ok(with_about(view::striped(&field, TINT), &about(field.window(), told)))
        })
        .await
}

/// How far each pixel of the shown row travels over the range, in false colour, striped where that is hardly anything beside the
/// rest; the longest and mean way, and the share that is striped.
pub(crate) async fn motion(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<RangeQuery>,
) -> Result<Response, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let query_at = |frame: f64| FrameQuery::of(query.stage, frame).at_scale(TRAVEL_SCALE);
            let frames = shot.setup.picture.frames;
            let (first, last) = (query.first.max(frames.first), query.last.min(frames.last));
            let mut before: Option<Map> = None;
            let mut travelled: Option<Field> = None;
            for frame in first..=last {
                let at = f64::from(frame);
                let Some(after) = places(&worker, &shot, &query_at(at), WayTo::Head, cancel)? else { break };
                let sum = travelled.get_or_insert_with(|| Field::clear(after.window()));
                if let Some(before) = &before {
                    travel(sum, before, &after, cancel).map_err(|_| WebError::Cancelled)?;
                }
                before = Some(after);
            }
            let field =
                travelled.ok_or_else(|| WebError::Bad("the range holds no frame of the shot".into()))?;
            let full = f64::from(TRAVEL_SCALE);
            let (mut rgba, longest) = view::in_false_colour(&field);
            let dull = view::dull(&field, cancel).map_err(|_| WebError::Cancelled)?;
            view::laid_over(&mut rgba, &view::striped(&dull, TINT));
            let told = json!({
                "longest": f64::from(longest) * full,
                "mean": view::mean(&field) * full,
                "share": view::mean(&dull),
            });
            Ok(with_about(rgba, &about(field.window(), told)))
        })
        .await
}

#[derive(Deserialize)]
pub(crate) struct RangeQuery {
    stage: u32,
    first: i32,
    last: i32,
}

#[derive(Deserialize)]
pub(crate) struct CarryQuery {
    /// The row that is shown.
    shown: u32,
    /// The row whose places are wanted.
    stage: u32,
    frame: f64,
}

/// Where the pixels of the shown row stand in another row's picture: pairs of floats in full-resolution pixels on an even
/// grid over the frame, row by row. Nothing where no way leads there.
pub(crate) async fn carry(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<CarryQuery>,
) -> Result<Response, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let shown = FrameQuery::of(query.shown, query.frame).at_scale(TRAVEL_SCALE);
            let to = WayTo::Row(StageId(query.stage));
            let Some(places) = places(&worker, &shot, &shown, to, cancel)? else {
                return Ok(with_about(Vec::new(), &json!({ "width": 0, "height": 0 })));
            };
            let [across, down] =
                [CARRY[0].min(places.window().width() as u32), CARRY[1].min(places.window().height() as u32)];
            let floats = view::places_on_grid(&places, [across, down], TRAVEL_SCALE as f32, cancel);
            let floats = floats.map_err(|_| WebError::Cancelled)?;
            Ok(with_about(floats, &json!({ "width": across, "height": down })))
        })
        .await
}

#[derive(Deserialize)]
pub(crate) struct MomentsQuery {
    shown: u32,
    /// The row whose moments are meant; none for the head of the shown row's strand.
    stage: Option<u32>,
}

/// The moment of a row further up that is seen in each frame of the shot; nothing where no way leads there.
pub(crate) async fn moments(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<MomentsQuery>,
) -> Result<Json<Option<Vec<f64>>>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let plates = worker.plates(&shot.folder)?;
            let to = query.stage.map_or(WayTo::Head, |stage| WayTo::Row(StageId(stage)));
            let shown = StageId(query.shown);
            Ok(Json(worker.engine.moments_of(&shot.setup, &*plates, shown, to, cancel)?))
        })
        .await
}

/// Faults of the whole setup that nobody should have to hunt for.
pub(crate) async fn found(State(app): State<App>, path: ShotPath) -> Result<Json<Vec<Finding>>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let plates = worker.plates(&shot.folder)?;
            Ok(Json(findings::find(&worker.engine, &shot.setup, &*plates, cancel)?))
        })
        .await
}

/// Moves on an even grid, for arrows: x, y and the move of each, in full-resolution pixels. Of a row that gives no map,
/// those of all warps above it together.
pub(crate) async fn arrows(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FrameQuery>,
) -> Result<Json<Value>, WebError> {
    const APART: i32 = 48;
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let query = query.at_scale(2);
            let (setup, request) = looked_at(&worker, &shot, &query)?;
            let map = if kind_of(&setup, request.stage) == SignalKind::Map {
                let (answer, _) = answered(&worker, &shot, &query, cancel)?;
                let Pixels::Map(map) = answer.signal.over(answer.window) else { return Ok(Json(json!([]))) };
                map
            } else {
                let plates = worker.plates(&shot.folder)?;
                let moves = worker.engine.moves(&setup, &*plates, request, WayTo::Head, cancel)?;
                let Some(moves) = moves else { return Ok(Json(json!([]))) };
                moves
            };
            let divisor = request.scale.divisor() as i32;
            let picture = Window::sized(shot.setup.picture.width, shot.setup.picture.height);
            let mut found = Vec::new();
            for y in (APART / 2..picture.y1).step_by(APART as usize) {
                for x in (APART / 2..picture.x1).step_by(APART as usize) {
                    // A map's moves are in full-resolution pixels at every scale.
                    let [right, down] = map.get(x / divisor, y / divisor).unwrap_or_default();
                    found.push([x as f32, y as f32, right, down]);
                }
            }
            Ok(Json(json!(found)))
        })
        .await
}

fn places(
    app: &App,
    shot: &ShotRecord,
    query: &FrameQuery,
    to: WayTo,
    cancel: &Cancel,
) -> Result<Option<Map>, WebError> {
    let (setup, request) = looked_at(app, shot, query)?;
    let plates = app.plates(&shot.folder)?;
    Ok(app.engine.places(&setup, &*plates, request, to, cancel)?)
}

/// What the shown row itself lays on its back.
fn bent(
    app: &App,
    shot: &ShotRecord,
    query: &FrameQuery,
    cancel: &Cancel,
) -> Result<Option<Field>, WebError> {
    let (setup, request) = looked_at(app, shot, query)?;
    let plates = app.plates(&shot.folder)?;
    Ok(app.engine.folds(&setup, &*plates, request, cancel)?)
}

fn about(window: Window, mut told: Value) -> Value {
    told["width"] = json!(window.width());
    told["height"] = json!(window.height());
    told
}
