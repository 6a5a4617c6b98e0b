//! What setups, edits and stages promise, checked on each that there is.

mod edits;
mod stages;
mod support;
