//! What is known to be wrong in files that were read.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use rayon::prelude::*;
use veil_pixels::Picture;

use crate::stage::Faulty;

impl Faulty {
    fn of(run: &[[f32; 4]]) -> Self {
        let values = || run.as_flattened().iter();
        let infinite = values().filter(|value| value.is_infinite()).count();
        Self { none: values().filter(|value| value.is_nan()).count(), infinite }
    }

    fn with(self, other: Self) -> Self {
        Self { none: self.none + other.none, infinite: self.infinite + other.infinite }
    }
}

/// Faulty values of each file, by the file's fingerprint. Clones share.
#[derive(Clone, Default)]
pub(crate) struct Flaws(Arc<Mutex<HashMap<u64, Faulty>>>);

/// What stands for an infinite value: the largest half, with which sums can still be made.
const LARGEST: f32 = 65_504.0;

/// How many files are remembered.
const MOST: usize = 100_000;
/// Pixels that one worker counts in a run.
const PIXELS_AT_ONCE: usize = 1 << 15;

impl Flaws {
    /// How many values of a file were faulty; none where it has not been read.
    pub(super) fn of(&self, print: u64) -> Faulty {
        self.lock().get(&print).copied().unwrap_or_default()
    }

    /// A file's picture with 0 for what is no number and the largest half for what is infinite, which are counted.
    pub(super) fn mended(&self, print: u64, picture: Picture) -> Picture {
        let runs = picture.pixels().par_chunks(PIXELS_AT_ONCE).map(Faulty::of);
        let count = runs.reduce(Faulty::default, Faulty::with);
        if count == Faulty::default() {
            return picture;
        }
        self.note(print, count);
        let mended = picture.map(&veil_pixels::Cancel::new(), |pixel| {
            pixel.map(|value| {
                if value.is_nan() {
                    0.0
                } else if value.is_infinite() {
                    LARGEST.copysign(value)
                } else {
                    value
                }
            })
        });
        mended.unwrap_or(picture)
    }

    /// Remembers how many there are.
    pub(super) fn note(&self, print: u64, count: Faulty) {
        let mut known = self.lock();
        if known.len() >= MOST {
            known.clear();
        }
        known.insert(print, count);
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, HashMap<u64, Faulty>> {
        // A poisoned lock only means that a reader panicked elsewhere; the counts are whole.
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}
