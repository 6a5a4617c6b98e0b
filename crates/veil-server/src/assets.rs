//! Styles, scripts, fonts and icons, which ship with the program.

use axum::extract::Path;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

use crate::error::WebError;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

pub(crate) async fn asset(Path(path): Path<String>) -> Result<Response, WebError> {
    let file = Assets::get(&path).ok_or_else(|| WebError::Missing(format!("asset `{path}`")))?;
    let kind = mime_guess::from_path(&path).first_or_octet_stream();
    let headers = [(header::CONTENT_TYPE, kind.to_string()), (header::CACHE_CONTROL, "no-cache".to_owned())];
    Ok((headers, file.data).into_response())
}
