//! Clean plates with places that no frame sees, or with frames that lie where they do not belong.

use super::{FaultKind, Mend, Search, Told};
use crate::controls::Setting;
use crate::engine::EngineError;
use crate::feed::Feed;
use crate::setup::{Command, StageEntry};
use crate::shape;
use crate::signal::Pixels;
use crate::stages::time::clean_plate::{FILLED, KIND, laid_by};

/// Less of the picture than this is no hole.
const LEAST: f64 = 0.001;
/// So near its border nothing is told: what is laid between pixels ends softly there.
const BORDER: i32 = 1;

impl Search<'_> {
    /// A clean plate whose places go with tracks that end before its frames do: from there on these lie where the last was.
    pub(super) fn aligned_by(&self, entry: &StageEntry) -> Vec<Told> {
        if entry.kind.0 != KIND {
            return Vec::new();
        }
        let shot = self.setup.picture.frames;
        let mut values = shape::values(self.setup, entry, self.setup.moment(f64::from(shot.first)));
        let values = values.split_off(shape::common_count(entry));
        let Some((places, looked_at)) = laid_by(&values, shot) else { return Vec::new() };
        let mut tracks: Vec<_> = places
            .iter()
            .filter_map(|control| self.setup.setting(entry, control))
            .flat_map(Setting::feeds)
            .filter_map(|feed| if let Feed::Track(feed) = feed { Some(feed.track) } else { None })
            .collect();
        tracks.sort();
        tracks.dedup();
        let tracks =
            tracks.into_iter().filter_map(|id| self.setup.tracks.iter().find(|track| track.id == id));
        let ends = tracks.filter_map(|track| {
            let (first, last) = (*track.samples.keys().next()?, *track.samples.keys().next_back()?);
            let message = || {
                format!(
                    "goes with `{}`, which is known from {first} to {last} only: of frames {} to {} the others are laid as \
                     they lie at its end; follow it further, or look at those frames only",
                    track.name, looked_at.first, looked_at.last
                )
            };
            (first > looked_at.first || last < looked_at.last).then(|| (FaultKind::TrackEnds, message(), None))
        });
        ends.collect()
    }

    /// A clean plate that lets nothing be seen where no frame that it looks at sees the place.
    pub(super) fn holes(&self, entry: &StageEntry) -> Result<Option<Told>, EngineError> {
        if entry.kind.0 != KIND {
            return Ok(None);
        }
        let mut most: Option<(f64, f64)> = None;
        for frame in self.frames() {
            let Some(answer) = self.answer(8, entry.id, frame)? else { continue };
            let inner = answer.window.grow(-BORDER, -BORDER);
            let Pixels::Picture(picture) = answer.signal.over(inner) else { continue };
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
