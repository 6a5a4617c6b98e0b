//! Work under way: who asks for what another request is making waits for it, and helps meanwhile.
//!
//! Nobody waits in a ring by what signals are made of, since a signal's hash is made of the hashes of those it is made of.
//! But a worker that helps may have half of what it waits for below itself on its own stack, so it waits only so long.

use std::collections::HashMap;
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};
use std::thread::{self, ThreadId};
use std::time::{Duration, Instant};

use veil_pixels::{Cancel, Cancelled, Window};

use crate::key::ContentHash;

/// How long a waiter sleeps, when there is nothing to help with, before it looks again.
const NAP: Duration = Duration::from_millis(4);
/// How long it waits at most before it makes it itself.
const LONGEST_WAIT: Duration = Duration::from_millis(800);

/// What is being made, by whom. Clones share.
#[derive(Clone, Default)]
pub(super) struct Flights(Arc<Board>);

#[derive(Default)]
struct Board {
    flying: Mutex<HashMap<ContentHash, Vec<(Window, ThreadId)>>>,
    landed: Condvar,
}

/// A window of a signal that is being made; it ends when this is dropped, done or not.
pub(super) struct Flight {
    board: Arc<Board>,
    hash: ContentHash,
    window: Window,
}

impl Flights {
    /// Takes on a window of a signal; none where another made it, or more of it, or gave it up meanwhile.
    pub(super) fn take_on(
        &self,
        hash: ContentHash,
        window: Window,
        cancel: &Cancel,
    ) -> Result<Option<Flight>, Cancelled> {
        let board = &self.0;
        let this = thread::current().id();
        let begun = Instant::now();
        let mut waited = false;
        loop {
            let mut flying = board.flying();
            let of_hash = flying.get(&hash).map_or(&[][..], Vec::as_slice);
            let by_another = of_hash.iter().any(|(made, by)| *by != this && made.contains(window));
            if !by_another && waited {
                return Ok(None);
            }
            if !by_another || begun.elapsed() > LONGEST_WAIT {
                flying.entry(hash).or_default().push((window, this));
                return Ok(Some(Flight { board: Arc::clone(board), hash, window }));
            }
            waited = true;
            cancel.check()?;
            drop(flying);
            if rayon::yield_now() != Some(rayon::Yield::Executed) {
                let flying = board.flying();
                drop(board.landed.wait_timeout(flying, NAP));
            }
        }
    }
}

impl Board {
    fn flying(&self) -> MutexGuard<'_, HashMap<ContentHash, Vec<(Window, ThreadId)>>> {
        // A poisoned lock only means that somebody panicked elsewhere; the list is whole.
        self.flying.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

impl Drop for Flight {
    fn drop(&mut self) {
        let this = (self.window, thread::current().id());
        let mut flying = self.board.flying();
        if let Some(of_hash) = flying.get_mut(&self.hash) {
            if let Some(at) = of_hash.iter().position(|flight| *flight == this) {
                of_hash.swap_remove(at);
            }
            if of_hash.is_empty() {
                flying.remove(&self.hash);
            }
        }
        self.board.landed.notify_all();
    }
}
