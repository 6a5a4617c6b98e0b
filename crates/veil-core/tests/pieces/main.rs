//! Pieces of core, a file each.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod braid;
mod camera;
mod controls;
mod drawn;
mod feed_ease;
mod feed_formula;
mod feed_formula_pixel;
mod feed_gate;
mod feed_jitter;
mod feed_keys;
mod feed_offset;
mod feed_random;
mod feed_retime;
mod feed_wave;
mod lettering;
mod modules;
mod placing;
mod plates;
mod scopes;
mod setup_pace;
mod solved;
mod track_table;
mod tracks;
mod view;
