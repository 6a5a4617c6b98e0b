//! What is measured of a row over the whole shot: at frames spread over it, coarsely, and kept as long as nothing above
//! changes.

use std::sync::Arc;

use veil_pixels::{Raster, Window, measure};

use super::look::{Evaluation, stage_error};
use crate::key::{ContentHash, Key};
use crate::setup::StageId;
use crate::signal::{Domain, Pixels, Scale, Signal};
use crate::stage::StageError;

/// So many frames stand for all of them.
const MOST_LOOKS: i32 = 13;
/// A mean needs no fine pixels.
const COARSE: Option<Scale> = Scale::one_to(8);

impl Evaluation<'_> {
    /// Looks at frames spread evenly over the shot, its first and last among them. A row that does not work at one of
    /// them counts there as its bypass.
    fn looks(&self) -> impl Iterator<Item = Self> {
        let frames = self.setup.picture.frames;
        let count = (frames.last - frames.first + 1).clamp(1, MOST_LOOKS);
        let step = f64::from(frames.last - frames.first) / f64::from((count - 1).max(1));
        let coarse = self.at_scale(COARSE.unwrap_or(Scale::FULL)).by_bypass();
        (0..count)
            .map(move |look| coarse.at_frame((f64::from(frames.first) + f64::from(look) * step).round()))
    }

    /// Equal as long as the row gives the same all over the shot.
    pub(super) fn print_over_shot(&self, id: StageId) -> Result<ContentHash, StageError> {
        if let Some(print) = self.print_of(id) {
            return Ok(print);
        }
        let mut key = Key::of("over the shot");
        for look in self.looks() {
            key.add(&look.node(id).map_err(stage_error)?.hash);
        }
        let print = key.hash();
        self.note_print(id, print);
        Ok(print)
    }

    /// The mean of a map over its pixels and over the shot.
    pub(super) fn mean_over_shot(&self, id: StageId) -> Result<[f32; 2], StageError> {
        let print = self.print_over_shot(id)?;
        let window = Window::sized(1, 1);
        if let Some(Pixels::Map(held)) = self.held(print, window).map(|signal| signal.over(window)) {
            return Ok(held.pixels()[0]);
        }
        let (mut sum, mut count) = ([0.0f64; 2], 0);
        for look in self.looks() {
            let data = look.domain(id).map_err(stage_error)?.data;
            if let Pixels::Map(map) = look.signal(id, data).map_err(stage_error)?.over(data) {
                let mean = measure::mean_move(&map);
                sum = [0, 1].map(|axis| sum[axis] + f64::from(mean[axis]));
                count += 1;
            }
        }
        let mean = sum.map(|sum| (sum / f64::from(count.max(1))) as f32);
        let domain = Domain { display: window, data: window };
        self.hold(print, &Arc::new(Signal { domain, pixels: Pixels::Map(Raster::flat(window, mean)) }));
        Ok(mean)
    }
}
