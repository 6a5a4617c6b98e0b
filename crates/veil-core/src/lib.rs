//! The setup, its stages and the engine that evaluates them. No interface, no files, no database.

pub mod bakes;
pub mod bracket;
pub mod braid;
pub mod camera;
pub mod colour;
pub mod control;
mod deep;
pub mod drawn;
pub mod engine;
pub mod feed;
pub mod figure;
pub mod findings;
pub mod fit;
pub mod folds;
pub mod lettering;
pub mod lists;
pub mod mattes;
pub mod plates;
pub mod scopes;
pub mod setup;
pub mod shape;
pub mod signal;
pub mod spec;
pub mod stages;
pub mod track_table;
pub mod tracks;
pub mod view;
