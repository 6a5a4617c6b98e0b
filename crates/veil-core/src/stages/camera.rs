//! The controls of stages that look through a camera.

use crate::camera::CameraAt;
use crate::choice;
use crate::controls::{CameraSpec, ChoiceSpec, ControlSpec, MediaSort, MediaSpec, NumberSpec, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::stage::{Context, StageError};

/// Where a camera comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum CameraFrom {
    File,
    Hand,
}

choice! {
    CameraFrom {
        File = "file", "a file";
        Hand = "hand", "by hand";
    }
}

/// Where a camera comes from, for a stage that can do without.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum MaybeFrom {
    Without,
    File,
    Hand,
}

choice! {
    MaybeFrom {
        Without = "without", "none";
        File = "file", "a file";
        Hand = "hand", "by hand";
    }
}

impl MaybeFrom {
    pub(super) const fn camera(self) -> Option<CameraFrom> {
        match self {
            Self::Without => None,
            Self::File => Some(CameraFrom::File),
            Self::Hand => Some(CameraFrom::Hand),
        }
    }
}

pub(super) fn maybe() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("camera", MaybeFrom::Without)
        .under("camera")
        .help("Where the camera comes from, if one is needed.")
}

pub(super) fn from() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("camera", CameraFrom::File).under("camera").help("Where the camera comes from.")
}

pub(super) const fn file() -> ControlSpec<MediaSpec> {
    ControlSpec::media("camera file", MediaSort::Camera)
        .under("camera")
        .when("camera", &["file"])
        .help("Which camera of the shot; none chosen, the first that there is.")
}

pub(super) const fn shift() -> ControlSpec<NumberSpec> {
    ControlSpec::number("camera shift", 0.0, (-50.0, 50.0))
        .unit(Unit::Frames)
        .under("camera")
        .when("camera", &["file"])
        .help("How many frames later in its file it is read. Numbers that do not reach into the shot begin with it.")
}

pub(super) const fn by_hand() -> ControlSpec<CameraSpec> {
    ControlSpec::camera("by hand")
        .under("camera")
        .when("camera", &["hand"])
        .help("Where it stands, how it is turned, and its lens; another row's camera can be followed.")
}

/// A camera as a stage's controls say it.
pub(super) struct Chosen {
    pub(super) from: CameraFrom,
    pub(super) file: Option<MediaId>,
    pub(super) shift: f64,
    pub(super) by_hand: CameraAt,
}

impl Chosen {
    /// As it is at the stage's own moment.
    pub(super) fn now(&self, context: &Context<'_>) -> Result<CameraAt, StageError> {
        match self.from {
            CameraFrom::Hand => Ok(self.by_hand),
            CameraFrom::File => context.camera(self.file, context.frame(), self.shift),
        }
    }

    /// Writes what it is at the stage's own moment.
    pub(super) fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        key.add(&self.now(context)?);
        Ok(())
    }
}
