//! Media of a show: what is found in its folder, and what their Cryptomattes name.

use std::path::Path as FilePath;

use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::Response;
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::choice::Choice;
use veil_core::placing::{Placed, Placing};
use veil_core::plates::{Alpha, IdKind, Named, PlateError, Plates, Role, Things};
use veil_core::setup::{ColourSpace, Command, Media, MediaId, PictureFormat, Setup, Working};
use veil_core::signal::{Pixels, SignalKind};
use veil_core::view::{View, bytes};
use veil_media::{FilePlates, FoundMedia, inspect_while};
use veil_pixels::Cancel;
use veil_store::{ShotRecord, ShotSummary, ShowRecord};

use crate::App;
use crate::cpu::{blocking, called_off_with_its_request};
use crate::error::WebError;
use crate::event::Event;
use crate::folders;
use crate::frames::png_of;
use crate::fresh::{Tag, is_known};
use crate::imports;
use crate::json::Json;
use crate::setups::{ShotPath, load, media_of};

/// Lists every sequence and still below a show's folder, until it is called off. A file that cannot be read is told, not
/// listed; of a clip that is decoded windows hear how far that is.
pub(crate) fn list_all(app: &App, show: &ShowRecord, cancel: &Cancel) -> Result<Vec<String>, WebError> {
    let root = app.store.folder().show(&show.folder);
    let mut faults = Vec::new();
    for found in veil_media::scan(&root)?.into_iter().chain(folders::footage(app, show)) {
        if cancel.is_set() {
            return Err(WebError::Cancelled);
        }
        let decoded = |frames| {
            app.tell(Event::Decoding { show: show.name.clone(), file: found.path.clone(), frames });
        };
        match inspected(&root, &found, cancel, &decoded) {
            Ok(value) => app.store.list_media(show.id, &found.path, &value)?,
            Err(error) => faults.push(error.to_string()),
        }
    }
    Ok(faults)
}

fn inspected(
    root: &FilePath,
    found: &FoundMedia,
    cancel: &Cancel,
    decoded: &dyn Fn(usize),
) -> Result<Value, WebError> {
    let looked = inspect_while(&root.join(&found.path), cancel, decoded);
    let mut value = json!(looked.map_err(|error| error.below(root))?);
    value["path"] = json!(found.path);
    Ok(value)
}

#[derive(Deserialize)]
pub(crate) struct ScanRequest {
    /// Files that were just brought in, by their paths; what is in the bin of them comes out of it.
    #[serde(default)]
    files: Vec<String>,
}

pub(crate) async fn scan(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<ScanRequest>,
) -> Result<Json<Value>, WebError> {
    called_off_with_its_request(move |cancel| {
        let show = app.store.show(&show)?;
        for found in veil_media::grouped(request.files) {
            app.store.bring_back_media(show.id, &imports::path_of(&found.path))?;
        }
        let faults = list_all(&app, &show, cancel)?;
        Ok(Json(json!({ "faults": faults })))
    })
    .await
}

#[derive(Deserialize)]
pub(crate) struct ColourRequest {
    colour: ColourSpace,
}

pub(crate) async fn set_colour(
    State(app): State<App>,
    Path((show, id)): Path<(String, i32)>,
    Json(request): Json<ColourRequest>,
) -> Result<Json<Value>, WebError> {
    blocking(move || {
        let show = app.store.show(&show)?;
        let record = app.store.media(show.id)?.into_iter().find(|record| record.id == id);
        let record = record.ok_or_else(|| WebError::Missing("such plate".into()))?;
        app.store.set_media_colour(id, request.colour)?;
        for line in app.store.shots(&show.name)? {
            recolour(&app, line.shot, &record.path, request.colour)?;
        }
        Ok(Json(json!({})))
    })
    .await
}

/// What a plate's colours mean, in a shot that uses it: a step of its own there, which the shot's undo takes back.
fn recolour(app: &App, shot: ShotRecord, path: &str, colour: ColourSpace) -> Result<(), WebError> {
    let of_plate = shot.setup.media.iter().filter(|media| media.path == path && media.colour != colour);
    let commands: Vec<Command> =
        of_plate.map(|media| Command::ChangeMedia { media: Media { colour, ..media.clone() } }).collect();
    if commands.is_empty() {
        return Ok(());
    }
    let revision = app.store.edit(shot.id, shot.revision, &Command::Together { commands })?.revision;
    app.tell(Event::Shot { show: shot.show, code: shot.code, revision });
    Ok(())
}

#[derive(Deserialize)]
pub(crate) struct ReferenceRequest {
    reference: bool,
}

pub(crate) async fn set_reference(
    State(app): State<App>,
    Path((_, id)): Path<(String, i32)>,
    Json(request): Json<ReferenceRequest>,
) -> Result<Json<Value>, WebError> {
    blocking(move || {
        app.store.set_reference(id, request.reference)?;
        Ok(Json(json!({})))
    })
    .await
}

#[derive(Deserialize)]
pub(crate) struct AliasRequest {
    layer: String,
    /// None forgets what was taught.
    role: Option<Role>,
}

/// Teaches a show what layers of a name are for.
pub(crate) async fn teach(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<AliasRequest>,
) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    let shots = blocking(move || {
        let show = worker.store.show(&show)?;
        worker.store.teach(show.id, &request.layer, request.role)?;
        worker.forget_plates(&show.folder);
        Ok(worker.store.shots(&show.name)?)
    })
    .await?;
    tell_of_change(&app, shots);
    Ok(Json(json!({})))
}

#[derive(Deserialize)]
pub(crate) struct WorkingRequest {
    working: Working,
}

/// Chooses the colours that a show works in; every open shot of it is told.
pub(crate) async fn set_working(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<WorkingRequest>,
) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    let shots = blocking(move || {
        let show = worker.store.show(&show)?;
        worker.store.set_working(show.id, request.working)?;
        Ok(worker.store.shots(&show.name)?)
    })
    .await?;
    tell_of_change(&app, shots);
    Ok(Json(json!({})))
}

fn tell_of_change(app: &App, shots: Vec<ShotSummary>) {
    for line in shots {
        let ShotRecord { show, code, revision, .. } = line.shot;
        app.tell(Event::Shot { show, code, revision });
    }
}

/// A small picture of a medium's first frame.
pub(crate) async fn picture(
    State(app): State<App>,
    Path((show, id)): Path<(String, i32)>,
    asked: HeaderMap,
) -> Result<Response, WebError> {
    let store = app.store.clone();
    let (show, record) = blocking(move || {
        let show = store.show(&show)?;
        let record = store.media(show.id)?.into_iter().find(|record| record.id == id);
        Ok((show, record.ok_or_else(|| WebError::Missing("such plate".into()))?))
    })
    .await?;
    let worker = app.clone();
    app.cpu
        .later(move |cancel| {
            let (media, plates) = (media_of(&record), worker.plates(&show.folder)?);
            let frame = media.frames.map_or(0, |frames| frames.first);
            let print = plates.fingerprint(&media, frame, cancel)?;
            let tag = Tag::of(format!("{print} {:?}", media.colour).as_bytes());
            if is_known(&asked, &tag) {
                return Ok(tag.unchanged());
            }
            let pixels = plates.pass(&media, frame, Role::Beauty, cancel)?;
            let alpha = plates.about(&media, frame, cancel)?.alpha;
            let pixels = seen(pixels, alpha, &media, cancel)?;
            if pixels.kind() != SignalKind::Picture {
                return Err(WebError::Missing("picture".into()));
            }
            let [wide, high] = [pixels.window().width(), pixels.window().height()].map(|side| side as u32);
            let divisor = (wide / 200).clamp(1, 64);
            let small = pixels.shrunk(wide.div_ceil(divisor), high.div_ceil(divisor), cancel);
            let small = small.map_err(|_| WebError::Cancelled)?;
            Ok(tag.png(png_of(&bytes(&small, View::default(), &worker.screens), small.window())?))
        })
        .await
}

/// A rendered frame as PNG.
pub(crate) fn rendered_picture(
    app: &App,
    media: &Media,
    frame: i32,
    asked: &HeaderMap,
    cancel: &Cancel,
) -> Result<Response, WebError> {
    let tag = Tag::of(&app.rendered().fingerprint(media, frame, cancel)?.to_le_bytes());
    if is_known(asked, &tag) {
        return Ok(tag.unchanged());
    }
    let alpha = app.rendered().about(media, frame, cancel)?.alpha;
    let pixels = seen(app.rendered().pass(media, frame, Role::Beauty, cancel)?, alpha, media, cancel)?;
    let window = pixels.window();
    Ok(tag.png(png_of(&bytes(&pixels, View::default(), &app.screens), window)?))
}

/// A file's picture in linear BT.709, for looking at.
fn seen(pixels: Pixels, alpha: Alpha, media: &Media, cancel: &Cancel) -> Result<Pixels, WebError> {
    let Pixels::Picture(picture) = pixels else { return Ok(pixels) };
    let picture = alpha.premultiplied(picture, cancel).map_err(|_| WebError::Cancelled)?;
    let linear = media.colour.space().converted(ColourSpace::Linear.space(), &picture, cancel);
    Ok(Pixels::Picture(linear.map_err(|_| WebError::Cancelled)?))
}

#[derive(Deserialize)]
pub(crate) struct PickQuery {
    media: u32,
    frame: i32,
    #[serde(default)]
    x: i32,
    #[serde(default)]
    y: i32,
    #[serde(default)]
    of: IdKind,
    /// How the plate stands in the shot.
    #[serde(default)]
    placed: PlacedSaid,
}

/// A [`Placing`] by its id.
#[derive(Clone, Copy, Default)]
struct PlacedSaid(Placing);

impl<'de> Deserialize<'de> for PlacedSaid {
    fn deserialize<D: serde::Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let id = String::deserialize(from)?;
        let known = Placing::OPTIONS.iter().position(|option| option.id == id);
        let known = known.and_then(|index| Placing::ALL.get(index)).copied();
        known
            .map(Self)
            .ok_or_else(|| serde::de::Error::custom(format!("`{id}` is no way to stand in a shot")))
    }
}

fn medium_of(setup: &Setup, media: u32) -> Result<&Media, WebError> {
    setup.medium(MediaId(media)).ok_or_else(|| WebError::Missing("such plate in this setup".into()))
}

/// The named thing under a pixel of full resolution.
pub(crate) async fn pick(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<PickQuery>,
) -> Result<Json<Value>, WebError> {
    let (of, placing, seen) = (query.of, query.placed.0, [query.x, query.y]);
    of_plates(app, path, query, move |plates, (media, frame, shot), cancel| {
        let (file, about) = (plates.domain(media, frame, cancel)?, plates.about(media, frame, cancel)?);
        let placed = Placed::of(placing, file, about, shot);
        let place = placed.back(seen.map(|pixel| f64::from(pixel) + 0.5)).map(|place| place.floor() as i32);
        let id = plates.id_at(media, frame, of, place, cancel)?;
        let things = plates.things(media, frame, of)?;
        Ok(json!({ "name": id.and_then(|id| things.name_of(id)) }))
    })
    .await
}

/// Every thing that a medium's Cryptomatte names.
pub(crate) async fn things(
    State(app): State<App>,
    path: ShotPath,
    Query(query): Query<PickQuery>,
) -> Result<Json<Value>, WebError> {
    let of = query.of;
    of_plates(app, path, query, move |plates, (media, frame, _), _| {
        let listed = |named: &Named| json!({ "name": named.name, "swatch": named.id.swatch() });
        let Things(things) = plates.things(media, frame, of)?;
        Ok(json!({ "names": things.iter().map(listed).collect::<Vec<_>>() }))
    })
    .await
}

/// What `ask` finds out of a frame of a medium.
async fn of_plates(
    app: App,
    path: ShotPath,
    query: PickQuery,
    ask: impl FnOnce(&FilePlates, (&Media, i32, &PictureFormat), &Cancel) -> Result<Value, PlateError>
    + Send
    + 'static,
) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    let worker = app.clone();
    app.cpu
        .now(move |cancel| {
            let media = medium_of(&shot.setup, query.media)?;
            let frame = media.held_frame(f64::from(query.frame), 0);
            let plates = worker.plates(&shot.folder)?;
            Ok(Json(ask(&plates, (media, frame, &shot.setup.picture), cancel)?))
        })
        .await
}
