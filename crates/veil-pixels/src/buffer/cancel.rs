//! Giving up work that nobody waits for, and how far work is that somebody waits for.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU32, Ordering};

/// What those who wait and those who work share: a flag that tells kernels to stop, and how many of how many steps are done.
/// Clones share one.
#[derive(Clone, Debug, Default)]
pub struct Cancel(Arc<Shared>);

#[derive(Debug, Default)]
struct Shared {
    is_set: AtomicBool,
    done: AtomicU32,
    of: AtomicU32,
}

/// How many steps are done, and of how many.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Progress {
    /// Steps.
    pub done: u32,
    /// At least 1.
    pub of: u32,
}

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
        self.0.is_set.store(true, Ordering::Relaxed);
    }

    /// Whether to stop.
    pub fn is_set(&self) -> bool {
        self.0.is_set.load(Ordering::Relaxed)
    }

    /// `Err` when set; for use with `?`.
    pub fn check(&self) -> Result<(), Cancelled> {
        if self.is_set() { Err(Cancelled) } else { Ok(()) }
    }

    /// Tells how far long work is that is made in steps; of none, that there is nothing to tell any more.
    pub fn tell(&self, done: u32, of: u32) {
        self.0.done.store(done, Ordering::Relaxed);
        self.0.of.store(of, Ordering::Relaxed);
    }

    /// What was told last; none of work that is not made in steps.
    pub fn progress(&self) -> Option<Progress> {
        let of = self.0.of.load(Ordering::Relaxed);
        (of > 0).then(|| Progress { done: self.0.done.load(Ordering::Relaxed).min(of), of })
    }
}
