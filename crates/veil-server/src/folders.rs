//! Footage in folders elsewhere on the server, used in place: only those that the program was started with.
//!
//! A folder that a show uses is a link in its own folder, below `linked/`, so that paths of media stay relative to the show.

use std::io::ErrorKind;
use std::path::{Path as FilePath, PathBuf};

use axum::extract::{Path, Query, State};
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use veil_media::{FoundMedia, ask_folder, grouped};
use veil_store::ShowRecord;

use crate::App;
use crate::cpu::{blocking, called_off_with_its_request};
use crate::error::WebError;
use crate::json::Json;
use crate::media::list_all;

/// Folder of a show's media in which links to folders elsewhere are.
const LINKED: &str = "linked";
/// Most folders and files of one folder that are listed.
const MOST_LISTED: usize = 5000;

/// A folder as it really is, if it lies in one that may be used.
fn allowed(app: &App, path: &str) -> Result<PathBuf, WebError> {
    let refused = || {
        let words = "is in none of the folders that may be used; start the program with --media to allow it";
        WebError::Bad(format!("`{path}` {words}"))
    };
    let asked = PathBuf::from(path);
    let real = ask_folder(FilePath::new(path), move || {
        let real = asked.canonicalize()?;
        if real.is_dir() { Ok(real) } else { Err(ErrorKind::NotADirectory.into()) }
    })
    .map_err(|error| match error.kind() {
        ErrorKind::TimedOut => WebError::Bad(format!("`{path}` cannot be read: {error}")),
        _ => refused(),
    })?;
    let is_inside = app.outside.iter().any(|folder| folder.holds(&real));
    if is_inside { Ok(real) } else { Err(refused()) }
}

/// The folders in a folder, and the rest of what it holds.
fn inside(folder: &FilePath) -> std::io::Result<(Vec<PathBuf>, Vec<PathBuf>)> {
    let shown =
        |path: &PathBuf| !path.file_name().is_some_and(|name| name.to_string_lossy().starts_with('.'));
    let entries = std::fs::read_dir(folder)?.flatten().map(|entry| entry.path());
    Ok(entries.filter(shown).take(MOST_LISTED).partition(|path| path.is_dir()))
}

#[derive(Deserialize)]
pub(crate) struct FolderQuery {
    /// None lists the folders that may be used.
    #[serde(default)]
    path: Option<String>,
}

#[derive(Serialize)]
pub(crate) struct Listed {
    path: String,
    name: String,
}

/// The folders in a folder, and the footage that lies directly in it.
pub(crate) async fn list(
    State(app): State<App>,
    Query(query): Query<FolderQuery>,
) -> Result<Json<Value>, WebError> {
    blocking(move || {
        let listed = |path: &FilePath| Listed {
            path: path.display().to_string(),
            name: path.file_name().unwrap_or(path.as_os_str()).to_string_lossy().into_owned(),
        };
        let Some(path) = query.path else {
            let roots: Vec<Listed> = app.outside.iter().map(|folder| listed(folder.path())).collect();
            return Ok(Json(json!({ "folders": roots, "media": [] })));
        };
        let folder = allowed(&app, &path)?;
        let unread = |error| WebError::Bad(format!("`{path}` cannot be read: {error}"));
        let asked = folder.clone();
        let (mut folders, files) = ask_folder(&folder, move || inside(&asked)).map_err(unread)?;
        folders.sort();
        let known = files.iter().filter(|file| veil_media::Form::of(file).is_some());
        let names = known.filter_map(|file| Some(file.file_name()?.to_str()?.to_owned()));
        let media: Vec<FoundMedia> = grouped(names);
        let parent = folder.parent().map(|parent| parent.display().to_string());
        let parent = parent.filter(|parent| allowed(&app, parent).is_ok());
        let folders: Vec<Listed> = folders.iter().map(|folder| listed(folder)).collect();
        Ok(Json(json!({ "path": folder, "parent": parent, "folders": folders, "media": media })))
    })
    .await
}

#[derive(Deserialize)]
pub(crate) struct UseRequest {
    path: String,
}

/// Uses a folder in place: its footage is listed among the show's.
pub(crate) async fn take(
    State(app): State<App>,
    Path(show): Path<String>,
    Json(request): Json<UseRequest>,
) -> Result<Json<Value>, WebError> {
    called_off_with_its_request(move |cancel| {
        let show = app.store.show(&show)?;
        let folder = allowed(&app, &request.path)?;
        link(&app.store.folder().show(&show.folder), &folder)
            .map_err(|error| WebError::Kept(format!("`{}` cannot be used: {error}", request.path)))?;
        Ok(Json(json!({ "faults": list_all(&app, &show, cancel)? })))
    })
    .await
}

/// Makes a link to a folder, unless there is one.
fn link(root: &FilePath, folder: &FilePath) -> std::io::Result<()> {
    let linked = root.join(LINKED);
    std::fs::create_dir_all(&linked)?;
    let fine = |c: char| if c.is_alphanumeric() || matches!(c, '.' | '-' | '_' | ' ') { c } else { '-' };
    let name = folder.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let plain: String = name.chars().map(fine).collect();
    let plain = if plain.trim_matches('.').is_empty() { "folder".to_owned() } else { plain };
    let numbered = (2..1000).map(|number| format!("{plain}-{number}"));
    for name in std::iter::once(plain.clone()).chain(numbered) {
        let place = linked.join(name);
        match place.read_link() {
            Ok(known) if known == folder => return Ok(()),
            Ok(_) => {}
            Err(_) if place.exists() => {}
            Err(_) => return symlink(folder, &place),
        }
    }
    Err(std::io::ErrorKind::AlreadyExists.into())
}

#[cfg(unix)]
fn symlink(folder: &FilePath, place: &FilePath) -> std::io::Result<()> {
    std::os::unix::fs::symlink(folder, place)
}

#[cfg(not(unix))]
fn symlink(_: &FilePath, _: &FilePath) -> std::io::Result<()> {
    Err(std::io::ErrorKind::Unsupported.into())
}

/// The footage of the folders that a show uses in place, by path in the show. Those that may no longer be used are passed
/// over.
pub(crate) fn footage(app: &App, show: &ShowRecord) -> Vec<FoundMedia> {
    let linked = app.store.folder().show(&show.folder).join(LINKED);
    let Ok(entries) = std::fs::read_dir(&linked) else { return Vec::new() };
    let of_link = |path: PathBuf| {
        let name = path.file_name()?.to_str()?.to_owned();
        let real = allowed(app, &path.display().to_string()).ok()?;
        let found = veil_media::scan(&real).ok()?;
        let placed =
            move |media: FoundMedia| FoundMedia { path: format!("{LINKED}/{name}/{}", media.path), ..media };
        Some(found.into_iter().map(placed).collect::<Vec<_>>())
    };
    entries.flatten().filter_map(|entry| of_link(entry.path())).flatten().collect()
}
