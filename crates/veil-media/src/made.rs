//! Which frames of a render are there already, and of which content: a list beside the files.
//!
//! A line a frame: its number, the content hash of its pixels, and the size of its file in bytes. Later lines hold
//! over earlier ones; a line that was cut off by a crash is passed over.

use std::collections::HashMap;
use std::fs::OpenOptions;
use std::io::Write;
use std::path::{Path, PathBuf};

use crate::MediaError;

/// The list's name in a render's folder.
const NAME: &str = ".made";

/// The frames that were made into a folder.
#[derive(Debug)]
pub struct MadeFrames {
    list: PathBuf,
    known: HashMap<i32, Made>,
}

#[derive(Debug)]
struct Made {
    content: String,
    bytes: u64,
}

impl MadeFrames {
    /// What is known of a folder; nothing where it is not there yet.
    pub fn of(folder: &Path) -> Result<Self, MediaError> {
        let list = folder.join(NAME);
        let text = match std::fs::read_to_string(&list) {
            Ok(text) => text,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => String::new(),
            Err(error) => return Err(MediaError::io(&list)(error)),
        };
        Ok(Self { known: text.lines().filter_map(line).collect(), list })
    }

    /// Whether a frame's file is whole and shows this content.
    pub fn holds(&self, frame: i32, content: &str, file: &Path) -> bool {
        let made = self.known.get(&frame).filter(|made| made.content == content);
        made.is_some_and(|made| std::fs::metadata(file).is_ok_and(|meta| meta.len() == made.bytes))
    }

    /// Whether a frame was once made with this content, wherever it went then.
    pub fn knows(&self, frame: i32, content: &str) -> bool {
        self.known.get(&frame).is_some_and(|made| made.content == content)
    }

    /// Notes a frame whose file is whole.
    pub fn note(&mut self, frame: i32, content: &str, file: &Path) -> Result<(), MediaError> {
        let bytes = std::fs::metadata(file).map_err(MediaError::io(file))?.len();
        let mut list = OpenOptions::new()
            .create(true)
            .append(true)
            .open(&self.list)
            .map_err(MediaError::io(&self.list))?;
        // In one piece, with a line's end before it, so that what a crash cut off spoils no other line.
        list.write_all(format!("\n{frame} {content} {bytes}\n").as_bytes())
            .map_err(MediaError::io(&self.list))?;
        self.known.insert(frame, Made { content: content.into(), bytes });
        Ok(())
    }
}

fn line(text: &str) -> Option<(i32, Made)> {
    let mut words = text.split(' ');
    let (frame, content, bytes) = (words.next()?, words.next()?, words.next()?);
    Some((frame.parse().ok()?, Made { content: content.into(), bytes: bytes.parse().ok()? }))
}
