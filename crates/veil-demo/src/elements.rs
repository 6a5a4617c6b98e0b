//! The shots without a plate: elements on transparency.

use std::io::Write;
use std::path::Path;

use veil_core::setup::Frames;
use veil_media::{MediaError, write_whole};

use crate::ShotPlan;

/// The shots that need no plate.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Element {
    /// A burst of embers.
    Ember,
    /// The glassworks' crest and its name.
    Crest,
}

/// Where the crest is, below the show's folder.
pub const CREST: &str = "plates/SG140/crest.svg";

impl Element {
    /// In show order.
    pub const ALL: [Self; 2] = [Self::Ember, Self::Crest];

    /// What is known of it beforehand.
    pub fn plan(self) -> ShotPlan {
        let plan = |code, title, count: i32| {
            let frames = Frames { first: 1001, last: 1000 + count };
            ShotPlan { code, title, width: 960, height: 540, frames }
        };
        match self {
            Self::Ember => plan("SG110", "ember", 60),
            Self::Crest => plan("SG140", "crest", 48),
        }
    }

    /// Writes what it is made of below the show's folder, where it is missing.
    pub fn write(self, folder: &Path) -> Result<(), MediaError> {
        match self {
            Self::Ember => Ok(()),
            Self::Crest => {
                let file = folder.join(CREST);
                if file.exists() {
                    return Ok(());
                }
                write_whole(&file, |out| {
                    let drawn = out.write_all(include_bytes!("crest.svg"));
                    drawn.map_err(|source| MediaError::Io { path: file.clone(), source })
                })
            }
        }
    }
}
