//! Memory of pictures that were dropped, kept for the next ones.
//!
//! A picture's memory comes fresh from the system page by page, and touching those pages for the first time
//! costs more than most kernels do. So what a raster held is kept, up to a limit, and given to the next one.

use std::sync::{Mutex, PoisonError};

/// Vectors of one type of pixel.
pub struct Pool<P> {
    free: Mutex<Vec<Vec<P>>>,
}

/// Most bytes that are kept of one type of pixel: a few pictures of a usual size.
const MOST_KEPT: usize = 128 << 20;
/// Smaller vectors are cheap to get.
const LEAST_KEPT: usize = 64 << 10;

impl<P: Copy + Default> Pool<P> {
    /// With nothing in it.
    pub const fn new() -> Self {
        Self { free: Mutex::new(Vec::new()) }
    }

    /// A vector of `length` whose contents are whatever was in that memory before, or zero.
    pub fn take(&self, length: usize) -> Vec<P> {
        if length * size_of::<P>() < LEAST_KEPT {
            return vec![P::default(); length];
        }
        let mut free = self.free.lock().unwrap_or_else(PoisonError::into_inner);
        let fits = |kept: &Vec<P>| (length..=length + length / 4).contains(&kept.len());
        let found = free.iter().rposition(fits).map(|index| free.swap_remove(index));
        drop(free);
        let Some(mut vector) = found else { return vec![P::default(); length] };
        vector.truncate(length);
        vector
    }

    /// Keeps a vector's memory; what was kept for longest is freed for it when enough is kept.
    pub fn give(&self, vector: Vec<P>) {
        if vector.len() * size_of::<P>() < LEAST_KEPT {
            return;
        }
        let mut free = self.free.lock().unwrap_or_else(PoisonError::into_inner);
        free.push(vector);
        let mut kept: usize = free.iter().map(|one| one.capacity() * size_of::<P>()).sum();
        let mut oldest = 0;
        while kept > MOST_KEPT {
            kept -= free[oldest].capacity() * size_of::<P>();
            oldest += 1;
        }
        let dropped: Vec<Vec<P>> = free.drain(..oldest).collect();
        // Giving much memory back takes a while, in which others must not wait.
        drop(free);
        drop(dropped);
    }
}

impl<P: Copy + Default> Default for Pool<P> {
    fn default() -> Self {
        Self::new()
    }
}
