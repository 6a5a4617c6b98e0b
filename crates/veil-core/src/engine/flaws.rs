//! What is known to be wrong in files that were read.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use rayon::prelude::*;
use veil_pixels::Picture;

/// Values of each file that were no numbers, by the file's fingerprint. Clones share.
#[derive(Clone, Default)]
pub(crate) struct Flaws(Arc<Mutex<HashMap<u64, usize>>>);

/// How many files are remembered.
const MOST: usize = 100_000;
/// Pixels that one worker counts in a run.
const PIXELS_AT_ONCE: usize = 1 << 15;

impl Flaws {
    /// How many values of a file were no numbers; 0 where it has not been read.
    pub(super) fn of(&self, print: u64) -> usize {
        self.lock().get(&print).copied().unwrap_or(0)
    }

    /// A file's picture with its infinities and what is no number set to 0, which are counted.
    pub(super) fn mended(&self, print: u64, picture: Picture) -> Picture {
        let of_run = |run: &[[f32; 4]]| run.as_flattened().iter().filter(|value| !value.is_finite()).count();
        let count = picture.pixels().par_chunks(PIXELS_AT_ONCE).map(of_run).sum();
        if count == 0 {
            return picture;
        }
        self.note(print, count);
        let mended = picture.map(&veil_pixels::Cancel::new(), |pixel| {
            pixel.map(|value| if value.is_finite() { value } else { 0.0 })
        });
        mended.unwrap_or(picture)
    }

    /// Remembers how many there are.
    pub(super) fn note(&self, print: u64, count: usize) {
        let mut known = self.lock();
        if known.len() >= MOST {
            known.clear();
        }
        known.insert(print, count);
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, HashMap<u64, usize>> {
        // A poisoned lock only means that a reader panicked elsewhere; the counts are whole.
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }
}
