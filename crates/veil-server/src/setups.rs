//! A shot's setup: its state, and the commands that change it.

use std::collections::BTreeSet;

use axum::extract::{Path, Query, State};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use serde_json::{Value, json};
use veil_core::braid::lay_out;
use veil_core::feed::{ControlAxis, Formula, PixelFormula};
use veil_core::folds::Folds;
use veil_core::setup::{
    ColourSpace, Command, CopiedRows, Earlier, Edit, FrameNumber, Media, RowDifference, Setting, Setup,
    StageId,
};
use veil_core::shape;
use veil_store::{Applied, NextStep, ShotRecord, Store, StoreError, VersionRecord};

use crate::App;
use crate::controls::{RowControls, row_controls};
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::Event;
use crate::json::Json;

/// Which shot a request is about.
pub(crate) type ShotPath = Path<(String, String)>;

/// Loads a shot without holding up the threads that answer; of `SG010@3`, with the setup of version 3.
pub(crate) async fn load(app: &App, Path((show, code)): ShotPath) -> Result<ShotRecord, WebError> {
    let store = app.store.clone();
    blocking(move || {
        let Some((code, number)) = code.split_once('@') else { return Ok(store.shot(&show, &code)?) };
        let shot = store.shot(&show, code)?;
        let number = number.parse().map_err(|_| WebError::Missing(format!("version `{number}`")))?;
        let setup = store.version(shot.id, number)?;
        Ok(ShotRecord { code: format!("{code}@{number}"), setup, ..shot })
    })
    .await
}

/// The same for what changes a shot: an opened version stays as it is.
pub(crate) async fn load_live(app: &App, path: ShotPath) -> Result<ShotRecord, WebError> {
    let shot = load(app, path).await?;
    match shot.code.split_once('@') {
        None => Ok(shot),
        Some((_, number)) => Err(WebError::Bad(format!(
            "version {number} is read-only; `go on from here` makes it the live setup"
        ))),
    }
}

#[derive(Deserialize)]
pub(crate) struct StateQuery {
    /// What is opened and shut, as JSON.
    #[serde(default)]
    folds: String,
}

/// All that the workbench draws besides pictures.
#[derive(Serialize)]
pub(crate) struct ShotState {
    revision: i64,
    setup: Box<RawValue>,
    braid: Box<RawValue>,
    /// What every row's controls are set to; what they are is told once, by the registry.
    controls: Vec<RowControls>,
    /// Rows whose controls are not told have those that they had at this revision.
    #[serde(skip_serializing_if = "Option::is_none")]
    since: Option<i64>,
    undo: Option<NextStep>,
    redo: Option<NextStep>,
    version: i32,
    /// What the last step was about.
    step: Option<StepDone>,
}

#[derive(Serialize)]
struct StepDone {
    label: String,
    row: Option<StageId>,
}

fn folds_of(text: &str) -> Result<Folds, WebError> {
    if text.is_empty() {
        return Ok(Folds::default());
    }
    serde_json::from_str(text).map_err(|error| WebError::Bad(format!("this is no fold: {error}")))
}

/// Row numbers written with commas between.
fn listed(open: &str) -> BTreeSet<StageId> {
    open.split(',').filter_map(|id| id.parse().ok()).map(StageId).collect()
}

/// What core wrote, to stand in an answer as it is.
fn text_of(written: Result<String, serde_json::Error>) -> Result<Box<RawValue>, WebError> {
    written.and_then(RawValue::from_string).map_err(|error| WebError::Internal(error.to_string()))
}

/// A setup that a window has seen, and its revision.
struct Seen {
    revision: i64,
    setup: Setup,
}

async fn state_of(
    app: &App,
    shot: ShotRecord,
    folds: Folds,
    step: Option<StepDone>,
    seen: Option<Seen>,
) -> Result<Json<ShotState>, WebError> {
    let store = app.store.clone();
    blocking(move || {
        let (undo, redo) = store.next_steps(shot.id)?;
        let version = store.versions(shot.id)?.first().map_or(0, |version| version.number);
        Ok(Json(ShotState {
            revision: shot.revision,
            braid: text_of(lay_out(&shot.setup, &folds).to_json())?,
            controls: row_controls(&shot.setup, seen.as_ref().map(|seen| &seen.setup)),
            since: seen.map(|seen| seen.revision),
            setup: text_of(shot.setup.to_json())?,
            undo,
            redo,
            version,
            step,
        }))
    })
    .await
}

pub(crate) async fn state(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<StateQuery>,
) -> Result<Json<ShotState>, WebError> {
    let shot = load(&app, path).await?;
    state_of(&app, shot, folds_of(&query.folds)?, None, None).await
}

#[derive(Deserialize)]
pub(crate) struct EditRequest {
    base: i64,
    command: Box<RawValue>,
    #[serde(default)]
    folds: Folds,
    /// The mark of the window that it comes from.
    #[serde(default)]
    pane: String,
}

/// A command as it came, or what is wrong with it.
pub(crate) fn command_of(text: &RawValue) -> Result<Command, WebError> {
    Command::from_json(text.get()).map_err(|error| WebError::Bad(format!("this is no edit: {error}")))
}

pub(crate) async fn edit(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<EditRequest>,
) -> Result<Json<ShotState>, WebError> {
    let command = command_of(&request.command)?;
    let shot = load_live(&app, path).await?;
    let store = app.store.clone();
    let (id, base) = (shot.id, request.base);
    let applied = blocking(move || Ok(store.edit_in(&request.pane, id, base, &command)?)).await?;
    answer(&app, shot, base, applied, request.folds).await
}

#[derive(Deserialize)]
pub(crate) struct StepRequest {
    /// The revision that is seen where it is asked for.
    pub(crate) base: i64,
    #[serde(default)]
    pub(crate) folds: Folds,
}

pub(crate) async fn undo(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<StepRequest>,
) -> Result<Json<ShotState>, WebError> {
    step(app, path, request, Store::undo).await
}

pub(crate) async fn redo(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<StepRequest>,
) -> Result<Json<ShotState>, WebError> {
    step(app, path, request, Store::redo).await
}

async fn step(
    app: App,
    path: ShotPath,
    request: StepRequest,
    which: fn(&Store, i32, i64) -> Result<Applied, StoreError>,
) -> Result<Json<ShotState>, WebError> {
    let shot = load_live(&app, path).await?;
    let (store, id) = (app.store.clone(), shot.id);
    let applied = blocking(move || Ok(which(&store, id, request.base)?)).await?;
    answer(&app, shot, request.base, applied, request.folds).await
}

/// What came of a step on a shot, for the window that has seen the revision `base` of it.
pub(crate) async fn answer(
    app: &App,
    shot: ShotRecord,
    base: i64,
    applied: Applied,
    folds: Folds,
) -> Result<Json<ShotState>, WebError> {
    app.tell(Event::Shot { show: shot.show.clone(), code: shot.code.clone(), revision: applied.revision });
    let step = StepDone { label: applied.edit.label, row: applied.edit.row };
    let before = Seen { revision: shot.revision, setup: shot.setup };
    let shot = ShotRecord { revision: applied.revision, setup: applied.setup, ..shot };
    let seen = (base == before.revision).then_some(before);
    state_of(app, shot, folds, Some(step), seen).await
}

pub(crate) async fn versions(
    State(app): State<App>,
    path: ShotPath,
) -> Result<Json<Vec<VersionRecord>>, WebError> {
    let shot = load(&app, path).await?;
    let store = app.store.clone();
    blocking(move || Ok(Json(store.versions(shot.id)?))).await
}

#[derive(Deserialize)]
pub(crate) struct VersionRequest {
    #[serde(default)]
    name: String,
}

pub(crate) async fn keep_version(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<VersionRequest>,
) -> Result<Json<VersionRecord>, WebError> {
    let shot = load_live(&app, path).await?;
    let store = app.store.clone();
    blocking(move || Ok(Json(store.keep_version(shot.id, request.name.trim())?))).await
}

/// Work goes on from a version: it becomes the live setup, as one step.
pub(crate) async fn go_on_from(
    State(app): State<App>,
    Path((show, code, number)): Path<(String, String, i32)>,
    Json(request): Json<StepRequest>,
) -> Result<Json<ShotState>, WebError> {
    let shot = load_live(&app, Path((show, code))).await?;
    let (store, id, base) = (app.store.clone(), shot.id, request.base);
    let applied = blocking(move || {
        let setup = Box::new(store.version(id, number)?);
        Ok(store.edit(id, base, &Command::GoOnFrom { setup, once: Earlier::Version(number) })?)
    })
    .await?;
    answer(&app, shot, base, applied, request.folds).await
}

#[derive(Deserialize)]
pub(crate) struct DifferenceQuery {
    /// The older version's number.
    from: i32,
    /// The newer one's; the live setup where it is left out.
    to: Option<i32>,
}

/// What two versions, or a version and the live setup, differ in.
pub(crate) async fn difference(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<DifferenceQuery>,
) -> Result<Json<Vec<RowDifference>>, WebError> {
    let shot = load(&app, path).await?;
    let store = app.store.clone();
    blocking(move || {
        let from = store.version(shot.id, query.from)?;
        let to = query.to.map(|number| store.version(shot.id, number)).transpose()?.unwrap_or(shot.setup);
        Ok(Json(to.difference(&from)))
    })
    .await
}

/// The values of a row's fed controls at a frame, by control and axis.
pub(crate) async fn values(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<ValuesQuery>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let id = StageId(query.stage);
    let moment = shot.setup.moment(query.frame.get());
    let of_control = |(id, setting): (String, Setting)| {
        let values: Vec<f64> = setting.feeds().iter().map(|feed| feed.at(moment, &shot.setup)).collect();
        (id, json!(values))
    };
    let declared = shot.setup.stage(id).map(|entry| shot.setup.settings(entry)).unwrap_or_default();
    let own = shot.setup.own_of(id).iter().map(|own| (own.id.clone(), own.setting.clone()));
    Ok(Json(Value::Object(declared.into_iter().chain(own).map(of_control).collect())))
}

#[derive(Deserialize)]
pub(crate) struct ValuesQuery {
    stage: u32,
    frame: FrameNumber,
}

#[derive(Deserialize)]
pub(crate) struct CurveRequest {
    stage: StageId,
    control: String,
    #[serde(default)]
    axis: usize,
    /// What the control would be set to.
    setting: Box<RawValue>,
    from: FrameNumber,
    count: usize,
}

/// Longest curve that is worked out.
const LONGEST_CURVE: usize = 2000;

/// The numbers that a setting would give, before it is applied.
pub(crate) async fn curve(
    State(app): State<App>,
    path: ShotPath,
    Json(request): Json<CurveRequest>,
) -> Result<Json<Vec<f64>>, WebError> {
    let shot = load(&app, path).await?;
    blocking(move || {
        let CurveRequest { stage, control, axis, setting, from, count } = request;
        let setting = Setting::from_json(setting.get())
            .map_err(|error| WebError::Bad(format!("this is no setting: {error}")))?;
        let set = Command::Set { stage, control: control.clone(), setting: Some(setting) };
        let (tried, _) = Edit::of(&set, &shot.setup)?;
        Ok(Json(shape::curve(
            &tried,
            &ControlAxis { stage, control, axis },
            from.get(),
            count.min(LONGEST_CURVE),
        )))
    })
    .await
}

#[derive(Deserialize)]
pub(crate) struct FormulaQuery {
    text: String,
    /// The row that it stands in.
    stage: u32,
    /// Whether it is one of pixels.
    #[serde(default)]
    pixels: bool,
    /// Words that are known besides, with commas between.
    #[serde(default)]
    named: String,
}

/// Where a formula goes wrong and what was expected there; nothing where it is understood.
pub(crate) async fn formula(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<FormulaQuery>,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let words = match query.pixels {
        true => PixelFormula::parse(&query.text).map(|formula| formula.words().to_vec()),
        false => Formula::parse(&query.text).map(|formula| formula.words().to_vec()),
    };
    let words = match words {
        Ok(words) => words,
        Err(error) => return Ok(Json(json!({ "at": error.at, "expected": error.expected }))),
    };
    let named: Vec<&str> = query.named.split(',').collect();
    let unknown = words.into_iter().find(|word| {
        !named.contains(&word.as_str()) && shot.setup.word_in(StageId(query.stage), word).is_none()
    });
    let Some(word) = unknown else { return Ok(Json(json!({}))) };
    let at = query.text.find(&word).map_or(0, |byte| query.text[..byte].chars().count());
    let expected = format!("a name that is known, not `{word}`");
    Ok(Json(json!({ "at": at, "expected": expected, "length": word.chars().count() })))
}

#[derive(Deserialize)]
pub(crate) struct RowsQuery {
    /// `3,9`.
    rows: String,
}

/// Rows as text, to be put in elsewhere.
pub(crate) async fn rows(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<RowsQuery>,
) -> Result<Json<CopiedRows>, WebError> {
    let shot = load(&app, path).await?;
    let rows: Vec<StageId> = listed(&query.rows).into_iter().collect();
    Ok(Json(CopiedRows::of(&shot.setup, &rows)?))
}

/// The media of a show, as a setup would list them.
pub(crate) async fn show_media(
    State(app): State<App>,
    Path(show): Path<String>,
) -> Result<Json<Value>, WebError> {
    blocking(move || {
        let show = app.store.show(&show)?;
        let listed = app.store.media(show.id)?.into_iter().map(|record| {
            let mut value = json!(media_of(&record));
            value["record"] = json!(record.id);
            value["reference"] = json!(record.reference);
            value
        });
        Ok(Json(listed.collect()))
    })
    .await
}

/// A show's medium as a setup lists it.
pub(crate) fn media_of(record: &veil_store::MediaRecord) -> Media {
    let file = record.path.rsplit('/').next().unwrap_or(&record.path);
    let name = file.split('.').next().unwrap_or(file);
    let guessed = serde_json::from_value(record.inspected["colour"].clone()).unwrap_or(ColourSpace::Linear);
    Media {
        id: veil_core::setup::MediaId(0),
        name: name.to_owned(),
        path: record.path.clone(),
        frames: serde_json::from_value(record.inspected["frames"].clone()).unwrap_or(None),
        colour: record.colour.unwrap_or(guessed),
        content: None,
    }
}
