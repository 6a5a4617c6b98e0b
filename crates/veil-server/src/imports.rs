//! Files that come in over the network: each by its own requests, whole or absent at its place, going on where a lost
//! connection, a reload or a restart left it.
//!
//! What has arrived of a file is kept beside the shows, found by the file's path, size and time of change. A file that is
//! whole is moved to its place and keeps that time, so that the same file offered again is known as there.

use std::fs::{File, FileTimes, OpenOptions};
use std::io::Write;
use std::path::{Path as FilePath, PathBuf};
use std::time::{Duration, UNIX_EPOCH};

use axum::Extension;
use axum::body::Body;
use axum::extract::{Path, Query, State};
use futures_util::StreamExt;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use veil_media::{Form, FoundMedia, grouped, read_arrived};
use veil_pixels::Cancel;
use veil_store::ShowRecord;

use crate::App;
use crate::beside::Beside;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::json::Json;

/// Folder of a show's media that they come into.
pub(crate) const DROPPED: &str = "dropped";
/// Longest path of a file below that folder, in bytes.
const LONGEST_PATH: usize = 400;
/// Most files of one import.
const MOST_FILES: usize = 100_000;

/// A file that is offered.
#[derive(Clone, Debug, Deserialize)]
pub(crate) struct Offered {
    /// Its name, after those of its folders where a folder was dropped.
    pub(crate) path: String,
    /// In bytes.
    pub(crate) size: u64,
    /// Milliseconds since 1970.
    pub(crate) modified: u64,
}

/// Most bytes of one file.
#[derive(Clone, Copy)]
pub(crate) struct LargestFile(pub(crate) u64);

impl LargestFile {
    fn check(self, file: &Offered) -> Result<(), WebError> {
        let (path, size, most) = (&file.path, file.size, self.0);
        if size <= most {
            return Ok(());
        }
        let why =
            format!("`{path}` has {size} bytes, and at most {most} are taken in; --largest-file allows more");
        Err(WebError::Bad(why))
    }
}

#[derive(Deserialize)]
pub(crate) struct PlanRequest {
    files: Vec<Offered>,
}

/// What is to be done with an offered file.
#[derive(Debug, PartialEq, Serialize)]
#[serde(tag = "state", rename_all = "lowercase")]
enum Step {
    /// It is to be sent.
    Send,
    /// It is there, whole; under this name, where that is not its own.
    Whole {
        #[serde(skip_serializing_if = "Option::is_none")]
        name: Option<String>,
    },
    /// Another of its name is there. It can be sent all the same.
    Taken,
    /// It cannot come in.
    Refused { why: String },
}

#[derive(Serialize)]
pub(crate) struct Planned {
    path: String,
    #[serde(flatten)]
    step: Step,
    /// What has arrived of it, in bytes.
    at: u64,
    /// Its name where it is to stand beside what is in its sequence's way.
    beside: Option<String>,
}

#[derive(Serialize)]
pub(crate) struct Plan {
    files: Vec<Planned>,
    /// The sequences and stills that they are.
    media: Vec<FoundMedia>,
}

/// A file's place below the show's folder: names of its own only, with a known ending.
fn place_for(path: &str) -> Result<PathBuf, WebError> {
    let name = path.rsplit('/').next().unwrap_or(path);
    let shown: String = path.chars().take(80).collect();
    let fine =
        |c: char| c.is_alphanumeric() || matches!(c, '.' | '-' | '_' | ' ' | '(' | ')' | '+' | '@' | ',');
    let plain = |part: &str| !part.is_empty() && !part.starts_with('.') && part.chars().all(fine);
    if path.len() > LONGEST_PATH
        || !path.split('/').all(plain)
        || path.split('/').any(|part| part.len() > 200)
    {
        return Err(WebError::Bad(format!("`{shown}` cannot be the name of a file; nothing was kept")));
    }
    if Form::of(FilePath::new(name)).is_none() {
        let endings = Form::endings();
        return Err(WebError::Bad(format!("`{shown}` ends in none of {endings}; nothing was kept")));
    }
    Ok(FilePath::new(DROPPED).join(path))
}

/// Where what has arrived of a file is until it is whole.
fn part_of(app: &App, show: &ShowRecord, file: &Offered) -> PathBuf {
    let key = format!("{}\0{}\0{}\0{}", show.folder, file.path, file.size, file.modified);
    let ending = FilePath::new(&file.path).extension().unwrap_or_default().to_string_lossy();
    // Readers tell forms by their endings.
    app.store.folder().incoming().join(format!("{}.{ending}", blake3::hash(key.as_bytes()).to_hex()))
}

fn length(path: &FilePath) -> u64 {
    std::fs::metadata(path).map_or(0, |meta| meta.len())
}

/// Whether a file is the offered one, by size and time of change.
pub(crate) fn is_same(path: &FilePath, file: &Offered) -> bool {
    std::fs::metadata(path).is_ok_and(|meta| {
        let changed = meta.modified().ok().and_then(|time| time.duration_since(UNIX_EPOCH).ok());
        meta.len() == file.size && changed.is_some_and(|time| time.as_millis() as u64 == file.modified)
    })
}

/// What is there already of offered files, and what is to be done with each.
pub(crate) async fn plan(
    State(app): State<App>,
    Extension(largest): Extension<LargestFile>,
    Path(show): Path<String>,
    Json(request): Json<PlanRequest>,
) -> Result<Json<Plan>, WebError> {
    if request.files.len() > MOST_FILES {
        return Err(WebError::Bad(format!("at most {MOST_FILES} files come in at once")));
    }
    blocking(move || {
        let show = app.store.show(&show)?;
        let root = app.store.folder().show(&show.folder);
        let known: Vec<&Offered> =
            request.files.iter().filter(|file| place_for(&file.path).is_ok()).collect();
        let media = grouped(known.iter().map(|file| file.path.clone()));
        let beside = Beside::of(&root, &media, &known);
        let step = |file: &Offered, beside: Option<&str>| {
            let place = match largest.check(file).and_then(|()| place_for(&file.path)) {
                Err(error) => return Step::Refused { why: error.to_string() },
                Ok(place) => root.join(place),
            };
            let came_beside = beside.filter(|name| is_same(&root.join(DROPPED).join(name), file));
            match came_beside {
                Some(name) => Step::Whole { name: Some(name.to_owned()) },
                None if is_same(&place, file) => Step::Whole { name: None },
                None if place.exists() => Step::Taken,
                None => Step::Send,
            }
        };
        let planned = request.files.iter().map(|file| {
            let beside = beside.name(&file.path);
            let step = step(file, beside.as_deref());
            Planned { path: file.path.clone(), step, at: length(&part_of(&app, &show, file)), beside }
        });
        Ok(Json(Plan { files: planned.collect(), media }))
    })
    .await
}

#[derive(Deserialize)]
pub(crate) struct PieceQuery {
    path: String,
    size: u64,
    modified: u64,
    /// Where this piece begins.
    at: u64,
    /// The name that it gets, where that is not its own.
    #[serde(default)]
    name: Option<String>,
    /// Whether it may take the place of another of its name.
    #[serde(default)]
    replace: bool,
}

/// Takes a piece of a file; the last one puts it at its place, if it can be read.
pub(crate) async fn piece(
    State(app): State<App>,
    Extension(largest): Extension<LargestFile>,
    Path(show): Path<String>,
    Query(query): Query<PieceQuery>,
    body: Body,
) -> Result<Json<Value>, WebError> {
    let PieceQuery { path, size, modified, at, name, replace } = query;
    let file = Offered { path, size, modified };
    let name = name.unwrap_or_else(|| file.path.clone());
    largest.check(&file)?;
    place_for(&file.path)?;
    let place = place_for(&name)?;
    let store = app.store.clone();
    let show = blocking(move || Ok(store.show(&show)?)).await?;
    let part = part_of(&app, &show, &file);
    let _under_way = UnderWay::begin(&app, &part, &file)?;
    append(&part, &file, at, body).await?;
    if length(&part) < file.size {
        return Ok(Json(json!({ "at": length(&part) })));
    }
    let place = app.store.folder().show(&show.folder).join(place);
    blocking(move || {
        if place.exists() && !replace {
            return Err(WebError::Taken(format!("`{name}`")));
        }
        settle(&part, &place, &file)?;
        Ok(Json(json!({ "at": file.size })))
    })
    .await
}

fn failed(file: &Offered) -> impl Fn(std::io::Error) -> WebError + '_ {
    move |error| {
        let what = match error.kind() {
            std::io::ErrorKind::StorageFull => "the disk is full; make room and go on".to_owned(),
            _ => error.to_string(),
        };
        WebError::Kept(format!("`{}` could not be kept: {what}", file.path))
    }
}

/// A file that is being taken in; nobody else may add to it meanwhile.
struct UnderWay {
    app: App,
    part: PathBuf,
}

impl UnderWay {
    fn begin(app: &App, part: &FilePath, file: &Offered) -> Result<Self, WebError> {
        if app.coming_in().insert(part.to_owned()) {
            return Ok(Self { app: app.clone(), part: part.to_owned() });
        }
        Err(WebError::Busy(format!("`{}` is coming in already", file.path)))
    }
}

impl Drop for UnderWay {
    fn drop(&mut self) {
        self.app.coming_in().remove(&self.part);
    }
}

/// How much is gathered before it is written, in bytes.
const GATHERED: usize = 1 << 18;

/// Adds what is sent to what is there. What came before a connection was lost stays.
async fn append(part: &FilePath, file: &Offered, at: u64, body: Body) -> Result<(), WebError> {
    let mut out = Part::open(part, file, at).await?;
    let mut pieces = body.into_data_stream();
    let mut gathered = Vec::with_capacity(GATHERED);
    loop {
        let piece = pieces.next().await;
        if let Some(Ok(piece)) = &piece {
            gathered.extend_from_slice(piece);
        }
        let is_last = !matches!(piece, Some(Ok(_)));
        if gathered.len() >= GATHERED || is_last {
            (out, gathered) = out.with(gathered).await?;
        }
        match piece {
            Some(Err(error)) => {
                let (path, there) = (&file.path, out.there);
                return Err(WebError::Bad(format!("`{path}` broke off after {there} bytes: {error}")));
            }
            None => return Ok(()),
            Some(Ok(_)) => {}
        }
    }
}

/// What has arrived of a file.
struct Part {
    out: File,
    file: Offered,
    /// Bytes that are there.
    there: u64,
}

impl Part {
    async fn open(part: &FilePath, file: &Offered, at: u64) -> Result<Self, WebError> {
        let (part, file) = (part.to_owned(), file.clone());
        blocking(move || {
            let out = OpenOptions::new().create(true).append(true).open(&part).map_err(failed(&file))?;
            let there = out.metadata().map_err(failed(&file))?.len();
            if there != at {
                return Err(WebError::Elsewhere { path: file.path, at: there });
            }
            Ok(Self { out, file, there })
        })
        .await
    }

    /// With more bytes; gives their memory back, empty.
    async fn with(mut self, mut bytes: Vec<u8>) -> Result<(Self, Vec<u8>), WebError> {
        blocking(move || {
            self.there += bytes.len() as u64;
            let Offered { path, size, .. } = &self.file;
            if self.there > *size {
                return Err(WebError::Bad(format!("`{path}` is longer than the {size} bytes it said")));
            }
            self.out.write_all(&bytes).map_err(failed(&self.file))?;
            bytes.clear();
            Ok((self, bytes))
        })
        .await
    }
}

/// Reads a file that has wholly arrived, and moves it to its place. What cannot be read is not kept.
fn settle(part: &FilePath, place: &FilePath, file: &Offered) -> Result<(), WebError> {
    let io = failed(file);
    if let Err(error) = read_arrived(part, &Cancel::new()) {
        std::fs::remove_file(part).map_err(&io)?;
        return Err(WebError::Bad(error.to_string().replace(&part.display().to_string(), &file.path)));
    }
    let changed = UNIX_EPOCH + Duration::from_millis(file.modified);
    let out = File::options().append(true).open(part).map_err(&io)?;
    out.set_times(FileTimes::new().set_modified(changed)).map_err(&io)?;
    out.sync_all().map_err(&io)?;
    std::fs::create_dir_all(place.parent().unwrap_or(FilePath::new("."))).map_err(&io)?;
    std::fs::rename(part, place).map_err(&io)
}

/// The path of a plate that came in under a name.
pub(crate) fn path_of(pattern: &str) -> String {
    format!("{DROPPED}/{pattern}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_dropped_name_that_climbs_or_hides_or_has_another_ending_is_refused() {
        let long = format!("{}.exr", "x".repeat(300));
        for name in
            ["../x.exr", "/etc/x.exr", "a//b.png", "..", "a/.hidden.exr", "run.sh", "x.exr\0.png", "", &long]
        {
            assert!(place_for(name).is_err(), "{name:?}");
        }
        assert_eq!(place_for("yard.1001.exr").unwrap(), PathBuf::from("dropped/yard.1001.exr"));
        assert_eq!(place_for("a take/yard.1001.exr").unwrap(), PathBuf::from("dropped/a take/yard.1001.exr"));
    }
}
