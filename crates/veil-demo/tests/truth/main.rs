//! What the tools of the trade find in made footage, against what is known because it is made.
#![expect(clippy::unwrap_used, reason = "a test that cannot go on says where")]

mod composites;
mod keying;
mod noisy;
mod solving;
mod tracking;
