//! Clean plates with places that no frame sees.

use super::{FaultKind, Mend, Search, Told};
use crate::controls::Setting;
use crate::engine::EngineError;
use crate::setup::{Command, StageEntry};
use crate::signal::Pixels;
use crate::stages::time::clean_plate::{FILLED, KIND};

/// Less of the picture than this is no hole: borders are read softly.
const LEAST: f64 = 0.001;

impl Search<'_> {
    /// A clean plate that lets nothing be seen where no frame that it looks at sees the place.
    pub(super) fn holes(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        if entry.kind.0 != KIND {
            return Ok(None);
        }
        let mut most: Option<(f64, f64)> = None;
        for frame in self.frames() {
            let Some(answer) = self.answer(8, entry.id, frame)? else { continue };
            let Pixels::Picture(picture) = answer.signal.over(answer.window) else { continue };
            let missing: f64 =
                picture.pixels().iter().map(|pixel| f64::from(1.0 - pixel[3].clamp(0.0, 1.0))).sum();
            let share = missing / picture.pixels().len().max(1) as f64;
            if most.is_none_or(|(before, _)| share > before) {
                most = Some((share, frame));
            }
        }
        let Some((share, frame)) = most.filter(|(share, _)| *share > LEAST) else { return Ok(None) };
        let message = format!(
            "has holes: at frame {frame} {:.1} % of the picture is seen at none of the frames that it looks at",
            share * 100.0
        );
        let (control, filled) = FILLED;
        let command = Command::Set {
            stage: entry.id,
            control: control.into(),
            setting: Some(Setting::Choice(filled.into())),
        };
        Ok(Some((FaultKind::HolesLeft, message, Some(Mend { name: "fill them".into(), command }))))
    }
}
