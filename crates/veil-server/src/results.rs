//! What a render came to: looked at, and carried away as a frame, a clip or all of it in one archive.

use std::io::{self, Write};
use std::path::PathBuf;

use axum::body::{Body, Bytes};
use axum::extract::{Path, Request, State};
use axum::http::{HeaderValue, header};
use axum::response::{IntoResponse, Response};
use serde_json::{Value, json};
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;
use tower_http::services::ServeFile;
use veil_core::setup::{Media, MediaId};
use veil_media::OutputPattern;
use veil_store::{Id, RenderRecord};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use crate::App;
use crate::cpu::blocking;
use crate::error::WebError;
use crate::json::Json;
use crate::setups::{ShotPath, load};

/// How a render's files are named, below the data folder's `renders/`.
fn pattern(render: &RenderRecord) -> Result<OutputPattern, WebError> {
    render.output.parse().map_err(|error: veil_media::OutputError| WebError::Bad(error.to_string()))
}

/// A render's files as a medium below the data folder's `renders/`.
pub(crate) fn media_of(render: &RenderRecord) -> Result<Media, WebError> {
    // A clip counts its frames from 1.
    let frames = match pattern(render)?.clip() {
        Some(_) => veil_core::setup::Frames { first: 1, last: render.frames.count() as i32 },
        None => render.frames,
    };
    Ok(Media {
        id: MediaId(1),
        name: format!("render {}", render.id),
        path: render.output.clone(),
        frames: Some(frames),
        colour: pattern(render)?.colour(render.setup.picture.working),
        content: None,
    })
}

/// The files that are there, in order, each with its name in an archive.
fn files(app: &App, render: &RenderRecord) -> Result<Vec<(String, PathBuf)>, WebError> {
    let root = app.store.folder().renders();
    let pattern = pattern(render)?;
    let all: Vec<PathBuf> = match pattern.clip() {
        Some(clip) => vec![clip],
        None => (render.frames.first..=render.frames.last).map(|frame| pattern.file(frame)).collect(),
    };
    let named = |file: PathBuf| Some((file.file_name()?.to_str()?.to_owned(), root.join(&file)));
    let there: Vec<_> = all.into_iter().filter_map(named).filter(|(_, path)| path.is_file()).collect();
    if there.is_empty() {
        return Err(WebError::Missing(format!("file of render {}", render.id)));
    }
    Ok(there)
}

/// Sends a file whole or in ranges, to be kept under its own name.
async fn sent(path: PathBuf, request: Request) -> Result<Response, WebError> {
    let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
    let mut response = ServeFile::new(&path)
        .try_call(request)
        .await
        .map_err(|error| WebError::Internal(format!("`{name}` cannot be read: {error}")))?
        .map(Body::new);
    attach(&mut response, &name);
    Ok(response)
}

fn attach(response: &mut Response, name: &str) {
    if let Ok(value) = HeaderValue::from_str(&format!("attachment; filename=\"{name}\"")) {
        response.headers_mut().insert(header::CONTENT_DISPOSITION, value);
    }
}

pub(crate) async fn frame(
    State(app): State<App>,
    Path((id, frame)): Path<(Id, i32)>,
    request: Request,
) -> Result<Response, WebError> {
    let path = blocking(move || {
        let render = app.store.render(id)?;
        let file = app.store.folder().renders().join(pattern(&render)?.file(frame));
        file.is_file()
            .then_some(file)
            .ok_or_else(|| WebError::Missing(format!("frame {frame} of render {id}")))
    })
    .await?;
    sent(path, request).await
}

pub(crate) async fn clip(
    State(app): State<App>,
    Path(id): Path<Id>,
    request: Request,
) -> Result<Response, WebError> {
    let path = blocking(move || {
        let render = app.store.render(id)?;
        let clip = pattern(&render)?.clip().map(|clip| app.store.folder().renders().join(clip));
        clip.filter(|clip| clip.is_file()).ok_or_else(|| WebError::Missing(format!("clip of render {id}")))
    })
    .await?;
    sent(path, request).await
}

/// Hands what is written on to a response, in pieces; fails once nobody reads it any more.
struct Handed(mpsc::Sender<io::Result<Bytes>>);

impl Write for Handed {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let gone = |_| io::Error::new(io::ErrorKind::BrokenPipe, "nobody reads it any more");
        self.0.blocking_send(Ok(Bytes::copy_from_slice(bytes))).map_err(gone)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// Pieces of an archive that wait to be sent.
const PIECES: usize = 8;
/// Bytes of a piece.
const PIECE: usize = 1 << 18;

/// Everything that is there of a render, as one archive that is made while it is sent.
pub(crate) async fn archive(State(app): State<App>, Path(id): Path<Id>) -> Result<Response, WebError> {
    let (name, files) = blocking(move || {
        let render = app.store.render(id)?;
        Ok((format!("{}-r{id:03}.zip", render.code), files(&app, &render)?))
    })
    .await?;
    let (send, receive) = mpsc::channel(PIECES);
    tokio::task::spawn_blocking(move || {
        let told = send.clone();
        if let Err(error) = pack(&files, Handed(send)) {
            // What reads the archive sees that it ends too early.
            let _ = told.blocking_send(Err(error));
        }
    });
    let body = Body::from_stream(ReceiverStream::new(receive));
    let mut response = ([(header::CONTENT_TYPE, "application/zip")], body).into_response();
    attach(&mut response, &name);
    Ok(response)
}

/// Frames are compressed already, so they are stored as they are.
fn pack(files: &[(String, PathBuf)], out: Handed) -> io::Result<()> {
    let mut archive = ZipWriter::new_stream(io::BufWriter::with_capacity(PIECE, out));
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored).large_file(true);
    for (name, path) in files {
        archive.start_file(name.as_str(), stored)?;
        io::copy(&mut std::fs::File::open(path)?, &mut archive)?;
    }
    archive.finish()?.into_inner().flush()
}

/// Renders of a shot that can be looked at beside it, newest first.
pub(crate) async fn of_shot(State(app): State<App>, path: ShotPath) -> Result<Json<Value>, WebError> {
    let shot = load(&app, path).await?;
    blocking(move || {
        let listed = app.store.renders_of(shot.id)?.into_iter().filter(|render| render.done > 0).map(|render| {
            let row = render.setup.stage(render.stage).map_or("", |row| row.name.as_str());
            json!({ "id": render.id, "row": row, "first": render.frames.first, "last": render.frames.last })
        });
        Ok(Json(listed.collect()))
    })
    .await
}
