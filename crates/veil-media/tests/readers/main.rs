//! Readers and writers, a file each.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod bake;
mod camera;
mod cube;
mod figure;
mod library;
mod roles;
mod sequence;
