//! Mattes out of pictures: by a screen, by IDs.

pub mod cryptomatte;
pub mod screen_key;
