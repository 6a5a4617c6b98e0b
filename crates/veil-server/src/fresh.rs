//! Whether a browser has what it asks for already.
//!
//! Source: RFC 9110, sections 8.8.3 (ETag) and 13.1.2 (If-None-Match).

use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};

/// What tells a state of an answer from any other.
pub(crate) struct Tag(String);

impl Tag {
    pub(crate) fn of(state: &[u8]) -> Self {
        Self(format!("\"{}\"", &blake3::hash(state).to_hex()[..24]))
    }

    /// Says that the browser's answer is of this state.
    pub(crate) fn unchanged(&self) -> Response {
        (StatusCode::NOT_MODIFIED, [(header::ETAG, self.header())]).into_response()
    }

    /// A picture of this state, which is asked for again each time it is shown.
    pub(crate) fn png(&self, bytes: Vec<u8>) -> Response {
        let fixed = [(header::CONTENT_TYPE, "image/png"), (header::CACHE_CONTROL, "private, no-cache")];
        (fixed, [(header::ETAG, self.header())], bytes).into_response()
    }

    pub(crate) fn header(&self) -> HeaderValue {
        // Hexadecimal digits in quotes are always a value.
        HeaderValue::from_str(&self.0).unwrap_or(HeaderValue::from_static("\"\""))
    }
}

/// Whether a request says that it has an answer of this state.
pub(crate) fn is_known(asked: &HeaderMap, tag: &Tag) -> bool {
    let known = asked.get(header::IF_NONE_MATCH).and_then(|value| value.to_str().ok()).unwrap_or_default();
    known.split(',').any(|one| one.trim().trim_start_matches("W/") == tag.0 || one.trim() == "*")
}
