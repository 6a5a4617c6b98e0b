//! Open formats in and out: OpenEXR and PNG sequences, with their passes and Cryptomattes.
//!
//! Readers keep a file's values as they are. A broken or hostile file gives an error that names it,
//! never a crash; a frame file that is written is whole or absent.

mod cryptomatte;
mod error;
mod exr_read;
mod exr_write;
mod inspect;
mod library;
mod png_file;
mod render;
mod roles;
mod sequence;
mod whole;
mod write;

pub use error::MediaError;
pub use exr_write::{Depth, Layer, LayerChannel, write_layers};
pub use inspect::{Inspected, inspect};
pub use library::FilePlates;
pub use png_file::encode_png;
pub use render::{RenderError, RenderJob};
pub use sequence::{FoundMedia, Pattern, scan};
pub use whole::read_through;
pub use write::{OutputError, OutputPattern, write_frame, write_whole};
