//! Work that goes down a chain of rows, however long.

/// Bytes of stack that a step may need, kernels and the stages of one row included.
const FREE: usize = 256 << 10;
/// Bytes of stack that are added where those are not free.
const PIECE: usize = 4 << 20;

/// Does a step of work that calls itself once more for every row of a chain, with stack enough for it.
pub(crate) fn deep<T>(step: impl FnOnce() -> T) -> T {
    stacker::maybe_grow(FREE, PIECE, step)
}
