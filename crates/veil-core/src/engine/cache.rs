//! Results that are held, by content hash.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use moka::policy::EvictionPolicy;
use moka::sync::Cache as Held;
use veil_pixels::Window;

use super::request::{Holding, Trial};
use crate::each_kind;
use crate::key::ContentHash;
use crate::signal::{Domain, Signal};

/// Signals by content hash, the least recently used dropped first when they take more than the limit. Clones share.
///
/// Pixels are held, and counted, once: a row that hands on what another made is held as that other's.
#[derive(Clone)]
pub struct Cache {
    held: Held<ContentHash, Entry>,
    owners: Owners,
    passing: Passing,
}

#[derive(Clone)]
enum Entry {
    /// With pixels of its own.
    Own(Arc<Signal>),
    /// The pixels of a window are those of another.
    As { other: ContentHash, domain: Domain, window: Window },
}

/// Whose pixels lie where in memory.
#[derive(Clone, Default)]
struct Owners(Arc<Mutex<HashMap<usize, ContentHash>>>);

impl Owners {
    fn lock(&self) -> MutexGuard<'_, HashMap<usize, ContentHash>> {
        // A poisoned lock only means that somebody panicked elsewhere; the map is whole.
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What was held is dropped, or something else is held in its stead.
    fn forget(&self, hash: ContentHash, dropped: &Entry) {
        if let Entry::Own(signal) = dropped {
            let (mut owners, place) = (self.lock(), signal.pixels.place());
            if owners.get(&place) == Some(&hash) {
                owners.remove(&place);
            }
        }
    }
}

/// What trials made and nothing else has taken, the oldest first.
#[derive(Clone, Default)]
struct Passing(Arc<Mutex<VecDeque<Passed>>>);

struct Passed {
    trial: Trial,
    hash: ContentHash,
    bytes: usize,
}

impl Passing {
    /// Most bytes that are held of it: a few pictures of a usual size, whose memory then serves the next trial. Memory
    /// that comes fresh from the system costs more than most of what a drag makes anew.
    const MOST: usize = 192 << 20;

    fn lock(&self) -> MutexGuard<'_, VecDeque<Passed>> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What others than the trial that made it take is not of that trial alone, and stays.
    fn taken(&self, hash: ContentHash, by: Holding) {
        self.lock().retain(|passed| passed.hash != hash || Holding::Trial(passed.trial) == by);
    }

    /// Notes what a trial made; what is to be dropped for it.
    fn made(&self, made: Passed) -> Vec<ContentHash> {
        let mut passing = self.lock();
        passing.push_back(made);
        let mut bytes: usize = passing.iter().map(|passed| passed.bytes).sum();
        let mut dropped = Vec::new();
        while bytes > Self::MOST
            && let Some(oldest) = passing.pop_front()
        {
            bytes -= oldest.bytes;
            dropped.push(oldest.hash);
        }
        dropped
    }
}

/// Weights are counted in units of this many bytes, since the cache counts in 32 bits an entry.
const UNIT: u64 = 256;

impl Cache {
    pub(super) fn new(bytes: u64) -> Self {
        let owners = Owners::default();
        let weigh = |_: &ContentHash, entry: &Entry| match entry {
            Entry::Own(signal) => u32::try_from(signal.pixels.bytes() as u64 / UNIT + 1).unwrap_or(u32::MAX),
            Entry::As { .. } => 1,
        };
        let known = owners.clone();
        let held = Held::builder()
            .max_capacity(bytes / UNIT)
            .weigher(weigh)
            .eviction_policy(EvictionPolicy::lru())
            .eviction_listener(move |hash: Arc<ContentHash>, dropped, _| known.forget(*hash, &dropped))
            .build();
        Self { held, owners, passing: Passing::default() }
    }

    /// A held signal that has every pixel of the window that exists.
    pub(super) fn get(&self, hash: ContentHash, window: Window, holding: Holding) -> Option<Arc<Signal>> {
        let signal = self.signal(hash)?;
        self.passing.taken(hash, holding);
        let existing = window.intersect(signal.domain.data);
        signal.pixels.window().contains(existing).then_some(signal)
    }

    fn signal(&self, hash: ContentHash) -> Option<Arc<Signal>> {
        match self.held.get(&hash)? {
            Entry::Own(signal) => Some(signal),
            Entry::As { other, domain, window } => {
                let Entry::Own(owner) = self.held.get(&other)? else { return None };
                if !owner.pixels.window().contains(window) {
                    return None;
                }
                let pixels = each_kind!(&owner.pixels, raster => raster.cropped(window));
                Some(Arc::new(Signal { domain, pixels }))
            }
        }
    }

    /// Who holds the very pixels of a signal already. Pixels that were only moved are not the same.
    fn owner(&self, hash: ContentHash, signal: &Signal) -> Option<ContentHash> {
        let pixels = &signal.pixels;
        let owner = self.owners.lock().get(&pixels.place()).copied()?;
        let Entry::Own(held) = self.held.get(&owner).filter(|_| owner != hash)? else { return None };
        let is_same = held.pixels.place() == pixels.place() && held.pixels.window() == pixels.window();
        (is_same && pixels.bytes() > 0).then_some(owner)
    }

    /// Holds a signal with what of it is held already, as far as both make a rectangle; else the larger of them.
    pub(super) fn put(&self, hash: ContentHash, signal: &Arc<Signal>, holding: Holding) {
        let before = self.signal(hash);
        let is_new = before.is_none();
        let Some(next) = joined(before, signal) else { return };
        let place = next.pixels.place();
        let entry = match self.owner(hash, &next) {
            Some(other) => Entry::As { other, domain: next.domain, window: next.pixels.window() },
            None => Entry::Own(next),
        };
        let is_own = matches!(entry, Entry::Own(_));
        if let Holding::Trial(trial) = holding
            && is_new
        {
            self.pass(Passed { trial, hash, bytes: signal.pixels.bytes() });
        }
        self.held.insert(hash, entry);
        // What is over the limit goes at once, so that its memory serves the next result.
        self.held.run_pending_tasks();
        if is_own && self.held.contains_key(&hash) {
            self.owners.lock().insert(place, hash);
        }
    }

    /// Notes what a trial made, and drops what earlier ones left for it.
    fn pass(&self, made: Passed) {
        for hash in self.passing.made(made) {
            self.held.invalidate(&hash);
        }
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
