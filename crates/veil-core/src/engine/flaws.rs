//! What is known to be wrong in files that were read.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use crate::stage::Faulty;

/// Faulty values of each file, by the file's fingerprint. Clones share.
#[derive(Clone, Default)]
pub(crate) struct Flaws(Arc<Mutex<HashMap<u64, Faulty>>>);

/// How many files are remembered.
const MOST: usize = 100_000;

impl Flaws {
    /// How many values of a file were faulty; none where it has not been read.
    pub(super) fn of(&self, print: u64) -> Faulty {
        self.lock().get(&print).copied().unwrap_or_default()
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
