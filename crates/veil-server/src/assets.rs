//! Styles, scripts, fonts and icons, which ship with the program.
//!
//! Their addresses hold a hash of all of them, so that a browser keeps what it has for as long as the program is the same.

use std::collections::HashMap;
use std::io::Write;
use std::sync::{Arc, LazyLock, Mutex, PoisonError};

use axum::body::Body;
use axum::extract::Path;
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use flate2::Compression;
use flate2::write::GzEncoder;
use rust_embed::{EmbeddedFile, RustEmbed};

use crate::error::WebError;
use crate::fresh::{Tag, is_known};

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// What all assets are, in short.
static HASH: LazyLock<String> = LazyLock::new(|| {
    let mut all = blake3::Hasher::new();
    for path in Assets::iter() {
        let hash = Assets::get(&path).map(|file| file.metadata.sha256_hash()).unwrap_or_default();
        all.update(path.as_bytes()).update(&hash);
    }
    all.finalize().to_hex()[..12].to_owned()
});

/// Where assets are, as pages name it.
pub(crate) fn root() -> String {
    format!("/assets/{}", *HASH)
}

/// The workbench's scripts, as it names them: a browser that is told of all at once does not find them one from another.
pub(crate) fn bench_scripts() -> impl Iterator<Item = String> {
    let paths = Assets::iter().filter(|path| path.ends_with(".js") && !path.starts_with("pages/"));
    paths.map(|path| format!("{}/{path}", root()))
}

pub(crate) async fn asset(Path(path): Path<String>, asked: HeaderMap) -> Result<Response, WebError> {
    let (hash, rest) = path.split_once('/').unwrap_or_default();
    // While the program is worked on, its files change under their feet.
    let lasts = hash == *HASH && !cfg!(debug_assertions);
    let path = if hash.len() == HASH.len() && Assets::get(&path).is_none() { rest } else { &path };
    let file = Assets::get(path).ok_or_else(|| WebError::Missing(format!("asset `{path}`")))?;
    let tag = Tag::of(&file.metadata.sha256_hash());
    let kept = if lasts { "public, max-age=31536000, immutable" } else { "no-cache" };
    let mut answer = if is_known(&asked, &tag) {
        StatusCode::NOT_MODIFIED.into_response()
    } else {
        sent(path, file, &asked)
    };
    let headers = answer.headers_mut();
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static(kept));
    headers.insert(header::VARY, HeaderValue::from_static("accept-encoding"));
    headers.insert(header::ETAG, tag.header());
    Ok(answer)
}

fn sent(path: &str, file: EmbeddedFile, asked: &HeaderMap) -> Response {
    let kind = mime_guess::from_path(path).first_or_octet_stream();
    let kind = [(header::CONTENT_TYPE, kind.to_string())];
    let takes = asked.get(header::ACCEPT_ENCODING).and_then(|value| value.to_str().ok()).unwrap_or_default();
    let takes_gzip = takes.split(',').any(|one| one.trim().split(';').next() == Some("gzip"));
    match packed(path, &file).filter(|_| takes_gzip) {
        Some(packed) => {
            (kind, [(header::CONTENT_ENCODING, "gzip")], Body::from(packed.as_ref().clone())).into_response()
        }
        None => (kind, file.data).into_response(),
    }
}

/// Packed files, by what they are of; none where that would be no smaller.
type Packed = Mutex<HashMap<[u8; 32], Option<Arc<Vec<u8>>>>>;

fn packed(path: &str, file: &EmbeddedFile) -> Option<Arc<Vec<u8>>> {
    static PACKED: LazyLock<Packed> = LazyLock::new(Mutex::default);
    let mut known = PACKED.lock().unwrap_or_else(PoisonError::into_inner);
    let made = known.entry(file.metadata.sha256_hash()).or_insert_with(|| {
        if path.ends_with(".woff2") {
            return None;
        }
        let mut out = GzEncoder::new(Vec::new(), Compression::best());
        out.write_all(&file.data).ok()?;
        out.finish().ok().filter(|packed| packed.len() < file.data.len()).map(Arc::new)
    });
    made.clone()
}
