//! New shots: on a plate, on files that came in, from another shot's setup, or empty.

use axum::extract::{Path, State};
use serde::Deserialize;
use serde_json::{Value, json};
use veil_core::controls::MediaSort;
use veil_core::setup::{
    Command, Edit, Frames, Media, NewRow, PictureFormat, Setting, Setup, Source, Working,
};
use veil_media::grouped;
use veil_store::{MediaRecord, NewShot, ShotRecord, ShowRecord, Store, StoreError};

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::imports;
use crate::json::Json;
use crate::setups::media_of;

#[derive(Deserialize)]
pub(crate) struct NewShotRequest {
    code: String,
    #[serde(default)]
    title: String,
    /// A medium of the show that it starts with.
    #[serde(default)]
    media: Option<i32>,
    /// Where there is none: size, rate and range.
    #[serde(default)]
    picture: Option<PictureFormat>,
    /// A shot of the show whose setup it starts from, by its code.
    #[serde(default)]
    from: Option<String>,
}

pub(crate) async fn new_shot(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<NewShotRequest>,
) -> Result<Json<Value>, WebError> {
    let store = app.store.clone();
    blocking(move || {
        let record = store.show(&show)?;
        let setup = match (&request.from, request.media) {
            (Some(from), _) => {
                let other = store.shot(&show, from)?.setup.without_bakes();
                Setup { name: request.title.clone(), ..other }
            }
            (None, Some(id)) => setup_on(&store, record.id, id, &request.title)?,
            (None, None) => {
                let picture = request
                    .picture
                    .ok_or_else(|| WebError::Bad("give a plate, or size, rate and range".into()))?;
                Setup::empty(request.title.clone(), picture)
            }
        };
        setup.check()?;
        let code = request.code.trim().to_uppercase();
        let shot = store.make_shot(&NewShot {
            show: &show,
            code: &code,
            title: request.title.trim(),
            setup: &setup,
        })?;
        Ok(Json(json!({ "address": format!("/shots/{}/{}", shot.show, shot.code) })))
    })
    .await
}

/// A setup with one plate, of the plate's size and range.
pub(crate) fn setup_on(store: &Store, show: i32, media: i32, title: &str) -> Result<Setup, WebError> {
    let fps = store.shows()?.into_iter().find(|known| known.id == show).map_or(24.0, |show| show.fps);
    let missing = || WebError::Missing("such plate".into());
    let record = store.media(show)?.into_iter().find(|record| record.id == media).ok_or_else(missing)?;
    let number = |pointer: &str| record.inspected.pointer(pointer).and_then(Value::as_i64).unwrap_or(0);
    let frames: Option<Frames> = serde_json::from_value(record.inspected["frames"].clone()).unwrap_or(None);
    let picture = PictureFormat {
        width: (number("/display/max/0") - number("/display/min/0") + 1).clamp(1, 32_768) as u32,
        height: (number("/display/max/1") - number("/display/min/1") + 1).clamp(1, 32_768) as u32,
        fps: record.inspected["fps"].as_f64().unwrap_or(fps),
        aspect: record.inspected["aspect"]
            .as_f64()
            .filter(|aspect| (0.05..=20.0).contains(aspect))
            .unwrap_or(1.0),
        working: Working::default(),
        frames: frames.unwrap_or(Frames { first: 1001, last: 1048 }),
    };
    setup_of(media_of(&record), picture, title)
}

/// A setup that shows one medium; named after it where there is no title.
pub(crate) fn setup_of(media: Media, picture: PictureFormat, title: &str) -> Result<Setup, WebError> {
    let mut setup = Setup::empty(title, picture);
    let name = media.name.clone();
    let plate = setup.free_id();
    let place = NewRow::default();
    for command in [Command::UseMedia { media }, Command::Add { kind: "plate".into(), place }] {
        setup = Edit::of(&command, &setup)?.0;
    }
    let (Some(last), Some(media)) = (setup.final_id(), setup.media.first().map(|media| media.id)) else {
        return Err(WebError::Missing("final row".into()));
    };
    let from = Some(Source::Stage(plate));
    for command in [
        Command::Set { stage: plate, control: "media".into(), setting: Some(Setting::Media { media }) },
        Command::Link { stage: last, slot: "main".into(), from, take: None },
    ] {
        setup = Edit::of(&command, &setup)?.0;
    }
    setup.name = if title.trim().is_empty() { name } else { title.trim().to_owned() };
    Ok(setup)
}

/// What files that came in become.
#[derive(Clone, Copy, Deserialize, PartialEq)]
#[serde(rename_all = "lowercase")]
enum Become {
    /// A shot each.
    Each,
    /// One shot, named after the first.
    One,
}

#[derive(Deserialize)]
pub(crate) struct FilesRequest {
    /// Their paths, as they came in.
    files: Vec<String>,
    r#become: Become,
}

/// Makes shots of files that came in: of every sequence, clip and still among them.
pub(crate) async fn from_files(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<FilesRequest>,
) -> Result<Json<Value>, WebError> {
    blocking(move || {
        let show = app.store.show(&show)?;
        let listed = app.store.media(show.id)?;
        let came = grouped(request.files);
        let plates: Vec<&MediaRecord> = came
            .iter()
            .filter(|found| MediaSort::of(&found.path) == MediaSort::Plate)
            .filter_map(|found| listed.iter().find(|record| record.path == imports::path_of(&found.path)))
            .collect();
        let groups: Vec<&[&MediaRecord]> = match request.r#become {
            Become::Each => plates.chunks(1).collect(),
            Become::One if plates.is_empty() => Vec::new(),
            Become::One => vec![&plates],
        };
        let (mut made, mut faults) = (Vec::new(), Vec::new());
        for group in groups {
            match shot_on(&app.store, &show, group) {
                Ok(shot) => made.push(
                    json!({ "code": shot.code, "address": format!("/shots/{}/{}", shot.show, shot.code) }),
                ),
                Err(error) => faults.push(error.to_string()),
            }
        }
        Ok(Json(json!({ "made": made, "faults": faults })))
    })
    .await
}

/// A shot named after its first plate, with a row for each of the others.
fn shot_on(store: &Store, show: &ShowRecord, plates: &[&MediaRecord]) -> Result<ShotRecord, WebError> {
    let Some((first, others)) = plates.split_first() else { return Err(WebError::Missing("plate".into())) };
    let mut setup = setup_on(store, show.id, first.id, "")?;
    for other in others {
        let media = media_of(other);
        setup = Edit::of(&Command::UseMedia { media }, &setup)?.0;
        let media =
            setup.media.last().map(|media| media.id).ok_or_else(|| WebError::Missing("plate".into()))?;
        let (stage, place) = (setup.free_id(), NewRow::default());
        setup = Edit::of(&Command::Add { kind: "plate".into(), place }, &setup)?.0;
        let setting = Some(Setting::Media { media });
        setup = Edit::of(&Command::Set { stage, control: "media".into(), setting }, &setup)?.0;
    }
    setup.check()?;
    let name = media_of(first).name;
    let fine = |c: char| if c.is_alphanumeric() || matches!(c, '-' | '_') { c } else { ' ' };
    let plain: String = name.to_uppercase().chars().map(fine).take(40).collect();
    let plain = if plain.trim().is_empty() { "SHOT" } else { plain.trim() };
    let numbered = (2..100).map(|number| format!("{plain} {number}"));
    for code in std::iter::once(plain.to_owned()).chain(numbered) {
        match store.make_shot(&NewShot { show: &show.name, code: &code, title: "", setup: &setup }) {
            Err(StoreError::Taken(_)) => {}
            made => return Ok(made?),
        }
    }
    Err(WebError::Taken(format!("the shot `{plain}`, a hundred times over,")))
}
