//! Giving up work that nobody waits for.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// Shared flag that tells kernels to stop. Clones share one flag.
#[derive(Clone, Debug, Default)]
pub struct Cancel(Arc<AtomicBool>);

/// The work was given up; there is no result.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Cancelled;

impl Cancel {
    /// A flag that is not set.
    pub fn new() -> Self {
        Self::default()
    }

    /// Tells all holders of this flag to stop.
    pub fn set(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether to stop.
    pub fn is_set(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }

    /// `Err` when set; for use with `?`.
    pub fn check(&self) -> Result<(), Cancelled> {
        if self.is_set() { Err(Cancelled) } else { Ok(()) }
    }
}
