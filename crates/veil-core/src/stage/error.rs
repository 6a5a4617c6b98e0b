//! Why a stage, or a request, gives nothing.

use veil_pixels::Cancelled;

use crate::ids::StageId;
use crate::plates::PlateError;

/// Why a stage gives nothing.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum StageError {
    /// The work was given up.
    #[error("cancelled")]
    Cancelled,
    /// It says what is missing or wrong.
    #[error("{0}")]
    Fault(String),
    /// What it takes failed, which is told of that row.
    #[error("{0}")]
    Above(Box<EngineError>),
}

impl From<Cancelled> for StageError {
    fn from(Cancelled: Cancelled) -> Self {
        Self::Cancelled
    }
}

impl From<PlateError> for StageError {
    fn from(error: PlateError) -> Self {
        match error {
            PlateError::Cancelled => Self::Cancelled,
            PlateError::File(message) => Self::Fault(message),
        }
    }
}

/// Why a request gives nothing.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum EngineError {
    /// Nobody waits any more.
    #[error("cancelled")]
    Cancelled,
    /// The asked stage is not in the setup.
    #[error("there is no stage {}", .0.0)]
    NoStage(StageId),
    /// A row failed.
    #[error("`{name}`: {message}")]
    Stage {
        /// Which.
        stage: StageId,
        /// Its name.
        name: String,
        /// What it says.
        message: String,
    },
}

impl From<Cancelled> for EngineError {
    fn from(Cancelled: Cancelled) -> Self {
        Self::Cancelled
    }
}
