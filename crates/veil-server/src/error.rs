//! What a request or the server can fail with.

use std::net::SocketAddr;

use crate::json::Json;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use serde_json::json;
use veil_core::engine::EngineError;
use veil_core::plates::PlateError;
use veil_core::setup::{CommandError, SetupError, ToolError};
use veil_media::MediaError;
use veil_store::StoreError;

/// Why the server does not run.
#[derive(Debug, thiserror::Error)]
pub enum ServeError {
    /// The address is taken or not ours.
    #[error("cannot listen on {listen}: {source}")]
    Bind {
        /// The address.
        listen: SocketAddr,
        /// Why.
        source: std::io::Error,
    },
    /// It stopped by itself.
    #[error("the server stopped: {0}")]
    Serve(std::io::Error),
    /// What is kept cannot be used.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// A tool that comes with the program cannot be used.
    #[error("the tool `{file}` that comes with the program cannot be used: {why}")]
    Shipped {
        /// Its file.
        file: String,
        /// Why.
        why: String,
    },
    /// The demo show's setups cannot be made.
    #[error("the demo show cannot be set up: {0}")]
    Demo(#[from] CommandError),
    /// A folder that is to be used in place is none.
    #[error("`{folder}` cannot be used with --media: {source}")]
    Media {
        /// As it was given.
        folder: String,
        /// Why.
        source: std::io::Error,
    },
    /// No threads.
    #[error("threads could not be started: {0}")]
    Threads(String),
}

/// Why a request is refused.
#[derive(Debug, thiserror::Error)]
pub(crate) enum WebError {
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error(transparent)]
    Engine(#[from] EngineError),
    #[error(transparent)]
    Media(#[from] MediaError),
    #[error(transparent)]
    Plate(#[from] PlateError),
    #[error(transparent)]
    Command(#[from] CommandError),
    #[error(transparent)]
    Setup(#[from] SetupError),
    #[error(transparent)]
    Tool(#[from] ToolError),
    #[error("{0}")]
    Bad(String),
    /// A file's name is that of another.
    #[error("{0} is there already")]
    Taken(String),
    /// A piece of a file that does not go on where the last one ended.
    #[error("of `{path}` {at} bytes are there")]
    Elsewhere { path: String, at: u64 },
    /// Somebody else does the same at this moment.
    #[error("{0}")]
    Busy(String),
    /// The disk did not take it.
    #[error("{0}")]
    Kept(String),
    #[error("this takes application/json")]
    NotJson,
    #[error("this is too long")]
    TooLong,
    #[error("there is no {0}")]
    Missing(String),
    #[error("cancelled")]
    Cancelled,
    #[error("{0}")]
    Internal(String),
}

impl WebError {
    const fn status(&self) -> StatusCode {
        match self {
            Self::Store(StoreError::Missing(_))
            | Self::Missing(_)
            | Self::Engine(EngineError::NoStage(_)) => StatusCode::NOT_FOUND,
            Self::Store(StoreError::Collision(_) | StoreError::Taken(_) | StoreError::NothingTo(_))
            | Self::Taken(_) => StatusCode::CONFLICT,
            Self::Elsewhere { .. } => StatusCode::PRECONDITION_FAILED,
            Self::NotJson => StatusCode::UNSUPPORTED_MEDIA_TYPE,
            Self::TooLong => StatusCode::PAYLOAD_TOO_LARGE,
            Self::Busy(_) => StatusCode::LOCKED,
            Self::Kept(_) => StatusCode::INSUFFICIENT_STORAGE,
            Self::Store(
                StoreError::Command(_) | StoreError::Name(_) | StoreError::Value(_) | StoreError::Shipped(_),
            )
            | Self::Command(_)
            | Self::Setup(_)
            | Self::Tool(_)
            | Self::Bad(_)
            | Self::Media(_)
            | Self::Plate(_)
            | Self::Engine(EngineError::Stage { .. }) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Cancelled | Self::Engine(EngineError::Cancelled) => StatusCode::REQUEST_TIMEOUT,
            Self::Store(_) | Self::Internal(_) => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }
}

impl IntoResponse for WebError {
    fn into_response(self) -> Response {
        let status = self.status();
        if status == StatusCode::INTERNAL_SERVER_ERROR {
            tracing::error!(error = %self, "a request failed");
        }
        (status, Json(json!({ "error": self.to_string() }))).into_response()
    }
}
