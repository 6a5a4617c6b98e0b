//! The bin: things taken away, put back, and forgotten.

use std::path::Path as FilePath;

use axum::extract::{Path, State};
use serde_json::{Value, json};
use veil_core::setup::Frames;
use veil_media::{Pattern, scan};
use veil_store::{BinRecord, Binnable, Id, Leftovers, RenderState};

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::event::Event;
use crate::json::Json;

/// Takes a thing away, and tells every page.
async fn take_away(
    app: App,
    find: impl FnOnce(&App) -> Result<(Binnable, Id), WebError> + Send + 'static,
) -> Result<Json<BinRecord>, WebError> {
    let worker = app.clone();
    let record = blocking(move || {
        let (kind, item) = find(&worker)?;
        Ok(worker.store.put_in_bin(kind, item)?)
    })
    .await?;
    app.tell(Event::Shows);
    Ok(Json(record))
}

pub(crate) async fn show(
    State(app): State<App>,
    Path(show): Path<String>,
) -> Result<Json<BinRecord>, WebError> {
    take_away(app, move |app| Ok((Binnable::Show, app.store.show(&show)?.id))).await
}

pub(crate) async fn shot(
    State(app): State<App>,
    Path((show, code)): Path<(String, String)>,
) -> Result<Json<BinRecord>, WebError> {
    take_away(app, move |app| Ok((Binnable::Shot, app.store.shot(&show, &code)?.id))).await
}

pub(crate) async fn version(
    State(app): State<App>,
    Path((show, code, number)): Path<(String, String, i32)>,
) -> Result<Json<BinRecord>, WebError> {
    take_away(app, move |app| {
        let shot = app.store.shot(&show, &code)?;
        Ok((Binnable::Version, app.store.version_id(shot.id, number)?))
    })
    .await
}

pub(crate) async fn plate(
    State(app): State<App>,
    Path((_, id)): Path<(String, Id)>,
) -> Result<Json<BinRecord>, WebError> {
    take_away(app, move |_| Ok((Binnable::Plate, id))).await
}

pub(crate) async fn render(State(app): State<App>, Path(id): Path<Id>) -> Result<Json<BinRecord>, WebError> {
    take_away(app, move |app| match app.store.render(id)?.state {
        RenderState::Queued | RenderState::Running => {
            Err(WebError::Bad("this render is under way; cancel it first".into()))
        }
        RenderState::Done | RenderState::Failed | RenderState::Cancelled => Ok((Binnable::Render, id)),
    })
    .await
}

pub(crate) async fn tool(State(app): State<App>, Path(id): Path<Id>) -> Result<Json<BinRecord>, WebError> {
    take_away(app, move |_| Ok((Binnable::Tool, id))).await
}

pub(crate) async fn put_back(
    State(app): State<App>,
    Path(id): Path<Id>,
) -> Result<Json<BinRecord>, WebError> {
    let worker = app.clone();
    let record = blocking(move || Ok(worker.store.put_back(id)?)).await?;
    app.tell(Event::Shows);
    Ok(Json(record))
}

/// Forgets all that is in the bin, with its files.
pub(crate) async fn empty(State(app): State<App>) -> Result<Json<Value>, WebError> {
    let worker = app.clone();
    let faults = blocking(move || {
        let left = worker.store.empty_bin()?;
        Ok(remove_files(&worker, &left))
    })
    .await?;
    app.tell(Event::Shows);
    Ok(Json(json!({ "faults": faults })))
}

/// Removes files that belong to nothing any more; what cannot be removed is told.
fn remove_files(app: &App, left: &Leftovers) -> Vec<String> {
    let folder = app.store.folder();
    let mut faults = Vec::new();
    let mut note = |path: &FilePath, done: std::io::Result<()>| match done {
        Err(error) if error.kind() != std::io::ErrorKind::NotFound => {
            let path = path.strip_prefix(folder.root()).unwrap_or(path);
            faults.push(format!("`{}` could not be removed: {error}", path.display()));
        }
        _ => {}
    };
    for output in &left.renders {
        let file = folder.renders().join(output);
        if let Some(own) = file.parent().filter(|own| *own != folder.renders()) {
            note(own, std::fs::remove_dir_all(own));
        }
    }
    for (show, path) in &left.plates {
        let root = folder.show(show);
        // What lies in a folder that is only used in place belongs to others.
        if is_linked(&root, path) {
            continue;
        }
        veil_media::forget_held(&root.join(path));
        for file in files_of(&root, path) {
            note(&file, std::fs::remove_file(&file));
        }
    }
    for show in &left.shows {
        for own in [folder.show(show), folder.renders().join(show)] {
            note(&own, std::fs::remove_dir_all(&own));
        }
    }
    faults
}

/// Whether a path below a show's folder leads out of it by a link.
pub(crate) fn is_linked(root: &FilePath, path: &str) -> bool {
    let mut place = root.to_owned();
    path.split('/').any(|part| {
        place.push(part);
        place.is_symlink()
    })
}

fn files_of(root: &FilePath, path: &str) -> Vec<std::path::PathBuf> {
    let Ok(pattern) = path.parse::<Pattern>() else { return Vec::new() };
    let found = scan(root).unwrap_or_default().into_iter().find(|found| found.path == path);
    match found.and_then(|found| found.frames) {
        Some(Frames { first, last }) if pattern.is_sequence() => {
            (first..=last).map(|frame| root.join(pattern.file(frame))).collect()
        }
        _ => vec![root.join(pattern.file(0))],
    }
}
