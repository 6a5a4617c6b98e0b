//! Which layers of a file are a Cryptomatte, and what its manifest names.
//!
//! Source: Cryptomatte specification 1.2: attributes `cryptomatte/<key>/name`, `/manifest`,
//! `/manif_file`; channels in layers `<name>00`, `<name>01`, … each with two ranks in R, G and B, A.

use std::collections::BTreeMap;
use std::path::Path;

use veil_core::plates::{Named, Ranks};
use veil_pixels::cryptomatte::Id;
use veil_pixels::{Cancel, Map, Raster};

use crate::MediaError;
use crate::exr_read::{ExrHead, read_channels};

/// The key and the layers' name of a file's first Cryptomatte.
fn first(head: &ExrHead) -> Option<(&str, &str)> {
    head.texts.iter().find_map(|(name, value)| {
        Some((name.strip_prefix("cryptomatte/")?.strip_suffix("/name")?, value.as_str()))
    })
}

/// What the manifest of a file's first Cryptomatte names; nothing where it has none.
pub(crate) fn read_names(path: &Path, head: &ExrHead) -> Result<Vec<Named>, MediaError> {
    first(head).map_or_else(|| Ok(Vec::new()), |(key, _)| manifest(path, head, key))
}

/// Reads the first Cryptomatte of a file.
pub(crate) fn read_ranks(path: &Path, head: &ExrHead, cancel: &Cancel) -> Result<Ranks, MediaError> {
    let missing = || MediaError::Missing { path: path.into(), what: "Cryptomatte".into() };
    let (key, layer) = first(head).ok_or_else(missing)?;
    let mut ranks = Vec::new();
    for number in 0.. {
        let wanted = format!("{layer}{number:02}");
        let Some(group) = head.groups.iter().find(|group| group.layer == wanted) else { break };
        let channel = |names: &[&str]| group.channel(names).ok_or_else(missing);
        let channels = [
            channel(&["R", "red"])?,
            channel(&["G", "green"])?,
            channel(&["B", "blue"])?,
            channel(&["A", "alpha"])?,
        ];
        let planes = read_channels(path, group.part, &channels, cancel)?;
        for pair in planes.chunks_exact(2) {
            ranks.push(pairs(&pair[0], &pair[1]).ok_or_else(missing)?);
        }
    }
    if ranks.is_empty() {
        return Err(missing());
    }
    Ok(Ranks { ranks, names: manifest(path, head, key)? })
}

fn pairs(ids: &veil_pixels::Field, shares: &veil_pixels::Field) -> Option<Map> {
    let pixels = ids.pixels().iter().zip(shares.pixels()).map(|(id, share)| [*id, *share]).collect();
    Raster::from_pixels(ids.window(), pixels)
}

/// The names of the manifest, embedded or in a file beside the picture; none where there is none.
fn manifest(path: &Path, head: &ExrHead, key: &str) -> Result<Vec<Named>, MediaError> {
    let attribute = |what: &str| {
        let wanted = format!("cryptomatte/{key}/{what}");
        head.texts.iter().find(|(name, _)| *name == wanted).map(|(_, value)| value.clone())
    };
    let beside = || {
        let file = attribute("manif_file")?;
        // Only a plain file name beside the picture; a path could lead anywhere.
        let plain = Path::new(&file).file_name().filter(|name| *name == file.as_str())?;
        std::fs::read_to_string(path.parent()?.join(plain)).ok()
    };
    let Some(text) = attribute("manifest").or_else(beside) else { return Ok(Vec::new()) };
    let listed: BTreeMap<String, String> = serde_json::from_str(&text)
        .map_err(|error| MediaError::broken(path, format!("its manifest is no JSON: {error}")))?;
    let named = |(name, bits): (String, String)| {
        let id = u32::from_str_radix(&bits, 16).map(Id::from_bits);
        id.map(|id| Named { name, id })
            .map_err(|_| MediaError::broken(path, format!("its manifest lists `{bits}`")))
    };
    listed.into_iter().map(named).collect()
}
