//! The interface, driven in a browser as a person drives it.

mod jobs;
mod support;
mod workbench;
