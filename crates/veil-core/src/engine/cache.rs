//! Results that are held, by content hash.

use std::sync::Arc;

use moka::policy::EvictionPolicy;
use moka::sync::Cache as Held;
use veil_pixels::Window;

use crate::key::ContentHash;
use crate::signal::Signal;

/// Signals by content hash, the least recently used dropped first when they take more than the limit. Clones share.
#[derive(Clone)]
pub struct Cache {
    held: Held<ContentHash, Arc<Signal>>,
}

/// Weights are counted in units of this many bytes, since the cache counts in 32 bits an entry.
const UNIT: u64 = 256;

impl Cache {
    pub(super) fn new(bytes: u64) -> Self {
        let weigh = |_: &ContentHash, signal: &Arc<Signal>| {
            u32::try_from(signal.pixels.bytes() as u64 / UNIT + 1).unwrap_or(u32::MAX)
        };
        let held = Held::builder().max_capacity(bytes / UNIT).weigher(weigh);
        Self { held: held.eviction_policy(EvictionPolicy::lru()).build() }
    }

    /// A held signal that has every pixel of the window that exists.
    pub(super) fn get(&self, hash: ContentHash, window: Window) -> Option<Arc<Signal>> {
        let signal = self.held.get(&hash)?;
        let existing = window.intersect(signal.domain.data);
        signal.pixels.window().contains(existing).then_some(signal)
    }

    /// Holds a signal with what of it is held already, as far as both make a rectangle; else the larger of them.
    pub(super) fn put(&self, hash: ContentHash, signal: &Arc<Signal>) {
        let Some(next) = joined(self.held.get(&hash), signal) else { return };
        self.held.insert(hash, next);
        // What is over the limit goes at once, so that its memory serves the next result.
        self.held.run_pending_tasks();
    }
}

/// What is to be held from now on; none where that is held already.
fn joined(held: Option<Arc<Signal>>, made: &Arc<Signal>) -> Option<Arc<Signal>> {
    let Some(held) = held else { return Some(Arc::clone(made)) };
    let (before, now) = (held.pixels.window(), made.pixels.window());
    let both = before.union(now);
    if both == before {
        return None;
    }
    let covered = before.area() + now.area() - before.intersect(now).area();
    if both != now
        && covered == both.area()
        && let Some(pixels) = held.pixels.with(&made.pixels)
    {
        return Some(Arc::new(Signal { domain: made.domain, pixels }));
    }
    (now.area() >= before.area()).then(|| Arc::clone(made))
}
