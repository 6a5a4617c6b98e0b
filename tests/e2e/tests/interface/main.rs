//! The interface, driven in a browser as a person drives it.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod access;
mod bodies;
mod braid;
mod bringing_in;
mod by_hand;
mod curves;
mod doors;
mod drawing;
mod effects;
mod engine;
mod following;
mod hostile;
mod jobs;
mod kills;
mod lasting;
mod lists;
mod looking;
mod measure;
mod newcomer;
mod own;
mod support;
mod time;
mod veiled;
mod workbench;
mod worked_out;
