//! JSON in requests and answers.

use axum::body::Bytes;
use axum::extract::{FromRequest, Request};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::error::WebError;

/// What a request says, or an answer, as JSON. Text is read as core reads it, so that it is compiled for one reader.
pub(crate) struct Json<T>(pub(crate) T);

const JSON: &str = "application/json";

impl<T: DeserializeOwned, S: Send + Sync> FromRequest<S> for Json<T> {
    type Rejection = WebError;

    async fn from_request(request: Request, state: &S) -> Result<Self, WebError> {
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|kind| kind.to_str().ok());
        if kind.and_then(|kind| kind.split(';').next()).is_none_or(|kind| kind.trim() != JSON) {
            return Err(WebError::NotJson);
        }
        let bytes = Bytes::from_request(request, state).await.map_err(|refused| match refused.status() {
            StatusCode::PAYLOAD_TOO_LARGE => WebError::TooLong,
            _ => WebError::Bad(refused.body_text()),
        })?;
        let unreadable =
            |why: &dyn std::fmt::Display| WebError::Bad(format!("what was sent cannot be read: {why}"));
        let text = str::from_utf8(&bytes).map_err(|error| unreadable(&error))?;
        serde_json::from_str(text).map(Self).map_err(|error| unreadable(&error))
    }
}

impl<T: Serialize> IntoResponse for Json<T> {
    fn into_response(self) -> Response {
        match serde_json::to_vec(&self.0) {
            Ok(bytes) => ([(header::CONTENT_TYPE, JSON)], bytes).into_response(),
            Err(error) => (StatusCode::INTERNAL_SERVER_ERROR, error.to_string()).into_response(),
        }
    }
}
