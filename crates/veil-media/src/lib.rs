//! Open formats in and out: OpenEXR with its passes and Cryptomattes, plain pictures, clips, lookup tables.
//!
//! Readers keep a file's values as they are. A broken or hostile file gives an error that names it,
//! never a crash; a frame file that is written is whole or absent.

mod bake;
mod byte_sums;
mod camera;
mod camera_write;
mod clip;
mod clip_write;
mod cryptomatte;
pub mod cube;
mod error;
mod exr_dwa;
mod exr_head;
mod exr_part;
mod exr_pixels;
mod exr_write;
mod exr_zip;
pub mod figure;
mod form;
mod guard;
mod inspect;
mod library;
mod made;
mod patient;
mod png_file;
mod render;
pub mod roles;
mod sequence;
mod still;
mod still_write;
mod whole;
mod write;

pub use bake::BakeFolder;
pub use camera::read_camera;
pub use camera_write::{read_solved, write_camera};
pub use clip::forget_held;
pub use clip_write::{ClipNumbers, ClipRange, ClipTones};
pub use error::MediaError;
pub use exr_write::{About, Depth, Layer, LayerChannel, write_layers};
pub use form::{Form, StillForm};
pub use inspect::{Inspected, inspect, inspect_while};
pub use library::FilePlates;
pub use made::MadeFrames;
pub use patient::ask_folder;
pub use png_file::encode_png;
pub use render::{RenderError, RenderJob};
pub use roles::Aliases;
pub use sequence::{FoundMedia, Pattern, grouped, scan};
pub use whole::{read_arrived, read_through};
pub use write::{Bits, OutputError, OutputPattern, Written, write_frame, write_whole};
