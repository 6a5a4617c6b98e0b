//! What each row of an answer cost.

use std::cell::RefCell;
use std::collections::BTreeMap;
use std::time::{Duration, Instant};

use crate::setup::StageId;

/// What a row cost by itself, without what it took.
#[derive(Clone, Copy, Debug, PartialEq, serde::Serialize)]
pub struct Spent {
    /// Whose result.
    pub stage: StageId,
    /// Milliseconds.
    pub ms: f64,
    /// Pixels that were made.
    pub pixels: usize,
}

/// Measures rows that ask for each other's results.
#[derive(Default)]
pub(super) struct Clock {
    spent: RefCell<BTreeMap<StageId, (Duration, usize)>>,
    /// For each row being made, what it has waited for others.
    waited: RefCell<Vec<Duration>>,
}

impl Clock {
    /// Does a row's work, of so many pixels.
    pub(super) fn measure<T>(&self, stage: StageId, pixels: usize, work: impl FnOnce() -> T) -> T {
        self.waited.borrow_mut().push(Duration::ZERO);
        let started = Instant::now();
        let done = work();
        let all = started.elapsed();
        let mut waited = self.waited.borrow_mut();
        let for_others = waited.pop().unwrap_or_default();
        if let Some(taker) = waited.last_mut() {
            *taker += all;
        }
        let mut spent = self.spent.borrow_mut();
        let (time, count) = spent.entry(stage).or_default();
        *time += all.saturating_sub(for_others);
        *count += pixels;
        done
    }

    /// Of what the row being made takes, so much is another's.
    pub(super) fn credit(&self, stage: StageId, time: Duration, pixels: usize) {
        if let Some(taker) = self.waited.borrow_mut().last_mut() {
            *taker += time;
        }
        let mut spent = self.spent.borrow_mut();
        let (all, count) = spent.entry(stage).or_default();
        *all += time;
        *count += pixels;
    }

    /// Forgets what was worked out in vain.
    pub(super) fn clear(&self) {
        self.spent.borrow_mut().clear();
        self.waited.borrow_mut().clear();
    }

    /// By row, in no order that matters.
    pub(super) fn spent(&self) -> Vec<Spent> {
        let spent = self.spent.borrow();
        let of_row = |(stage, (time, pixels)): (&StageId, &(Duration, usize))| Spent {
            stage: *stage,
            ms: time.as_secs_f64() * 1e3,
            pixels: *pixels,
        };
        spent.iter().map(of_row).collect()
    }
}
