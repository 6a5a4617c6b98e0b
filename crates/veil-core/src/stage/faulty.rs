//! Values in files that pictures cannot be made of.

use std::sync::{Mutex, PoisonError};

use rayon::prelude::*;
use veil_pixels::{Cancel, Cancelled, Picture};

/// How many values were none that pictures are made of.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Faulty {
    /// Those that were no numbers.
    pub none: usize,
    /// Those that were infinite.
    pub infinite: usize,
}

/// What stands for an infinite value: the largest half, with which sums can still be made.
const LARGEST: f32 = 65_504.0;
/// Values that one worker looks at in a run.
const VALUES_AT_ONCE: usize = 1 << 17;

impl Faulty {
    fn is_in(run: &[f32]) -> bool {
        // Of all values and not up to the first, since so many are looked at at once.
        run.iter().fold(false, |faulty, value| faulty | !value.is_finite())
    }

    fn with(self, other: Self) -> Self {
        Self { none: self.none + other.none, infinite: self.infinite + other.infinite }
    }

    /// Puts 0 for what is no number and the largest half for what is infinite, and counts these.
    fn mended_in(run: &mut [f32]) -> Self {
        let mut found = Self::default();
        if !Self::is_in(run) {
            return found;
        }
        for value in run {
            if value.is_nan() {
                *value = 0.0;
                found.none += 1;
            } else if value.is_infinite() {
                *value = LARGEST.copysign(*value);
                found.infinite += 1;
            }
        }
        found
    }
}

/// Counts what is mended in runs of values, whichever thread has them.
#[derive(Default)]
pub(crate) struct Mending(Mutex<Faulty>);

impl Mending {
    /// Mends a run of values.
    pub(crate) fn run(&self, run: &mut [f32]) {
        let found = Faulty::mended_in(run);
        if found != Faulty::default() {
            // A poisoned lock only means that a reader panicked elsewhere; the counts are whole.
            let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
            *all = all.with(found);
        }
    }

    /// Mends a picture; one without a fault is not written to.
    pub(crate) fn picture(&self, mut picture: Picture, cancel: &Cancel) -> Result<Picture, Cancelled> {
        if picture.pixels().as_flattened().par_chunks(VALUES_AT_ONCE).any(Faulty::is_in) {
            picture.fill_rows(cancel, |_, row| self.run(row.as_flattened_mut()))?;
        }
        Ok(picture)
    }

    /// What there was.
    pub(crate) fn found(self) -> Faulty {
        self.0.into_inner().unwrap_or_else(PoisonError::into_inner)
    }
}
