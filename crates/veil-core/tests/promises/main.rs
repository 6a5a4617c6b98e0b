//! What setups, edits and stages promise, checked on each that there is.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod bakes;
mod clean;
mod coverage;
mod deeds;
mod deep;
mod edges;
mod edits;
mod extremes;
mod findings;
mod hashes;
mod layout;
mod lists;
mod morph;
mod motion;
mod patch;
mod placing;
mod refraction;
mod revisions;
mod runs;
mod schemas;
mod shared_engine;
mod space;
mod stages;
mod support;
mod surfaces;
mod time;
mod tools;
mod tracks;
mod trade;
mod warps;
mod wipe;
