//! Results kept in a folder, a file each: `bakes/3f/3f09….exr`.

use std::path::{Path, PathBuf};
use std::time::SystemTime;

use veil_core::bakes::{Baked, Bakes};
use veil_core::engine::ContentHash;
use veil_core::plates::{PlateError, Role};
use veil_core::signal::{Domain, Signal, SignalKind};
use veil_pixels::Cancel;
use veil_pixels::colour::space::BT709;

use crate::MediaError;
use crate::exr_head::read_head;
use crate::exr_pixels::read_signal;
use crate::exr_write::{About, Depth, write_layers};
use crate::roles::Group;
use crate::write::{layer_of, write_whole};

/// A folder of bakes. Those that were not used for longest are dropped once they take more than the limit.
pub struct BakeFolder {
    root: PathBuf,
    limit: u64,
}

/// The layer of the result itself.
const RESULT: &str = "result";

impl BakeFolder {
    /// Bakes below `root`, of at most so many bytes together.
    pub fn new(root: impl Into<PathBuf>, limit: u64) -> Self {
        Self { root: root.into(), limit }
    }

    fn file(&self, hash: ContentHash) -> PathBuf {
        let name = hash.to_string();
        self.root.join(&name[..2]).join(format!("{name}.exr"))
    }

    /// Drops the least recently used files until the rest is within the limit; never the newest.
    fn tidy(&self, newest: &Path) -> std::io::Result<()> {
        let mut files = Vec::new();
        for folder in std::fs::read_dir(&self.root)?.flatten() {
            let Ok(inside) = std::fs::read_dir(folder.path()) else { continue };
            for file in inside.flatten() {
                let about = file.metadata()?;
                let used = about.accessed().or(about.modified()).unwrap_or(SystemTime::UNIX_EPOCH);
                files.push((used, about.len(), file.path()));
            }
        }
        files.sort();
        let mut all: u64 = files.iter().map(|(_, size, _)| size).sum();
        for (_, size, path) in files {
            if all <= self.limit {
                break;
            }
            if path == newest {
                continue;
            }
            std::fs::remove_file(path)?;
            all -= size;
        }
        Ok(())
    }

    fn read_layer(&self, hash: ContentHash, what: Baked, cancel: &Cancel) -> Result<Signal, MediaError> {
        let path = self.file(hash);
        let head = read_head(&path)?;
        let (name, kind) = match what {
            Baked::Result(kind) => (RESULT, kind),
            Baked::Pass(role) => (role.id(), role.kind()),
        };
        let missing = || MediaError::Missing { path: path.clone(), what: format!("layer `{name}`") };
        let group = head.groups.iter().find(|group| group.layer == name).ok_or_else(missing)?;
        let floats: Vec<Option<usize>> =
            channels_of(group, kind).ok_or_else(missing)?.into_iter().map(Some).collect();
        let pixels = read_signal(&path, group.part, &floats, kind, cancel)?;
        Ok(Signal { domain: Domain { data: head.windows[group.part], ..head.domain }, pixels })
    }
}

fn channels_of(group: &Group, kind: SignalKind) -> Option<Vec<usize>> {
    let names: &[&str] = match kind {
        SignalKind::Picture => &["R", "G", "B", "A"],
        SignalKind::Field => &["Y"],
        SignalKind::Map => &["X", "Y"],
    };
    names.iter().map(|name| group.channel(&[name])).collect()
}

impl Bakes for BakeFolder {
    fn has(&self, hash: ContentHash) -> bool {
        self.file(hash).exists()
    }

    fn read(&self, hash: ContentHash, what: Baked, cancel: &Cancel) -> Result<Signal, PlateError> {
        Ok(self.read_layer(hash, what, cancel)?)
    }

    fn keep(&self, hash: ContentHash, result: &Signal, passes: &[(Role, Signal)]) -> Result<(), PlateError> {
        let path = self.file(hash);
        let data = result.domain.data;
        let mut layers = vec![layer_of(RESULT, &result.pixels, data, Depth::Half)];
        for (role, pass) in passes {
            let depth = if role.averages() { Depth::Half } else { Depth::Float };
            layers.push(layer_of(role.id(), &pass.pixels, pass.domain.data, depth));
        }
        write_whole(&path, |out| {
            write_layers(&path, About::still(result.domain.display, BT709), layers, out)
        })?;
        // A folder that cannot be tidied is no reason to lose what was made.
        if let Err(error) = self.tidy(&path) {
            return Err(PlateError::File(format!("`{}` cannot be tidied: {error}", self.root.display())));
        }
        Ok(())
    }
}
