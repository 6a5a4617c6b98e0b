//! Which layers of a file are a Cryptomatte, and what its manifest names.
//!
//! Source: Cryptomatte specification 1.2: attributes `cryptomatte/<key>/name`, `/manifest`,
//! `/manif_file`; channels in layers `<name>00`, `<name>01`, … each with two ranks in R, G and B, A.

use std::collections::BTreeMap;
use std::path::Path;

use veil_core::control::Choice;
use veil_core::plates::{IdKind, Named, Ranks};
use veil_pixels::cryptomatte::Id;
use veil_pixels::{Cancel, Map, Raster};

use crate::MediaError;
use crate::exr_read::{ExrHead, read_channels};

/// One of a file's Cryptomattes.
struct Matte<'a> {
    key: &'a str,
    /// What its layers' names begin with.
    layer: &'a str,
}

impl Matte<'_> {
    /// Which kind it is, by the word in its layers' name; one that says nothing is of objects.
    fn kind(&self) -> IdKind {
        let name = self.layer.to_lowercase();
        if name.contains("material") || name.ends_with("mtl") {
            IdKind::Material
        } else if name.contains("asset") {
            IdKind::Asset
        } else {
            IdKind::Object
        }
    }
}

fn mattes(head: &ExrHead) -> impl Iterator<Item = Matte<'_>> {
    head.texts.iter().filter_map(|(name, value)| {
        Some(Matte { key: name.strip_prefix("cryptomatte/")?.strip_suffix("/name")?, layer: value })
    })
}

/// Which Cryptomatte a layer is a part of.
pub(crate) fn kind_of_layer(head: &ExrHead, layer: &str) -> Option<IdKind> {
    let rank = |matte: &Matte<'_>| {
        layer.strip_prefix(matte.layer).is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit()))
    };
    mattes(head).find(rank).map(|matte| matte.kind())
}

/// What a file's Cryptomattes name, by kind, in the order of kinds.
pub(crate) fn read_names(path: &Path, head: &ExrHead) -> Result<Vec<(IdKind, Vec<Named>)>, MediaError> {
    let mut all = Vec::new();
    for matte in mattes(head) {
        all.push((matte.kind(), manifest(path, head, matte.key)?));
    }
    all.sort_by_key(|(kind, _)| IdKind::ALL.iter().position(|known| known == kind));
    Ok(all)
}

/// Reads a file's first Cryptomatte of a kind.
pub(crate) fn read_ranks(
    path: &Path,
    head: &ExrHead,
    kind: IdKind,
    cancel: &Cancel,
) -> Result<Ranks, MediaError> {
    let missing = || {
        let what = format!("Cryptomatte of {}", format!("{kind:?}s").to_lowercase());
        MediaError::Missing { path: path.into(), what }
    };
    let Matte { key, layer } = mattes(head).find(|matte| matte.kind() == kind).ok_or_else(missing)?;
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
