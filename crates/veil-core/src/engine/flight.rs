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

#[cfg(test)]
mod tests {
    use std::sync::atomic::{AtomicUsize, Ordering};

    use super::*;
    use crate::key::Key;

    /// Of many that ask at once for the same, or part of it, one makes it; when it fails to, the next does.
    #[test]
    fn what_is_asked_for_at_once_is_made_once() {
        let (flights, made) = (Flights::default(), AtomicUsize::new(0));
        let hash = Key::of("test").hash();
        let done = AtomicUsize::new(0);
        thread::scope(|scope| {
            for number in 0..8 {
                let (flights, made, done) = (&flights, &made, &done);
                scope.spawn(move || {
                    let window = Window::sized(8 - u32::from(number > 0), 8);
                    while done.load(Ordering::SeqCst) == 0 {
                        let Ok(Some(flight)) = flights.take_on(hash, window, &Cancel::new()) else {
                            continue;
                        };
                        // The first gives up.
                        if made.fetch_add(1, Ordering::SeqCst) > 0 {
                            thread::sleep(Duration::from_millis(5));
                            done.store(1, Ordering::SeqCst);
                        }
                        drop(flight);
                    }
                });
            }
        });
        assert!(made.load(Ordering::SeqCst) <= 4, "{made:?} made it");
        assert!(flights.0.flying().is_empty());
    }

    #[test]
    fn who_waits_can_be_called_off_and_never_waits_for_itself() {
        let flights = Flights::default();
        let (hash, window) = (Key::of("test").hash(), Window::sized(4, 4));
        let mine = flights.take_on(hash, window, &Cancel::new()).unwrap_or(None);
        assert!(matches!(flights.take_on(hash, window, &Cancel::new()), Ok(Some(_))));
        let called_off = Cancel::new();
        called_off.cancel();
        thread::scope(|scope| {
            let waits = scope.spawn(|| flights.take_on(hash, window, &called_off).is_err());
            assert!(waits.join().unwrap_or(false));
        });
        drop(mine);
    }
}
