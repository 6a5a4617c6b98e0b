//! Memory of pictures that were dropped, kept for the next ones.
//!
//! A picture's memory comes fresh from the system page by page, and touching those pages for the first time
//! costs more than most kernels do. So what a raster held is kept, up to a limit, and given to the next one.

use std::sync::{Mutex, PoisonError};

/// Vectors of one type of pixel.
pub struct Pool<P> {
    free: Mutex<Vec<Vec<P>>>,
}

/// Most bytes that are kept of one type of pixel.
const MOST_KEPT: usize = 384 << 20;
/// Smaller vectors are cheap to get.
const LEAST_KEPT: usize = 64 << 10;

impl<P: Copy> Pool<P> {
    /// With nothing in it.
    pub const fn new() -> Self {
        Self { free: Mutex::new(Vec::new()) }
    }

    /// An empty vector that has room for `length`, from what is kept where something of about that size is.
    pub(crate) fn take(&self, length: usize) -> Vec<P> {
        if length * size_of::<P>() < LEAST_KEPT {
            return Vec::with_capacity(length);
        }
        let mut free = self.free.lock().unwrap_or_else(PoisonError::into_inner);
        let fits = |kept: &Vec<P>| (length..=length + length / 4).contains(&kept.capacity());
        let found = free.iter().rposition(fits).map(|index| free.swap_remove(index));
        drop(free);
        found.unwrap_or_else(|| Vec::with_capacity(length))
    }

    /// Keeps a vector's memory, or frees it when enough is kept.
    pub(crate) fn give(&self, mut vector: Vec<P>) {
        if vector.capacity() * size_of::<P>() < LEAST_KEPT {
            return;
        }
        vector.clear();
        let mut free = self.free.lock().unwrap_or_else(PoisonError::into_inner);
        let kept: usize = free.iter().map(|one| one.capacity() * size_of::<P>()).sum();
        if kept + vector.capacity() * size_of::<P>() <= MOST_KEPT {
            free.push(vector);
        }
    }
}

impl<P: Copy> Default for Pool<P> {
    fn default() -> Self {
        Self::new()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn memory_is_given_again_for_about_the_same_size_only() {
        let pool = Pool::<f32>::new();
        pool.give(Vec::with_capacity(100_000));
        let room = |length: usize| pool.take(length).capacity();
        assert!(room(20_000) < 100_000, "what is kept is far too large for it");
        let kept = pool.take(90_000);
        assert_eq!(kept.capacity(), 100_000);
        assert_eq!(room(90_000), 90_000, "given away once");
    }
}
