//! A row to be changed.

use crate::setup::{CommandError, Setup, StageEntry, StageId};

pub(in crate::setup) fn entry(setup: &mut Setup, id: StageId) -> Result<&mut StageEntry, CommandError> {
    setup.stages.iter_mut().find(|stage| stage.id == id).ok_or(CommandError::NoStage(id))
}
